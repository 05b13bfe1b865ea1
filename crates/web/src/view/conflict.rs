//! Two people changed the same thing: what is said to the second, and what they say to overwrite it.

use crate::auth::Who;
use crate::error::Failure;
use casework::conflict::{self, Seen, Shared};
use store::Scope;
use uuid::Uuid;

/// A change that came between, as told.
pub struct Conflict {
    /// What to say to keep one's own all the same.
    pub keep_anyway: Uuid,
    pub said: String,
}

/// Whether something came between what a form has seen and its being sent.
pub async fn between(
    who: &Who,
    scope: &Scope,
    job: Uuid,
    (shared, id): (Shared, Uuid),
    seen: Seen<'_>,
) -> Result<Option<Conflict>, Failure> {
    let between = conflict::between(scope, job, shared, id, seen).await?;
    let told =
        |b: conflict::Between| Conflict { keep_anyway: b.latest.id, said: wording::conflict::said(&who.show(), &b) };
    Ok(between.map(told))
}
