//! The temperature factor: what a construction does between two temperatures, and the insulation it lacks.

use super::verdict::MOLD_RH;
use crate::air::{MoistAir, dew_point, saturation_pressure};
use crate::buildup::insulation_beyond;
use crate::quantity::{Measured, Temperature, ThermalResistance};

/// Under this inside–outside difference (K) no factor is given.
const LEAST_DIFFERENCE: f64 = 5.0;

/// f_Rsi of a surface, with the band of the readings behind it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct TemperatureFactor(pub Measured);

/// f_Rsi = (T_si − T_e)/(T_i − T_e) (ISO 13788:2012), whichever side is warmer; `None` under 5 K of difference.
///
/// Band: first order in the three temperatures, each with its own accuracy.
#[must_use]
pub fn temperature_factor(surface: Measured, inside: Measured, outside: Measured) -> Option<TemperatureFactor> {
    let span = inside.value - outside.value;
    if span.abs() < LEAST_DIFFERENCE {
        return None;
    }
    let f = (surface.value - outside.value) / span;
    let parts = [surface.err / span, f * inside.err / span, (1.0 - f) * outside.err / span];
    Some(TemperatureFactor(Measured::from_contributions(f, &parts)))
}

impl TemperatureFactor {
    /// The surface temperature (°C) this construction would show between other temperatures.
    #[must_use]
    pub fn surface_at(self, inside: Temperature, outside: Temperature) -> f64 {
        outside.get() + self.0.value * (inside.get() - outside.get())
    }

    /// Thermal resistance of the whole construction, films included: R = R_si / (1 − f).
    ///
    /// `None` unless 0 < f < 1: outside that the surface does not follow the outdoor temperature (ground, sun, stored
    /// heat), and the factor says nothing about insulation.
    #[must_use]
    pub fn resistance(self, r_si: ThermalResistance) -> Option<ThermalResistance> {
        let f = self.0.value;
        if f <= 0.0 || f >= 1.0 {
            return None;
        }
        ThermalResistance::new(r_si.get() / (1.0 - f)).ok()
    }
}

/// f_Rsi a construction must reach so that its inside surface meets `target`, for one month (ISO 13788:2012, f_Rsi,min).
///
/// # Formula
/// The room's vapor pressure is `outside`'s plus the moisture excess `excess` (Pa, what people and things add); at the
/// target the surface stands at p_i or p_i/0.8: f = (T_sat − T_e)/(T_i − T_e). `None` under 5 K of difference or when
/// the vapor pressure has no dew point. The month with the highest value is the one that decides.
#[must_use]
pub fn least_factor(inside: Temperature, outside: &MoistAir, excess: f64, target: Target) -> Option<f64> {
    let t_e = outside.temperature();
    let span = inside.above(t_e).get();
    if span.abs() < LEAST_DIFFERENCE {
        return None;
    }
    let needed = dew_point((outside.vapor_pressure() + excess) / target.share())?;
    Some(needed.above(t_e).get() / span)
}

/// What the surface shall stay clear of.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Target {
    /// The dew point.
    NoCondensation,
    /// 80 % relative humidity at the surface.
    NoMold,
}

impl Target {
    /// Relative humidity the surface may reach, 0 to 1.
    #[must_use]
    pub const fn share(self) -> f64 {
        match self {
            Self::NoCondensation => 1.0,
            Self::NoMold => MOLD_RH / 100.0,
        }
    }
}

/// Insulation a construction lacks.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct AddedInsulation {
    /// Surface temperature now, °C.
    pub surface_before: f64,
    /// Resistance to add outside of the surface, m²K/W: 0 if the target is met, `None` if no insulation can meet it.
    pub added: Option<f64>,
}

/// Resistance to add so that the inside surface meets `target` with `inside` air and `outside` temperature.
///
/// # Formula
/// T_si = T_i − (T_i − T_e) R_si/R; solved for R at the target's surface temperature: the dew point, or the
/// temperature at which p_v is 80 % of saturation. `None` where the air itself stands at or over that line. `r_existing` is the whole construction with its films.
/// Source: ISO 6946 surface temperature, ISO 13788:2012 criterion.
#[must_use]
pub fn added_insulation(
    inside: &MoistAir,
    outside: Temperature,
    r_existing: ThermalResistance,
    r_si: ThermalResistance,
    target: Target,
) -> AddedInsulation {
    let warm = inside.temperature();
    let share = r_si.get() / r_existing.get().max(r_si.get()).max(f64::MIN_POSITIVE);
    let surface_before = warm.toward(outside, share).get();
    let Some(needed) = dew_point(inside.vapor_pressure() / target.share()) else {
        return AddedInsulation { surface_before, added: Some(0.0) };
    };
    // Air that stands at the target's line itself: a surface as warm as the air would still be at it.
    if inside.vapor_pressure() >= target.share() * saturation_pressure(warm) * (1.0 - 1e-12) {
        return AddedInsulation { surface_before, added: None };
    }
    let beyond = ThermalResistance::new(r_existing.get() - r_si.get()).unwrap_or(ThermalResistance::const_checked(0.0));
    AddedInsulation { surface_before, added: insulation_beyond((warm, r_si), (outside, beyond), needed) }
}
