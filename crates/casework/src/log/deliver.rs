//! Telling other programs what happened: signed, and again where they do not take it.
//!
//! A letter is signed as Standard Webhooks 1.0.0 has it (`standardwebhooks.com`, from memory): the HMAC-SHA256 of
//! `id.timestamp.body` by the secret, in base64, behind `v1,`.

use super::WorkError;
use crate::outside::{Outside, OutsideError, Telling};
use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use chrono::{DateTime, TimeDelta, Utc};
use hmac::{Hmac, KeyInit, Mac};
use sha2::Sha256;
use store::{Delivery, Store};
use uuid::Uuid;

/// How long until the next try after the first, the second and so on; after the last it is given up.
const WAITS: [TimeDelta; 7] = [
    TimeDelta::seconds(10),
    TimeDelta::minutes(1),
    TimeDelta::minutes(5),
    TimeDelta::minutes(30),
    TimeDelta::hours(2),
    TimeDelta::hours(8),
    TimeDelta::hours(24),
];
/// Longest that is kept of why it was not taken, characters.
const LONGEST: usize = 300;

/// What a secret begins with; the key follows in base64.
const PREFIX: &str = "whsec_";

/// A secret of these bytes, as the standard writes it.
#[must_use]
pub fn secret_of(key: &[u8]) -> String {
    format!("{PREFIX}{}", STANDARD.encode(key))
}

/// What a letter is signed with.
#[must_use]
pub fn signature(secret: &str, id: &str, at: i64, body: &str) -> String {
    let key = secret.strip_prefix(PREFIX).and_then(|key| STANDARD.decode(key).ok());
    // A key of any length is one.
    let key = key.as_deref().unwrap_or(secret.as_bytes());
    let Ok(mut mac) = Hmac::<Sha256>::new_from_slice(key) else { return String::new() };
    mac.update(format!("{id}.{at}.{body}").as_bytes());
    format!("v1,{}", STANDARD.encode(mac.finalize().into_bytes()))
}

/// Tells one program one thing; says when to try again where it was not taken.
pub(super) async fn deliver(
    store: &Store,
    practice: Uuid,
    id: Uuid,
    outside: &impl Outside,
) -> Result<Option<TimeDelta>, WorkError> {
    let scope = store.practice(practice).await?;
    let Some((letter, to)) = scope.delivery(id).await? else { return Ok(None) };
    drop(scope);
    let (at, name) = (Utc::now(), id.to_string());
    let signature = signature(&to.secret, &name, at.timestamp(), &letter.body);
    let telling = Telling { url: to.url, id: name, at: at.timestamp(), signature, body: letter.body.clone() };
    let answer = outside.tell(&telling).await;
    let (letter, wait) = after(letter, answer, at);
    let scope = store.practice(practice).await?;
    scope.note_delivery(letter).await?;
    scope.commit().await?;
    Ok(wait)
}

/// A letter after a try, and how long until the next.
fn after(letter: Delivery, answer: Result<u16, OutsideError>, at: DateTime<Utc>) -> (Delivery, Option<TimeDelta>) {
    let tried = usize::try_from(letter.tries).unwrap_or(0);
    let taken = answer.as_ref().is_ok_and(|status| (200..300).contains(status));
    // Gone is gone: who answers so wants to be told nothing more of this.
    let refused = answer.as_ref().is_ok_and(|status| *status == 410);
    let wait = WAITS.get(tried).copied().filter(|_| !taken && !refused);
    let said = match &answer {
        Ok(status) if taken => format!("taken: {status}"),
        Ok(status) => format!("answered {status}"),
        Err(e) => e.to_string(),
    };
    let letter = Delivery {
        tries: letter.tries + 1,
        next_at: wait.map(|wait| at + wait),
        done_at: taken.then_some(at),
        status: answer.ok().map(i32::from),
        said: said.chars().take(LONGEST).collect(),
        ..letter
    };
    (letter, wait)
}

#[cfg(test)]
mod tests {
    use super::*;
    use store::EventKind;

    #[test]
    #[allow(clippy::unwrap_used, reason = "tests")]
    fn what_is_not_taken_is_sent_later_and_later_and_then_given_up() {
        let at = Utc::now();
        let mut letter = Delivery {
            id: Uuid::now_v7(),
            webhook_id: Uuid::now_v7(),
            job_id: None,
            event: EventKind::JobOpened,
            body: "{}".into(),
            made_at: at,
            tries: 0,
            next_at: Some(at),
            done_at: None,
            status: None,
            said: String::new(),
        };
        let mut waits = Vec::new();
        for n in 0..=WAITS.len() {
            let answer = if n % 2 == 0 { Ok(503) } else { Err(OutsideError::Away("nobody answers".into())) };
            let wait;
            (letter, wait) = after(letter, answer, at);
            waits.extend(wait);
            assert_eq!(letter.next_at, wait.map(|w| at + w));
        }
        assert!(
            waits.is_sorted() && waits.len() == WAITS.len() && letter.next_at.is_none() && letter.done_at.is_none()
        );
        let (taken, wait) = after(letter.clone(), Ok(204), at);
        assert!(wait.is_none() && taken.done_at == Some(at));
        assert!(after(Delivery { tries: 0, ..letter }, Ok(410), at).1.is_none());
    }

    #[test]
    fn a_letter_is_signed_as_the_standard_has_it() {
        // By the command line of OpenSSL 3: printf 'm.1.{}' | openssl dgst -sha256 -hmac Jefe -binary | base64.
        assert_eq!(signature(&secret_of(b"Jefe"), "m", 1, "{}"), "v1,dJiPULxCGYuqbBGlDdWu8JQq56hkJxVLAz5gyuB3Rt0=");
    }
}
