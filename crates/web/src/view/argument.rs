//! A diagnosis in words, bars and links.

use crate::evidence::Gathered;
use building::Building;
use judgment::cause::{Conclusion, Diagnosis, Evidence, Outcome, Ranked, Spoke, When, cause, evidence, evidences};
use judgment::finding::{finding, test};
use store::Job;

/// Causes under this share stand together as others.
const WORTH_SAYING: f64 = 0.03;
/// Most things said to be missing for a cause.
const MOST_MISSING: usize = 5;
/// Weight of one block.
const BLOCK: f64 = 0.6;

/// What wets a building, ready for a page.
pub struct Argument {
    /// What can be said, in a sentence or two.
    pub head: String,
    pub text: String,
    /// Red flags: what to do.
    pub flags: Vec<&'static str>,
    pub causes: Vec<Cause>,
    /// How many others there are, and their share together.
    pub others: (usize, String),
    pub next: Vec<NextTest>,
    pub unexplained: Vec<Line>,
    /// Whether anything is known at all.
    pub known: bool,
}

/// A cause with its bar and its argument.
pub struct Cause {
    pub id: &'static str,
    pub name: &'static str,
    pub share: String,
    pub acts: String,
    /// Width of its bar and place of the mark where it stood before, 0 to 100.
    pub bar: String,
    pub before: Option<String>,
    pub chosen: bool,
    pub speaks_for: Vec<Line>,
    pub speaks_against: Vec<Line>,
    pub missing: Vec<Line>,
    pub working: ShareWorking,
}

/// How a share comes about: what a pencil needs to add it up.
pub struct ShareWorking {
    /// Odds before anything is known, and their logarithm.
    pub before: [String; 2],
    /// Each piece with its weight, the heaviest first.
    pub weights: Vec<(String, String)>,
    /// Weights too small to be listed, together.
    pub rest: String,
    /// Logarithm of the odds it ends at, by itself.
    pub after: String,
}

/// A piece of evidence.
pub struct Line {
    /// One to four.
    pub blocks: usize,
    pub words: String,
    pub why: &'static str,
    /// Where it came from: words and address.
    pub sources: Vec<(String, String)>,
}

impl Line {
    /// Blocks as characters.
    pub fn marks(&self, mark: &str) -> String {
        mark.repeat(self.blocks)
    }
}

/// A test that would tell more.
pub struct NextTest {
    pub name: &'static str,
    /// How far it would move the ranking, in per cent.
    pub moves: String,
    pub takes: String,
    pub first: &'static str,
    pub results: &'static [(String, String, String)],
}

/// A cause's name; the id for one nobody knows.
pub fn cause_name(id: &str) -> &str {
    cause(id).map_or(id, |c| c.name.as_str())
}

/// A belief in per cent: `58 %`. None is ever certain: `over 99 %`, `under 1 %`.
pub fn percent(share: f64) -> String {
    match 100.0 * share {
        p if p >= 99.5 => "over 99 %".into(),
        p if p < 0.5 => "under 1 %".into(),
        p => format!("{p:.0} %"),
    }
}

/// A diagnosis with its evidence's sources. `wanted` names the cause whose argument is shown.
pub fn argument(
    job: &Job,
    building: &Building,
    gathered: &Gathered,
    diagnosis: &Diagnosis,
    before: Option<&Diagnosis>,
    wanted: Option<&str>,
) -> Argument {
    let shown = diagnosis.causes.iter().filter(|r| r.share >= WORTH_SAYING).count().max(3);
    let chosen = wanted.filter(|id| diagnosis.cause(id).is_some());
    let chosen = chosen.or(diagnosis.causes.first().map(|r| r.cause.id.as_str()));
    let one = |r: &Ranked| {
        let at = before.and_then(|d| d.cause(&r.cause.id)).map(|b| format!("{:.1}", 100.0 * b.share));
        Cause {
            id: &r.cause.id,
            name: &r.cause.name,
            share: percent(r.share),
            acts: percent(r.acts),
            bar: format!("{:.1}", 100.0 * r.share),
            before: at,
            chosen: chosen == Some(r.cause.id.as_str()),
            speaks_for: r.speaks_for.iter().map(|s| line(gathered, s)).collect(),
            speaks_against: r.speaks_against.iter().map(|s| line(gathered, s)).collect(),
            missing: missing(job, building, gathered, &r.cause.id),
            working: working(gathered, r),
        }
    };
    let wanted_below = diagnosis.causes.iter().skip(shown).filter(|r| Some(r.cause.id.as_str()) == chosen);
    let rest: f64 = diagnosis.causes.iter().skip(shown).map(|r| r.share).sum();
    let next: Vec<NextTest> = diagnosis.next_tests.iter().take(3).map(next_test).collect();
    let (head, text) = sentence(gathered, diagnosis, next.first());
    Argument {
        head,
        text,
        flags: diagnosis.red_flags.iter().map(|f| f.text.as_str()).collect(),
        causes: diagnosis.causes.iter().take(shown).chain(wanted_below).map(one).collect(),
        others: (diagnosis.causes.len() - shown, percent(rest)),
        next,
        unexplained: diagnosis.unexplained.iter().map(|(e, o)| unexplained(gathered, e, o)).collect(),
        known: gathered.of_the_building(),
    }
}

fn sentence(gathered: &Gathered, d: &Diagnosis, next: Option<&NextTest>) -> (String, String) {
    let would = next.map_or_else(String::new, |t| format!(" {} would tell most.", t.name));
    match &d.conclusion {
        Conclusion::Acting(ids) => {
            let names: Vec<String> = ids.iter().map(|id| cause_name(id).to_owned()).collect();
            let head = match names.as_slice() {
                [one] => format!("{one} leads."),
                all => format!("{} act together.", joined(all)),
            };
            let leads = ids.first().and_then(|id| cause(id)).map(|c| c.leads.as_str()).unwrap_or_default();
            let best = ids.iter().filter_map(|id| d.cause(id)?.speaks_for.first());
            let best: Vec<String> = best.map(|s| lower(&line(gathered, s).words)).collect();
            let rests =
                if best.is_empty() { String::new() } else { format!(" It rests most on this: {}.", best.join("; ")) };
            (head, format!("{leads}{rests}"))
        }
        Conclusion::Close(a, b) => {
            let head = format!("Close: {} or {}.", lower(cause_name(a)), lower(cause_name(b)));
            (head, format!("What is known does not tell them apart.{would}"))
        }
        Conclusion::CantTell => {
            ("It can’t be told yet.".into(), format!("Too little speaks clearly for one cause.{would}"))
        }
    }
}

fn joined(names: &[String]) -> String {
    match names {
        [] => String::new(),
        [one] => one.clone(),
        [first @ .., last] => {
            format!("{} and {}", first.join(", "), lower(last))
        }
    }
}

/// With its first letter small.
pub fn lower(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map_or_else(String::new, |c| c.to_lowercase().chain(letters).collect())
}

/// What a piece of evidence is called, as it turned out.
fn words(gathered: &Gathered, e: &Evidence, o: &Outcome) -> String {
    let figure = gathered.sources.get(&e.id).and_then(|s| s.first()).map(|s| s.words.clone()).unwrap_or_default();
    match &o.when {
        When::Under(_) if !figure.is_empty() => format!("{}: {figure}", outcome_words(e, o)),
        _ => outcome_words(e, o),
    }
}

/// What an outcome of a piece of evidence is called.
pub fn outcome_words(e: &Evidence, o: &Outcome) -> String {
    let mut letters = o.words.chars();
    let upper: String = letters.next().map_or_else(String::new, |c| c.to_uppercase().chain(letters).collect());
    match (&o.when, finding(&e.id), test(&e.id)) {
        (When::There, Some(f), _) => f.name.clone(),
        (When::NotThere, Some(f), _) => format!("{}: looked for, not there", f.name),
        (When::Is(_), _, Some(t)) => format!("{}: {}", t.name, o.words),
        _ if e.id == "trouble_when" => format!("It shows {}", o.words),
        _ => upper,
    }
}

fn blocks(weight: f64) -> usize {
    // A weight is a few at most.
    ((weight.abs() / BLOCK).round() as usize).clamp(1, 4)
}

fn sources(gathered: &Gathered, id: &str) -> Vec<(String, String)> {
    let all = gathered.sources.get(id).map(Vec::as_slice).unwrap_or_default();
    let place = |words: &str| if words.is_empty() { "the job".to_owned() } else { words.to_owned() };
    let mut out: Vec<(String, String)> = all.iter().map(|s| (place(&s.place), s.href.clone())).collect();
    out.dedup();
    out
}

fn line(gathered: &Gathered, s: &Spoke) -> Line {
    Line {
        blocks: blocks(s.weight),
        words: words(gathered, s.evidence, s.outcome),
        why: &s.evidence.why,
        sources: sources(gathered, &s.evidence.id),
    }
}

fn unexplained(gathered: &Gathered, e: &'static Evidence, o: &'static Outcome) -> Line {
    Line { blocks: 1, words: words(gathered, e, o), why: &e.why, sources: sources(gathered, &e.id) }
}

/// A weight with its sign: `+1.41`.
pub fn weight(w: f64) -> String {
    // Never a negative zero.
    let w = if w.abs() < 0.005 { 0.0 } else { w };
    format!("{w:+.2}").replace('-', "−")
}

fn working(gathered: &Gathered, r: &Ranked) -> ShareWorking {
    let [before, known] = r.log_odds;
    let spoken = || r.speaks_for.iter().chain(&r.speaks_against);
    let listed: f64 = spoken().map(|s| s.weight).sum();
    ShareWorking {
        before: [format!("{:.3}", before.exp()), weight(before)],
        weights: spoken().map(|s| (words(gathered, s.evidence, s.outcome), weight(s.weight))).collect(),
        rest: weight(known - listed),
        after: weight(before + known),
    }
}

/// What nobody knows yet and would move this cause most.
fn missing(job: &Job, building: &Building, gathered: &Gathered, id: &str) -> Vec<Line> {
    let Some(at) = judgment::cause::causes().iter().position(|c| c.id == id) else { return Vec::new() };
    let most = |e: &Evidence| e.outcomes.iter().map(|o| o.weights[at].abs()).fold(0.0, f64::max);
    let sensible = |e: &Evidence| {
        let fits = finding(&e.id).is_none_or(|f| f.fits(job.structure, building));
        let asked = e.after.is_empty() || e.after.iter().any(|f| gathered.case.has(f));
        fits && asked && !e.never.contains(&job.structure)
    };
    let mut open: Vec<&Evidence> = evidences().iter().filter(|e| !gathered.case.knows(&e.id) && sensible(e)).collect();
    open.sort_by(|a, b| most(b).total_cmp(&most(a)));
    let told = |e: &&'static Evidence| {
        let (words, href) = match (finding(&e.id), test(&e.id)) {
            (Some(f), _) => (f.name.clone(), format!("/jobs/{}/findings?search={}", job.id, f.id)),
            (_, Some(t)) => (t.name.clone(), format!("/jobs/{}/tests", job.id)),
            _ => return None,
        };
        let place = if test(&e.id).is_some() { "test" } else { "look" };
        Some(Line { blocks: blocks(most(e)), words, why: &e.why, sources: vec![(place.into(), href)] })
    };
    open.iter().filter_map(told).take(MOST_MISSING).collect()
}

fn next_test(t: &judgment::cause::NextTest) -> NextTest {
    let wait = t
        .test
        .hours
        .map(|[from, to]| if to >= 336 { ", then two weeks".to_owned() } else { format!(", then {from} to {to} h") });
    let results = evidence(&t.test.id).map_or(&[][..], |_| &t.test.results);
    NextTest {
        name: &t.test.name,
        moves: percent(t.change),
        takes: format!("{} min of work{}", t.test.minutes, wait.unwrap_or_default()),
        first: t.test.steps.first().map(String::as_str).unwrap_or_default(),
        results,
    }
}
