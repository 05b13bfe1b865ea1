//! What is wrong with a logger, by what it wrote: flagged, never taken out.

use std::f64::consts::TAU;

/// An hour of a sensor, as read.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Heard {
    /// Mean.
    pub mean: f64,
    /// Lowest.
    pub low: f64,
    /// Highest.
    pub high: f64,
}

/// What is wrong, with the hour it begins in and how many it lasts.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Fault {
    /// Nothing was written.
    Silent {
        /// First hour.
        from: usize,
        /// Hours.
        hours: usize,
    },
    /// The same figure over and over, while others moved.
    Stuck {
        /// First hour.
        from: usize,
        /// Hours.
        hours: usize,
        /// The figure.
        at: f64,
    },
    /// A figure no instrument of its kind can show.
    Impossible {
        /// First hour.
        from: usize,
        /// The figure.
        at: f64,
    },
    /// A leap up and back within an hour or two that nothing else made.
    Spike {
        /// Its hour.
        from: usize,
        /// The figure.
        at: f64,
    },
    /// Relative humidity at 100 % for a day or more: wet itself, or worn out.
    Saturated {
        /// First hour.
        from: usize,
        /// Hours.
        hours: usize,
    },
    /// From then on it reads what another read before, and that one what it read.
    Exchanged {
        /// First hour.
        from: usize,
    },
    /// Its day runs ahead of or behind the outdoor one, as it would with a clock set wrong.
    Clock {
        /// Hours behind; negative where it runs ahead.
        late_h: f64,
    },
}

impl Fault {
    /// The hour it begins in.
    #[must_use]
    pub const fn from(self) -> usize {
        match self {
            Self::Silent { from, .. }
            | Self::Stuck { from, .. }
            | Self::Impossible { from, .. }
            | Self::Spike { from, .. }
            | Self::Saturated { from, .. }
            | Self::Exchanged { from } => from,
            Self::Clock { .. } => 0,
        }
    }
}

/// Hours of silence that are flagged (ours).
const SILENT: usize = 2;
/// Hours at one figure while others move (common practice).
const STUCK: usize = 6;
/// How far others have moved meanwhile, K or %.
const MOVED: f64 = 0.5;
/// Hours at saturation.
const SATURATED: usize = 24;
/// Hours beyond what mass makes of a day that are still believed: layers of it, sun, shade (ours).
const ROOM: f64 = 3.0;
/// Hours a day in a building may run ahead of that outdoors: morning sun (ours).
const AHEAD: f64 = 2.0;

/// The longest runs of hours that `holds` for, at least `least` long: first hour and how many.
fn runs(length: usize, least: usize, holds: impl Fn(usize) -> bool) -> Vec<(usize, usize)> {
    let mut out = Vec::new();
    let mut start = None;
    for i in 0..=length {
        match (i < length && holds(i), start) {
            (true, None) => start = Some(i),
            (false, Some(from)) => {
                if i - from >= least {
                    out.push((from, i - from));
                }
                start = None;
            }
            _ => {}
        }
    }
    out
}

/// What is wrong with the hours of one figure of a sensor. `others` are the same hours of other sensors of the kind; `range` is what
/// an instrument can show.
#[must_use]
pub fn faults(own: &[Option<Heard>], others: &[&[Option<Heard>]], range: [f64; 2]) -> Vec<Fault> {
    let Some(first) = own.iter().position(Option::is_some) else { return Vec::new() };
    let last = own.iter().rposition(Option::is_some).unwrap_or(first);
    let own = &own[..=last];
    let silent = runs(own.len(), SILENT, |i| i > first && own[i].is_none()).into_iter();
    let silent = silent.map(|(from, hours)| Fault::Silent { from, hours });
    let out = |h: &Heard| h.low < range[0] || h.high > range[1];
    let impossible = own.iter().enumerate().filter_map(|(i, h)| h.as_ref().filter(|h| out(h)).map(|h| (i, h))).take(1);
    let impossible =
        impossible.map(|(from, h)| Fault::Impossible { from, at: if h.low < range[0] { h.low } else { h.high } });
    let same = |i: usize| {
        let one = |h: &Heard| h.low == h.high;
        match (i.checked_sub(1).and_then(|j| own[j]), own[i]) {
            (Some(before), Some(now)) => one(&before) && one(&now) && before.mean == now.mean,
            _ => false,
        }
    };
    let stuck = runs(own.len(), STUCK, same).into_iter().filter(|(from, hours)| moved(others, *from, *hours));
    let stuck = stuck.map(|(from, hours)| Fault::Stuck { from, hours, at: own[from].map_or(0.0, |h| h.mean) });
    let full = |i: usize| range == RH && own[i].is_some_and(|h| h.low >= 99.5);
    let saturated = runs(own.len(), SATURATED, full).into_iter().map(|(from, hours)| Fault::Saturated { from, hours });
    silent.chain(impossible).chain(stuck).chain(saturated).chain(spikes(own)).collect()
}

/// What a hygrometer can show, %.
pub const RH: [f64; 2] = [0.0, 105.0];
/// What a thermometer of a building can show, °C.
pub const AIR: [f64; 2] = [-50.0, 85.0];

/// Whether any other sensor moved in some hours.
fn moved(others: &[&[Option<Heard>]], from: usize, hours: usize) -> bool {
    others.iter().any(|row| {
        let there = || row.iter().skip(from).take(hours).flatten();
        let low = there().map(|h| h.low).fold(f64::INFINITY, f64::min);
        let high = there().map(|h| h.high).fold(f64::NEG_INFINITY, f64::max);
        high - low > MOVED
    })
}

/// Leaps within an hour that are many times what its hours usually span, and gone in the next.
fn spikes(own: &[Option<Heard>]) -> Vec<Fault> {
    let mut spans: Vec<f64> = own.iter().flatten().map(|h| h.high - h.low).collect();
    spans.sort_by(f64::total_cmp);
    let usual = spans.get(spans.len() / 2).copied().unwrap_or(0.0).max(0.3);
    let leap = |i: usize| {
        let (before, now, after) = (own.get(i.checked_sub(1)?)?.as_ref()?, own[i].as_ref()?, own.get(i + 1)?.as_ref()?);
        let (top, bottom) = (before.high.max(after.high), before.low.min(after.low));
        let room = 10.0 * usual;
        let at = if now.high > top + room {
            now.high
        } else if now.low < bottom - room {
            now.low
        } else {
            return None;
        };
        Some(Fault::Spike { from: i, at })
    };
    (0..own.len()).filter_map(leap).take(20).collect()
}

/// The day of a sensor against that outdoors.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct DailyWave {
    /// By how many hours it lags.
    pub late_h: f64,
    /// How large it is, of that outdoors.
    pub share: f64,
}

/// The day of a sensor against that outdoors, from the daily wave of both; `None` under five days, or where either hardly has one.
///
/// # Formula
/// Phase of the first harmonic of 24 h, Σ x(t)·e^(−2πit/24), of each; the difference of the two, as hours.
#[must_use]
pub fn daily_wave(own: &[Option<f64>], outdoors: &[Option<f64>]) -> Option<DailyWave> {
    let both: Vec<(usize, f64, f64)> =
        own.iter().zip(outdoors).enumerate().filter_map(|(i, (a, b))| Some((i, (*a)?, (*b)?))).collect();
    if both.len() < 120 {
        return None;
    }
    let n = both.len() as f64;
    let wave = |of: fn(&(usize, f64, f64)) -> f64| {
        let mean = both.iter().map(of).sum::<f64>() / n;
        let (mut re, mut im) = (0.0, 0.0);
        for one in &both {
            let angle = TAU * one.0 as f64 / 24.0;
            re += (of(one) - mean) * angle.cos();
            im += (of(one) - mean) * angle.sin();
        }
        (im.atan2(re), 2.0 * re.hypot(im) / n)
    };
    let ((own_phase, own_size), (out_phase, out_size)) = (wave(|x| x.1), wave(|x| x.2));
    if own_size < 0.1 || out_size < 0.8 {
        return None;
    }
    let hours = (own_phase - out_phase) * 24.0 / TAU;
    // From half a day ahead to half a day behind, what lies between leaning toward a lag.
    Some(DailyWave { late_h: (hours + 6.0).rem_euclid(24.0) - 6.0, share: own_size / out_size })
}

/// Whether a lag is one that no building makes.
///
/// # Formula
/// A mass that takes up a wave passes on cos φ of it, φ late (a system of the first order): whatever keeps a share A of the day
/// lags at most 24/2π · acos A.
#[must_use]
pub fn clock(wave: DailyWave) -> Option<Fault> {
    let most = 24.0 / TAU * wave.share.clamp(0.0, 1.0).acos() + ROOM;
    (!(-AHEAD..=most).contains(&wave.late_h)).then_some(Fault::Clock { late_h: wave.late_h })
}
