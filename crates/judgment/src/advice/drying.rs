//! Drying by machine: the dew point to hold, and the liters a day that holding it takes.

use crate::picture::SpaceState;
use building::reading::AirState;
use building::{Building, Side, Space};
use hygrothermal::air::{MoistAir, dew_point};
use hygrothermal::quantity::{AirFlow, Area, Measured, Pressure, Temperature};
use hygrothermal::space::{bare_soil_evaporation, removal};
use hygrothermal::surface::MOLD_RH;
use uuid::Uuid;

/// Air RH held to where nothing else asks for less, % (common practice: the stricter of the usual ceilings).
pub const RH_CEILING: f64 = 60.0;

/// Drying by machine.
#[derive(Debug, Clone, PartialEq)]
pub struct Drying {
    /// What follows.
    pub call: DryingCall,
    /// Dew point to hold, °C, and what sets it.
    pub target: DryingTarget,
    /// Dew point now less the target, K, with its band.
    pub excess: Measured,
    /// The air to be dried.
    pub inside: MoistAir,
}

/// Whether to dry by machine.
#[derive(Debug, Clone, PartialEq)]
pub enum DryingCall {
    /// The air already holds less than the target.
    NotNeeded,
    /// Outdoor air is drier than the target: it does the work.
    VentilateInstead,
    /// A dehumidifier with openings shut.
    Dehumidify(DryingLoad),
    /// The bands overlap, or outdoor air has not been read.
    CantTell {
        /// Whether it is the outdoor air that is missing.
        outdoor_missing: bool,
    },
}

/// Liters a day that must be taken out, and where they come from.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct DryingLoad {
    /// Leaking outdoor air, L/day; negative where it helps.
    pub by_air: f64,
    /// Bare soil, L/day.
    pub by_soil: f64,
    /// Low end of the sum within the instruments' band.
    pub low: f64,
    /// High end of the sum within the instruments' band.
    pub high: f64,
    /// Assumed air changes per hour with openings shut.
    pub air_changes: f64,
}

impl DryingLoad {
    /// L/day in all.
    #[must_use]
    pub fn total(&self) -> f64 {
        (self.by_air + self.by_soil).max(0.0)
    }
}

/// The dew point to hold.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct DryingTarget {
    /// °C.
    pub dew: f64,
    /// The surface that sets it (below 80 % RH there), or `None` when the air's own ceiling does.
    pub surface_id: Option<Uuid>,
}

/// The lower of: the air's RH ceiling, and the dew point at which the coldest surface stands at 80 % RH.
fn drying_target(building: &Building, state: &SpaceState, air: &AirState) -> Option<DryingTarget> {
    let share_of_saturation =
        |t: Temperature, rh: f64| dew_point(rh / 100.0 * hygrothermal::air::saturation_pressure(t));
    let ceiling = share_of_saturation(air.value.t, RH_CEILING)?.get();
    let surface = state.coldest(building).and_then(|(id, r)| Some((share_of_saturation(r.t, MOLD_RH)?.get(), id)));
    Some(match surface {
        Some((dew, id)) if dew < ceiling => DryingTarget { dew, surface_id: Some(id) },
        _ => DryingTarget { dew: ceiling, surface_id: None },
    })
}

pub(super) fn drying(
    building: &Building,
    space: &Space,
    state: &SpaceState,
    outdoor: Option<&AirState>,
) -> Option<Drying> {
    if !space.kind.can_be_closed() {
        return None;
    }
    let air = state.air.as_ref()?;
    let target = drying_target(building, state, air)?;
    let exact = Measured::exact(target.dew);
    let excess = air.dew?.minus(exact);
    let call = if excess.spans_zero() {
        DryingCall::CantTell { outdoor_missing: false }
    } else if excess.value < 0.0 {
        DryingCall::NotNeeded
    } else {
        match outdoor.and_then(|o| o.dew) {
            None => DryingCall::CantTell { outdoor_missing: true },
            Some(out) if out.high() < target.dew => DryingCall::VentilateInstead,
            Some(out) => DryingCall::Dehumidify(drying_load(building, space, state, air, out, target.dew)?),
        }
    };
    Some(Drying { call, target, excess, inside: air.air })
}

fn drying_load(
    building: &Building,
    space: &Space,
    state: &SpaceState,
    air: &AirState,
    outdoor_dew: Measured,
    target_dew: f64,
) -> Option<DryingLoad> {
    let air_changes = space.kind.air_changes().closed;
    let flow = AirFlow::from_air_changes(air_changes, space.volume_m3()).ok()?;
    let at_dew = |dew: f64| {
        let dew = Temperature::new(dew).ok()?;
        let t = if dew > air.value.t { dew } else { air.value.t };
        MoistAir::from_dew_point(t, dew, Pressure::STANDARD).ok()
    };
    let held = at_dew(target_dew)?;
    let leaking = |dew: f64| Some(-removal(&held, &at_dew(dew)?, flow));
    let by_air = leaking(outdoor_dew.value)?;
    let by_soil = soil_load(building, space, state, &held);
    let low = (leaking(outdoor_dew.low())? + by_soil).max(0.0);
    let high = (leaking(outdoor_dew.high())? + by_soil).max(0.0);
    Some(DryingLoad { by_air, by_soil, low, high, air_changes })
}

fn soil_load(building: &Building, space: &Space, state: &SpaceState, held: &MoistAir) -> f64 {
    let Ok(area) = Area::new(space.area_m2) else { return 0.0 };
    let bare = building.boundaries_of(space.id).find(|b| b.bare_soil && b.beyond == Side::Ground);
    let ground = bare.and_then(|b| {
        state
            .surfaces
            .iter()
            .find(|s| building.surface(s.surface_id).is_some_and(|x| x.boundary_id == b.id))
            .and_then(|s| s.read.as_ref())
    });
    ground.map_or(0.0, |g| bare_soil_evaporation(g.t, held, area).max(0.0))
}
