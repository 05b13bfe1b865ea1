//! Marks on a picture as lines, its width being 1000.

use photograph::{Mark, Shape};

/// A mark as lines.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct DrawnMark {
    /// Foot and tip of an arrow.
    pub arrow: Option<[i32; 4]>,
    /// Center and radius of a circle.
    pub circle: Option<[i32; 3]>,
    /// What it says.
    pub words: String,
    /// Where the words stand.
    pub at: (i32, i32),
    /// Whether they stand to the left of it.
    pub left: bool,
    /// How far below their line.
    pub down: i32,
}

/// A mark as lines.
#[must_use]
pub fn drawn(mark: Mark) -> DrawnMark {
    let words = mark.words;
    match mark.shape {
        // Words stand at the foot of an arrow, away from its shaft, or beside a circle, on the side where there is room.
        Shape::Arrow { from, to } => DrawnMark {
            arrow: Some([from.0, from.1, to.0, to.1]),
            circle: None,
            words,
            at: from,
            left: from.0 > 700 || (from.0 < to.0 && from.0 > 250),
            down: if to.1 < from.1 { 42 } else { -16 },
        },
        Shape::Circle { at, r } => {
            let left = at.0.saturating_add(r) > 700;
            let x = if left { at.0.saturating_sub(r) } else { at.0.saturating_add(r) };
            DrawnMark { arrow: None, circle: Some([at.0, at.1, r]), words, at: (x, at.1), left, down: 10 }
        }
    }
}
