//! Which causes act, how sure that is, and what would tell more.

use super::case::Case;
use super::table::{Cause, Evidence, Outcome, RedFlag, causes, evidences};
use super::weigh::{Weighed, raised, weigh};
use crate::finding::{Test, tests};

/// Most causes considered to act at once.
const MOST_AT_ONCE: usize = 3;
/// How much rarer it is that one more cause acts, beyond its own odds: one trouble is mostly enough, and much of what
/// speaks for it speaks for others a little.
pub const ONE_MORE: f64 = 0.25;
/// From this probability on a cause is said to act.
const ACTS: f64 = 0.6;
/// Two causes closer than this in their shares are close.
const CLOSE: f64 = 0.15;
/// A weight smaller than this accounts for nothing and is not worth saying.
const ACCOUNTS: f64 = 0.1;

/// A piece of evidence as it speaks of a cause.
#[derive(Debug, Clone, Copy)]
pub struct Spoke {
    /// The evidence.
    pub evidence: &'static Evidence,
    /// How it turned out, or could.
    pub outcome: &'static Outcome,
    /// Its weight for this cause: positive for, negative against.
    pub weight: f64,
}

/// A cause with its part in the wetness.
#[derive(Debug, Clone)]
pub struct Ranked {
    /// The cause.
    pub cause: &'static Cause,
    /// Its expected share of the wetness; all shares add up to 1.
    pub share: f64,
    /// How likely it is that it acts at all, alone or with others.
    pub acts: f64,
    /// Natural logarithm of its odds before anything is known, and the sum of the weights of all that is.
    pub log_odds: [f64; 2],
    /// What speaks for it, strongest first.
    pub speaks_for: Vec<Spoke>,
    /// What speaks against it, strongest first.
    pub speaks_against: Vec<Spoke>,
}

/// A test that would tell more.
#[derive(Debug, Clone, Copy)]
pub struct NextTest {
    /// The test.
    pub test: &'static Test,
    /// How far the shares are expected to move: 0 nothing, 1 everything.
    pub change: f64,
    /// The same for each minute of work.
    pub gain: f64,
}

/// What can be said.
#[derive(Debug, Clone, PartialEq)]
pub enum Conclusion {
    /// These act, the likeliest first.
    Acting(Vec<&'static str>),
    /// One of these two, and it cannot be told which.
    Close(&'static str, &'static str),
    /// Too little is known.
    CantTell,
}

/// The argument.
#[derive(Debug, Clone)]
pub struct Diagnosis {
    /// Every cause this kind of building can have, the largest share first.
    pub causes: Vec<Ranked>,
    /// What can be said.
    pub conclusion: Conclusion,
    /// Whether the first two stand within 0.15.
    pub close_call: bool,
    /// Tests not made yet that would tell more, most for each minute of work first.
    pub next_tests: Vec<NextTest>,
    /// Red flags raised, whatever the causes are.
    pub red_flags: Vec<&'static RedFlag>,
    /// What is known that no likely cause accounts for.
    pub unexplained: Vec<(&'static Evidence, &'static Outcome)>,
}

impl Diagnosis {
    /// A cause in the ranking.
    #[must_use]
    pub fn cause(&self, id: &str) -> Option<&Ranked> {
        self.causes.iter().find(|r| r.cause.id == id)
    }

    /// Ids of the causes that act; two close ones count as neither.
    #[must_use]
    pub fn acting(&self) -> Vec<&'static str> {
        match &self.conclusion {
            Conclusion::Acting(ids) => ids.clone(),
            Conclusion::Close(..) | Conclusion::CantTell => Vec::new(),
        }
    }
}

/// A combination of causes: indices into the table, and the logarithm of its odds.
struct Together {
    members: Vec<usize>,
    log: f64,
}

/// Weighs every cause by what is known.
///
/// # Examples
/// Bare soil under a vented crawl space, and a sheet taped on it that got wet below:
/// ```
/// # use building::Structure;
/// # use judgment::cause::{Case, diagnose};
/// let mut case = Case::new(Structure::CrawlVented);
/// case.finding("soil_bare", true)?;
/// case.word("plastic_sheet", "wet_under")?;
/// let first = &diagnose(&case).causes[0];
/// assert_eq!(first.cause.id, "ground_vapor");
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[must_use]
pub fn diagnose(case: &Case) -> Diagnosis {
    let known = weigh(case);
    let (sets, weights) = posterior(case, &known);
    let (shares, acts) = marginals(&sets, &weights);
    let mut ranked: Vec<Ranked> = causes()
        .iter()
        .enumerate()
        .filter(|(_, c)| c.odds(case.structure) > 0.0)
        .map(|(i, cause)| Ranked {
            cause,
            share: shares[i],
            acts: acts[i],
            log_odds: [cause.odds(case.structure).ln(), known.iter().map(|w| w.weights[i]).sum()],
            speaks_for: spoken(&known, i, 1.0),
            speaks_against: spoken(&known, i, -1.0),
        })
        .collect();
    // The table's order settles equal shares, so that the same case always gives the same list.
    ranked.sort_by(|a, b| b.share.total_cmp(&a.share));
    let leading = ranked.first().and_then(|r| causes().iter().position(|c| c.id == r.cause.id));
    let close_call = matches!(ranked.as_slice(), [a, b, ..] if a.share - b.share < CLOSE);
    Diagnosis {
        conclusion: conclude(&ranked, close_call),
        close_call,
        next_tests: next_tests(case, &sets, &weights, &shares),
        red_flags: case.flags().collect(),
        unexplained: case.known().filter(|(e, o)| e.sign && !explained(o, &acts, leading)).collect(),
        causes: ranked,
    }
}

/// Causes that act with at least this probability, whatever was concluded.
#[must_use]
pub fn held(case: &Case, least: f64) -> Vec<&'static str> {
    let (sets, weights) = posterior(case, &weigh(case));
    let (_, acts) = marginals(&sets, &weights);
    causes().iter().zip(acts).filter(|(_, p)| *p >= least).map(|(c, _)| c.id.as_str()).collect()
}

/// Every combination with its probability.
fn posterior(case: &Case, known: &[Weighed]) -> (Vec<Together>, Vec<f64>) {
    let mut sets = combinations(case);
    for set in &mut sets {
        set.log += known.iter().map(|w| set.members.iter().map(|i| w.weights[*i]).sum::<f64>()).sum::<f64>();
    }
    let weights = normalized(&sets);
    (sets, weights)
}

fn combinations(case: &Case) -> Vec<Together> {
    let odds: Vec<f64> = causes().iter().map(|c| c.odds(case.structure)).collect();
    let mut sets = Vec::new();
    let mut members = Vec::new();
    grow(&odds, 0, &mut members, &mut sets);
    sets
}

fn grow(odds: &[f64], from: usize, members: &mut Vec<usize>, sets: &mut Vec<Together>) {
    for i in from..odds.len() {
        if odds[i] <= 0.0 {
            continue;
        }
        members.push(i);
        let log = members.iter().map(|m| odds[*m].ln()).sum::<f64>() + (members.len() - 1) as f64 * ONE_MORE.ln();
        sets.push(Together { members: members.clone(), log });
        if members.len() < MOST_AT_ONCE {
            grow(odds, i + 1, members, sets);
        }
        members.pop();
    }
}

/// Logarithm of how much likelier an outcome is where these causes act than where none moves it.
fn log_likelihood(outcome: &Outcome, members: &[usize]) -> f64 {
    members.iter().map(|i| outcome.weights[*i]).sum()
}

fn normalized(sets: &[Together]) -> Vec<f64> {
    let top = sets.iter().map(|s| s.log).fold(f64::NEG_INFINITY, f64::max);
    let weights: Vec<f64> = sets.iter().map(|s| (s.log - top).exp()).collect();
    let sum: f64 = weights.iter().sum();
    weights.into_iter().map(|w| w / sum).collect()
}

/// Shares and probabilities of acting, in the order of the table.
fn marginals(sets: &[Together], weights: &[f64]) -> (Vec<f64>, Vec<f64>) {
    let mut shares = vec![0.0; causes().len()];
    let mut acts = vec![0.0; causes().len()];
    for (set, w) in sets.iter().zip(weights) {
        for i in &set.members {
            shares[*i] += w / set.members.len() as f64;
            acts[*i] += w;
        }
    }
    (shares, acts)
}

fn spoken(known: &[Weighed], cause: usize, sign: f64) -> Vec<Spoke> {
    let mut all: Vec<Spoke> = known
        .iter()
        .map(|w| Spoke { evidence: w.evidence, outcome: w.outcome, weight: w.weights[cause] })
        .filter(|s| s.weight * sign > ACCOUNTS)
        .collect();
    all.sort_by(|a, b| (b.weight * sign).total_cmp(&(a.weight * sign)));
    all
}

fn conclude(ranked: &[Ranked], close: bool) -> Conclusion {
    let mut acting: Vec<&Ranked> = ranked.iter().filter(|r| r.acts >= ACTS).collect();
    acting.sort_by(|a, b| b.acts.total_cmp(&a.acts));
    match ranked {
        _ if !acting.is_empty() => Conclusion::Acting(acting.iter().map(|r| r.cause.id.as_str()).collect()),
        // Two that stand out of all others, but not one from the other.
        [a, b, ..] if close && a.share + b.share >= 0.55 => Conclusion::Close(&a.cause.id, &b.cause.id),
        _ => Conclusion::CantTell,
    }
}

/// Whether some likely cause, or the leading one, produces an outcome, or it needs none: what mostly speaks against causes is
/// no sign of one.
fn explained(outcome: &Outcome, acts: &[f64], leading: Option<usize>) -> bool {
    let produced = |(w, p): (&f64, &f64)| *w > ACCOUNTS && *p >= 0.3;
    let by_leading = leading.is_some_and(|i| outcome.weights[i] > 0.0);
    let most = outcome.weights.iter().copied().fold(0.0, f64::max);
    let least = outcome.weights.iter().copied().fold(0.0, f64::min);
    most <= ACCOUNTS || most < -least || by_leading || outcome.weights.iter().zip(acts).any(produced)
}

/// Expected movement of the shares (total variation) by each test not made yet.
fn next_tests(case: &Case, sets: &[Together], weights: &[f64], shares: &[f64]) -> Vec<NextTest> {
    let mut all: Vec<NextTest> = tests()
        .iter()
        .filter(|t| !case.knows(&t.id))
        .filter_map(|test| {
            let evidence = evidences().iter().find(|e| e.id == test.id)?;
            let sensible = !evidence.never.contains(&case.structure)
                && (evidence.after.is_empty() || evidence.after.iter().any(|id| case.has(id)));
            sensible.then_some(())?;
            let change: f64 = evidence.outcomes.iter().map(|o| expected(o, sets, weights, shares)).sum();
            Some(NextTest { test, change, gain: change / f64::from(test.minutes) })
        })
        .filter(|t| t.change > 0.01 || raised(case).any(|d| d.test == t.test.id))
        .collect();
    // A reading in doubt is confirmed before anything else is tested.
    let settles = |t: &NextTest| raised(case).any(|d| d.test == t.test.id);
    all.sort_by(|a, b| settles(b).cmp(&settles(a)).then(b.gain.total_cmp(&a.gain)));
    all
}

/// Probability of an outcome times how far it would move the shares.
fn expected(outcome: &Outcome, sets: &[Together], weights: &[f64], shares: &[f64]) -> f64 {
    // Several causes together can claim more than the whole of an outcome: no probability is over 1.
    let joint: Vec<f64> = sets
        .iter()
        .zip(weights)
        .map(|(s, w)| w * (outcome.rate() * log_likelihood(outcome, &s.members).exp()).min(1.0))
        .collect();
    let probability: f64 = joint.iter().sum();
    if probability <= 0.0 {
        return 0.0;
    }
    let after: Vec<f64> = joint.iter().map(|j| j / probability).collect();
    let (moved, _) = marginals(sets, &after);
    let distance: f64 = moved.iter().zip(shares).map(|(a, b)| (a - b).abs()).sum::<f64>() / 2.0;
    probability * distance
}
