//! Whether what was opened may be closed in again.

use super::point::{PointSaid, State};
use uuid::Uuid;

/// A point with what was said of it and whether the meters of its last two readings were checked.
pub struct PointClose<'a> {
    /// The point.
    pub id: Uuid,
    /// What was said.
    pub said: &'a PointSaid,
    /// Meters behind the readings that confirm it whose check nobody made or is too old.
    pub unchecked: Vec<Uuid>,
}

/// What is missing before a cavity may be closed in.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Lack {
    /// A point is not at its goal.
    Wet(Uuid),
    /// A point was read at its goal once: again a day later.
    Once(Uuid),
    /// A meter was not checked.
    Meter(Uuid),
    /// The source is not said to be stopped.
    Source,
    /// No sheet was dry on both sides for two days, where a slab or soil is closed in.
    Sheet,
}

/// What is missing; nothing where it may be closed in.
#[must_use]
pub fn lacks(points: &[PointClose<'_>], stopped: bool, sheet: Option<bool>) -> Vec<Lack> {
    let mut all: Vec<Lack> = points
        .iter()
        .filter_map(|p| match p.said.state {
            State::AtGoal { confirmed: true, .. } => None,
            State::AtGoal { .. } => Some(Lack::Once(p.id)),
            _ => Some(Lack::Wet(p.id)),
        })
        .collect();
    let mut meters: Vec<Uuid> = points.iter().flat_map(|p| p.unchecked.iter().copied()).collect();
    meters.sort_unstable();
    meters.dedup();
    all.extend(meters.into_iter().map(Lack::Meter));
    if !stopped {
        all.push(Lack::Source);
    }
    if sheet == Some(false) {
        all.push(Lack::Sheet);
    }
    all
}
