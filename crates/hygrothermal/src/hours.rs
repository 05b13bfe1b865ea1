//! What a row of hours says: when a surface was wet, what the building adds to the outdoor air, and when outdoor air would
//! have dried it.

use crate::air::{MoistAir, Over, dew_point, saturation_pressure, saturation_pressure_over};
use crate::quantity::{AirFlow, Temperature};
use crate::space::removal;

/// RH at a surface from which mold may grow, % (ISO 13788:2012).
const MOLD_RH: f64 = 80.0;
/// Slopes of ln p_sat against temperature between −60 and 80 °C, 1/K: no margin in kelvin is outside of what they make of
/// the surface's RH.
const SLOPES: [f64; 2] = [0.03, 0.14];

/// One hour as logged; what was not read is `None`.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct LoggedHour {
    /// Air of the space.
    pub inside: Option<MoistAir>,
    /// Outdoor air.
    pub outside: Option<MoistAir>,
    /// Temperature of the surface.
    pub surface: Option<Temperature>,
}

impl LoggedHour {
    /// The same with the surface estimated from a temperature factor: T_e + f (T_i − T_e). `None` where either air is
    /// missing or the estimate is no temperature.
    #[must_use]
    pub fn estimated(self, f_rsi: f64) -> Self {
        let surface = self.inside.zip(self.outside).and_then(|(inside, outside)| {
            let (i, e) = (inside.temperature().get(), outside.temperature().get());
            Temperature::new(e + f_rsi * (i - e)).ok()
        });
        Self { surface, ..self }
    }
}

/// What the hours say, in hours of the log.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct HoursSaid {
    /// In which air and surface are known.
    pub known: f64,
    /// In which they are not.
    pub gaps: f64,
    /// In which the surface lay at or under the dew point.
    pub wet: f64,
    /// In which the surface's own RH was 80 % or more, the wet ones among them.
    pub mold: f64,
    /// Of the longest wet spell; a gap ends one.
    pub longest_wet: f64,
    /// Wet spells.
    pub wet_spells: usize,
    /// The smallest margin above the dew point, K, and its entry; `None` where no air had a dew point.
    pub worst: Option<(f64, usize)>,
    /// What the inside air held more than the outdoor air, on average over entries that know both: g/m³ and Pa.
    pub excess: Option<[f64; 2]>,
}

/// Reads a row of entries, each `step_h` hours long, the first at index 0.
///
/// # Formula
/// Wet: T_s ≤ T_dew, which is p_v ≥ p_sat(T_s) (over ice below 0 °C). Mold: p_v / p_sat(T_s) ≥ 0.8 (ISO 13788:2012) with
/// p_sat over the phase `over`. Moisture excess: Δv = v_i − v_e and Δp = p_i − p_e (ISO 13788:2012, annex A).
#[must_use]
pub fn log_hours(hours: impl IntoIterator<Item = LoggedHour>, step_h: f64, over: Over) -> HoursSaid {
    let mut said = HoursSaid::default();
    let (mut known, mut gaps, mut wet, mut mold) = (0_usize, 0_usize, 0_usize, 0_usize);
    let (mut spell, mut longest) = (0_usize, 0_usize);
    let (mut both, mut excess) = (0_usize, [0.0, 0.0]);
    for (at, hour) in hours.into_iter().enumerate() {
        if let (Some(inside), Some(outside)) = (&hour.inside, &hour.outside) {
            both += 1;
            excess[0] += 1000.0 * (inside.absolute_humidity() - outside.absolute_humidity());
            excess[1] += inside.vapor_pressure() - outside.vapor_pressure();
        }
        let (Some(air), Some(surface)) = (hour.inside, hour.surface) else {
            (gaps, spell) = (gaps + 1, 0);
            continue;
        };
        known += 1;
        let vapor = air.vapor_pressure();
        let share = vapor / saturation_pressure(surface);
        let is_wet = said.margin(at, surface, vapor, share);
        if is_wet {
            wet += 1;
            said.wet_spells += usize::from(spell == 0);
            spell += 1;
            longest = longest.max(spell);
        } else {
            spell = 0;
        }
        mold += usize::from(is_wet || 100.0 * vapor / saturation_pressure_over(surface, over) >= MOLD_RH);
    }
    let hours = |entries: usize| entries as f64 * step_h;
    HoursSaid {
        known: hours(known),
        gaps: hours(gaps),
        wet: hours(wet),
        mold: hours(mold),
        longest_wet: hours(longest),
        excess: (both > 0).then(|| excess.map(|sum| sum / both as f64)),
        ..said
    }
}

impl HoursSaid {
    /// Whether an entry is wet, its margin kept if it is the worst so far. `share` is the vapor's share of saturation at the
    /// surface.
    fn margin(&mut self, at: usize, surface: Temperature, vapor: f64, share: f64) -> bool {
        // A dew point takes longer than all else: it is asked for only where the margin could be the worst, or nothing.
        let log = -share.ln();
        let least = if log > 0.0 { log / SLOPES[1] } else { log / SLOPES[0] };
        let is_open = log.abs() < 1e-9;
        if !is_open && self.worst.is_some_and(|(worst, _)| least > worst) {
            return log < 0.0;
        }
        let Some(dew) = dew_point(vapor) else { return false };
        let margin = surface.get() - dew.get();
        if self.worst.is_none_or(|(worst, _)| margin < worst) {
            self.worst = Some((margin, at));
        }
        margin <= 0.0
    }
}

/// What opening up would do, hour by hour.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Ventilating {
    /// Liters carried out in each hour if open; negative wets. An hour that is not known carries nothing.
    pub removal_l: Vec<f64>,
    /// Windows in which each hour dries and wets no surface: first hour and the one after the last.
    pub open: Vec<[usize; 2]>,
    /// Liters carried out in all of them.
    pub open_l: f64,
    /// Liters carried out if open all the time.
    pub always_l: f64,
    /// The window that carries out most.
    pub best: Option<[usize; 2]>,
}

/// An hour in which one could open up.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct VentHour {
    /// Air of the space.
    pub inside: MoistAir,
    /// Outdoor air.
    pub outside: MoistAir,
    /// The coldest surface, which outdoor air must not wet; `None` where none is known.
    pub coldest: Option<Temperature>,
}

/// When outdoor air would dry a space: its hours, `None` where something is not known, and the flow when open.
///
/// # Formula
/// Each hour as [`removal`]: ṁ = Q / v_e · (W_i − W_e), 1 kg = 1 L; open where that is above 0 and the outdoor dew point is at
/// or under the coldest surface.
#[must_use]
pub fn vent_hours(hours: impl IntoIterator<Item = Option<VentHour>>, flow: AirFlow) -> Ventilating {
    let mut out = Ventilating::default();
    let mut best = 0.0;
    let mut window: Option<(usize, f64)> = None;
    let mut close = |out: &mut Ventilating, window: &mut Option<(usize, f64)>, end: usize| {
        let Some((first, liters)) = window.take() else { return };
        out.open.push([first, end]);
        out.open_l += liters;
        if liters > best {
            best = liters;
            out.best = Some([first, end]);
        }
    };
    for (at, hour) in hours.into_iter().enumerate() {
        let Some(VentHour { inside, outside, coldest }) = hour else {
            out.removal_l.push(0.0);
            close(&mut out, &mut window, at);
            continue;
        };
        let liters = removal(&inside, &outside, flow) / 24.0;
        out.removal_l.push(liters);
        out.always_l += liters;
        let wets = coldest.is_some_and(|c| outside.dew_point().is_some_and(|d| d > c));
        if liters > 0.0 && !wets {
            let (_, sum) = window.get_or_insert((at, 0.0));
            *sum += liters;
        } else {
            close(&mut out, &mut window, at);
        }
    }
    let end = out.removal_l.len();
    close(&mut out, &mut window, end);
    out
}
