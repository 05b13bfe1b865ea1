//! Arrows and circles over a picture, kept as data: the picture stays as it was taken.

use serde::{Deserialize, Serialize};

/// Most marks on a picture.
pub const MOST_MARKS: usize = 30;
/// Longest words at a mark, characters.
pub const LONGEST_WORDS: usize = 60;

/// Longest JSON that so many marks can have, bytes.
const LONGEST_JSON: usize = MOST_MARKS * 1000;

/// Height of a picture of this size in thousandths of its width, as marks count it.
#[must_use]
pub fn tall((width, height): (u32, u32)) -> i32 {
    i32::try_from(1000 * u64::from(height) / u64::from(width.max(1))).unwrap_or(i32::MAX)
}

/// A mark. Lengths are thousandths of the width of the picture as it is looked at, from its upper left corner.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Mark {
    /// What is drawn.
    #[serde(flatten)]
    pub shape: Shape,
    /// Said beside it.
    #[serde(default)]
    pub words: String,
}

/// What is drawn.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "lowercase")]
pub enum Shape {
    /// An arrow, its point at `to`.
    Arrow {
        /// Where it comes from.
        from: (i32, i32),
        /// What it shows.
        to: (i32, i32),
    },
    /// A circle.
    Circle {
        /// Its middle.
        at: (i32, i32),
        /// Its radius.
        r: i32,
    },
}

impl Mark {
    /// Marks from the JSON a page sends, for a picture of this size in pixels.
    ///
    /// # Errors
    /// In words, when they are no marks, too many, or outside the picture.
    pub fn parse(json: &str, (width, height): (u32, u32)) -> Result<Vec<Self>, String> {
        if json.trim().is_empty() {
            return Ok(Vec::new());
        }
        if json.len() > LONGEST_JSON {
            return Err(format!("There are too many marks; {MOST_MARKS} at most."));
        }
        let marks: Vec<Self> = serde_json::from_str(json).map_err(|_| "The marks cannot be read.".to_owned())?;
        if marks.len() > MOST_MARKS {
            return Err(format!("There are {} marks; {MOST_MARKS} at most.", marks.len()));
        }
        let bottom = tall((width, height)).saturating_add(1);
        let inside = |(x, y): (i32, i32)| (0..=1000).contains(&x) && (0..=bottom).contains(&y);
        for mark in &marks {
            let whole = match mark.shape {
                Shape::Arrow { from, to } => inside(from) && inside(to) && from != to,
                Shape::Circle { at, r } => inside(at) && (1..=1000).contains(&r),
            };
            if !whole {
                return Err("A mark lies outside the picture or has no size.".into());
            }
            if mark.words.chars().any(char::is_control) {
                return Err("The words at a mark are one line, without control characters.".into());
            }
            if mark.words.chars().count() > LONGEST_WORDS {
                return Err(format!("The words at a mark may have {LONGEST_WORDS} characters."));
            }
        }
        Ok(marks)
    }
}
