//! Facts computed from what was read on a visit.

use super::Case;
use crate::picture::{Picture, SpaceState};
use building::reading::{AirValue, Observed, Reading};
use building::{Building, Material, Place};
use hygrothermal::machine::{Dehumidifier, Rating};
use hygrothermal::quantity::DailyWater;
use hygrothermal::wood::MeterReading;
use std::collections::BTreeMap;
use uuid::Uuid;

/// What a pin meter past fiber saturation counts as, %.
pub const PAST_SATURATION: f64 = 30.0;

/// A computed fact.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Fact {
    /// Id of the vocabulary.
    pub id: &'static str,
    /// Its figure, in the vocabulary's unit.
    pub figure: f64,
    /// Where it was read.
    pub at: Place,
}

/// Outdoor air under which it is winter, and over which it is summer, °C (ours).
pub(super) const SEASONS: [f64; 2] = [7.0, 18.0];

/// The likeliest season by the outdoor air of a visit.
pub(super) const fn season(outdoor_c: f64) -> &'static str {
    if outdoor_c < SEASONS[0] {
        "winter"
    } else if outdoor_c > SEASONS[1] {
        "summer"
    } else {
        "shoulder"
    }
}

/// Facts about a space, or about the worst of the building.
#[must_use]
pub fn facts(building: &Building, picture: &Picture, standing: &[Reading], space: Option<Uuid>) -> Vec<Fact> {
    let margins = |s: &SpaceState| margins(building, s).map(|(_, m)| m).fold(f64::INFINITY, f64::min);
    let worst = || picture.spaces.iter().filter(|s| s.air.is_some()).min_by(|a, b| margins(a).total_cmp(&margins(b)));
    let state = space.map_or_else(worst, |id| picture.space(id));
    let mut out = state.map(|s| of_air(building, s)).unwrap_or_default();
    let outdoor = picture.outdoor.as_ref().and_then(|o| o.dew);
    out.extend(outdoor.map(|d| Fact { id: "outdoor_dew_c", figure: d.value, at: Place::Outdoors }));
    let placed = standing.iter().filter_map(|r| Some((building.station(r.station_id)?.place, r)));
    let within = |at: Place| space.is_none() || building.space_of(at).map(|s| s.id) == space;
    for (at, reading) in placed.filter(|(at, _)| within(*at)) {
        let (id, figure) = match reading.observed {
            Observed::Wood(w) => match w.value {
                MeterReading::Percent(m) => ("wood_mc_pct", m.value),
                MeterReading::Wet => ("wood_mc_pct", PAST_SATURATION),
            },
            Observed::Water(collected) => ("dehumidifier_l_day", collected.per_day()),
            Observed::Relative(shown) if is_masonry(building, at) => ("masonry_rel", shown.get()),
            _ => continue,
        };
        match out.iter_mut().find(|f: &&mut Fact| f.id == id) {
            Some(fact) if fact.figure < figure => (fact.figure, fact.at) = (figure, at),
            Some(_) => {}
            None => out.push(Fact { id, figure, at }),
        }
    }
    out
}

/// Facts about a space’s air and its surfaces.
fn of_air(building: &Building, state: &SpaceState) -> Vec<Fact> {
    let mut out = Vec::new();
    if let Some((at, margin)) = margins(building, state).min_by(|a, b| a.1.total_cmp(&b.1)) {
        out.push(Fact { id: "worst_margin_c", figure: margin, at });
    }
    let humid = judged(building, state).map(|(at, j)| (at, j.surface_rh.min(100.0)));
    if let Some((at, figure)) = humid.max_by(|a, b| a.1.total_cmp(&b.1)) {
        out.push(Fact { id: "surface_rh_pct", figure, at });
    }
    out.extend(coldest(building, state).map(|(at, figure)| Fact { id: "surface_c", figure, at }));
    if let Some(air) = &state.air {
        let at = Place::Space(state.space_id);
        out.push(Fact { id: "air_rh_pct", figure: air.value.rh.get(), at });
        out.extend(air.dew.map(|d| Fact { id: "air_dew_c", figure: d.value, at }));
    }
    out
}

/// What a dehumidifier of this label takes out if it never stops, in this air, L/day. `rated` at 18.3 °C and 60 %, L/day.
#[must_use]
pub fn capacity(rated: f64, air: &AirValue) -> Option<f64> {
    let rated = DailyWater::new(rated).ok()?;
    Some(Dehumidifier { rated, at: Rating::COOL }.run(air.t, air.rh, rated).capacity)
}

fn is_masonry(building: &Building, at: Place) -> bool {
    let Place::Surface(id) = at else { return false };
    building.surface(id).is_some_and(|s| matches!(s.material, Material::Concrete | Material::Masonry))
}

fn judged<'a>(
    building: &'a Building,
    state: &'a SpaceState,
) -> impl Iterator<Item = (Place, hygrothermal::surface::Judged)> + 'a {
    // Bare soil is damp whatever the air does.
    let counts = |id: Uuid| building.surface(id).is_some_and(|s| s.material != Material::Soil);
    let counted = state.surfaces.iter().filter(move |s| counts(s.surface_id));
    counted.filter_map(|s| Some((Place::Surface(s.surface_id), s.read.as_ref()?.judged?)))
}

/// The coldest masonry, which is what is coated; where there is none, the coldest surface.
fn coldest(building: &Building, state: &SpaceState) -> Option<(Place, f64)> {
    let soil = |id: Uuid| building.surface(id).is_some_and(|s| s.material == Material::Soil);
    let read = state.surfaces.iter().filter_map(|s| Some((s.surface_id, s.read.as_ref()?.t.get())));
    let read: Vec<(Uuid, f64)> = read.filter(|(id, _)| !soil(*id)).collect();
    let walls = read.iter().filter(|(id, _)| is_masonry(building, Place::Surface(*id)));
    let coldest = walls.min_by(|a, b| a.1.total_cmp(&b.1)).or_else(|| read.iter().min_by(|a, b| a.1.total_cmp(&b.1)));
    coldest.map(|(id, t)| (Place::Surface(*id), *t))
}

fn margins<'a>(building: &'a Building, state: &'a SpaceState) -> impl Iterator<Item = (Place, f64)> + 'a {
    judged(building, state).filter_map(|(at, j)| Some((at, j.margin?.value)))
}

impl Case {
    /// Adds computed facts.
    pub fn add_facts(&mut self, facts: &[Fact]) {
        let all: BTreeMap<String, f64> = facts.iter().map(|f| (f.id.to_owned(), f.figure)).collect();
        // Every id here is the table's or stands beside one of it; a test says so.
        let _ = self.figures(&all);
    }
}
