//! Conditions of the plan's tables: `soil_bare`, `!soil_bare`, `level_check=falls_away`, `wood_mc_pct>=wood_goal`.

use super::Situation;
use crate::cause::evidence;
use crate::finding::{finding, test};
use serde::Deserialize;

/// Something that holds or does not; what is unknown does not hold, and neither does its contrary.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(try_from = "String")]
pub enum Condition {
    /// It was found.
    There(String),
    /// It was looked for and is not there.
    NotThere(String),
    /// A test's latest result, a context's word, or the school chosen.
    Is(String, String),
    /// A figure of at least this.
    AtLeast(String, Limit),
    /// A figure under this.
    Under(String, Limit),
}

/// What a figure is held against.
#[derive(Debug, Clone, PartialEq)]
pub enum Limit {
    /// A fixed figure.
    Figure(f64),
    /// The figure of the school chosen for a question.
    Chosen(String),
}

impl TryFrom<String> for Condition {
    type Error = String;

    fn try_from(text: String) -> Result<Self, String> {
        let limit = |t: &str| t.parse().map_or_else(|_| Limit::Chosen(t.into()), Limit::Figure);
        let read = if let Some((id, figure)) = text.split_once(">=") {
            Self::AtLeast(id.into(), limit(figure))
        } else if let Some((id, figure)) = text.split_once('<') {
            Self::Under(id.into(), limit(figure))
        } else if let Some((id, word)) = text.split_once('=') {
            Self::Is(id.into(), word.into())
        } else if let Some(id) = text.strip_prefix('!') {
            Self::NotThere(id.into())
        } else {
            Self::There(text.clone())
        };
        let plain = |s: &str| !s.is_empty() && s.chars().all(|c| c.is_ascii_alphanumeric() || c == '_');
        if plain(read.about()) { Ok(read) } else { Err(format!("not a condition: {text}")) }
    }
}

/// A measured figure's name, with its unit in front of which a number stands.
const FIGURES: [(&str, &str, &str); 9] = [
    ("wood_mc_pct", "Wood moisture", " %"),
    ("air_rh_pct", "Relative humidity", " %"),
    ("surface_rh_pct", "Relative humidity at the worst surface", " %"),
    ("surface_c", "The coldest surface", " °C"),
    ("worst_margin_c", "The worst surface’s margin above the dew point", " K"),
    ("dehumidifier_l_day", "The dehumidifier’s water", " L/day"),
    ("dehumidifier_days", "The dehumidifier’s time under test", " days"),
    ("growth_area_m2", "The area of growth", " m²"),
    ("occupants", "People living there", ""),
];

/// What a figure is called, and its unit.
#[must_use]
pub fn figure_name(id: &str) -> (&str, &str) {
    FIGURES.iter().find(|f| f.0 == id).map_or((id, ""), |f| (f.1, f.2))
}

fn name_of(id: &str) -> &str {
    finding(id).map(|f| f.name.as_str()).or_else(|| test(id).map(|t| t.name.as_str())).unwrap_or(id)
}

impl Condition {
    /// Id of what it is about.
    #[must_use]
    pub fn about(&self) -> &str {
        match self {
            Self::There(id) | Self::NotThere(id) | Self::Is(id, _) | Self::AtLeast(id, _) | Self::Under(id, _) => id,
        }
    }

    /// Whether it holds.
    #[must_use]
    pub fn holds(&self, s: &Situation) -> bool {
        let figure = |id: &str, limit: &Limit| Some((s.case.figure_of(id)?, s.limit(limit)?));
        match self {
            Self::There(id) => s.case.has(id),
            Self::NotThere(id) => s.case.lacks(id),
            Self::Is(id, word) => s.word(id) == Some(word),
            Self::AtLeast(id, limit) => figure(id, limit).is_some_and(|(x, limit)| x >= limit),
            Self::Under(id, limit) => figure(id, limit).is_some_and(|(x, limit)| x < limit),
        }
    }

    /// Whether what it rests on can be trusted: a figure by an unchecked hygrometer opens nothing.
    #[must_use]
    pub fn is_trusted(&self, s: &Situation) -> bool {
        s.case.trusts(self.about())
    }

    /// How things stand where it holds, as a sentence without its full stop.
    #[must_use]
    pub fn stands(&self, s: &Situation) -> String {
        let (name, unit) = figure_name(self.about());
        let figure = s.case.figure_of(self.about()).unwrap_or(f64::NAN);
        let limit = |l: &Limit| s.limit(l).unwrap_or(f64::NAN);
        match self {
            Self::There(id) => format!("{}: still there", name_of(id)),
            Self::NotThere(id) => format!("{}: not there", name_of(id)),
            Self::Is(id, word) => {
                let result = test(id).and_then(|t| t.result(word)).map(|r| r.0);
                let said = evidence(id).and_then(|e| e.outcomes.iter().find(|o| s.is_word(&o.when, word)));
                format!("{}: {}", name_of(id), result.or(said.map(|o| o.words.as_str())).unwrap_or(word).to_lowercase())
            }
            Self::AtLeast(_, l) => format!("{name} is {}{unit}, must be under {}{unit}", tidy(figure), tidy(limit(l))),
            Self::Under(_, l) => format!("{name} is {}{unit}, must be at least {}{unit}", tidy(figure), tidy(limit(l))),
        }
    }
}

/// A figure without needless decimals.
fn tidy(x: f64) -> String {
    let text = format!("{x:.1}");
    text.strip_suffix(".0").unwrap_or(&text).replace('-', "−")
}
