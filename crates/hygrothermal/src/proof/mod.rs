//! Whether a fix worked or the weather did: moisture excess before and after, at like weather, with its doubt.
//!
//! Days' means follow one another: a humid spell lasts days, so that fourteen of them say as much as five that knew nothing of each
//! other. How much they do so is not known beforehand; it is integrated out instead of guessed.

mod fit;
mod mixture;
mod paired;

pub use paired::{Paired, paired};

use fit::Posterior;

/// Fewest days on a side.
pub const FEWEST: usize = 5;
/// Least share of days whose outdoor state the other side knows too.
pub const LEAST_OVERLAP: f64 = 0.5;
/// Days' outdoor temperatures are alike within this, K, and vapor pressures within this share.
const ALIKE: (f64, f64) = (2.0, 0.1);

/// A day's means.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ProofDay {
    /// Number of the day: the difference of two is how far they lie apart.
    pub at: i64,
    /// Moisture excess, inside over outside, Pa; or whatever else is compared.
    pub excess: f64,
    /// Outdoor temperature, °C.
    pub outdoor_t: f64,
    /// Outdoor vapor pressure, Pa.
    pub outdoor_p: f64,
}

/// What two spans say.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Verdict {
    /// Less than before, beyond doubt.
    Improved,
    /// More than before, beyond doubt.
    Worse,
    /// Any change is smaller than what was asked for.
    NoChange,
    /// None of these.
    CantTell,
}

/// Why nothing can be told.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Reason {
    /// Under five days on a side.
    TooFewDays,
    /// The outdoor states of the two spans overlap in less than half.
    SeasonsDoNotOverlap,
    /// The band holds both a change worth naming and none.
    BandTooWide,
}

/// Two spans compared.
#[derive(Debug, Clone, PartialEq)]
pub struct Proof {
    /// After less before at like weather, Pa, and its 95 % band; `None` where too few days stand on a side.
    pub change: Option<Change>,
    /// What it amounts to.
    pub verdict: Verdict,
    /// Why nothing can be told; empty otherwise.
    pub reasons: Vec<Reason>,
    /// The smaller share of days whose outdoor state lies within the other span's.
    pub overlap: f64,
}

/// A change with its doubt.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Change {
    /// After less before, Pa.
    pub value: f64,
    /// Lower end of the 95 % band.
    pub low: f64,
    /// Upper end.
    pub high: f64,
    /// So many days that know nothing of one another would say as much, before and after.
    pub effective_days: [f64; 2],
    /// The smallest change that would be found in four of five cases.
    pub detectable: f64,
    /// How the excess follows the outdoor temperature (per K) and vapor pressure (per Pa), where the days tell.
    pub slopes: [f64; 2],
    /// The excess at the mean outdoor state of both spans, before.
    pub level: f64,
    /// That state: °C and Pa.
    pub at: [f64; 2],
}

/// Compares two spans of days, each in order. `least` is the smallest change worth naming, Pa.
///
/// # Method
/// y = a + b·after + c·T_e + d·p_e + e with e autoregressive of the first order within each span (across a gap of g days the
/// correlation is ρ^g) and independent between them. Given ρ, generalized least squares give b as Student's t; ρ is integrated out
/// over its restricted likelihood (Harville 1974) with a prior that leans to long memory, so that short series do not hide it.
/// The band holds the middle 95 % of what is left.
#[must_use]
pub fn proof(before: &[ProofDay], after: &[ProofDay], least: f64) -> Proof {
    let overlap = overlap(before, after);
    let few = before.len().min(after.len()) < FEWEST;
    let change = if few { None } else { Posterior::of(before, after).map(|p| p.change(before, after)) };
    let mut reasons = Vec::new();
    let Some(found) = change else {
        return Proof { change: None, verdict: Verdict::CantTell, reasons: vec![Reason::TooFewDays], overlap };
    };
    if overlap < LEAST_OVERLAP {
        reasons.push(Reason::SeasonsDoNotOverlap);
    }
    let verdict = match () {
        () if !reasons.is_empty() => Verdict::CantTell,
        () if found.high < 0.0 => Verdict::Improved,
        () if found.low > 0.0 => Verdict::Worse,
        () if found.low >= -least && found.high <= least => Verdict::NoChange,
        () => Verdict::CantTell,
    };
    if verdict == Verdict::CantTell && reasons.is_empty() {
        reasons.push(Reason::BandTooWide);
    }
    Proof { change, verdict, reasons, overlap }
}

/// The smaller share of days whose outdoor state lies within the other span's range, ± 2 K and ± 10 %; 0 where a span is empty.
fn overlap(before: &[ProofDay], after: &[ProofDay]) -> f64 {
    let range = |days: &[ProofDay], of: fn(&ProofDay) -> f64| {
        days.iter().map(of).fold((f64::INFINITY, f64::NEG_INFINITY), |(l, h), x| (l.min(x), h.max(x)))
    };
    let share = |days: &[ProofDay], of: &[ProofDay]| {
        let (t, p) = (range(of, |d| d.outdoor_t), range(of, |d| d.outdoor_p));
        let alike = |d: &&ProofDay| {
            (t.0 - ALIKE.0..=t.1 + ALIKE.0).contains(&d.outdoor_t)
                && (p.0 * (1.0 - ALIKE.1)..=p.1 * (1.0 + ALIKE.1)).contains(&d.outdoor_p)
        };
        days.iter().filter(alike).count() as f64 / days.len().max(1) as f64
    };
    share(before, after).min(share(after, before))
}
