//! The operations: keys in, core called, keys out.

/// `fields!({ "key": value, … })`: an answer's keys, written as in JSON.
macro_rules! fields {
    ({ $($key:literal: $value:expr),* $(,)? }) => {
        vec![$(($key, serde_json::json!($value))),*]
    };
}

mod air;
mod assembly;
mod bench;
mod hours;
mod judge;
mod machine;
mod mold;
mod space;
mod spans;
mod surface;
mod wood;

use crate::input::{Fault, Input};
use serde_json::Value;

/// Keys and values of an answer, in the order of the contract. A list rather than a map: nobody looks a key up in it,
/// and building maps took half the time of a run.
pub type Fields = Vec<(&'static str, Value)>;

/// What an operation answers: its keys, or what is wrong.
pub type Answer = Result<Fields, Fault>;

/// An operation.
pub type Operation = fn(&Input) -> Answer;

/// An operation with what it costs, in units of about ten microseconds of one core: so much whatever is asked, and so much
/// for each JSON value of the request. Measured, rounded up.
pub struct Op {
    pub name: &'static str,
    pub run: Operation,
    pub fixed: u64,
    pub each: u64,
}

const fn op(name: &'static str, run: Operation, fixed: u64, each: u64) -> Op {
    Op { name, run, fixed, each }
}

/// Every operation.
pub const OPERATIONS: [Op; 25] = [
    op("air", air::air, 6, 1),
    op("surface", surface::surface, 6, 1),
    op("infrared", surface::infrared, 6, 1),
    op("thermal_grid", surface::thermal_grid, 10, 1),
    op("emc", wood::emc, 6, 1),
    op("compare_air", space::compare_air, 6, 1),
    op("budget", space::budget, 6, 1),
    op("assembly", assembly::assembly, 10, 1),
    op("assembly_year", assembly::assembly_year, 50, 2),
    op("drying_potential", assembly::drying_potential, 20, 1),
    op("mold_index", mold::mold_index, 6, 1),
    op("insulation_for", surface::insulation_for, 6, 1),
    op("attic_vents", machine::attic_vents, 6, 1),
    op("exhaust_duct", machine::exhaust_duct, 800, 1),
    op("dehumidifier", machine::dehumidifier, 6, 1),
    op("drying_fit", wood::drying_fit, 20, 2),
    op("calibrate", bench::calibrate, 6, 1),
    op("coverage", bench::coverage, 6, 1),
    op("log_hours", hours::log_hours, 10, 1),
    op("vent_hours", hours::vent_hours, 10, 1),
    op("budget_hours", hours::budget_hours, 10, 1),
    op("coating_window", spans::coating_window, 10, 1),
    op("proof", spans::proof, 200, 2),
    op("diagnose", judge::diagnose, 300, 1),
    op("plan", judge::plan, 600, 1),
];
