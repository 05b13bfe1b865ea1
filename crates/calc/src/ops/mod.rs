//! The operations: keys in, core called, keys out.

mod air;
mod assembly;
mod bench;
mod machine;
mod mold;
mod space;
mod surface;
mod wood;

use crate::input::{Fault, Input};
use serde_json::{Map, Value};

/// What an operation answers: its keys, or what is wrong.
pub type Answer = Result<Map<String, Value>, Fault>;

/// An operation.
pub type Operation = fn(&Input) -> Answer;

/// Every operation by its name.
pub const OPERATIONS: [(&str, Operation); 16] = [
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
];

fn fields(value: Value) -> Map<String, Value> {
    match value {
        Value::Object(map) => map,
        _ => Map::new(),
    }
}
