//! Values that are possible but odd: asked about at entry, and kept when the consultant says so.

use crate::picture::Picture;
use building::entry::DewAboveAir;
use building::reading::{AirValue, Observed};
use building::{Building, Place, Side, SpaceKind};
use hygrothermal::air::saturation_rh;
use hygrothermal::quantity::Temperature;

/// A doubt about an entry; temperatures in °C.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Doubt {
    /// The dew point entered lies above the air temperature; kept, it counts as saturated.
    DewAboveAir(DewAboveAir),
    /// Over liquid water the RH means more vapor than ice allows; kept, it counts as saturated.
    BeyondIce {
        /// RH entered, %.
        rh: f64,
        /// RH at ice saturation, %.
        limit: f64,
    },
    /// Saturated air in a space that is seldom saturated: a wet sensor.
    Saturated {
        /// RH entered, %.
        rh: f64,
    },
    /// Air drier than buildings are.
    VeryDry {
        /// RH entered, %.
        rh: f64,
    },
    /// A temperature that looks like the other unit.
    LooksFahrenheit {
        /// As entered.
        t: f64,
        /// What it would be if it were °F.
        if_fahrenheit: f64,
    },
    /// Far from the last reading at this station.
    TemperatureJump {
        /// Now.
        now: f64,
        /// Before.
        before: f64,
    },
    /// Far from the last reading at this station.
    HumidityJump {
        /// Now, %.
        now: f64,
        /// Before, %.
        before: f64,
    },
    /// A surface far warmer or colder than both airs beside it: a reflection, sun or a heat source.
    SurfaceOutOfPlace {
        /// Surface.
        surface: f64,
        /// Lower of the airs.
        low: f64,
        /// Higher of the airs.
        high: f64,
    },
}

/// Temperature change since the last visit that is worth a question, K (ours).
const JUMP_K: f64 = 12.0;
/// RH change worth a question, percentage points (ours).
const JUMP_RH: f64 = 35.0;
/// How far outside the airs beside it a surface may stand, K (ours).
const OUT_OF_PLACE_K: f64 = 8.0;
/// Above this a room temperature looks like °F, °C (ours).
const FAHRENHEIT_LIKE: f64 = 45.0;

/// The doubts about an entry at `place`; `before` is the last value kept there.
#[must_use]
pub fn questions(
    building: &Building,
    picture: &Picture,
    place: Place,
    observed: &Observed,
    before: Option<&Observed>,
) -> Vec<Doubt> {
    let mut out = Vec::new();
    let kind = building.space_of(place).map(|s| s.kind);
    match observed {
        Observed::Air(v) => air_questions(v, kind, &mut out),
        Observed::Surface(t) => surface_questions(building, picture, place, *t, kind, &mut out),
        _ => {}
    }
    if let Some(before) = before {
        jumps(observed, before, &mut out);
    }
    out
}

fn air_questions(v: &AirValue, kind: Option<SpaceKind>, out: &mut Vec<Doubt>) {
    let rh = v.rh.get();
    let limit = saturation_rh(v.t, v.over);
    if rh > limit {
        out.push(Doubt::BeyondIce { rh, limit });
    }
    let seldom_wet = !matches!(kind, None | Some(SpaceKind::Crawl | SpaceKind::UnderFloor));
    if rh >= 99.0 && seldom_wet {
        out.push(Doubt::Saturated { rh });
    }
    if rh < 8.0 {
        out.push(Doubt::VeryDry { rh });
    }
    fahrenheit(v.t, kind, out);
}

fn fahrenheit(t: Temperature, kind: Option<SpaceKind>, out: &mut Vec<Doubt>) {
    let limit = if kind == Some(SpaceKind::Attic) { 70.0 } else { FAHRENHEIT_LIKE };
    if t.get() > limit {
        out.push(Doubt::LooksFahrenheit { t: t.get(), if_fahrenheit: (t.get() - 32.0) / 1.8 });
    }
}

fn surface_questions(
    building: &Building,
    picture: &Picture,
    place: Place,
    t: Temperature,
    kind: Option<SpaceKind>,
    out: &mut Vec<Doubt>,
) {
    let before = out.len();
    fahrenheit(t, kind, out);
    if out.len() > before {
        return; // one doubt is enough: the other unit explains the rest
    }
    // Ground holds its own temperature, often far from any air.
    let on_ground = |id| {
        building.surface(id).and_then(|s| building.boundary(s.boundary_id)).is_some_and(|b| b.beyond == Side::Ground)
    };
    if matches!(place, Place::Surface(id) if on_ground(id)) {
        return;
    }
    let inside = building.space_of(place).and_then(|s| picture.space(s.id)).and_then(|s| s.air.as_ref());
    let airs: Vec<f64> = inside.into_iter().chain(&picture.outdoor).map(|a| a.value.t.get()).collect();
    if airs.len() < 2 {
        return;
    }
    let low = airs.iter().copied().fold(f64::INFINITY, f64::min);
    let high = airs.iter().copied().fold(f64::NEG_INFINITY, f64::max);
    if t.get() < low - OUT_OF_PLACE_K || t.get() > high + OUT_OF_PLACE_K {
        out.push(Doubt::SurfaceOutOfPlace { surface: t.get(), low, high });
    }
}

fn jumps(now: &Observed, before: &Observed, out: &mut Vec<Doubt>) {
    let temperature = |o: &Observed| match o {
        Observed::Air(v) => Some(v.t.get()),
        Observed::Surface(t) => Some(t.get()),
        _ => None,
    };
    if let Some((now, before)) = temperature(now).zip(temperature(before))
        && (now - before).abs() > JUMP_K
    {
        out.push(Doubt::TemperatureJump { now, before });
    }
    if let (Observed::Air(a), Observed::Air(b)) = (now, before) {
        let (now, before) = (a.rh.get(), b.rh.get());
        if (now - before).abs() > JUMP_RH {
            out.push(Doubt::HumidityJump { now, before });
        }
    }
}
