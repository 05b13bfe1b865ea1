//! Who is asking, and whether the form is ours.

pub mod address;
pub mod csrf;
pub mod known;
pub mod password;
pub mod who;

pub use address::Address;
pub use who::Who;

/// A fresh secret of 256 bits, URL-safe.
pub fn fresh_secret() -> Result<String, crate::error::Failure> {
    use base64::Engine;
    let mut bytes = [0_u8; 32];
    getrandom::fill(&mut bytes).map_err(|e| crate::error::Failure::Defect(format!("no randomness: {e}")))?;
    Ok(base64::engine::general_purpose::URL_SAFE_NO_PAD.encode(bytes))
}
