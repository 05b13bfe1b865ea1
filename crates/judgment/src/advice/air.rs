//! Outdoor air against a space's: ventilate, keep closed, and whose air feeds it from below.

use super::asks;
use crate::picture::{Picture, SpaceState, vapor_band};
use building::reading::AirState;
use building::{Boundary, Building, Level, Side, Space};
use hygrothermal::quantity::{AirFlow, Measured};
use hygrothermal::space::compare_air;
use uuid::Uuid;

/// A wet space under a roof, fed by the rooms.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct FromBelow {
    /// The space whose air comes up.
    pub space_id: Uuid,
    /// Its vapor pressure less that under the roof, Pa, with its band.
    pub drive: Measured,
}

/// Ventilate or not.
#[derive(Debug, Clone, PartialEq)]
pub enum AirAdvice {
    /// The space's or the outdoor air has not been read on this visit.
    NotRead {
        /// Whether it is the outdoor air that is missing.
        outdoor_missing: bool,
    },
    /// Both are read.
    Compared(Box<AirComparison>),
}

/// The comparison of two read airs.
#[derive(Debug, Clone, PartialEq)]
pub struct AirComparison {
    /// What follows.
    pub call: AirCall,
    /// The space's air.
    pub inside: AirState,
    /// Outdoor air.
    pub outside: AirState,
    /// Dew point inside less outside, K, with its band.
    pub difference: Measured,
    /// Assumed flow with openings open, m³/s.
    pub flow: AirFlow,
    /// Assumed air changes per hour behind it.
    pub air_changes: f64,
    /// Water carried out at that flow, L/day; negative brings in.
    pub removal_l_day: f64,
    /// Whether outdoor air would condense on the coldest surface read, and which one.
    pub condenses: Option<(bool, Uuid)>,
}

/// Ventilate or not, or can't tell.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum AirCall {
    /// Outdoor air is drier beyond doubt, and something here is wet or humid.
    Ventilate,
    /// Outdoor air is drier, but nothing here asks for it.
    NotNeeded,
    /// Outdoor air is wetter beyond doubt.
    KeepClosed,
    /// The bands overlap.
    CantTell,
}

/// The room whose air feeds a wet space under a roof: the wettest of those next to it that holds more vapor than it, beyond
/// the band, while it holds more than outdoors: what comes up must be more than what blows in.
pub(super) fn from_below(
    building: &Building,
    picture: &Picture,
    space: &Space,
    state: &SpaceState,
) -> Option<FromBelow> {
    let own = state.air.as_ref()?;
    if space.level != Level::Roof || !asks(state) {
        return None;
    }
    let drier_outside = picture.outdoor.as_ref()?.dew?.minus(own.dew?);
    if drier_outside.value >= 0.0 || drier_outside.spans_zero() {
        return None;
    }
    let beside = |b: &Boundary| match b.beyond {
        Side::Space(id) if b.space_id == space.id => Some(id),
        Side::Space(id) if id == space.id => Some(b.space_id),
        _ => None,
    };
    let rooms = building.boundaries.iter().filter_map(beside);
    let fed = rooms.filter_map(|id| {
        let drive = vapor_band(picture.space(id)?.air.as_ref()?).minus(vapor_band(own));
        (drive.value > 0.0 && !drive.spans_zero()).then_some(FromBelow { space_id: id, drive })
    });
    fed.max_by(|a, b| a.drive.value.total_cmp(&b.drive.value))
}

pub(super) fn air_advice(
    building: &Building,
    space: &Space,
    state: &SpaceState,
    outdoor: Option<&AirState>,
) -> AirAdvice {
    let (Some(inside), Some(outside)) = (state.air, outdoor.copied()) else {
        return AirAdvice::NotRead { outdoor_missing: outdoor.is_none() };
    };
    let air_changes = space.kind.air_changes().open;
    let (Some(dew_in), Some(dew_out), Ok(flow)) =
        (inside.dew, outside.dew, AirFlow::from_air_changes(air_changes, space.volume_m3()))
    else {
        return AirAdvice::NotRead { outdoor_missing: false };
    };
    let coldest = state.coldest(building);
    let compared = compare_air(&inside.air, &outside.air, flow, coldest.map(|(_, r)| r.t));
    let difference = dew_in.minus(dew_out);
    let call = match difference {
        d if d.spans_zero() => AirCall::CantTell,
        d if d.value > 0.0 && asks(state) => AirCall::Ventilate,
        d if d.value > 0.0 => AirCall::NotNeeded,
        _ => AirCall::KeepClosed,
    };
    AirAdvice::Compared(Box::new(AirComparison {
        call,
        inside,
        outside,
        difference,
        flow,
        air_changes,
        removal_l_day: compared.removal_l_day,
        condenses: compared.condenses.zip(coldest.map(|(id, _)| id)),
    }))
}
