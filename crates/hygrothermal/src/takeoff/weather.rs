//! When the weather allows coating and sealing outdoors.

use crate::quantity::Temperature;

/// An hour of a forecast.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct CoatingHour {
    /// Relative humidity of the air, %.
    pub rh: f64,
    /// Dew point of the air; `None` of air without any water, which wets nothing.
    pub dew: Option<Temperature>,
    /// Rain, mm.
    pub rain: f64,
    /// Temperature of the surface, °C.
    pub surface: f64,
}

/// What a product and its work ask for.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct CoatingLimits {
    /// Least and highest temperature of the surface while it is worked on, °C; the least also while it cures.
    pub surface: [f64; 2],
    /// Highest relative humidity while it is worked on, %.
    pub rh: f64,
    /// Least distance of the surface above the dew point while it is worked on, K.
    pub above_dew: f64,
    /// Hours without rain before, hours of work, hours without rain after.
    pub hours: [usize; 3],
}

impl Default for CoatingLimits {
    /// Common practice: 10 to 35 °C, under 85 %, 3 K above the dew point, dry for a day on both sides of four hours of work.
    fn default() -> Self {
        Self { surface: [10.0, 35.0], rh: 85.0, above_dew: 3.0, hours: [24, 4, 24] }
    }
}

/// Why a start does not stand.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum WhyNot {
    /// It rains before, during or after.
    Rain,
    /// The surface is too cold to work on.
    Cold,
    /// It is too hot.
    Hot,
    /// The air is too humid.
    Humid,
    /// The surface is too near the dew point.
    NearDew,
    /// It gets too cold while it cures.
    ColdAfter,
}

impl WhyNot {
    /// All of them, in the order they are told.
    pub const ALL: [Self; 6] = [Self::Rain, Self::Cold, Self::Hot, Self::Humid, Self::NearDew, Self::ColdAfter];
}

/// When one could begin.
#[derive(Debug, Clone, PartialEq)]
pub struct CoatingWindow {
    /// First hours of work, by their index.
    pub starts: Vec<usize>,
    /// The longest run of consecutive starts, the first of equals: its first and how many.
    pub longest: Option<[usize; 2]>,
    /// Candidate starts each reason ruled out, in the order of [`WhyNot::ALL`]; a start may count under several.
    pub why_not: [usize; 6],
    /// Reasons of each candidate start, from the first candidate on, as bits in the order of [`WhyNot::ALL`].
    pub each: Vec<u8>,
    /// The first candidate.
    pub first: usize,
}

/// How often something holds up to each hour.
fn running(hours: &[CoatingHour], holds: impl Fn(&CoatingHour) -> bool) -> Vec<usize> {
    let sums = hours.iter().scan(0, |sum, h| {
        *sum += usize::from(holds(h));
        Some(*sum)
    });
    [0].into_iter().chain(sums).collect()
}

/// Looks at every start for which the whole time lies within the hours.
///
/// # Rule
/// No rain from the dry hours before to those after; while working the surface within its limits, the air under its humidity and the
/// surface above the dew point by the margin; afterwards never under the least temperature. Common practice; a product's own sheet
/// replaces the defaults.
#[must_use]
pub fn coating_window(hours: &[CoatingHour], limits: &CoatingLimits) -> CoatingWindow {
    let [before, work, after] = limits.hours;
    let [min, max] = limits.surface;
    let near = |h: &CoatingHour| h.dew.is_some_and(|dew| h.surface < dew.get() + limits.above_dew);
    let cold = running(hours, |h| h.surface < min);
    let [rain, hot, humid, near] = [
        running(hours, |h| h.rain > 0.0),
        running(hours, |h| h.surface > max),
        running(hours, |h| h.rh > limits.rh),
        running(hours, near),
    ];
    let within = |sums: &[usize], from: usize, until: usize| sums[until] > sums[from];
    let mut window =
        CoatingWindow { starts: Vec::new(), longest: None, why_not: [0; 6], each: Vec::new(), first: before };
    let mut run = [0, 0];
    let whole = work.saturating_add(after);
    let candidates = hours.len().checked_sub(whole).map_or(0..0, |last| before..last + 1);
    for start in candidates {
        let done = start + work;
        let not = [
            within(&rain, start - before, done + after),
            within(&cold, start, done),
            within(&hot, start, done),
            within(&humid, start, done),
            within(&near, start, done),
            within(&cold, done, done + after),
        ];
        for (count, not) in window.why_not.iter_mut().zip(not) {
            *count += usize::from(not);
        }
        window.each.push(not.iter().enumerate().map(|(i, not)| u8::from(*not) << i).sum());
        if not.contains(&true) {
            continue;
        }
        run =
            if window.starts.last().is_some_and(|last| last + 1 == start) { [run[0], run[1] + 1] } else { [start, 1] };
        window.starts.push(start);
        if window.longest.is_none_or(|[_, most]| run[1] > most) {
            window.longest = Some(run);
        }
    }
    window
}
