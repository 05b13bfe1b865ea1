//! What a job knows for the questions people ask before they build: figures read, logged or said.

use crate::file::CaseFile;
use building::construction::{Substance, Variant};
use building::unfold::Shape;
use building::{Boundary, Side, SpaceKind};
use hygrothermal::air::Over;
use judgment::climate::year;
use judgment::special::Special;

/// Outdoor air up to which a visit says something of winter, °C (ours).
const COLD: f64 = 10.0;

/// Where a figure stands that nobody typed.
#[derive(Debug, Clone, PartialEq)]
pub enum Known {
    /// Read on the visit in view, in this space.
    Read(String),
    /// The job's own.
    Job,
    /// The climate's typical year.
    Climate,
    /// Dimensions of a space.
    Measured(String),
}

/// The figure of a job a field begins with, SI; `None` where nobody knows it.
#[must_use]
pub fn known(file: &CaseFile, from: &str) -> Option<(f64, Known)> {
    let climate = year(file.job.climate);
    let (from, wants_cold) = from.strip_prefix("cold ").map_or((from, false), |from| (from, true));
    let was_cold = file.picture.outdoor.as_ref().is_some_and(|o| o.value.t.get() <= COLD);
    if wants_cold && !was_cold {
        return None;
    }
    let air = |is: fn(SpaceKind) -> bool, of: fn(&building::reading::AirState) -> f64| {
        file.building.spaces.iter().filter(|s| is(s.kind)).find_map(|s| {
            let read = file.picture.space(s.id)?.air.as_ref()?;
            Some((of(read), Known::Read(s.name.clone())))
        })
    };
    let t = |a: &building::reading::AirState| a.value.t.get();
    let rh = |a: &building::reading::AirState| a.air.rh(Over::Water);
    let dew = |a: &building::reading::AirState| a.dew.map_or(f64::NAN, |d| d.value);
    let under =
        |k: SpaceKind| matches!(k, SpaceKind::Crawl | SpaceKind::UnderFloor | SpaceKind::Basement | SpaceKind::Bilge);
    let low = |k: SpaceKind| matches!(k, SpaceKind::Basement | SpaceKind::Garage);
    let attic = |k: SpaceKind| k == SpaceKind::Attic;
    match from {
        "design_t" => Some((file.job.design_outdoor_c, Known::Job)),
        "january_t" => Some((climate.t[0], Known::Climate)),
        "january_rh" => climate.air(0).map(|a| (a.rh(Over::Water), Known::Climate)),
        "ground_t" => Some((climate.mean(), Known::Climate)),
        "room_t" => air(SpaceKind::kept_warm, t),
        "room_rh" => air(SpaceKind::kept_warm, rh),
        "under_t" => air(under, t),
        "under_rh" => air(under, rh),
        "worst_dew" => air(under, dew).filter(|(d, _)| d.is_finite()),
        "low_t" => air(low, t),
        "low_rh" => air(low, rh),
        "attic_t" => air(attic, t),
        "attic_rh" => air(attic, rh),
        "round_diameter" | "round_wall" | "round_crown" => file.building.spaces.iter().find_map(|s| {
            let layout = file.building.layout(s);
            let Shape::Round { diameter_m, wall_m, crown_m } = layout.0.shape else { return None };
            let m = match from {
                "round_diameter" => diameter_m,
                "round_wall" => wall_m,
                _ => crown_m,
            };
            layout.1.then(|| (m, Known::Measured(s.name.clone())))
        }),
        _ => None,
    }
}

/// Boundaries a question may be about, each in its variants; for a wall to fill outside walls only, one with an empty cavity first.
#[must_use]
pub fn boundaries<'a>(file: &'a CaseFile, asked: &Special) -> Vec<(&'a Boundary, Variant)> {
    let b = &file.building;
    let wall = asked.id == "fill_wall";
    let meant = |x: &&Boundary| !wall || (x.face.upright() && x.beyond == Side::Outdoors);
    let of = |x: &'a Boundary| b.variants_of(x).into_iter().map(move |v| (x, v));
    let mut all: Vec<(&Boundary, Variant)> = b.boundaries.iter().filter(meant).flat_map(of).collect();
    let empty = |v: &Variant| v.courses.iter().any(|c| c.of == Substance::ClosedGap);
    all.sort_by_key(|(_, v)| wall && !empty(v));
    all
}
