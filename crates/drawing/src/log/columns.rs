//! Hours into the columns of a drawing: no spike is lost, however many hours a column holds.

/// What a column shows.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Cell {
    /// Mean of its hours.
    pub mean: f64,
    /// The lowest in it.
    pub low: f64,
    /// The highest.
    pub high: f64,
}

/// Hours, `each` of them to a column.
#[must_use]
pub fn columns(hours: &[Option<Cell>], each: usize) -> Vec<Option<Cell>> {
    let column = |hours: &[Option<Cell>]| {
        let known = || hours.iter().flatten();
        let n = known().count();
        (n > 0).then(|| Cell {
            mean: known().map(|c| c.mean).sum::<f64>() / n as f64,
            low: known().map(|c| c.low).fold(f64::INFINITY, f64::min),
            high: known().map(|c| c.high).fold(f64::NEG_INFINITY, f64::max),
        })
    };
    hours.chunks(each.max(1)).map(column).collect()
}
