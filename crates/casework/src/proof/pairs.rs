//! The same points read before and after.

use crate::file::CaseFile;
use building::Place;
use building::reading::{Observed, Reading};
use chrono::{DateTime, Utc};
use hygrothermal::air::Over;
use hygrothermal::proof::{Paired, paired};
use hygrothermal::quantity::{Measured, RelativeHumidity};
use hygrothermal::wood::{MeterReading, equilibrium_moisture};
use judgment::picture::{Picture, picture};
use std::collections::HashSet;
use store::Visit;
use uuid::Uuid;

/// What of a meter's own scale scatters, share (ours).
const SCATTER: f64 = 0.03;
/// Thermal pictures are set against one another within this difference of in and out, K (common practice).
pub const ALIKE: f64 = 3.0;

/// What is compared at a point.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum PairKind {
    /// Temperature factor of a surface: what its insulation does, whatever the weather.
    Factor,
    /// Wood moisture over what the air of the day would make it, %.
    WoodOver,
    /// A meter's own scale.
    Relative,
}

/// A point read before and after with the same instrument.
pub struct PairedPoint {
    /// What is compared.
    pub kind: PairKind,
    /// Where.
    pub name: String,
    /// Before and after, each with its band.
    pub both: [Measured; 2],
    /// As the meter showed, where that is another figure.
    pub shown: Option<[f64; 2]>,
}

/// Points of two visits, and what those on a meter's own scale say together.
pub struct Pairs {
    /// The visits: before and after.
    pub visits: [Visit; 2],
    /// Points, by what is compared.
    pub points: Vec<PairedPoint>,
    /// Of a meter's own scale.
    pub relative: Option<Paired>,
    /// Places read on one of both only.
    pub once: usize,
}

/// Two thermal pictures of a place.
pub struct ThermalPair {
    /// Before and after.
    pub ids: [Uuid; 2],
    /// What they show.
    pub name: String,
    /// In less out, K, of each, where both airs are known.
    pub differences: Option<[f64; 2]>,
}

/// A visit with what was read on it, judged.
struct Judged {
    standing: Vec<Reading>,
    picture: Picture,
}

fn judged(file: &CaseFile, visit: Uuid) -> Judged {
    let own: HashSet<Uuid> = file.rows.iter().filter(|r| r.visit_id == visit).map(|r| r.id).collect();
    let standing: Vec<Reading> = file.ever.iter().filter(|r| own.contains(&r.id)).cloned().collect();
    Judged { picture: picture(&file.building, &standing), standing }
}

impl Judged {
    /// What wood would settle at in the air of its space then.
    fn settles(&self, file: &CaseFile, place: Place) -> Option<f64> {
        let space = file.building.space_of(place)?.id;
        let air = self.picture.space(space)?.air.as_ref()?.air;
        let rh = RelativeHumidity::new(air.rh(Over::Water).clamp(0.0, 100.0)).ok()?;
        equilibrium_moisture(air.temperature(), rh).ok()
    }

    /// What stands at a station, as it is compared; with what the meter showed, where that is another figure.
    fn figure(&self, file: &CaseFile, r: &Reading) -> Option<(PairKind, Measured, Option<f64>)> {
        let place = file.building.station(r.station_id)?.place;
        match r.observed {
            Observed::Wood(w) => {
                let MeterReading::Percent(mc) = w.value else { return None };
                let over = Measured { value: mc.value - self.settles(file, place)?, err: mc.err };
                Some((PairKind::WoodOver, over, Some(mc.value)))
            }
            Observed::Relative(x) => {
                let value = x.get();
                Some((PairKind::Relative, Measured { value, err: SCATTER * value }, None))
            }
            Observed::Surface(_) => {
                let Place::Surface(id) = place else { return None };
                let factor = self.picture.surface(id)?.read.as_ref()?.factor?.0;
                // Beyond 0 and 1 something else than insulation cools or warms it.
                (0.0..=1.0).contains(&factor.value).then_some((PairKind::Factor, factor, None))
            }
            _ => None,
        }
    }
}

/// The last visit before a moment and the latest after it that read something, compared point by point; none where one of them is not.
#[must_use]
pub fn pairs(file: &CaseFile, space: Uuid, parted: DateTime<Utc>) -> Option<Pairs> {
    let read: HashSet<Uuid> = file.rows.iter().map(|r| r.visit_id).collect();
    let known = || file.visits.iter().filter(|v| read.contains(&v.id));
    let before = known().find(|v| v.started_at < parted)?;
    let after = known().find(|v| v.started_at >= parted)?;
    let [was, is] = [before, after].map(|v| judged(file, v.id));
    let here = |r: &&Reading| {
        let place = file.building.station(r.station_id).map(|s| s.place);
        place.and_then(|p| file.building.space_of(p)).is_some_and(|s| s.id == space)
    };
    let mut points = Vec::new();
    let (mut relative, mut once) = (Vec::new(), 0);
    for r in is.standing.iter().filter(here) {
        let Some((kind, now, shown)) = is.figure(file, r) else { continue };
        // A meter is compared with itself only.
        let same = |b: &&Reading| {
            b.station_id == r.station_id
                && (kind == PairKind::Factor || b.instrument_id == r.instrument_id)
                && std::mem::discriminant(&b.observed) == std::mem::discriminant(&r.observed)
        };
        let earlier = was.standing.iter().rfind(same).and_then(|b| was.figure(file, b));
        let Some((_, then, shown_then)) = earlier else {
            once += 1;
            continue;
        };
        if kind == PairKind::Relative {
            relative.push((then.value, now.value));
        }
        let name = file.station_name(r.station_id).to_owned();
        points.push(PairedPoint { kind, name, both: [then, now], shown: shown_then.zip(shown).map(|(a, b)| [a, b]) });
    }
    points.sort_by(|a, b| (a.kind, &a.name).cmp(&(b.kind, &b.name)));
    Some(Pairs { visits: [before.clone(), after.clone()], points, relative: paired(&relative), once })
}

/// Thermal pictures of one place from before and after a moment, of a space.
#[must_use]
pub fn thermal_pairs(file: &CaseFile, space: Uuid, parted: DateTime<Utc>) -> Vec<ThermalPair> {
    let own = || file.thermals.iter().filter(|t| t.spot.space_in(&file.building) == Some(space));
    let difference = |t: &store::Thermal| Some(t.air_t_c? - t.outdoor_c?);
    own()
        .filter(|t| t.taken_at >= parted)
        .filter_map(|after| {
            let before = own().filter(|b| b.spot == after.spot && b.taken_at < parted).max_by_key(|b| b.taken_at)?;
            Some(ThermalPair {
                ids: [before.id, after.id],
                name: after.spot.name(&file.building).to_owned(),
                differences: difference(before).zip(difference(after)).map(|(a, b)| [a, b]),
            })
        })
        .collect()
}
