//! Two people change the same thing, one of them perhaps without a signal: it is said, and the second decides.

use crate::auth::Who;
use crate::error::Failure;
use store::Scope;
use uuid::Uuid;

/// A change that came between somebody's reading of a row and their changing it.
pub struct Conflict {
    /// What to say to keep one's own all the same.
    pub keep_anyway: Uuid,
    /// Who changed what, when, and what it holds now.
    pub said: String,
}

/// The latest change of a row, which a form names to say what it has seen.
pub async fn seen(scope: &Scope, job: Uuid, table: &str, id: Uuid) -> Result<String, Failure> {
    Ok(scope.latest_change(job, table, id).await?.map(|c| c.id.to_string()).unwrap_or_default())
}

/// Whether something came between: what the form has seen is not the latest, nor was it said about the latest that one's
/// own is to be kept. A form that names nothing has seen everything.
pub async fn between(
    who: &Who,
    scope: &Scope,
    job: Uuid,
    (table, id): (&str, Uuid),
    (seen, keep_anyway): (&str, &str),
) -> Result<Option<Conflict>, Failure> {
    let Some(latest) = scope.latest_change(job, table, id).await? else { return Ok(None) };
    let now = latest.id.to_string();
    if seen.is_empty() || seen == now || keep_anyway == now {
        return Ok(None);
    }
    let show = who.show();
    let by = scope.consultant_names().await?.get(&latest.by).cloned().unwrap_or_default();
    let lines = super::history::told(&show, &latest).join(" ");
    let said = format!(
        "{by} changed this on {}: {}. {lines} Nothing of yours was stored yet.",
        show.moment(latest.at),
        latest.what
    );
    Ok(Some(Conflict { keep_anyway: latest.id, said }))
}
