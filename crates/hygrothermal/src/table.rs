//! Tables compiled into the program.

use serde::de::DeserializeOwned;
use std::collections::BTreeMap;

/// The rows of a table, `[[name]]` by `[[name]]`. Every table is read by a test.
#[allow(clippy::expect_used, reason = "the text is compiled in and read by a test")]
pub fn rows<Row: DeserializeOwned>(text: &str) -> Vec<Row> {
    let tables: BTreeMap<String, Vec<Row>> = toml::from_str(text).expect("the table is well formed");
    tables.into_values().flatten().collect()
}
