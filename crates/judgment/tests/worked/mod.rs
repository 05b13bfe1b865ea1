//! The worked cases, shared by the tests of causes and of plans.
#![allow(dead_code, reason = "each test looks at its own part of a case")]

use building::Structure;
use judgment::cause::{Case, When, evidence};
use serde::Deserialize;
use std::collections::BTreeMap;

#[derive(Deserialize)]
struct File {
    case: Vec<Worked>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Worked {
    pub name: String,
    pub structure: Structure,
    pub climate: Option<String>,
    pub season: Option<String>,
    #[serde(default)]
    pub when: Vec<String>,
    #[serde(default)]
    pub found: Vec<String>,
    #[serde(default)]
    pub absent: Vec<String>,
    #[serde(default)]
    pub figures: BTreeMap<String, f64>,
    #[serde(default)]
    pub tests: BTreeMap<String, String>,
    #[serde(default)]
    pub acts: Vec<String>,
    #[serde(default)]
    pub close: Vec<String>,
    #[serde(default)]
    pub unsure: Vec<String>,
    #[serde(default)]
    pub never: Vec<String>,
    #[serde(default)]
    pub flags: Vec<String>,
    #[serde(default)]
    pub left: Vec<String>,
    #[serde(default)]
    pub explained: Vec<String>,
    #[serde(default)]
    pub plan: Vec<String>,
    #[serde(default)]
    pub plan_licensed: Vec<String>,
    #[serde(default)]
    pub not_in_plan: Vec<String>,
    #[serde(default)]
    pub open: Vec<String>,
    #[serde(default)]
    pub shut: Vec<String>,
    #[serde(default)]
    pub refused: Vec<String>,
    #[serde(default)]
    pub order: Vec<String>,
}

impl Worked {
    pub fn case(&self) -> Case {
        let mut case = Case::new(self.structure);
        for (id, word) in [("climate", &self.climate), ("season", &self.season)] {
            word.iter().for_each(|w| case.word(id, w).unwrap());
        }
        self.when.iter().for_each(|w| case.word("trouble_when", w).unwrap());
        self.found.iter().for_each(|id| case.finding(id, true).unwrap());
        self.absent.iter().for_each(|id| case.finding(id, false).unwrap());
        // In the file the outdoor dew point is given against the inside air's, and masonry against a dry place.
        let mut figures = self.figures.clone();
        figures.entry("outdoor_dew_c".into()).and_modify(|x| *x += 10.0);
        figures.insert("air_dew_c".into(), 10.0);
        figures.insert("masonry_rel_dry".into(), 1.0);
        case.figures(&figures).unwrap();
        self.tests.iter().for_each(|(id, r)| case.word(id, r).unwrap());
        case
    }
}

/// A figure well within the band of a piece of evidence that ends at `limit`.
pub fn typical(id: &str, limit: f64) -> f64 {
    let e = evidence(id).unwrap();
    let figure = e.figure.unwrap();
    let below = e.outcomes.iter().filter_map(|o| match o.when {
        When::Under(l) if l < limit => Some(l),
        _ => None,
    });
    let low = below.fold(f64::NEG_INFINITY, f64::max);
    let [least, most] = figure.range;
    match (low.is_finite(), limit.is_finite()) {
        (true, true) => f64::midpoint(low, limit),
        (false, _) => (limit - 4.0 * figure.err).max(f64::midpoint(least, limit)),
        (true, false) => (low + 4.0 * figure.err).min(f64::midpoint(low, most)),
    }
}

/// Every worked case of the file.
pub fn cases() -> Vec<Worked> {
    toml::from_str::<File>(include_str!("../data/cases.toml")).unwrap().case
}
