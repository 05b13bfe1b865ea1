//! Facts computed from what was read on a visit.

use super::Case;
use crate::building::{Building, Material, Place};
use crate::picture::{Picture, SpaceState};
use crate::reading::{Observed, Reading};
use hygrothermal::wood::MeterReading;
use std::collections::BTreeMap;
use uuid::Uuid;

/// What a pin meter past fiber saturation counts as, %.
const PAST_SATURATION: f64 = 30.0;

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

/// The season by the outdoor air of a visit: a calendar would have to know the hemisphere and the year's weather.
#[must_use]
pub const fn season(outdoor_c: f64) -> &'static str {
    if outdoor_c < 7.0 {
        "winter"
    } else if outdoor_c > 18.0 {
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
    let Some(state) = space.map_or_else(worst, |id| picture.space(id)) else { return Vec::new() };
    let here = Place::Space(state.space_id);
    let mut out = Vec::new();
    if let Some((at, margin)) = self::margins(building, state).min_by(|a, b| a.1.total_cmp(&b.1)) {
        out.push(Fact { id: "worst_margin_c", figure: margin, at });
    }
    let humid = judged(building, state).map(|(at, j)| (at, j.surface_rh.min(100.0)));
    if let Some((at, figure)) = humid.max_by(|a, b| a.1.total_cmp(&b.1)) {
        out.push(Fact { id: "surface_rh_pct", figure, at });
    }
    out.extend(coldest(building, state).map(|(at, figure)| Fact { id: "surface_c", figure, at }));
    if let Some(air) = &state.air {
        out.push(Fact { id: "air_rh_pct", figure: air.value.rh.get(), at: here });
        out.extend(air.dew.map(|d| Fact { id: "air_dew_c", figure: d.value, at: here }));
    }
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
    let material = |id: Uuid| building.surface(id).map(|s| s.material);
    let masonry = |id: Uuid| matches!(material(id), Some(Material::Concrete | Material::Masonry));
    let read = state.surfaces.iter().filter_map(|s| Some((s.surface_id, s.read.as_ref()?.t.get())));
    let read: Vec<(Uuid, f64)> = read.filter(|(id, _)| material(*id) != Some(Material::Soil)).collect();
    let walls = read.iter().filter(|(id, _)| masonry(*id));
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
