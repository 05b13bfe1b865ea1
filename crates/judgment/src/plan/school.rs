//! Where practitioners disagree: questions, schools, and which one a case points to.

use super::Condition;
use super::table::among;
use crate::cause::Case;
use crate::climate::year;
use building::{Climate, Structure};
use serde::Deserialize;
use std::collections::BTreeMap;
use std::sync::LazyLock;

/// Months of damp under-floor wood from which on outdoor air is no help.
const TOO_DAMP: usize = 2;

/// A question on which practitioners disagree.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Question {
    /// Stable id.
    pub id: String,
    /// As asked.
    pub name: String,
    /// Why the default is what it is.
    pub because: String,
    /// The answer where nothing speaks for another: the first one named, unless this says which.
    usual: Option<String>,
    /// The answers.
    pub schools: Vec<School>,
    #[serde(default)]
    on: Vec<String>,
    #[serde(default)]
    fixes: Vec<String>,
    #[serde(default)]
    causes: Vec<String>,
    #[serde(default)]
    when: Vec<Condition>,
}

/// One answer.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct School {
    /// Stable id; a figure where the question asks for one.
    pub id: String,
    /// In plain words.
    pub name: String,
    /// What those who work this way say.
    pub says: String,
}

impl Question {
    /// The school with this id, or with this letter: `a` for the first.
    #[must_use]
    pub fn school(&'static self, id: &str) -> Option<&'static School> {
        let letter = |i: usize| {
            char::from_u32(u32::from(b'a') + i as u32).is_some_and(|c| id.eq_ignore_ascii_case(&c.to_string()))
        };
        self.schools.iter().enumerate().find(|(i, s)| s.id == id || letter(*i)).map(|(_, s)| s)
    }

    /// The school where nothing speaks for another.
    #[must_use]
    pub fn usual(&'static self) -> &'static School {
        self.usual.as_deref().and_then(|id| self.school(id)).unwrap_or(&self.schools[0])
    }

    /// Whether it is a question on this building with this plan.
    #[must_use]
    pub fn is_asked(&self, s: &super::Situation) -> bool {
        among(&self.on, s.case.structure)
            && (self.fixes.iter().any(|f| s.plan.contains(f.as_str()))
                || self.causes.iter().any(|c| s.causes.contains(&c.as_str()))
                || self.when.iter().any(|w| w.holds(s)))
    }
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    question: Vec<Question>,
}

#[allow(clippy::expect_used, reason = "the table is compiled in and read by a test")]
static QUESTIONS: LazyLock<Vec<Question>> = LazyLock::new(|| {
    toml::from_str::<File>(include_str!("../../data/schools.toml")).expect("schools.toml is well formed").question
});

/// Every question.
#[must_use]
pub fn questions() -> &'static [Question] {
    &QUESTIONS
}

/// The question with this id.
#[must_use]
pub fn question(id: &str) -> Option<&'static Question> {
    QUESTIONS.iter().find(|q| q.id == id)
}

/// The school chosen for each question.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Choices(BTreeMap<&'static str, &'static str>);

impl Choices {
    /// What is chosen, and for the rest what the case points to.
    #[must_use]
    pub fn of(case: &Case, chosen: &BTreeMap<&'static str, &'static str>) -> Self {
        let of = |q: &'static Question| {
            (q.id.as_str(), chosen.get(q.id.as_str()).copied().unwrap_or_else(|| default(q, case)))
        };
        Self(QUESTIONS.iter().map(of).collect())
    }

    /// The school for a question.
    #[must_use]
    pub fn get(&self, question: &str) -> Option<&'static str> {
        self.0.get(question).copied()
    }

    /// The same for a question whose answers are figures, %.
    #[must_use]
    pub fn percent(&self, question: &str) -> Option<f64> {
        self.get(question)?.parse().ok()
    }
}

/// The school a case points to.
#[must_use]
pub fn default(question: &'static Question, case: &Case) -> &'static str {
    let climate = case.word_of("climate").and_then(Climate::from_id);
    let drier_outside = case.figure_of("outdoor_dew_c").zip(case.figure_of("air_dew_c")).map(|(out, air)| out < air);
    let logged = case.word_of("two_week_log");
    let second = match question.id.as_str() {
        "crawl_space" => {
            case.structure == Structure::CrawlSealed
                || match (climate, logged) {
                    (_, Some(result)) => result == "outdoor_wetter",
                    (Some(c), None) => year(c).damp_months() >= TOO_DAMP,
                    (None, None) => drier_outside == Some(false),
                }
        }
        "rh_ceiling" => ["growth_visible", "mold_on_sheathing"].iter().any(|id| case.has(id)),
        "wet_structure" => {
            let humid = logged == Some("outdoor_wetter") || climate == Some(Climate::HotHumid);
            drier_outside.map_or(humid, |drier| !drier)
        }
        "interior_retarder" => climate == Some(Climate::Cold),
        "stained_sheathing" => true,
        _ => false,
    };
    if second { &question.schools[1].id } else { &question.usual().id }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_usual_school_is_one_of_the_questions_own() {
        let named = |q: &'static Question| q.usual.as_deref().is_none_or(|id| q.usual().id == id);
        assert!(questions().iter().all(named));
        let attic = Case::new(Structure::Attic);
        let usual = Choices::of(&attic, &BTreeMap::new());
        let limits = crate::limits::Limits::default();
        assert_eq!(usual.percent("wood_goal"), Some(limits.percent(crate::limits::Limited::WoodGoal)));
    }
}
