//! What each piece of evidence weighs in a case: the table's weights, read through what is known beside it.

use super::case::Case;
use super::table::{Doubt, Evidence, Figure, Outcome, When, doubts};
use statrs::function::erf::erf;
use std::f64::consts::SQRT_2;

/// Of several that say the same the strongest leads, the others add hardly anything: the power of the mean (ours).
const ALIKE: i32 = 4;
/// The group of what says that outdoor air is wet.
const OUTDOOR_AIR: &str = "outdoor_air";
/// Part of its weight the season's air keeps beside a known event: after a flood the air is wet whatever the season (ours).
const BESIDE_EVENT: f64 = 0.35;
/// How often what is seen, tested or read is simply mistaken (ours): no single piece can settle everything.
const MISTAKEN: f64 = 0.05;
/// Findings that are a known event.
const EVENTS: [&str; 2] = ["flood_event", "pipe_burst_event"];
/// Relative humidity under which a machine has nothing to take out, and from which on it is judged in full, %: what
/// household machines are set to (common practice).
const NOTHING_TO_TAKE: [f64; 2] = [45.0, 55.0];
/// How far a season reaches into the next, °C of outdoor air, one standard deviation (ours).
const SEASON_ERR: f64 = 2.5;
/// A figure never weighs as if it were exact.
const LEAST_ERR: f64 = 1e-6;

/// A piece of evidence in a case.
#[derive(Debug, Clone)]
pub struct Weighed {
    /// The evidence.
    pub evidence: &'static Evidence,
    /// How it turned out.
    pub outcome: &'static Outcome,
    /// Its weight for each cause, in the order of the table.
    pub weights: Vec<f64>,
}

/// Everything known of a case with what it weighs there.
pub fn weigh(case: &Case) -> Vec<Weighed> {
    let mut all: Vec<Weighed> =
        case.pieces().map(|(e, o, read)| Weighed { evidence: e, outcome: o, weights: own(e, o, read) }).collect();
    let event = EVENTS.iter().any(|id| case.has(id)) || case.word_of("trouble_when") == Some("after_event");
    for w in &mut all {
        w.weights.iter_mut().for_each(|x| *x = ((1.0 - MISTAKEN) * x.exp() + MISTAKEN).ln());
        let kept: f64 = doubts_of(case, &w.evidence.id).map(|d| d.keeps).product();
        let quiet = if event && w.evidence.group.as_deref() == Some(OUTDOOR_AIR) { BESIDE_EVENT } else { 1.0 };
        w.weights.iter_mut().for_each(|x| *x *= kept * quiet);
        if w.evidence.in_humid_air {
            let humid = humidity(case);
            w.weights.iter_mut().filter(|x| **x > 0.0).for_each(|x| *x *= humid);
        }
    }
    join_groups(&mut all);
    all
}

/// Doubts a case raises on a piece of evidence.
pub fn doubts_of<'a>(case: &'a Case, id: &'a str) -> impl Iterator<Item = &'static Doubt> + 'a {
    raised(case).filter(move |d| d.concerns.iter().any(|c| c == id))
}

/// Doubts a case raises on something read.
pub fn raised(case: &Case) -> impl Iterator<Item = &'static Doubt> + '_ {
    doubts().iter().filter(|d| d.findings.iter().any(|f| case.has(f)) && d.concerns.iter().any(|c| case.knows(c)))
}

/// How far a machine can be judged by what it collects in this air: 0 where there is nothing to take out, 1 where there is.
fn humidity(case: &Case) -> f64 {
    let [none, full] = NOTHING_TO_TAKE;
    case.figure_of("air_rh_pct").map_or(1.0, |rh| ((rh - none) / (full - none)).clamp(0.0, 1.0))
}

fn own(e: &Evidence, o: &Outcome, read: Option<(f64, Option<f64>)>) -> Vec<f64> {
    match (read, e.figure) {
        (Some((x, err)), Some(figure)) => of_figure(e, figure, x, err.unwrap_or(figure.err).max(LEAST_ERR)),
        (Some((outdoor_c, _)), None) if e.id == "season" => mixed(e, &season_parts(e, outdoor_c)),
        _ => o.weights.clone(),
    }
}

/// A figure read as what it may be: each band by how likely it is that the figure lies there. Continuous, and monotone where
/// the bands are. Where the sign decides, only bands of its side count, and the less the nearer it is to nothing.
fn of_figure(e: &Evidence, figure: Figure, x: f64, err: f64) -> Vec<f64> {
    let mut low = f64::NEG_INFINITY;
    let mut parts = Vec::new();
    for (k, o) in e.outcomes.iter().enumerate() {
        let When::Under(high) = o.when else { continue };
        let (mut from, mut to) = (low, high);
        if figure.signed {
            (from, to) = if x < 0.0 { (from.min(0.0), to.min(0.0)) } else { (from.max(0.0), to.max(0.0)) };
        }
        parts.push((k, normal((to - x) / err) - normal((from - x) / err)));
        low = high;
    }
    let near = if figure.signed { (x.abs() / err).min(1.0) } else { 1.0 };
    mixed(e, &parts).into_iter().map(|w| w * near).collect()
}

/// Seasons by outdoor air, each with its probability.
fn season_parts(e: &Evidence, outdoor_c: f64) -> Vec<(usize, f64)> {
    let [winter, summer] = super::facts::SEASONS;
    let cold = normal((winter - outdoor_c) / SEASON_ERR);
    let warm = normal((outdoor_c - summer) / SEASON_ERR);
    let part = |o: &Outcome| match &o.when {
        When::Is(w) if w == "winter" => cold,
        When::Is(w) if w == "summer" => warm,
        _ => 1.0 - cold - warm,
    };
    e.outcomes.iter().map(part).enumerate().collect()
}

/// Weights of an outcome that is one of several, each with its probability: the logarithm of the expected likelihood.
fn mixed(e: &Evidence, parts: &[(usize, f64)]) -> Vec<f64> {
    let sum: f64 = parts.iter().map(|(_, p)| p).sum();
    let causes = e.outcomes.first().map_or(0, |o| o.weights.len());
    let likelihood = |i: usize| parts.iter().map(|(k, p)| p * e.outcomes[*k].weights[i].exp()).sum::<f64>() / sum;
    (0..causes).map(|i| if sum > 0.0 { likelihood(i).ln() } else { 0.0 }).collect()
}

/// Share of a normal distribution below so many standard deviations.
fn normal(z: f64) -> f64 {
    f64::midpoint(1.0, erf(z / SQRT_2))
}

/// What says the same counts once: for each cause, what speaks for it and what speaks against it each become hardly more than
/// the strongest of its kind, told of each in its part.
fn join_groups(all: &mut [Weighed]) {
    let groups: Vec<&str> = all.iter().filter_map(|w| w.evidence.group.as_deref()).collect();
    let causes = all.first().map_or(0, |w| w.weights.len());
    for group in groups.iter().enumerate().filter(|(i, g)| !groups[..*i].contains(g)).map(|(_, g)| *g) {
        for cause in 0..causes {
            for sign in [1.0, -1.0] {
                let one = |w: &Weighed| {
                    let of = w.evidence.group.as_deref() == Some(group);
                    if of { (w.weights[cause] * sign).max(0.0) } else { 0.0 }
                };
                let powers: f64 = all.iter().map(|w| one(w).powi(ALIKE)).sum();
                if powers <= 0.0 {
                    continue;
                }
                let together = powers.powf(1.0 / f64::from(ALIKE));
                for w in all.iter_mut() {
                    let own = one(w);
                    if own > 0.0 {
                        w.weights[cause] = sign * together * own.powi(ALIKE) / powers;
                    }
                }
            }
        }
    }
}
