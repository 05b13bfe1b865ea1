//! Limits of a standard or an approach, from one table: `data/limits.toml`.

use crate::plan::question;
use hygrothermal::wood::MeterReading;
use serde::Deserialize;
use std::collections::BTreeMap;
use std::sync::LazyLock;

building::kinds! {
    /// What is limited.
    Limited {
        /// Wood moisture below which wood may be closed in, %.
        WoodGoal = "wood_goal", "wood moisture to close in";
        /// Wood moisture below which wood may be insulated over, %.
        WoodOverInsulation = "wood_over_insulation", "wood moisture to insulate over";
        /// Wood moisture from which wood is wet, %.
        WoodWet = "wood_wet", "wet wood";
        /// Relative humidity of the air not to be passed, %.
        RhCeiling = "rh_ceiling", "ceiling of relative humidity";
        /// Relative humidity at a surface where mold becomes a risk, %.
        SurfaceRh = "surface_rh", "mold at a surface";
        /// A meter's own scale up to which a material is dry, % of what its dry standard shows.
        MapDry = "map_dry", "dry on a meter’s own scale";
        /// From which it is high, % of the dry standard.
        MapHigh = "map_high", "high on a meter’s own scale";
    }
}

/// A line of the table.
#[derive(Debug, Clone, Deserialize)]
pub struct LimitRow {
    /// What is limited.
    pub id: Limited,
    /// The figure, %.
    #[serde(flatten)]
    pub figure: LimitFigure,
    /// Where it comes from.
    pub source: String,
}

/// Where a limit's figure stands.
#[derive(Debug, Clone, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum LimitFigure {
    /// In the table, %.
    Percent(f64),
    /// With the approaches to a question: the one chosen, else the usual one.
    Question(String),
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    limit: Vec<LimitRow>,
}

#[allow(clippy::expect_used, reason = "the table is compiled in and read by a test")]
static TABLE: LazyLock<Vec<LimitRow>> = LazyLock::new(|| {
    toml::from_str::<File>(include_str!("../data/limits.toml")).expect("limits.toml is well formed").limit
});

/// Every limit.
#[must_use]
pub fn limits() -> &'static [LimitRow] {
    &TABLE
}

/// The limits a practice or a job works by.
///
/// ```
/// use judgment::limits::{Limited, Limits};
///
/// let usual = Limits::default();
/// let careful = Limits::of([("wood_goal", "13")]);
/// assert_eq!((usual.percent(Limited::WoodGoal), careful.percent(Limited::WoodGoal)), (15.0, 13.0));
/// assert_eq!(careful.fill("under {wood_goal} %"), "under 13 %");
/// ```
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Limits([f64; Limited::ALL.len()]);

impl Default for Limits {
    fn default() -> Self {
        Self::of([])
    }
}

impl Limits {
    /// By the approaches chosen, question and school; of two that answer the same the later counts.
    #[must_use]
    pub fn of<'a>(chosen: impl IntoIterator<Item = (&'a str, &'a str)>) -> Self {
        let chosen: BTreeMap<&str, &str> = chosen.into_iter().collect();
        let figure = |what: Limited| match &TABLE.iter().find(|r| r.id == what)?.figure {
            LimitFigure::Percent(x) => Some(*x),
            LimitFigure::Question(id) => {
                let asked = question(id)?;
                let school = chosen.get(id.as_str()).and_then(|id| asked.school(id));
                school.unwrap_or_else(|| asked.usual()).id.parse().ok()
            }
        };
        let mut all = [0.0; Limited::ALL.len()];
        for (at, what) in Limited::ALL.iter().enumerate() {
            all[at] = figure(*what).unwrap_or(f64::NAN);
        }
        Self(all)
    }

    /// A limit, %.
    #[must_use]
    pub fn percent(&self, what: Limited) -> f64 {
        self.0[what as usize]
    }

    /// A sentence of the tables with its limits written in: `under {wood_goal} %`.
    #[must_use]
    pub fn fill(&self, text: &str) -> String {
        let write = |text: String, what: &Limited| {
            let name = format!("{{{}}}", what.id());
            if text.contains(&name) { text.replace(&name, &self.percent(*what).to_string()) } else { text }
        };
        Limited::ALL.iter().fold(text.to_owned(), write)
    }

    /// What wood moisture means for closing in and for decay.
    #[must_use]
    pub fn wood(&self, value: MeterReading) -> WoodState {
        match value {
            MeterReading::Percent(m) if m.value < self.percent(Limited::WoodGoal) => WoodState::Dry,
            MeterReading::Percent(m) if m.value < self.percent(Limited::WoodWet) => WoodState::Damp,
            MeterReading::Percent(_) | MeterReading::Wet => WoodState::Wet,
        }
    }
}

/// What wood moisture means for closing in and for decay.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum WoodState {
    /// Under the goal: may be closed in.
    Dry,
    /// From the goal on: must not be closed in.
    Damp,
    /// Wet by most codes, or over fiber saturation: decay becomes possible.
    Wet,
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Every limit is in the table once, answers a question that is there, and the standard's own figure is the core's.
    #[test]
    fn the_table_is_whole() {
        for what in Limited::ALL {
            assert_eq!(TABLE.iter().filter(|r| r.id == *what).count(), 1, "{what:?}");
        }
        assert!(Limited::ALL.iter().all(|what| Limits::default().percent(*what) > 0.0), "each has its figure");
        let surface = Limits::default().percent(Limited::SurfaceRh);
        assert!((surface - hygrothermal::surface::MOLD_RH).abs() < 1e-12);
    }

    #[test]
    fn nothing_reads_dry_over_the_goal_of_the_practice() {
        let at = |value| MeterReading::Percent(hygrothermal::quantity::Measured { value, err: 1.0 });
        let (usual, careful) =
            (Limits::default(), Limits::of([("wood_goal", "13"), ("unknown", "1"), ("rh_ceiling", "x")]));
        assert_eq!((usual.wood(at(14.0)), careful.wood(at(14.0))), (WoodState::Dry, WoodState::Damp));
        assert_eq!(careful.wood(MeterReading::Wet), WoodState::Wet);
    }
}
