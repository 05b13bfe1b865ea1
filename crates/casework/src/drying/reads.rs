//! What was read on rounds, as it is judged.

use super::air::Airs;
use super::degrees;
use building::drying::{DryPoint, DryRead, DryScale, Machine};
use hygrothermal::air::MoistAir;
use hygrothermal::quantity::MoistureContent;
use hygrothermal::wood::{MeterReading, pin_meter, species_by_id};
use judgment::drying::PointRead;
use judgment::map::Showed;
use store::DryingReading;

/// Wood of which nobody read the air is taken as so warm, °C.
const USUAL_WOOD: f64 = 20.0;
/// Shortest time liters are counted over, hours.
const SHORTEST: f64 = 1.0;

/// Air at a moment.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct AirAt {
    /// Milliseconds since 1970.
    pub at: i64,
    /// The air.
    pub air: MoistAir,
}

/// Readings of a point, pins corrected for the wood and for its temperature, which is taken as the air's then.
pub(super) fn point_reads(p: &DryPoint, rows: &[&DryingReading], airs: &Airs) -> Vec<PointRead> {
    let mut all: Vec<PointRead> = rows
        .iter()
        .map(|r| {
            let at = r.taken_at.timestamp_millis();
            PointRead { at, showed: showed(p, r, airs, at), meter: r.instrument_id, by: r.consultant_id }
        })
        .collect();
    all.sort_by_key(|r| r.at);
    all
}

fn showed(p: &DryPoint, r: &DryingReading, airs: &Airs, at: i64) -> Showed {
    let Some(x) = r.a else { return if r.over { Showed::Over } else { Showed::Unread } };
    if p.scale == DryScale::Relative {
        return Showed::Figure(x);
    }
    let t = airs.at(p.space_id, at).map(|a| a.air.temperature()).or_else(|| degrees(USUAL_WOOD));
    let corrected = || pin_meter(MoistureContent::new(x).ok()?, t?, species_by_id(&p.species)?).ok();
    match corrected() {
        Some(MeterReading::Percent(m)) => Showed::Figure(m.value),
        Some(MeterReading::Wet) => Showed::Over,
        None => Showed::Figure(x),
    }
}

/// Liters a day a machine collected since the emptying before the last, or since it was started.
#[must_use]
pub fn liters_a_day(m: &Machine, own: &[&DryingReading]) -> Option<f64> {
    let emptied: Vec<(i64, f64)> = own
        .iter()
        .filter(|r| r.what == DryRead::Liters)
        .filter_map(|r| Some((r.taken_at.timestamp_millis(), r.a?)))
        .collect();
    let (last, liters) = *emptied.last()?;
    let before = emptied.iter().rev().nth(1).map(|e| e.0);
    let started = m.runs.iter().map(|r| r.from).filter(|f| *f < last).max();
    let from = before.into_iter().chain(started).max()?;
    let hours = (last - from) as f64 / 3_600_000.0;
    (hours >= SHORTEST).then(|| liters * 24.0 / hours)
}

/// kWh between the first and the last reading of its meter; none where it was exchanged between.
#[must_use]
pub fn metered(own: &[&DryingReading]) -> Option<f64> {
    let stands: Vec<f64> = own.iter().filter(|r| r.what == DryRead::Energy).filter_map(|r| r.a).collect();
    let rises = stands.windows(2).all(|w| w[1] >= w[0]);
    (stands.len() > 1 && rises).then(|| stands[stands.len() - 1] - stands[0])
}
