//! The tables of the plan: fixes, gates, what is refused.

use super::Condition;
use crate::cautions::{Caution, Work, cautions_of};
use building::kinds;
use building::{SpaceKind, Structure};
use serde::Deserialize;
use std::sync::LazyLock;

kinds! {
    /// Part of the order of work.
    Phase {
        /// Nobody gets hurt.
        MakeSafe = "make_safe", "Make safe";
        /// The water stops coming.
        Stop = "stop", "Stop the source";
        /// What cannot be saved goes.
        Remove = "remove", "Remove and clean";
        /// What is wet dries.
        Dry = "dry", "Dry";
        /// It is measured dry.
        Verify = "verify", "Verify";
        /// Vapor and leaking air are held.
        Control = "control", "Control vapor and air";
        /// Cold surfaces become warm.
        Insulate = "insulate", "Insulate";
        /// Air moves where it should.
        Ventilate = "ventilate", "Ventilate";
        /// It is closed in.
        Close = "close", "Close in";
        /// It stays dry through the seasons.
        Recheck = "recheck", "Recheck";
    }
    /// Who does it.
    Worker {
        /// The owner or the consultant.
        Oneself = "self", "Owner or handy person";
        /// A trade.
        Trade = "trade", "Trade";
        /// Somebody licensed for it.
        Licensed = "licensed", "Licensed professional";
    }
    /// When, for an owner who cannot do it all at once.
    Stage {
        /// Harm or loss otherwise.
        Now = "now", "Must do now";
        /// Before the season turns.
        Season = "season", "This season";
        /// It keeps.
        Later = "later", "When money allows";
    }
}

/// When a fix applies: all parts that are given must hold.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Applies {
    /// One of these causes is accepted; with none named, whatever the cause.
    #[serde(default)]
    pub causes: Vec<String>,
    /// One of these holds.
    #[serde(default)]
    pub any: Vec<Condition>,
    /// All of these hold.
    #[serde(default)]
    pub all: Vec<Condition>,
    /// None of these holds.
    #[serde(default)]
    pub none: Vec<Condition>,
    /// On one of these kinds of building; on any when empty.
    #[serde(default)]
    pub on: Vec<String>,
}

/// A fix.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Fix {
    /// Id of the vocabulary.
    pub id: String,
    /// In plain words, as an instruction.
    pub name: String,
    /// How it is done.
    pub how: String,
    /// How one sees that it worked.
    pub verify: String,
    /// Part of the order.
    pub phase: Phase,
    /// Who does it.
    pub who: Worker,
    /// When, unless somebody says otherwise.
    pub stage: Stage,
    /// When it applies: any one of these.
    pub applies: Vec<Applies>,
    /// Causes it acts against.
    #[serde(default)]
    pub treats: Vec<String>,
    /// Causes whose source it stops: where one of them acts, it belongs into that part of the order.
    #[serde(default)]
    pub stops: Vec<String>,
    /// Fixes it comes after where they are in the plan, in their part of the order.
    #[serde(default)]
    pub behind: Vec<String>,
    /// Whether it is done at once after an event, waiting for nothing but safety.
    #[serde(default)]
    pub emergency: bool,
    /// Who does it where one of these holds instead.
    #[serde(default)]
    pub who_when: Option<WhoWhen>,
    /// Ids of the gates it waits at.
    #[serde(default)]
    pub gates: Vec<String>,
    /// What can hurt.
    #[serde(default)]
    pub work: Vec<Work>,
    /// What can hurt only where one of these brought it into the plan.
    #[serde(default)]
    pub work_when: Vec<WorkWhen>,
    /// The kinds of space it is done in; outside when empty.
    #[serde(default)]
    pub at: Vec<SpaceKind>,
    /// Whether it is done in every space of the building.
    #[serde(default)]
    pub inside: bool,
    /// Kinds of building it makes sense on at all; any when empty.
    #[serde(default)]
    pub on: Vec<String>,
    /// Hours of work: to begin with, and for each unit of its first material.
    pub hours: [f64; 2],
}

impl Fix {
    /// Whether it makes sense on such a building.
    #[must_use]
    pub fn fits(&self, structure: Structure) -> bool {
        among(&self.on, structure)
    }

    /// Cautions to show where it is planned, on a building with `spaces`, where `called` can hurt beside what always can.
    #[must_use]
    pub fn cautions(&self, spaces: &[SpaceKind], called: &[Work]) -> Vec<&'static Caution> {
        let there: Vec<SpaceKind> =
            spaces.iter().copied().filter(|kind| self.inside || self.at.contains(kind)).collect();
        let work: Vec<Work> = self.work.iter().chain(called).copied().collect();
        cautions_of(&there, &work).collect()
    }
}

/// What can hurt where something was found.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct WorkWhen {
    /// What can hurt.
    pub work: Work,
    /// Where one of these holds.
    pub any: Vec<Condition>,
}

/// Who does it where something was found.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct WhoWhen {
    /// Who.
    pub who: Worker,
    /// Where one of these holds.
    pub any: Vec<Condition>,
}

/// Whether a kind of building is among ids, of which some stand for several.
pub(super) fn among(on: &[String], structure: Structure) -> bool {
    let mobile = matches!(structure, Structure::Vehicle | Structure::Boat);
    let holds = |id: &String| match id.as_str() {
        "house" => !mobile && structure != Structure::RoundTent,
        "grounded" => !mobile && structure != Structure::Attic,
        "crawl" => matches!(structure, Structure::CrawlVented | Structure::CrawlSealed),
        "raised" => matches!(structure, Structure::CrawlVented | Structure::CrawlSealed | Structure::CabinSkirted),
        "small" => mobile || matches!(structure, Structure::RoundTent | Structure::CabinSkirted),
        "mobile" => mobile,
        id => structure.id() == id,
    };
    on.is_empty() || on.iter().any(holds)
}

/// Something that must be measured before a gate opens.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Need {
    /// Only where this cause is accepted, or held likely whether it was accepted or not. Empty: where none is accepted.
    pub cause: Option<String>,
    /// Only on these kinds of building.
    #[serde(default)]
    pub on: Vec<String>,
    /// Only where one of these holds.
    #[serde(default)]
    pub when: Vec<Condition>,
    /// It is met where one of these holds, or if there are none…
    #[serde(default)]
    pub open: Vec<Condition>,
    /// …unless one of these holds.
    #[serde(default)]
    pub shut: Vec<Condition>,
    /// It is not asked where one of these holds.
    #[serde(default)]
    pub unless: Vec<Condition>,
    /// What is missing while neither.
    #[serde(default)]
    pub missing: String,
}

/// A gate: a plan step stays closed until its measurement holds.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Gate {
    /// Stable id.
    pub id: String,
    /// In plain words.
    pub name: String,
    /// Why the step waits for it.
    pub why: String,
    /// Whether what it forbids is named as refused even where nobody planned it: people reach for it.
    #[serde(default)]
    pub always_named: bool,
    /// Ids of the fixes that bring it about.
    pub by: Vec<String>,
    /// What must be measured, all of it.
    pub needs: Vec<Need>,
}

/// What must not be done together, or not on such a building at all: nobody can override it.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Forbidden {
    /// Id of the fix.
    pub fix: String,
    /// Where all of these hold.
    #[serde(default)]
    pub when: Vec<Condition>,
    /// Where one of these fixes is in the plan.
    #[serde(default)]
    pub beside: Vec<String>,
    /// Where none of these is.
    #[serde(default)]
    pub without: Vec<String>,
    /// On these kinds of building.
    #[serde(default)]
    pub on: Vec<String>,
    /// Why.
    pub why: String,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct FixFile {
    fix: Vec<Fix>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct GateFile {
    gate: Vec<Gate>,
    forbidden: Vec<Forbidden>,
}

#[allow(clippy::expect_used, reason = "the table is compiled in and read by a test")]
static FIXES: LazyLock<Vec<Fix>> = LazyLock::new(|| {
    let mut all =
        toml::from_str::<FixFile>(include_str!("../../data/fixes.toml")).expect("fixes.toml is well formed").fix;
    // Within a phase the table's order is the order of work.
    all.sort_by_key(|f| f.phase);
    all
});

#[allow(clippy::expect_used, reason = "the table is compiled in and read by a test")]
static GATES: LazyLock<GateFile> =
    LazyLock::new(|| toml::from_str(include_str!("../../data/gates.toml")).expect("gates.toml is well formed"));

/// Every fix, in the order of work.
#[must_use]
pub fn fixes() -> &'static [Fix] {
    &FIXES
}

/// The fix with this id.
#[must_use]
pub fn fix(id: &str) -> Option<&'static Fix> {
    FIXES.iter().find(|f| f.id == id)
}

/// Every gate.
#[must_use]
pub fn gates() -> &'static [Gate] {
    &GATES.gate
}

/// The gate with this id.
#[must_use]
pub fn gate(id: &str) -> Option<&'static Gate> {
    GATES.gate.iter().find(|g| g.id == id)
}

/// Everything refused.
#[must_use]
pub fn forbidden() -> &'static [Forbidden] {
    &GATES.forbidden
}
