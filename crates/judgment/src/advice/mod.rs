//! A first recommendation for each space, from computed comparison only: no diagnosis.

mod air;
mod drying;
mod insulation;

pub use air::{AirAdvice, AirCall, AirComparison, FromBelow};
pub use drying::{Drying, DryingCall, DryingLoad, DryingTarget, RH_CEILING};
pub use insulation::{DesignNight, InsulationAdvice, InsulationCall, Remedy, WhyNot};

use crate::cautions::Work;
use crate::picture::{Picture, SpaceState};
use building::{Building, Space};
use hygrothermal::quantity::Temperature;
use hygrothermal::surface::Verdict;
use uuid::Uuid;

/// Everything advised for one space.
#[derive(Debug, Clone, PartialEq)]
pub struct SpaceAdvice {
    /// Which space.
    pub space_id: Uuid,
    /// Outdoor air against this space's.
    pub air: AirAdvice,
    /// Drying by machine; `None` where a space cannot be closed or its air is not read.
    pub drying: Option<Drying>,
    /// One entry for each surface read that stands between a space kept warm and outdoors.
    pub insulation: Vec<InsulationAdvice>,
    /// Under a roof: the space below that feeds it.
    pub from_below: Option<FromBelow>,
}

/// Advice for a space of the picture.
#[must_use]
pub fn advise(
    building: &Building,
    picture: &Picture,
    space: &Space,
    design_outdoor: Option<Temperature>,
) -> SpaceAdvice {
    let Some(state) = picture.space(space.id) else {
        let air = AirAdvice::NotRead { outdoor_missing: picture.outdoor.is_none() };
        return SpaceAdvice { space_id: space.id, air, drying: None, insulation: Vec::new(), from_below: None };
    };
    let air = air::air_advice(building, space, state, picture.outdoor.as_ref());
    let drying = drying::drying(building, space, state, picture.outdoor.as_ref());
    // An unheated space follows the weather: its temperature on the design night is unknown.
    let design_outdoor = design_outdoor.filter(|_| space.kind.kept_warm());
    let insulation = design_outdoor
        .map(|t| insulation::insulation(building, state, picture.outdoor.as_ref(), t))
        .unwrap_or_default();
    SpaceAdvice {
        space_id: space.id,
        air,
        drying,
        insulation,
        from_below: air::from_below(building, picture, space, state),
    }
}

/// Whether anything in a space is wet or asks to be drier: a surface that is not dry, or air over its ceiling.
fn asks(state: &SpaceState) -> bool {
    let wet = state.worst().is_some_and(|v| v != Verdict::Dry);
    wet || state.air.is_some_and(|a| a.value.rh.get() > RH_CEILING)
}

impl SpaceAdvice {
    /// The kinds of work advised, for their cautions.
    #[must_use]
    pub fn work(&self) -> Vec<Work> {
        let mut work = Vec::new();
        if let AirAdvice::Compared(c) = &self.air {
            match c.call {
                AirCall::Ventilate => work.push(Work::Ventilate),
                AirCall::KeepClosed => work.push(Work::KeepClosed),
                AirCall::CantTell | AirCall::NotNeeded => {}
            }
        }
        if matches!(&self.drying, Some(Drying { call: DryingCall::Dehumidify(_), .. })) {
            work.push(Work::Dehumidify);
        }
        if self.insulation.iter().any(|i| matches!(i.call, InsulationCall::Add(_))) {
            work.push(Work::Insulate);
        }
        work
    }
}
