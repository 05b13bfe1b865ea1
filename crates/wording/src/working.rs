//! How a figure came about.

/// A figure's origin: what went in, how, and from where.
#[derive(Clone, Debug)]
pub struct Working {
    /// What it works out.
    pub title: String,
    /// How.
    pub formula: String,
    /// What went in.
    pub inputs: Vec<String>,
    /// Where the formula comes from.
    pub source: String,
    /// The same computation in the calculator, to try other figures.
    pub link: Option<String>,
}
