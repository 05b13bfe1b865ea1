//! Two people changed the same thing: what came between, in words.

use crate::history;
use casework::conflict::Between;
use language::say;
use notation::Show;

/// Who changed what, when, and what it holds now.
#[must_use]
pub fn said(show: &Show, between: &Between) -> String {
    let Between { latest, by } = between;
    let lines = history::told(show, latest).join(" ");
    say!(
        "{by} changed this on {latest}: {latest2}. {lines} Nothing of yours was stored yet.",
        by,
        latest = show.moment(latest.at),
        latest2 = latest.what,
        lines
    )
}
