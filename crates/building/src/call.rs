//! The call before the visit: what was said, and what that already suggests to look at, to bring and to leave alone.

use serde::Deserialize;
use std::sync::LazyLock;

/// Buildings finished before this year may hold asbestos or lead (common practice; the year differs by country).
pub const OLD_FABRIC: i32 = 1985;
/// What makes every meter read wet (common practice).
pub const FALSE_WET: &str =
    "Reads wet without being wet: metal brackets, wiring, foil, window gaskets, salts, carbon-black rubber.";

/// What a point of a call is about.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum About {
    /// What is noticed.
    Sign,
    /// What changed lately.
    Change,
    /// When the trouble shows.
    When,
}

/// Something a caller may say.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Point {
    /// What it is about.
    pub about: About,
    /// Stable id.
    pub id: String,
    /// In plain words.
    pub name: String,
    look: Vec<String>,
    bring: Vec<String>,
}

/// How a building is built, and where that lets a meter speak.
#[derive(Debug, Clone, PartialEq, Eq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Construction {
    /// Stable id.
    pub id: String,
    /// In plain words.
    pub name: String,
    /// How to test it.
    pub test: String,
    /// What not to do.
    pub leave: String,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    point: Vec<Point>,
    construction: Vec<Construction>,
}

#[allow(clippy::expect_used, reason = "the table is compiled in and read by a test")]
static TABLE: LazyLock<File> =
    LazyLock::new(|| toml::from_str(include_str!("../data/call.toml")).expect("call.toml is well formed"));

/// Everything a caller may say, in the order asked.
#[must_use]
pub fn points() -> &'static [Point] {
    &TABLE.point
}

/// Every construction, in the order offered.
#[must_use]
pub fn constructions() -> &'static [Construction] {
    &TABLE.construction
}

/// What was said on the call. Ids that are not in the table are ignored.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Call {
    /// Ids of what was noticed, what changed and when it shows.
    pub said: Vec<String>,
    /// Ids of how it is built.
    pub built: Vec<String>,
    /// Year it was finished.
    pub year: Option<i32>,
    /// People living there.
    pub occupants: Option<i32>,
}

/// One suggestion and what it follows from.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Suggestion {
    /// What to do.
    pub text: &'static str,
    /// What was said that leads there, in plain words.
    pub because: Vec<&'static str>,
}

/// What a call suggests before anyone sets out.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Suggestions {
    /// Look at these first; what several things point to comes first.
    pub look: Vec<Suggestion>,
    /// Bring these besides the usual instruments.
    pub bring: Vec<Suggestion>,
    /// How each construction is tested, and what must be left alone.
    pub test: Vec<&'static Construction>,
    /// The fabric is old enough for asbestos or lead.
    pub old_fabric: bool,
}

impl Call {
    /// Whether anything was said at all.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        *self == Self::default()
    }

    /// The points that were said, in the order of the table.
    pub fn points(&self) -> impl Iterator<Item = &'static Point> {
        points().iter().filter(|p| self.said.contains(&p.id))
    }

    /// What it suggests. The order in which things were said never matters.
    #[must_use]
    pub fn suggests(&self) -> Suggestions {
        let (mut look, mut bring) = (Vec::new(), Vec::new());
        for point in self.points() {
            gather(&mut look, &point.look, &point.name);
            gather(&mut bring, &point.bring, &point.name);
        }
        // Stable: what is said once keeps the order of the table.
        look.sort_by_key(|s: &Suggestion| std::cmp::Reverse(s.because.len()));
        Suggestions {
            look,
            bring,
            test: constructions().iter().filter(|c| self.built.contains(&c.id)).collect(),
            old_fabric: self.year.is_some_and(|y| y < OLD_FABRIC),
        }
    }
}

fn gather(into: &mut Vec<Suggestion>, texts: &'static [String], because: &'static str) {
    for text in texts {
        match into.iter_mut().find(|s| s.text == text) {
            Some(known) => known.because.push(because),
            None => into.push(Suggestion { text, because: vec![because] }),
        }
    }
}
