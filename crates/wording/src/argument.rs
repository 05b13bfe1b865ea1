//! A diagnosis in words, bars and links.

use crate::evidence::{self as words_of, Lead};
use casework::evidence::{Gathered, Source};
use casework::{Argued, CaseFile};
use judgment::cause::{Conclusion, Diagnosis, Evidence, Outcome, Ranked, Spoke, When, cause, evidence, evidences};
use judgment::finding::{finding, test};
use language::{known, known_of, say};
use notation::Show;
use notation::number::signed;

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
    /// In a sentence or two.
    pub text: String,
    /// Red flags: what to do.
    pub flags: Vec<&'static str>,
    /// Causes, likeliest first.
    pub causes: Vec<Cause>,
    /// How many others there are, and their share together.
    pub others: (usize, String),
    /// Tests most useful next.
    pub next: Vec<NextTest>,
    /// What no likely cause accounts for.
    pub unexplained: Vec<Line>,
    /// Whether anything is known at all.
    pub known: bool,
}

/// A cause with its bar and its argument.
pub struct Cause {
    /// Id.
    pub id: &'static str,
    /// Name.
    pub name: &'static str,
    /// Its share, as a belief.
    pub share: String,
    /// How likely it is active.
    pub acts: String,
    /// Width of its bar and place of the mark where it stood before, 0 to 100.
    pub bar: String,
    /// Where it stood on the visit before.
    pub before: Option<String>,
    /// Whether it is the one in view.
    pub chosen: bool,
    /// Evidence for it.
    pub speaks_for: Vec<Line>,
    /// Evidence against it.
    pub speaks_against: Vec<Line>,
    /// What would change it.
    pub missing: Vec<Line>,
    /// How it came about.
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
    /// What it is.
    pub words: String,
    /// Why it counts.
    pub why: &'static str,
    /// Where it came from: words, and where they lead.
    pub sources: Vec<(String, Lead)>,
}

impl Line {
    /// Blocks as characters.
    pub fn marks(&self, mark: &str) -> String {
        mark.repeat(self.blocks)
    }
}

/// A test that would tell more.
pub struct NextTest {
    /// Name.
    pub name: &'static str,
    /// How far it would move the ranking, in percent.
    pub moves: String,
    /// What it takes.
    pub takes: String,
    /// How it begins.
    pub first: &'static str,
    /// What it may show, and what that means.
    pub results: &'static [(String, String, String)],
}

/// A cause's name; the id for one nobody knows.
pub fn cause_name(id: &str) -> &str {
    cause(id).map_or(id, |c| known(&c.name))
}

/// A belief in percent: `58 %`. None is ever certain: `over 99 %`, `under 1 %`.
pub fn percent(share: f64) -> String {
    match 100.0 * share {
        p if p >= 99.5 => say!("over 99 %").into(),
        p if p < 0.5 => say!("under 1 %").into(),
        p => format!("{p:.0} %"),
    }
}

/// A diagnosis with its evidence's sources. `wanted` names the cause whose argument is shown.
pub fn argument(
    show: &Show,
    file: &CaseFile,
    argued: &Argued,
    before: Option<&Diagnosis>,
    wanted: Option<&str>,
) -> Argument {
    let Argued { gathered, diagnosis } = argued;
    let teller = Teller { show, file, gathered };
    let shown = diagnosis.causes.iter().filter(|r| r.share >= WORTH_SAYING).count().max(3);
    let chosen = wanted.filter(|id| diagnosis.cause(id).is_some());
    let chosen = chosen.or(diagnosis.causes.first().map(|r| r.cause.id.as_str()));
    let one = |r: &Ranked| {
        let at = before.and_then(|d| d.cause(&r.cause.id)).map(|b| format!("{:.1}", 100.0 * b.share));
        Cause {
            id: &r.cause.id,
            name: known(&r.cause.name),
            share: percent(r.share),
            acts: percent(r.acts),
            bar: format!("{:.1}", 100.0 * r.share),
            before: at,
            chosen: chosen == Some(r.cause.id.as_str()),
            speaks_for: r.speaks_for.iter().map(|s| teller.line(s)).collect(),
            speaks_against: r.speaks_against.iter().map(|s| teller.line(s)).collect(),
            missing: teller.missing(&r.cause.id),
            working: teller.working(r),
        }
    };
    let wanted_below = diagnosis.causes.iter().skip(shown).filter(|r| Some(r.cause.id.as_str()) == chosen);
    let rest: f64 = diagnosis.causes.iter().skip(shown).map(|r| r.share).sum();
    let next: Vec<NextTest> = diagnosis.next_tests.iter().take(3).map(next_test).collect();
    let (head, text) = teller.sentence(diagnosis, next.first());
    Argument {
        head,
        text,
        flags: diagnosis.red_flags.iter().map(|f| f.text.as_str()).collect(),
        causes: diagnosis.causes.iter().take(shown).chain(wanted_below).map(one).collect(),
        others: (diagnosis.causes.len() - shown, percent(rest)),
        next,
        unexplained: diagnosis.unexplained.iter().map(|(e, o)| teller.evidence(e, o, 1)).collect(),
        known: gathered.of_the_building(),
    }
}

/// What a diagnosis is told from.
struct Teller<'a> {
    show: &'a Show,
    file: &'a CaseFile,
    gathered: &'a Gathered,
}

impl Teller<'_> {
    fn sentence(&self, d: &Diagnosis, next: Option<&NextTest>) -> (String, String) {
        let would =
            next.map_or_else(String::new, |t| say!(" {name} is the most useful next test.", name = known(t.name)));
        match &d.conclusion {
            Conclusion::Acting(ids) => {
                let names: Vec<String> = ids.iter().map(|id| cause_name(id).to_owned()).collect();
                let head = match names.as_slice() {
                    [one] => say!("{one} leads.", one),
                    all => say!("{joined} act together.", joined = joined(all)),
                };
                let leads = ids.first().and_then(|id| cause(id)).map(|c| known(&c.leads)).unwrap_or_default();
                let best = ids.iter().filter_map(|id| d.cause(id)?.speaks_for.first());
                let best: Vec<String> = best.map(|s| lower(&self.line(s).words)).collect();
                let rests = if best.is_empty() {
                    String::new()
                } else {
                    say!(" It rests most on this: {best}.", best = best.join("; "))
                };
                (head, format!("{leads}{rests}"))
            }
            Conclusion::Close(a, b) => {
                let head =
                    say!("Close: {lower} or {lower2}.", lower = lower(cause_name(a)), lower2 = lower(cause_name(b)));
                (head, say!("What is known does not tell them apart.{would}", would))
            }
            Conclusion::CantTell => {
                (say!("It can’t be told yet.").into(), say!("Too little speaks clearly for one cause.{would}", would))
            }
        }
    }

    /// What a piece of evidence is called, as it turned out.
    fn words(&self, e: &Evidence, o: &Outcome) -> String {
        let first = self.gathered.sources.get(&e.id).and_then(|s| s.first());
        let figure = first.map(|s| words_of::amount(self.show, s)).unwrap_or_default();
        match &o.when {
            When::Under(_) if !figure.is_empty() => format!("{}: {figure}", outcome_words(e, o)),
            _ => outcome_words(e, o),
        }
    }

    fn sources(&self, id: &str) -> Vec<(String, Lead)> {
        let all = self.gathered.sources.get(id).map(Vec::as_slice).unwrap_or_default();
        let told = |s: &Source| (words_of::origin(&self.file.building, s.from).to_owned(), Lead::From(s.from));
        let mut out: Vec<(String, Lead)> = all.iter().map(told).collect();
        out.dedup();
        out
    }

    fn line(&self, s: &Spoke) -> Line {
        self.evidence(s.evidence, s.outcome, blocks(s.weight))
    }

    fn evidence(&self, e: &'static Evidence, o: &'static Outcome, blocks: usize) -> Line {
        Line { blocks, words: self.words(e, o), why: &e.why, sources: self.sources(&e.id) }
    }

    fn working(&self, r: &Ranked) -> ShareWorking {
        let [before, known] = r.log_odds;
        let spoken = || r.speaks_for.iter().chain(&r.speaks_against);
        let listed: f64 = spoken().map(|s| s.weight).sum();
        ShareWorking {
            before: [format!("{:.3}", before.exp()), weight(before)],
            weights: spoken().map(|s| (self.words(s.evidence, s.outcome), weight(s.weight))).collect(),
            rest: weight(known - listed),
            after: weight(before + known),
        }
    }

    /// What nobody knows yet and would move this cause most.
    fn missing(&self, id: &str) -> Vec<Line> {
        let Some(at) = judgment::cause::causes().iter().position(|c| c.id == id) else { return Vec::new() };
        let most = |e: &Evidence| e.outcomes.iter().map(|o| o.weights[at].abs()).fold(0.0, f64::max);
        let sensible = |e: &Evidence| {
            let fits = finding(&e.id).is_none_or(|f| f.fits(self.file.job.structure, &self.file.building));
            let asked = e.after.is_empty() || e.after.iter().any(|f| self.gathered.case.has(f));
            fits && asked && !e.never.contains(&self.file.job.structure)
        };
        let mut open: Vec<&Evidence> =
            evidences().iter().filter(|e| !self.gathered.case.knows(&e.id) && sensible(e)).collect();
        open.sort_by(|a, b| most(b).total_cmp(&most(a)));
        let told = |e: &&'static Evidence| {
            let (words, place, lead) = match (finding(&e.id), test(&e.id)) {
                (Some(f), _) => (known(&f.name).to_owned(), say!("look"), Lead::Look(&f.id)),
                (_, Some(t)) => (known(&t.name).to_owned(), say!("test"), Lead::Test),
                _ => return None,
            };
            Some(Line { blocks: blocks(most(e)), words, why: &e.why, sources: vec![(place.into(), lead)] })
        };
        open.iter().filter_map(told).take(MOST_MISSING).collect()
    }
}

fn joined(names: &[String]) -> String {
    match names {
        [] => String::new(),
        [one] => one.clone(),
        [first @ .., last] => {
            say!("{first} and {lower}", first = first.join(", "), lower = lower(last))
        }
    }
}

/// With its first letter small.
pub fn lower(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map_or_else(String::new, |c| c.to_lowercase().chain(letters).collect())
}

/// What an outcome of a piece of evidence is called.
pub fn outcome_words(e: &Evidence, o: &Outcome) -> String {
    let words = known_of(&o.words);
    let mut letters = words.chars();
    let upper: String = letters.next().map_or_else(String::new, |c| c.to_uppercase().chain(letters).collect());
    match (&o.when, finding(&e.id), test(&e.id)) {
        (When::There, Some(f), _) => known(&f.name).to_owned(),
        (When::NotThere, Some(f), _) => say!("{name}: looked for, not there", name = known(&f.name)),
        (When::Is(_), _, Some(t)) => format!("{}: {words}", known(&t.name)),
        _ if e.id == "trouble_when" => say!("It shows {words}", words),
        _ => upper,
    }
}

fn blocks(weight: f64) -> usize {
    // A weight is a few at most.
    ((weight.abs() / BLOCK).round() as usize).clamp(1, 4)
}

/// A weight with its sign: `+1.41`.
pub fn weight(w: f64) -> String {
    signed(w, 2)
}

fn next_test(t: &judgment::cause::NextTest) -> NextTest {
    let wait = t.test.hours.map(|[from, to]| {
        if to >= 336 { say!(", then two weeks").to_owned() } else { say!(", then {from} to {to} h", from, to) }
    });
    let results = evidence(&t.test.id).map_or(&[][..], |_| &t.test.results);
    NextTest {
        name: known(&t.test.name),
        moves: percent(t.change),
        takes: say!("{test} min of work{wait}", test = t.test.minutes, wait = wait.unwrap_or_default()),
        first: t.test.steps.first().map(String::as_str).unwrap_or_default(),
        results,
    }
}
