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
mod judge;
mod machine;
mod mold;
mod space;
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

/// Every operation by its name.
pub const OPERATIONS: [(&str, Operation); 18] = [
    ("air", air::air),
    ("surface", surface::surface),
    ("infrared", surface::infrared),
    ("emc", wood::emc),
    ("compare_air", space::compare_air),
    ("budget", space::budget),
    ("assembly", assembly::assembly),
    ("assembly_year", assembly::assembly_year),
    ("mold_index", mold::mold_index),
    ("insulation_for", surface::insulation_for),
    ("attic_vents", machine::attic_vents),
    ("exhaust_duct", machine::exhaust_duct),
    ("dehumidifier", machine::dehumidifier),
    ("drying_fit", wood::drying_fit),
    ("calibrate", bench::calibrate),
    ("coverage", bench::coverage),
    ("diagnose", judge::diagnose),
    ("plan", judge::plan),
];
