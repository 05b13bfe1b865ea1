//! The second factor: codes of an authenticator (RFC 6238), and spare codes that count once.
//!
//! No secret is kept. It follows from the program’s own and a random word in the person’s row, so that a copy of the database alone
//! makes no codes.

use super::{csrf, fresh_secret};
use crate::error::Failure;
use crate::state::App;
use totp_rs::{Algorithm, TOTP};
use uuid::Uuid;

/// Digits of a code, seconds it stands, and steps it may be early or late: what every authenticator takes.
const DIGITS: usize = 6;
const STEP: u64 = 30;
const SKEW: u8 = 1;
/// Spare codes made at once.
const SPARE: usize = 8;

/// A second factor of somebody.
pub struct Second(TOTP);

impl Second {
    /// From the word in their row.
    pub fn of(app: &App, person: Uuid, email: &str, word: &str) -> Result<Self, Failure> {
        let mark = csrf::mark(app, &format!("second {person} {word}"))?;
        // 32 characters of a keyed hash: 192 bits.
        let secret = mark.as_bytes().iter().copied().take(32).collect();
        let name = email.replace(':', " ");
        TOTP::new(Algorithm::SHA1, DIGITS, SKEW, STEP, secret, Some("Gutteral".into()), name)
            .map(Self)
            .map_err(|e| Failure::Defect(format!("second factor: {e}")))
    }

    /// A fresh word to make one from.
    pub fn fresh() -> Result<String, Failure> {
        fresh_secret()
    }

    /// The step a code is of, at a moment in seconds since 1970; none where it is of no step about then.
    pub fn step(&self, code: &str, at: u64) -> Option<i64> {
        let code: String = code.chars().filter(|c| !c.is_whitespace()).collect();
        let near = (at / STEP).saturating_sub(u64::from(SKEW))..=at / STEP + u64::from(SKEW);
        let is = |step: &u64| constant_time(self.0.generate(step * STEP).as_bytes(), code.as_bytes());
        near.into_iter().rev().find(is).and_then(|step| i64::try_from(step).ok())
    }

    /// What is typed into an authenticator by hand.
    pub fn typed(&self) -> String {
        let secret = self.0.get_secret_base32();
        secret.as_bytes().chunks(4).map(|c| String::from_utf8_lossy(c).into_owned()).collect::<Vec<_>>().join(" ")
    }

    /// What an authenticator’s camera reads, as a path over squares: how many to a side, and the dark ones.
    pub fn squares(&self) -> Result<(usize, String), Failure> {
        let code =
            qrcode::QrCode::new(self.0.get_url().as_bytes()).map_err(|e| Failure::Defect(format!("code: {e}")))?;
        let (side, dark) = (code.width(), code.to_colors());
        let square = |(i, c): (usize, &qrcode::Color)| {
            (*c == qrcode::Color::Dark).then(|| format!("M{} {}h1v1h-1z", i % side + 4, i / side + 4))
        };
        Ok((side + 8, dark.iter().enumerate().filter_map(square).collect()))
    }
}

/// Spare codes, to be written down.
pub fn spare() -> Result<Vec<String>, Failure> {
    (0..SPARE)
        .map(|_| {
            let mut bytes = [0_u8; 10];
            getrandom::fill(&mut bytes).map_err(|e| Failure::Defect(format!("no randomness: {e}")))?;
            // 32 signs that are not taken for one another.
            let sign = |b: &u8| char::from(b"abcdefghjkmnpqrstuvwxyz234567892"[usize::from(b % 32)]);
            let signs: String = bytes.iter().map(sign).collect();
            Ok(format!("{}-{}", &signs[..5], &signs[5..]))
        })
        .collect()
}

/// A code as typed, as it is kept.
pub fn spare_as_kept(typed: &str) -> String {
    typed.trim().to_lowercase()
}

fn constant_time(a: &[u8], b: &[u8]) -> bool {
    a.len() == b.len() && a.iter().zip(b).fold(0, |d, (x, y)| d | (x ^ y)) == 0
}

#[cfg(test)]
mod tests {
    use super::*;

    /// RFC 6238, appendix B: SHA-1, the secret “12345678901234567890”, the last six of eight digits.
    #[test]
    fn codes_are_those_of_the_standard() -> Result<(), String> {
        let secret = b"12345678901234567890".to_vec();
        let made = TOTP::new(Algorithm::SHA1, DIGITS, SKEW, STEP, secret, None, "x".into());
        let second = Second(made.map_err(|e| e.to_string())?);
        for (at, code) in [(59, "287082"), (1_111_111_109, "081804"), (2_000_000_000, "279037")] {
            assert_eq!(second.step(code, at), i64::try_from(at / STEP).ok());
            // A step early or late is taken, two are not.
            assert!(second.step(code, at + STEP).is_some() && second.step(code, at + 3 * STEP).is_none());
        }
        assert_eq!(second.step("287 082", 59), Some(1));
        Ok(())
    }
}
