//! Air changes, from how fast moisture that was set free leaves again.

use hygrothermal::quantity::Measured;
use statrs::distribution::{ContinuousCDF, StudentsT};

/// Least excess a decay begins with, g/m³: under it an instrument's own error makes the curve (ours).
const LEAST_START: f64 = 1.0;
/// A decay is followed down to this part of where it began: what comes after is what the space holds anyway (ours).
const DOWN_TO: f64 = 0.25;
/// A decay that does not come down to this part of where it began is none (ours).
const COMES_TO: f64 = 0.6;
/// Fewest values of a decay.
const FEWEST: usize = 3;
/// A decay follows a rise by this part of where it begins, within so many hours: without a source that stopped there is none (ours).
const ROSE_BY: f64 = 0.3;
const ROSE_IN: f64 = 6.0;
/// Of what the excess falls by, the part that outdoors may change by meanwhile (ours).
const OUTDOORS: f64 = 0.2;

/// Air changes of a space.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct AirChanges {
    /// Air changes an hour, with their 95 % band.
    pub per_h: Measured,
    /// From how many decays.
    pub decays: usize,
}

/// A decay: its rate and the standard error of it, 1/h, from so many values.
#[derive(Debug, Clone, Copy)]
struct Decay {
    rate: f64,
    err: f64,
    values: usize,
}

/// Air changes an hour of a space from the water vapor inside and outdoors, g/m³, in steps of `step_h` hours: wherever the excess Δv
/// falls after a source stopped, ln(Δv) falls by the air changes of each hour. It holds while doors and fans stay as they are and nothing else gives off or
/// takes up water; wood and plaster do, so that it is rather too high. `None` where no decay is told.
///
/// # Formula
/// Least squares of ln Δv on time over each decay of three values or more (tracer decay as in ASTM E741, from memory); decays together
/// by the inverse of their variances and of what they differ by (`DerSimonian` and Laird 1986, from memory), band by Student's t.
#[must_use]
pub fn air_changes(inside: &[Option<f64>], outside: &[Option<f64>], step_h: f64) -> Option<AirChanges> {
    let excess: Vec<Option<f64>> = inside.iter().zip(outside).map(|(i, e)| Some((*i)? - (*e)?)).collect();
    let before = (ROSE_IN / step_h) as usize;
    let mut decays: Vec<Decay> = Vec::new();
    let mut from = 0;
    while from < excess.len() {
        let run = falling(&excess[from..]);
        let least = excess[from.saturating_sub(before)..=from].iter().flatten().copied().fold(f64::INFINITY, f64::min);
        let rose = run.first().is_some_and(|first| first - least >= ROSE_BY * first);
        let last = (from + run.len()).saturating_sub(1);
        let outdoors = outside.get(from).copied().flatten().zip(outside.get(last).copied().flatten());
        let by_outdoors = outdoors.map_or(f64::INFINITY, |(a, b)| (a - b).abs());
        let fell = run.first().zip(run.last()).map_or(0.0, |(a, b)| a - b);
        if rose && by_outdoors <= OUTDOORS * fell {
            decays.extend(fit(&run, step_h));
        }
        from += run.len().max(1);
    }
    together(&decays)
}

/// Values from here on that fall each.
fn falling(excess: &[Option<f64>]) -> Vec<f64> {
    let mut run: Vec<f64> = Vec::new();
    for x in excess {
        match (x, run.last()) {
            (Some(x), None) => run.push(*x),
            (Some(x), Some(before)) if x < before && *x >= DOWN_TO * run[0] => run.push(*x),
            _ => break,
        }
    }
    run
}

fn fit(run: &[f64], step_h: f64) -> Option<Decay> {
    // The first value is a mean over the step in which the source stopped.
    let run = run.get(1..)?;
    let (first, last) = (*run.first()?, *run.last()?);
    if run.len() < FEWEST || first < LEAST_START || last > COMES_TO * first || last <= 0.0 {
        return None;
    }
    let n = run.len() as f64;
    let points = || run.iter().enumerate().map(|(i, v)| (i as f64 * step_h, v.ln()));
    let (mt, my) = points().fold((0.0, 0.0), |(t, y), p| (t + p.0 / n, y + p.1 / n));
    let (tt, ty) = points().fold((0.0, 0.0), |(a, b), (t, y)| (a + (t - mt).powi(2), b + (t - mt) * (y - my)));
    let slope = ty / tt;
    let left: f64 = points().map(|(t, y)| (y - my - slope * (t - mt)).powi(2)).sum();
    Some(Decay { rate: -slope, err: (left / (n - 2.0) / tt).sqrt(), values: run.len() })
}

fn together(decays: &[Decay]) -> Option<AirChanges> {
    let k = decays.len() as f64;
    // A decay that lies on a line by chance is not known the better for it.
    let least = 0.02;
    let variance = |d: &Decay| d.err.max(least * d.rate).powi(2);
    let mean = |between: f64| {
        let weight = |d: &Decay| 1.0 / (variance(d) + between);
        let all: f64 = decays.iter().map(weight).sum();
        (decays.iter().map(|d| weight(d) * d.rate).sum::<f64>() / all, all)
    };
    if decays.is_empty() {
        return None;
    }
    let (fixed, weights) = mean(0.0);
    let q: f64 = decays.iter().map(|d| (d.rate - fixed).powi(2) / variance(d)).sum();
    let squares: f64 = decays.iter().map(|d| variance(d).powi(-2)).sum();
    let between = if decays.len() < 2 { 0.0 } else { ((q - (k - 1.0)) / (weights - squares / weights)).max(0.0) };
    let (value, weights) = mean(between);
    let freedom = if decays.len() < 2 { decays[0].values as f64 - 2.0 } else { k - 1.0 };
    let t = StudentsT::new(0.0, 1.0, freedom).ok()?.inverse_cdf(0.975);
    Some(AirChanges { per_h: Measured { value, err: t / weights.sqrt() }, decays: decays.len() })
}
