//! What can be found on a round, and the tests that can be made: the vocabulary with words for a person.

use building::{Building, Level, Structure};
use serde::Deserialize;
use std::sync::LazyLock;

/// Where one looks.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Whereabouts {
    /// Around the building.
    Outside,
    /// Below the floor.
    Under,
    /// In the rooms.
    Inside,
    /// In the roof void and on the roof.
    Above,
}

impl Whereabouts {
    /// All four, in walking order.
    pub const ALL: [Self; 4] = [Self::Outside, Self::Under, Self::Inside, Self::Above];

    /// The word on screens.
    #[must_use]
    pub const fn words(self) -> &'static str {
        match self {
            Self::Outside => "Outside",
            Self::Under => "Under",
            Self::Inside => "Inside",
            Self::Above => "Above",
        }
    }

    /// Whether a building has such a place.
    #[must_use]
    pub fn of(self, building: &Building) -> bool {
        let level = |level| building.spaces.iter().any(|s| s.level == level);
        match self {
            Self::Outside => true,
            Self::Inside => level(Level::Living) || level(Level::Upper),
            Self::Under => level(Level::Under),
            Self::Above => level(Level::Roof),
        }
    }
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "snake_case")]
enum Sort {
    House,
    Mobile,
    Tent,
}

impl Sort {
    const fn of(structure: Structure) -> Self {
        match structure {
            Structure::Vehicle | Structure::Boat => Self::Mobile,
            Structure::RoundTent => Self::Tent,
            _ => Self::House,
        }
    }
}

/// Something that can be found.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Finding {
    /// Id of the vocabulary.
    pub id: String,
    /// Where one looks for it.
    pub at: Vec<Whereabouts>,
    #[serde(default)]
    on: Vec<Sort>,
    /// In plain words.
    pub name: String,
    /// What it looks like, or how to be sure.
    pub look: String,
    /// Unit of the figure it needs.
    pub unit: Option<String>,
    /// Whether it is a red flag: shown first whatever the causes are.
    #[serde(default)]
    pub red: bool,
}

impl Finding {
    /// Whether it can be found on such a building.
    #[must_use]
    pub fn fits(&self, structure: Structure, building: &Building) -> bool {
        (self.on.is_empty() || self.on.contains(&Sort::of(structure))) && self.at.iter().any(|w| w.of(building))
    }
}

/// A test on site.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Test {
    /// Id of the vocabulary.
    pub id: String,
    /// In plain words.
    pub name: String,
    /// Hands-on minutes.
    pub minutes: u32,
    /// Hours it must stand, from and to; none when its result is there at once.
    pub hours: Option<[u32; 2]>,
    /// Least difference between inside and outside air at which it shows anything, K.
    pub least_span_k: Option<f64>,
    /// What to do.
    pub steps: Vec<String>,
    /// Id, words and meaning of each result.
    pub results: Vec<(String, String, String)>,
}

impl Test {
    /// Words and meaning of a result.
    #[must_use]
    pub fn result(&self, id: &str) -> Option<(&str, &str)> {
        self.results.iter().find(|r| r.0 == id).map(|r| (r.1.as_str(), r.2.as_str()))
    }
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Findings {
    finding: Vec<Finding>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Tests {
    test: Vec<Test>,
}

#[allow(clippy::expect_used, reason = "the table is compiled in and read by a test")]
static FINDINGS: LazyLock<Vec<Finding>> = LazyLock::new(|| {
    toml::from_str::<Findings>(include_str!("../data/findings.toml")).expect("findings.toml is well formed").finding
});

#[allow(clippy::expect_used, reason = "the table is compiled in and read by a test")]
static TESTS: LazyLock<Vec<Test>> = LazyLock::new(|| {
    toml::from_str::<Tests>(include_str!("../data/tests.toml")).expect("tests.toml is well formed").test
});

/// Everything that can be found, in the order listed.
#[must_use]
pub fn findings() -> &'static [Finding] {
    &FINDINGS
}

/// What has this id.
#[must_use]
pub fn finding(id: &str) -> Option<&'static Finding> {
    FINDINGS.iter().find(|f| f.id == id)
}

/// Every test, in the order listed.
#[must_use]
pub fn tests() -> &'static [Test] {
    &TESTS
}

/// The test with this id.
#[must_use]
pub fn test(id: &str) -> Option<&'static Test> {
    TESTS.iter().find(|t| t.id == id)
}
