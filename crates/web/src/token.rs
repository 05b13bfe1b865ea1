//! What a form carries to show that it is ours.

/// Name of the hidden field.
pub const FIELD: &str = "csrf";

/// The token a page's forms carry.
#[derive(Clone)]
pub struct Token(pub String);

impl std::fmt::Debug for Token {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str("Token")
    }
}
