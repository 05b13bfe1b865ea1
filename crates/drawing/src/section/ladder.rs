//! A space's temperature ladder: scale, dew-point line, surfaces as dots with their bands.

use super::draw::Chosen;
use super::layout::LABEL_GAP;
use crate::DropMark;
use building::Building;
use hygrothermal::quantity::Measured;
use judgment::picture::SpaceState;
use language::known;
use notation::Show;
use uuid::Uuid;

/// A drawn ladder.
pub struct Ladder {
    pub x: f64,
    pub top: f64,
    pub bottom: f64,
    pub ticks: Vec<(f64, String)>,
    /// Height of the dew-point line; `None` with no air or off the scale.
    pub dew: Option<f64>,
    pub air: f64,
    pub dots: Vec<Dot>,
}

/// A surface on the ladder.
pub struct Dot {
    pub id: Uuid,
    pub y: f64,
    pub high: f64,
    pub low: f64,
    pub label_y: f64,
    pub label: String,
    pub mark: DropMark,
    pub title: String,
    pub chosen: bool,
}

struct Scale {
    low: f64,
    high: f64,
    top: f64,
    bottom: f64,
}

impl Scale {
    fn y(&self, t: f64) -> f64 {
        let share = (t - self.low) / (self.high - self.low);
        self.bottom - share.clamp(0.0, 1.0) * (self.bottom - self.top)
    }
}

/// Builds a space's ladder; `None` while its air has not been read.
pub fn ladder(
    show: &Show,
    building: &Building,
    state: &SpaceState,
    x: f64,
    (top, bottom): (f64, f64),
    chosen: Option<Chosen>,
) -> Option<Ladder> {
    let air = state.air.as_ref()?;
    let dew = air.dew;
    let read: Vec<_> = state.surfaces.iter().filter_map(|s| Some((s.surface_id, s.read.as_ref()?))).collect();
    let values = read.iter().map(|(_, r)| r.t.get()).chain([air.value.t.get()]).chain(dew.map(|d| d.value));
    let (scale, ticks) = scale(show, values.map(|c| show.scale(c)), top, bottom);
    let mut dots: Vec<Dot> = read
        .into_iter()
        .map(|(id, r)| {
            let surface = building.surface(id);
            let err = r.accuracy.surface.get();
            let at = |c: f64| scale.y(show.scale(c));
            let t = r.t.get();
            let mark = r.judged.map_or(DropMark::NONE, |j| DropMark::from(j.verdict));
            let name = surface.map_or("", |s| &s.name);
            Dot {
                id,
                y: at(t),
                high: at(t + err),
                low: at(t - err),
                label_y: at(t),
                label: surface.map_or_else(String::new, |s| s.short.clone()),
                mark,
                title: format!("{name}: {}, {}", show.temperature_band(Measured { value: t, err }), known(mark.word)),
                chosen: chosen == Some(Chosen::Part(id)),
            }
        })
        .collect();
    spread(&mut dots, top, bottom);
    Some(Ladder {
        x,
        top,
        bottom,
        ticks: ticks.into_iter().map(|t| (scale.y(t), format!("{t:.0}").replace('-', "−"))).collect(),
        dew: dew.map(|d| scale.y(show.scale(d.value))),
        air: scale.y(show.scale(air.value.t.get())),
        dots,
    })
}

/// A scale over all values in round steps, with three to six ticks.
fn scale(show: &Show, values: impl Iterator<Item = f64>, top: f64, bottom: f64) -> (Scale, Vec<f64>) {
    let (low, high) = values.fold((f64::INFINITY, f64::NEG_INFINITY), |(a, b), v| (a.min(v), b.max(v)));
    let steps: [f64; 4] =
        if show.temperature_unit() == "°F" { [5.0, 10.0, 20.0, 40.0] } else { [2.0, 5.0, 10.0, 20.0] };
    let step = steps.into_iter().find(|s| (high + 1.0 - (low - 1.0)) / s <= 5.0).unwrap_or(50.0);
    let low = ((low - 1.0) / step).floor() * step;
    let high = ((high + 1.0) / step).ceil() * step;
    let count = ((high - low) / step).round() as u32;
    let ticks = (0..=count).map(|i| low + step * f64::from(i)).collect();
    (Scale { low, high, top, bottom }, ticks)
}

/// Moves labels apart: down from the top, then back up from the bottom if they ran out.
fn spread(dots: &mut [Dot], top: f64, bottom: f64) {
    dots.sort_by(|a, b| a.y.total_cmp(&b.y));
    let mut least = top;
    for dot in dots.iter_mut() {
        dot.label_y = dot.y.max(least);
        least = dot.label_y + LABEL_GAP;
    }
    let mut most = bottom;
    for dot in dots.iter_mut().rev() {
        dot.label_y = dot.label_y.min(most);
        most = dot.label_y - LABEL_GAP;
    }
}
