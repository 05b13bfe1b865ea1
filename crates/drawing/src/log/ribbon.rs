//! A row of the ribbon: how a surface stood, hour by hour.

use super::{LEFT, Sheet};
use crate::{DropMark, Px};
use hygrothermal::surface::Verdict;
use judgment::picture::severity;

/// A stretch of hours that stood alike.
pub struct Run {
    /// Its left end.
    pub x: Px,
    /// How wide it is.
    pub width: Px,
    /// How it stood.
    pub mark: DropMark,
}

/// Stretches of hours; where several hours share a column the worst of them shows.
#[must_use]
pub fn ribbon(sheet: Sheet, stood: &[Option<Verdict>]) -> Vec<Run> {
    let each = sheet.each(stood.len());
    let columns: Vec<Option<Verdict>> =
        stood.chunks(each).map(|c| c.iter().flatten().copied().max_by_key(|v| severity(*v))).collect();
    let x = |i: usize| LEFT + (sheet.end() - LEFT) * ((i * each).min(stood.len())) as f64 / stood.len().max(1) as f64;
    let mut out = Vec::new();
    let mut start = 0;
    for i in 1..=columns.len() {
        if i < columns.len() && columns[i] == columns[start] {
            continue;
        }
        if let Some(verdict) = columns[start] {
            out.push(Run { x: Px(x(start)), width: Px(x(i) - x(start)), mark: verdict.into() });
        }
        start = i;
    }
    out
}
