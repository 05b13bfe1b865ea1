//! Does this surface get wet, and how sure is that?

use crate::air::{MoistAir, Over, saturation_pressure, saturation_pressure_over, saturation_slope};
use crate::quantity::{HumidityAccuracy, Measured, Temperature, TemperatureAccuracy};

/// Surface relative humidity from which growth must be expected if it lasts, % (ISO 13788:2012, monthly mean).
pub const MOLD_RH: f64 = 80.0;

/// How far each instrument may be off.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Accuracy {
    /// Air thermometer.
    pub air: TemperatureAccuracy,
    /// Hygrometer.
    pub rh: HumidityAccuracy,
    /// Surface thermometer, contact or infrared.
    pub surface: TemperatureAccuracy,
}

/// What one reading of a surface means.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Verdict {
    /// Below the dew point by more than the band.
    Condensing,
    /// The band spans the dew point: can't tell.
    Uncertain,
    /// Not wet, but the surface's own RH is 80 % or more.
    MoldRisk,
    /// Neither.
    Dry,
}

impl Verdict {
    /// The id used in files and by the headless interface.
    #[must_use]
    pub const fn id(self) -> &'static str {
        match self {
            Self::Condensing => "condensing",
            Self::Uncertain => "uncertain",
            Self::MoldRisk => "mold_risk",
            Self::Dry => "dry",
        }
    }
}

/// A judged surface. Percentages may pass 100 and are never clipped.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Judged {
    /// Dew point of the air, °C, with its band; `None` for air too dry to have one above −100 °C.
    pub dew: Option<Measured>,
    /// Surface minus dew point, K, with its band.
    pub margin: Option<Measured>,
    /// Relative humidity of the air film at the surface, %.
    pub surface_rh: f64,
    /// Air RH at which this surface would stand at 100 %, in the convention of the reading.
    pub condensing_rh: f64,
    /// Air RH at which this surface would stand at 80 %, in the convention of the reading.
    pub mold_rh: f64,
    /// What it means.
    pub verdict: Verdict,
    /// The instrument that leaves most of the margin's band: the one to improve when the verdict is uncertain.
    pub weakest: Option<Instrument>,
}

/// What reads a part of a margin.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Instrument {
    /// The air thermometer.
    Thermometer,
    /// The hygrometer.
    Hygrometer,
    /// The surface thermometer.
    SurfaceThermometer,
}

/// Judges a surface at `surface` against `air`, whose RH was read over the phase `over`.
///
/// # Formula
/// margin = T_s − T_dew; surface RH = p_v / p_sat(T_s) (ISO 13788:2012). The band is the root-sum-square of the
/// three instruments' first-order effects: ∂T_dew/∂T = φ p_sat′(T) / p_sat′(T_dew) and
/// ∂T_dew/∂φ = p_sat(T) / p_sat′(T_dew).
///
/// # Examples
/// A window frame at 8 °C in that room is wet; with half a kelvin of margin the instruments leave it open.
/// ```
/// # use hygrothermal::air::{MoistAir, Over};
/// # use hygrothermal::quantity::{Pressure, RelativeHumidity, Temperature};
/// # use hygrothermal::surface::{Accuracy, Verdict, judge};
/// # let (t, rh) = (Temperature::new(20.0)?, RelativeHumidity::new(50.0)?);
/// let room = MoistAir::from_rh(t, rh, Over::Water, Pressure::STANDARD)?;
/// let at = |c| Ok::<_, Box<dyn std::error::Error>>(judge(&room, Temperature::new(c)?, Over::Water, &Accuracy::TYPICAL));
/// assert_eq!(at(6.0)?.verdict, Verdict::Condensing);
/// assert_eq!(at(9.7)?.verdict, Verdict::Uncertain);
/// assert_eq!(at(18.0)?.verdict, Verdict::Dry);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[must_use]
pub fn judge(air: &MoistAir, surface: Temperature, over: Over, accuracy: &Accuracy) -> Judged {
    let t = air.temperature();
    let at_surface = saturation_pressure(surface);
    let condensing_rh = 100.0 * at_surface / saturation_pressure_over(t, over);
    let surface_rh = 100.0 * air.vapor_pressure() / at_surface;
    let dew = dew_point_band(air, over, accuracy);
    let surface_band = Measured { value: surface.get(), err: accuracy.surface.get() };
    let margin = dew.map(|d| surface_band.minus(d));
    Judged {
        dew,
        margin,
        surface_rh,
        condensing_rh,
        mold_rh: condensing_rh * MOLD_RH / 100.0,
        verdict: verdict(margin, surface_rh),
        weakest: weakest(air, over, accuracy),
    }
}

/// What an air thermometer and a hygrometer each leave open in the dew point, K (first order).
fn dew_point_parts(air: &MoistAir, dew: Temperature, over: Over, accuracy: &Accuracy) -> [f64; 2] {
    let t = air.temperature();
    let slope_at_dew = saturation_slope(dew, Over::Ice);
    let by_t = air.rh(over) / 100.0 * saturation_slope(t, over) / slope_at_dew;
    let by_rh = saturation_pressure_over(t, over) / 100.0 / slope_at_dew;
    [by_t * accuracy.air.get(), by_rh * accuracy.rh.get()]
}

/// Dew point (°C) of air with the band its thermometer and hygrometer leave (first order).
fn dew_point_band(air: &MoistAir, over: Over, accuracy: &Accuracy) -> Option<Measured> {
    let dew = air.dew_point()?;
    Some(Measured::from_contributions(dew.get(), &dew_point_parts(air, dew, over, accuracy)))
}

/// The instrument whose doubt weighs most in a margin.
fn weakest(air: &MoistAir, over: Over, accuracy: &Accuracy) -> Option<Instrument> {
    let [by_t, by_rh] = dew_point_parts(air, air.dew_point()?, over, accuracy);
    let parts = [
        (Instrument::Thermometer, by_t),
        (Instrument::Hygrometer, by_rh),
        (Instrument::SurfaceThermometer, accuracy.surface.get()),
    ];
    parts.into_iter().max_by(|a, b| a.1.total_cmp(&b.1)).map(|(instrument, _)| instrument)
}

fn verdict(margin: Option<Measured>, surface_rh: f64) -> Verdict {
    match margin {
        Some(m) if m.high() < 0.0 => Verdict::Condensing,
        Some(m) if m.spans_zero() => Verdict::Uncertain,
        _ if surface_rh >= MOLD_RH => Verdict::MoldRisk,
        _ => Verdict::Dry,
    }
}

impl Accuracy {
    /// A common hand-held set: ±0.5 K air, ±3 % RH, ±1 K surface (common practice).
    pub const TYPICAL: Self = Self {
        air: TemperatureAccuracy::const_checked(0.5),
        rh: HumidityAccuracy::const_checked(3.0),
        surface: TemperatureAccuracy::const_checked(1.0),
    };

    /// The dew point of `air` with its band, °C.
    #[must_use]
    pub fn dew_point(&self, air: &MoistAir, over: Over) -> Option<Measured> {
        dew_point_band(air, over, self)
    }
}
