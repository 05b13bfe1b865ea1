//! Passwords: argon2id, off the async threads, a few at a time.

use crate::error::Failure;
use crate::state::App;
use argon2::{Argon2, PasswordHasher, PasswordVerifier};
use language::Language;
use std::sync::Arc;
use tokio::sync::Semaphore;

/// Verifies passwords, bounded so that a burst of sign-ins cannot take all memory.
#[derive(Clone)]
pub struct Passwords {
    turns: Arc<Semaphore>,
}

/// Hash of no password, for accounts that do not exist: the answer takes as long as for those that do.
const NOBODY: &str = "$argon2id$v=19$m=19456,t=2,p=1$Z3V0dGVyYWwtbm9ib2R5$m1oPBJYu8eEXsCgFqDfJVFbvxzPp1XvJQZbYJt2ujRw";

/// An argon2id PHC string for a password.
///
/// # Errors
/// When the system gives no randomness for the salt.
pub fn hash_password(password: &str) -> Result<String, String> {
    Argon2::default().hash_password(password.as_bytes()).map(|h| h.to_string()).map_err(|e| e.to_string())
}

/// Fewest characters of a password, and most bytes.
pub const SHORTEST: usize = 12;
const LONGEST: usize = 1000;

/// A password as it is kept, off the async threads and in turn; what is wrong with it otherwise.
pub async fn hash_later(app: &App, password: &str, tongue: Language) -> Result<Result<String, String>, Failure> {
    let length = password.chars().count();
    if length < SHORTEST {
        return Ok(Err(tongue.say_with("password-short", &[("least", SHORTEST.into()), ("n", length.into())])));
    }
    if password.len() > LONGEST {
        return Ok(Err(tongue.say("password-long")));
    }
    app.passwords.hash(password.to_owned()).await.map(Ok)
}

impl Passwords {
    pub fn new() -> Self {
        Self { turns: Arc::new(Semaphore::new(2)) }
    }

    /// A password as it is kept.
    async fn hash(&self, password: String) -> Result<String, Failure> {
        let defect = |e: &dyn std::fmt::Display| Failure::Defect(format!("password: {e}"));
        let _turn = self.turns.acquire().await.map_err(|e| defect(&e))?;
        let hashed = tokio::task::spawn_blocking(move || hash_password(&password)).await.map_err(|e| defect(&e))?;
        hashed.map_err(|e| defect(&e))
    }

    /// Whether `password` matches; `None` stands for an account that does not exist and never does.
    pub async fn verify(&self, password: String, hash: Option<String>) -> Result<bool, Failure> {
        let defect = |e: &dyn std::fmt::Display| Failure::Defect(format!("password check: {e}"));
        let _turn = self.turns.acquire().await.map_err(|e| defect(&e))?;
        let exists = hash.is_some();
        let hash = hash.unwrap_or_else(|| NOBODY.to_owned());
        let matches = tokio::task::spawn_blocking(move || {
            argon2::PasswordHash::new(&hash)
                .is_ok_and(|parsed| Argon2::default().verify_password(password.as_bytes(), &parsed).is_ok())
        });
        Ok(matches.await.map_err(|e| defect(&e))? && exists)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[tokio::test]
    async fn the_stand_in_hash_is_well_formed_and_an_unknown_account_never_matches() {
        assert!(argon2::PasswordHash::new(NOBODY).is_ok(), "a malformed hash would answer at once and tell");
        assert!(!Passwords::new().verify("anything".into(), None).await.unwrap_or(true));
    }
}
