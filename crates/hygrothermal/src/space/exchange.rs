//! Ventilate or not: what outdoor air would carry away or bring in.

use crate::air::{AirReading, MoistAir};
use crate::quantity::{AirFlow, DAY, Measured, Temperature};

/// Dew points closer than this (K) are called the same.
const SAME_DEW_POINT: f64 = 0.5;

/// What the comparison of two airs advises.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Advice {
    /// Outdoor air is absolutely drier.
    Ventilate,
    /// Outdoor air is absolutely wetter.
    KeepClosed,
    /// The dew points lie within 0.5 K.
    NoDifference,
}

/// Outdoor air against indoor air at a flow.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Comparison {
    /// Water carried out, L/day (1 kg = 1 L); negative wets.
    pub removal_l_day: f64,
    /// Whether outdoor air would condense on the coldest surface, where one is known.
    pub condenses: Option<bool>,
    /// What follows.
    pub advice: Advice,
}

/// Water carried out by exchanging indoor for outdoor air, L/day; negative wets.
///
/// # Formula
/// ṁ = Q / v_out · (W_in − W_out): the flow is outdoor air at its own state, so v_out is m³ per kg of dry air.
#[must_use]
pub fn removal(inside: &MoistAir, outside: &MoistAir, flow: AirFlow) -> f64 {
    flow.get() / outside.specific_volume() * (inside.humidity_ratio() - outside.humidity_ratio()) * DAY
}

/// [`removal`] with the band that both readings leave, L/day; `None` for readings that no air can have.
#[must_use]
pub fn removal_measured(inside: &AirReading, outside: &AirReading, flow: AirFlow) -> Option<Measured> {
    let [[t_in, rh_in], [t_out, rh_out]] = [inside.measured(), outside.measured()];
    Measured::propagated([t_in, rh_in, t_out, rh_out], |[ti, ri, to, ro]| {
        Some(removal(&inside.air_at([ti, ri])?, &outside.air_at([to, ro])?, flow))
    })
}

/// Compares the two airs in absolute terms.
#[must_use]
pub fn compare_air(
    inside: &MoistAir,
    outside: &MoistAir,
    flow: AirFlow,
    coldest_surface: Option<Temperature>,
) -> Comparison {
    let removal_l_day = removal(inside, outside, flow);
    let out_dew = outside.dew_point();
    let same = match (inside.dew_point(), out_dew) {
        (Some(i), Some(o)) => i.above(o).get().abs() <= SAME_DEW_POINT,
        (None, None) => true,
        _ => false,
    };
    // The sign of W_in − W_out, so that the advice does not depend on the flow being above zero.
    let dries = inside.humidity_ratio() > outside.humidity_ratio();
    let advice = match (same, dries) {
        (true, _) => Advice::NoDifference,
        (false, true) => Advice::Ventilate,
        (false, false) => Advice::KeepClosed,
    };
    let condenses = coldest_surface.map(|s| out_dew.is_some_and(|d| d > s));
    Comparison { removal_l_day, condenses, advice }
}
