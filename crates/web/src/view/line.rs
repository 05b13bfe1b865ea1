//! The shorthand line as shown: its panel, and each entry previewed.

use drawing::DropMark;
use uuid::Uuid;

/// The shorthand line's panel.
#[derive(Default)]
pub struct LinePanel {
    pub text: String,
    pub preview: Vec<LineRow>,
    /// Doubts stand: offer to keep anyway.
    pub asked: bool,
    pub id: Uuid,
}

/// One entry of a line as previewed.
pub struct LineRow {
    pub mark: DropMark,
    pub good: bool,
    pub text: String,
    pub asked: Vec<String>,
    /// Stations to choose from, where the words fit several: what is shown, and what completes the line.
    pub choices: Vec<(String, String)>,
}
