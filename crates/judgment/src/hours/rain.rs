//! Whether wetness follows rain, and how many hours later.

/// Hours of rain that count together: the two days before.
const BEFORE: usize = 48;
/// Longest time it may take the rain to show, hours.
const LONGEST_LAG: usize = 72;
/// Hours from one value to the next, so that no hour of rain counts in two of them.
const APART: usize = 48;
/// Least rain in all, mm: under it there is nothing to follow (ours).
const LEAST_RAIN: f64 = 5.0;
/// Fewest pairs that a correlation is told from (ours).
const FEWEST: usize = 5;
/// Wetness follows rain a little from here on, and clearly from here on: the limits of the table.
const LIMITS: [f64; 2] = [0.15, 0.5];

/// How wetness follows rain.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct AfterRain {
    /// The correlation, as far as so few values allow to tell it, −1 to 1.
    pub correlation: f64,
    /// How many hours after the rain it is wettest; `None` where it does not follow.
    pub lag_h: Option<usize>,
}

/// How something that gets wetter follows rain, both by the hour: rain in mm, an hour without a reading `None`. `None` where it hardly
/// rained or the log is too short to tell.
///
/// # Formula
/// Pearson's r of means over a day with the rain of the 48 h before its end, taken every 48 h, told by [`told`]; lag of 0–72 h by the
/// largest r of all hours with the rain of the day before so much earlier.
#[must_use]
pub fn after_rain(rain: &[Option<f64>], wet: &[Option<f64>]) -> Option<AfterRain> {
    if rain.iter().flatten().sum::<f64>() < LEAST_RAIN {
        return None;
    }
    let ends = (BEFORE..=rain.len().min(wet.len())).step_by(APART);
    let pairs: Vec<(f64, f64)> =
        ends.filter_map(|end| Some((sum(rain, end, BEFORE)?, mean(wet.get(end - 24..end)?)?))).collect();
    let correlation = told(&pairs)?;
    let lag_h = (correlation >= LIMITS[0]).then(|| lag(rain, wet)).flatten();
    Some(AfterRain { correlation, lag_h })
}

fn lag(rain: &[Option<f64>], wet: &[Option<f64>]) -> Option<usize> {
    let at = |lag: usize| {
        let pairs: Vec<(f64, f64)> = (24 + lag..wet.len())
            .step_by(3)
            .filter_map(|h| Some((sum(rain, h - lag, 24)?, wet.get(h).copied().flatten()?)))
            .collect();
        (pairs.len() >= 24).then(|| pearson(&pairs)).flatten()
    };
    let all = (0..=LONGEST_LAG).step_by(3).filter_map(|lag| Some((lag, at(lag)?)));
    all.max_by(|a, b| a.1.total_cmp(&b.1)).map(|(lag, _)| lag)
}

/// Rain of so many hours before an hour; `None` where the gauge was silent for most of them.
fn sum(rain: &[Option<f64>], end: usize, hours: usize) -> Option<f64> {
    let span = rain.get(end.checked_sub(hours)?..end)?;
    let known = span.iter().flatten().count();
    (2 * known >= hours).then(|| span.iter().flatten().sum())
}

fn mean(span: &[Option<f64>]) -> Option<f64> {
    let known = span.iter().flatten().count();
    (2 * known >= span.len()).then(|| span.iter().flatten().sum::<f64>() / known as f64)
}

/// What can be told of pairs of rain and reading: the correlation one standard error nearer none, where that still says
/// that wetness follows rain; as it is, where even one standard error more would not say so clearly; else nothing.
///
/// # Formula
/// Pearson’s r; standard error 1/√(n − 3) of artanh r (R. A. Fisher, 1921, from memory).
pub(crate) fn told(pairs: &[(f64, f64)]) -> Option<f64> {
    let n = pairs.len();
    if n < FEWEST {
        return None;
    }
    let r = pearson(pairs)?;
    let (z, error) = (r.clamp(-0.999, 0.999).atanh(), 1.0 / (n as f64 - 3.0).sqrt());
    let (low, high) = ((z - error).tanh(), (z + error).tanh());
    if low >= LIMITS[0] { Some(low) } else { (high < LIMITS[1]).then_some(r) }
}

/// Pearson's correlation; a reading that never moves follows nothing, and rain that never changes tells nothing.
fn pearson(pairs: &[(f64, f64)]) -> Option<f64> {
    let n = pairs.len() as f64;
    let (mx, my) = pairs.iter().fold((0.0, 0.0), |(x, y), p| (x + p.0 / n, y + p.1 / n));
    let (xx, yy, xy) = pairs.iter().fold((0.0, 0.0, 0.0), |(xx, yy, xy), p| {
        let (dx, dy) = (p.0 - mx, p.1 - my);
        (xx + dx * dx, yy + dy * dy, xy + dx * dy)
    });
    (xx > 0.0).then(|| if yy > 0.0 { xy / (xx * yy).sqrt() } else { 0.0 })
}
