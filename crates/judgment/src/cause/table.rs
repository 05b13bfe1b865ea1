//! The table of causes and of what speaks for and against them.

use building::Structure;
use serde::Deserialize;
use std::collections::BTreeMap;
use std::sync::LazyLock;

/// A cause of wetness.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Cause {
    /// Id of the vocabulary.
    pub id: String,
    /// In plain words.
    pub name: String,
    /// One sentence for when it leads.
    pub leads: String,
    odds: f64,
    /// Kinds of building that cannot have it.
    #[serde(default)]
    pub never: Vec<Structure>,
    /// Kinds that have it twice as often.
    #[serde(default)]
    pub often: Vec<Structure>,
    /// Kinds that have it a third as often.
    #[serde(default)]
    pub seldom: Vec<Structure>,
}

impl Cause {
    /// Odds of acting on a wet building of a kind that has it neither more nor less often than most.
    #[must_use]
    pub const fn usual_odds(&self) -> f64 {
        self.odds
    }

    /// Odds of acting on a wet building of this kind before anything is known; 0 where it cannot.
    #[must_use]
    pub fn odds(&self, structure: Structure) -> f64 {
        if self.never.contains(&structure) {
            0.0
        } else if self.often.contains(&structure) {
            2.0 * self.odds
        } else if self.seldom.contains(&structure) {
            self.odds / 3.0
        } else {
            self.odds
        }
    }
}

/// When an outcome is the one known.
#[derive(Debug, Clone, PartialEq)]
pub enum When {
    /// It was found.
    There,
    /// Somebody looked, and it is not there.
    NotThere,
    /// A word: a test's result, a season.
    Is(String),
    /// A figure under this; the last outcome takes all others.
    Under(f64),
}

/// One way a piece of evidence can turn out.
#[derive(Debug, Clone)]
pub struct Outcome {
    /// When it is this one.
    pub when: When,
    /// Said of it.
    pub words: String,
    /// Natural logarithm of how often it is met where no cause moves it.
    pub(super) base: f64,
    /// How the table moves it under each cause, in the order of [`causes`].
    pub(super) moves: Vec<f64>,
    /// Weight for each cause: the logarithm of how much likelier this outcome is where the cause acts than where none
    /// moves it. What is likelier in one way is less likely in the others, so that this is not `moves`.
    pub weights: Vec<f64>,
}

impl Outcome {
    /// How often it is met where no cause moves it, 0 to 1.
    #[must_use]
    pub fn rate(&self) -> f64 {
        self.base.exp()
    }
}

/// Something that can be known of a building.
#[derive(Debug, Clone)]
pub struct Evidence {
    /// Id of the vocabulary.
    pub id: String,
    /// Why it speaks as it does.
    pub why: String,
    /// Every way it can turn out.
    pub outcomes: Vec<Outcome>,
    /// Whether it is a sign that some cause must account for, not a circumstance.
    pub sign: bool,
    /// Kinds of building it makes no sense on.
    pub never: Vec<Structure>,
    /// Findings one of which must be there before it makes sense; none for most.
    pub after: Vec<String>,
    /// How a figure is read; `None` for what has none.
    pub figure: Option<Figure>,
    /// What it says the same of as others: together they count as one piece of evidence.
    pub group: Option<String>,
    /// Whether it says something of a machine only where there is water in the air to take out.
    pub in_humid_air: bool,
}

/// How a figure is read.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Figure {
    /// How far it may be off where its instrument does not say, one standard deviation.
    pub err: f64,
    /// What it can be at all.
    pub range: [f64; 2],
    /// Whether its sign decides: on one side of nothing it never speaks as on the other.
    pub signed: bool,
}

impl Evidence {
    /// Whether it is a figure.
    #[must_use]
    pub const fn is_figure(&self) -> bool {
        self.figure.is_some()
    }
}

/// A finding that makes readings say less than they seem to.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Doubt {
    /// Ids of the findings, any of which raises it.
    pub findings: Vec<String>,
    /// Ids of the evidence it concerns.
    pub concerns: Vec<String>,
    /// Part of its weight that evidence keeps.
    pub keeps: f64,
    /// Id of the test that confirms or settles it.
    pub test: String,
}

/// A finding that is shown whatever the causes are, and what it asks for.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct RedFlag {
    /// Id of the finding.
    pub finding: String,
    /// The figure from which on it is one.
    pub from: Option<f64>,
    /// Findings one of which must be there too.
    #[serde(default)]
    pub beside: Vec<String>,
    /// Ids of the fixes it asks for.
    pub fixes: Vec<String>,
    /// What to do.
    pub text: String,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct CauseFile {
    cause: Vec<Cause>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct FlagFile {
    flag: Vec<RedFlag>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct EvidenceFile {
    evidence: Vec<EvidenceRow>,
    doubt: Vec<Doubt>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct EvidenceRow {
    id: String,
    why: String,
    rate: Option<f64>,
    #[serde(default)]
    moves: BTreeMap<String, f64>,
    #[serde(default)]
    outcomes: Vec<OutcomeRow>,
    #[serde(default)]
    never: Vec<Structure>,
    #[serde(default)]
    after: Vec<String>,
    sign: Option<bool>,
    err: Option<f64>,
    range: Option<[f64; 2]>,
    #[serde(default)]
    signed: bool,
    group: Option<String>,
    #[serde(default)]
    in_humid_air: bool,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct OutcomeRow {
    is: Option<String>,
    under: Option<f64>,
    rate: f64,
    words: String,
    moves: BTreeMap<String, f64>,
}

impl EvidenceRow {
    fn read(self) -> Evidence {
        let sign = self.sign.unwrap_or_else(|| self.rate.is_some() || crate::finding::test(&self.id).is_some());
        let outcomes = match self.rate {
            Some(rate) => vec![
                Outcome {
                    when: When::There,
                    words: String::new(),
                    base: rate.ln(),
                    moves: moves(&self.moves),
                    weights: Vec::new(),
                },
                Outcome {
                    when: When::NotThere,
                    words: "looked for and not there".into(),
                    base: (1.0 - rate).ln(),
                    moves: moves(&BTreeMap::new()),
                    weights: Vec::new(),
                },
            ],
            None => self.outcomes.into_iter().map(OutcomeRow::read).collect(),
        };
        let signed = self.signed;
        Evidence {
            id: self.id,
            why: self.why,
            outcomes: weighed(outcomes),
            sign,
            never: self.never,
            after: self.after,
            figure: self.err.zip(self.range).map(|(err, range)| Figure { err, range, signed }),
            group: self.group,
            in_humid_air: self.in_humid_air,
        }
    }
}

impl OutcomeRow {
    fn read(self) -> Outcome {
        let when = match (self.is, self.under) {
            (Some(word), _) => When::Is(word),
            (None, Some(figure)) => When::Under(figure),
            (None, None) => When::Under(f64::INFINITY),
        };
        Outcome { when, words: self.words, base: self.rate.ln(), moves: moves(&self.moves), weights: Vec::new() }
    }
}

/// Outcomes with the weights that follow from how all of them are moved.
fn weighed(mut outcomes: Vec<Outcome>) -> Vec<Outcome> {
    let of_cause = |i: usize| outcomes.iter().map(|o| (o.base + o.moves[i]).exp()).sum::<f64>().ln();
    let base = outcomes.iter().map(|o| o.base.exp()).sum::<f64>().ln();
    let sums: Vec<f64> = (0..CAUSES.len()).map(|i| of_cause(i) - base).collect();
    for outcome in &mut outcomes {
        outcome.weights = outcome.moves.iter().zip(&sums).map(|(m, sum)| m - sum).collect();
    }
    outcomes
}

#[allow(clippy::expect_used, reason = "the table is compiled in and read by a test")]
fn moves(moves: &BTreeMap<String, f64>) -> Vec<f64> {
    let mut out = vec![0.0; CAUSES.len()];
    for (id, weight) in moves {
        let at = CAUSES.iter().position(|c| c.id == *id).expect("evidence moves a cause of the table");
        out[at] = *weight;
    }
    out
}

#[allow(clippy::expect_used, reason = "the table is compiled in and read by a test")]
static CAUSES: LazyLock<Vec<Cause>> = LazyLock::new(|| {
    toml::from_str::<CauseFile>(include_str!("../../data/causes.toml")).expect("causes.toml is well formed").cause
});

#[allow(clippy::expect_used, reason = "the table is compiled in and read by a test")]
static EVIDENCE: LazyLock<(Vec<Evidence>, Vec<Doubt>)> = LazyLock::new(|| {
    let file: EvidenceFile =
        toml::from_str(include_str!("../../data/evidence.toml")).expect("evidence.toml is well formed");
    (file.evidence.into_iter().map(EvidenceRow::read).collect(), file.doubt)
});

#[allow(clippy::expect_used, reason = "the table is compiled in and read by a test")]
static FLAGS: LazyLock<Vec<RedFlag>> = LazyLock::new(|| {
    toml::from_str::<FlagFile>(include_str!("../../data/red_flags.toml")).expect("red_flags.toml is well formed").flag
});

/// Every cause, in the order of the table.
#[must_use]
pub fn causes() -> &'static [Cause] {
    &CAUSES
}

/// The cause with this id.
#[must_use]
pub fn cause(id: &str) -> Option<&'static Cause> {
    CAUSES.iter().find(|c| c.id == id)
}

/// Everything that can speak for or against a cause, in the order of the table.
#[must_use]
pub fn evidences() -> &'static [Evidence] {
    &EVIDENCE.0
}

/// Findings that make readings say less than they seem to.
#[must_use]
pub fn doubts() -> &'static [Doubt] {
    &EVIDENCE.1
}

/// The evidence with this id.
#[must_use]
pub fn evidence(id: &str) -> Option<&'static Evidence> {
    evidences().iter().find(|e| e.id == id)
}

/// What is shown before any cause.
#[must_use]
pub fn red_flags() -> &'static [RedFlag] {
    &FLAGS
}
