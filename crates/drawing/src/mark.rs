//! The drop mark: a verdict's fill level, symbol and word, the same on screen, in print and in exports.

use hygrothermal::surface::Verdict;

/// A verdict's drop mark: id of the symbol, and its word.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct DropMark {
    /// Id of the symbol: `wet`, `mold`, `dry`, `unsure` or `none`.
    pub symbol: &'static str,
    /// Its word.
    pub word: &'static str,
}

impl DropMark {
    /// Nothing was judged.
    pub const NONE: Self = Self { symbol: "none", word: "not judged" };
}

impl From<Verdict> for DropMark {
    fn from(v: Verdict) -> Self {
        match v {
            Verdict::Condensing => Self { symbol: "wet", word: "condensing" },
            Verdict::Uncertain => Self { symbol: "unsure", word: "can’t tell" },
            Verdict::MoldRisk => Self { symbol: "mold", word: "mold risk" },
            Verdict::Dry => Self { symbol: "dry", word: "dry" },
        }
    }
}
