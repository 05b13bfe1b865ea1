//! Whether something that happened changed what a space holds against outdoors.

use super::fit::{Line, line};
use hygrothermal::quantity::Measured;
use statrs::distribution::{ContinuousCDF, StudentsT};

/// Hours of a day, and how many of them must be known for it to count.
const DAY: usize = 24;
/// Fewest days on each side.
const FEWEST: usize = 3;

/// What an event changed.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Change {
    /// Moisture excess after it less that before it, Pa, at like weather, with its 95 % band.
    pub excess_pa: Measured,
    /// Days on each side.
    pub days: [usize; 2],
}

/// Compares the moisture excess of the days before an event with those after it. `hours` are vapor pressures inside and outdoors, Pa;
/// the event lies at an hour of them, and what happens within a day of it is its own course. `None` under three days on either side.
///
/// # Formula
/// Days' means of p_i − p_e, freed of how they follow p_e (the slope of [`line`] over all days); the difference of the two sides.
/// Band: standard error of each over n·(1 − ρ)/(1 + ρ) effective days, ρ the larger of the first autocorrelation of both sides' residuals and the root of the
/// second, each raised
/// by (1 + 4ρ)/n of a side for what short series hide of it (Kendall 1954, from memory), and Student's t on the effective days.
#[must_use]
pub fn change(inside: &[Option<f64>], outside: &[Option<f64>], at: usize) -> Option<Change> {
    let days = |from: usize, until: usize| -> Vec<Option<(f64, f64)>> {
        let both = inside.iter().zip(outside).skip(from).take(until.saturating_sub(from)).collect::<Vec<_>>();
        both.chunks(DAY)
            .map(|day| {
                let known: Vec<(f64, f64)> = day.iter().filter_map(|(i, e)| Some(((**e)?, (**i)? - (**e)?))).collect();
                let n = known.len() as f64;
                (2 * known.len() >= DAY)
                    .then(|| (known.iter().map(|k| k.0).sum::<f64>() / n, known.iter().map(|k| k.1).sum::<f64>() / n))
            })
            .collect()
    };
    let sides = [days(at % DAY, at), days(at + DAY, inside.len())];
    let counts = sides.each_ref().map(|s| s.iter().flatten().count());
    if counts.iter().any(|n| *n < FEWEST) {
        return None;
    }
    // How the excess follows the weather must not be taken for the event: each side about its own mean.
    let means = sides.each_ref().map(|s| mean(s));
    let about = |s: usize| sides[s].iter().map(move |d| d.map(|(x, y)| (x - means[s].0, y - means[s].1)));
    let centered: Vec<Option<(f64, f64)>> = about(0).chain([None]).chain(about(1)).collect();
    let slope = line(&centered).map_or(0.0, |Line { slope, .. }| slope.value);
    let spread_x = centered.iter().flatten().map(|(x, _)| x * x).sum::<f64>();
    let apart = means[1].0 - means[0].0;
    let left: Vec<Option<f64>> = centered.iter().map(|d| d.map(|(x, y)| y - slope * x)).collect();
    let n = (counts[0] + counts[1]) as f64;
    // Each side stands about its own mean: half the days hide twice as much.
    let raised = |raw: f64| raw + (1.0 + 4.0 * raw) / (n / 2.0);
    // What wanders slowly shows in the day after next more than the first step tells.
    let rho = raised(follows(&left, 1)).max(raised(follows(&left, 2)).max(0.0).sqrt()).clamp(0.0, 0.95);
    let variance = left.iter().flatten().map(|r| r * r).sum::<f64>() / (n - 3.0).max(1.0);
    let effective = counts.map(|n| (n as f64 * (1.0 - rho) / (1.0 + rho)).max(1.0));
    // The slope's own error moves the difference by as much as the two spans' weather lies apart.
    let by_weather = if spread_x > 0.0 { apart * apart * (1.0 + rho) / (1.0 - rho) / spread_x } else { 0.0 };
    let se = (variance * (1.0 / effective[0] + 1.0 / effective[1] + by_weather)).sqrt();
    let freedom = (effective[0] + effective[1] - 2.0).max(1.0);
    let t = StudentsT::new(0.0, 1.0, freedom).ok()?.inverse_cdf(0.975);
    let value = means[1].1 - means[0].1 - slope * apart;
    Some(Change { excess_pa: Measured { value, err: t * se }, days: counts })
}

/// How strongly a day's residual follows that of so many days before.
fn follows(left: &[Option<f64>], days: usize) -> f64 {
    let pairs = left.iter().zip(left.iter().skip(days)).filter_map(|(a, b)| Some(((*a)?, (*b)?)));
    let (xy, xx) = pairs.fold((0.0, 0.0), |(xy, xx), (a, b)| (xy + a * b, xx + a * a));
    if xx > 0.0 { xy / xx } else { 0.0 }
}

fn mean(days: &[Option<(f64, f64)>]) -> (f64, f64) {
    let known = || days.iter().flatten();
    let n = known().count().max(1) as f64;
    (known().map(|d| d.0).sum::<f64>() / n, known().map(|d| d.1).sum::<f64>() / n)
}
