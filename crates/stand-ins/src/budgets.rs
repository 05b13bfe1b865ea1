//! The demo's time tables.

use building::timetable::Block;
use serde::Deserialize;

/// A time table of a demo job.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct DemoBudget {
    /// Name of the job.
    pub job: String,
    /// Name of the space.
    pub space: String,
    /// The ready time table it begins from.
    pub ready: String,
    /// What it is called, where not as the ready one.
    #[serde(default)]
    pub name: String,
    /// A usual day of this month stands outdoors.
    pub month: u8,
    /// What goes on beside.
    pub more: Vec<Block>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    budget: Vec<DemoBudget>,
}

/// The demo's time tables.
///
/// # Errors
/// What is wrong with the shipped table, in words.
pub fn budgets() -> Result<Vec<DemoBudget>, String> {
    toml::from_str::<File>(include_str!("../data/budgets.toml")).map(|f| f.budget).map_err(|e| e.to_string())
}
