//! Which way moisture goes: what two weeks of logging inside and outdoors say, as the test of that name asks.

use hygrothermal::air::{MoistAir, Over, saturation_pressure_over};
use hygrothermal::quantity::Temperature;
use hygrothermal::surface::MOLD_RH;

/// Hours that inside and outdoors must both be known: half of the two weeks.
const FEWEST: usize = 168;
/// Damp hours of a surface from which they decide: half a day.
const DAMP: usize = 12;
/// Mean vapor pressures nearer than this say nothing, Pa: 2 % of RH at 20 °C (ours).
const ALIKE: f64 = 45.0;

/// An hour inside and outdoors, and of the surface that is damp most.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct BothSides {
    /// Air of the space.
    pub inside: Option<MoistAir>,
    /// Outdoor air.
    pub outside: Option<MoistAir>,
    /// The surface.
    pub surface: Option<Temperature>,
}

/// What two weeks say.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct TwoWeeks {
    /// Whether outdoor air brings the moisture.
    pub outdoor_wetter: bool,
    /// Hours in which the surface stood at 80 % or more.
    pub damp_h: usize,
    /// Of these, hours in which outdoor air alone would have brought it there.
    pub by_outdoors_h: usize,
    /// What the inside air held more than the outdoor air, mean over hours that know both, Pa.
    pub excess_pa: f64,
    /// Hours that know both.
    pub known_h: usize,
}

impl TwoWeeks {
    /// The result, as the vocabulary calls it.
    #[must_use]
    pub const fn result(&self) -> &'static str {
        if self.outdoor_wetter { "outdoor_wetter" } else { "outdoor_drier" }
    }
}

/// Which way moisture goes. Where a surface was damp for half a day and more, by what outdoor air alone would have made of it: at its
/// temperature, 80 % or more in most of those hours. Elsewhere by the means of both vapor pressures. `None` under a week of hours that
/// know both, or where both are alike.
#[must_use]
pub fn two_weeks(hours: &[BothSides]) -> Option<TwoWeeks> {
    let known: Vec<(MoistAir, MoistAir, Option<Temperature>)> =
        hours.iter().filter_map(|h| Some((h.inside?, h.outside?, h.surface))).collect();
    if known.len() < FEWEST {
        return None;
    }
    let damp = |air: &MoistAir, t: Temperature| {
        100.0 * air.vapor_pressure() >= MOLD_RH * saturation_pressure_over(t, Over::Ice)
    };
    let at_damp = known.iter().filter_map(|(i, e, t)| t.filter(|t| damp(i, *t)).map(|t| damp(e, t)));
    let (damp_h, by_outdoors_h) = at_damp.fold((0, 0), |(all, out), by| (all + 1, out + usize::from(by)));
    let excess = known.iter().map(|(i, e, _)| i.vapor_pressure() - e.vapor_pressure()).sum::<f64>();
    let excess_pa = excess / known.len() as f64;
    let outdoor_wetter = if damp_h >= DAMP { 2 * by_outdoors_h > damp_h } else { excess_pa < 0.0 };
    let decided = damp_h >= DAMP || excess_pa.abs() >= ALIKE;
    decided.then_some(TwoWeeks { outdoor_wetter, damp_h, by_outdoors_h, excess_pa, known_h: known.len() })
}
