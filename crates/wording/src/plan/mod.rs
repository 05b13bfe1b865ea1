//! A plan in words and figures.

mod amount;
mod detail;
mod report;
mod rows;

pub use amount::{CostRow, cost_row, figure, kind_of, price_factor, priced_for, sum};
pub use detail::{GateRow, GivenRow, PickRow, StepDetail, detail};
pub use report::{PlanReport, ReportStep};
pub use rows::*;
