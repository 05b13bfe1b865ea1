//! Decisions about the demo's plans, and its invented prices.

use serde::Deserialize;
use std::collections::BTreeMap;

/// What was decided about a job's plan.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct DemoPlan {
    /// Name of the job.
    pub job: String,
    /// Schools chosen.
    #[serde(default)]
    pub school: Vec<DemoSchool>,
    /// Figures typed over.
    #[serde(default)]
    pub figure: Vec<DemoFigure>,
    /// Steps decided about.
    #[serde(default)]
    pub step: Vec<DemoStep>,
    /// What is on the calendar.
    #[serde(default)]
    pub follow_up: Vec<DemoFollowUp>,
    /// How boundaries are built, in variants.
    #[serde(default)]
    pub built: Vec<DemoBuilt>,
}

/// A way a boundary is, or could be, built.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct DemoBuilt {
    /// Name of the boundary.
    pub boundary: String,
    /// What it is called.
    pub name: String,
    /// Share of framing, %, and in which layers it stands, counted from 0.
    #[serde(default)]
    pub framing: Option<(f64, Vec<usize>)>,
    /// Material and thickness in mm, inside first.
    pub layers: Vec<(String, f64)>,
}

/// A school chosen.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct DemoSchool {
    /// Id of the question.
    pub question: String,
    /// Id of the school.
    pub choice: String,
    /// Why.
    pub reason: String,
}

/// A figure typed over, in SI.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct DemoFigure {
    /// Id of the fix.
    pub fix: String,
    /// Key of the figure.
    pub name: String,
    /// As it is kept.
    pub value: String,
}

/// A step decided about.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct DemoStep {
    /// Id of the fix.
    pub fix: String,
    /// Id of its stage.
    pub stage: Option<String>,
    /// Days since it was done.
    pub done: Option<i64>,
    /// Why it is left out.
    #[serde(default)]
    pub left_out: String,
    /// Why it was let through.
    #[serde(default)]
    pub override_reason: String,
}

/// Something on the calendar.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct DemoFollowUp {
    /// Id of the follow-up.
    pub what: String,
    /// Days until it is due.
    pub due_in: i64,
    /// Days since its plan was made.
    pub begun: i64,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Plans {
    plan: Vec<DemoPlan>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Prices {
    currency: String,
    price: BTreeMap<String, f64>,
}

/// Every plan of the demo.
///
/// # Errors
/// What is wrong with the shipped table, in words.
pub fn plans() -> Result<Vec<DemoPlan>, String> {
    toml::from_str::<Plans>(include_str!("../data/plans.toml")).map(|p| p.plan).map_err(|e| e.to_string())
}

/// The demo's currency and its prices in hundredths, by item.
///
/// # Errors
/// What is wrong with the shipped table, in words.
pub fn prices() -> Result<(String, BTreeMap<String, i64>), String> {
    let file: Prices = toml::from_str(include_str!("../data/prices.toml")).map_err(|e| e.to_string())?;
    Ok((file.currency, file.price.into_iter().map(|(item, x)| (item, (x * 100.0).round() as i64)).collect()))
}
