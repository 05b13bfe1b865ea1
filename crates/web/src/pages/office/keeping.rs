//! For how long the practice keeps what it no longer needs.

use super::practice::refused;
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::Form;
use axum::response::{IntoResponse, Redirect, Response};
use chrono::Utc;
use language::Language;
use serde::Deserialize;
use std::collections::BTreeMap;
use store::{PracticeAct, Retention, Setting};
use uuid::Uuid;

/// Days that are offered.
const OFFERED: [i32; 7] = [30, 90, 365, 730, 1095, 1825, 3650];
const YEAR: i32 = 365;

/// What is kept for a while.
struct Kind {
    field: &'static str,
    /// Fewest days offered.
    least: i32,
    setting: Setting,
}

const KINDS: [Kind; 4] = [
    Kind { field: "log", least: YEAR, setting: Setting::LogDays },
    Kind { field: "removed", least: 30, setting: Setting::RemovedDays },
    Kind { field: "archived", least: YEAR, setting: Setting::ArchivedDays },
    Kind { field: "sign_in", least: 30, setting: Setting::SignInDays },
];

/// A choice of days, as it is offered.
pub struct Row {
    pub field: &'static str,
    pub label: String,
    pub more: String,
    /// As it stands.
    pub was: String,
    /// Value, words, and whether it is chosen.
    pub options: Vec<(String, String, bool)>,
}

fn words(tongue: Language, days: i32) -> String {
    let (said, n) = if days % YEAR == 0 { ("keeping-years", days / YEAR) } else { ("keeping-days", days) };
    tongue.say_with(said, &[("n", u64::from(n.unsigned_abs()).into())])
}

fn text(days: Option<i32>) -> String {
    days.map(|d| d.to_string()).unwrap_or_default()
}

/// What is offered, as it stands or as it was chosen and not kept.
pub fn rows(tongue: Language, stands: &Retention, chosen: Option<&KeepingForm>) -> Vec<Row> {
    let now = [stands.log, stands.removed, stands.archived, stands.sign_in];
    let one = |(kind, stands): (&Kind, Option<i32>)| {
        let was = text(stands);
        let chosen = chosen.map_or_else(|| was.clone(), |c| c.days(kind.field).to_owned());
        let mut days: Vec<i32> = OFFERED.into_iter().filter(|d| *d >= kind.least).chain(stands).collect();
        days.sort_unstable();
        days.dedup();
        let offered = std::iter::once((String::new(), tongue.say("keeping-ever")))
            .chain(days.into_iter().map(|d| (d.to_string(), words(tongue, d))));
        let options = offered.map(|(value, words)| (value.clone(), words, value == chosen)).collect();
        let label = tongue.say(&format!("keeping-{kind}", kind = kind.field));
        let more = tongue.say(&format!("keeping-{kind}-more", kind = kind.field));
        Row { field: kind.field, label, more, was, options }
    };
    KINDS.iter().zip(now).map(one).collect()
}

/// For how long what is kept, as chosen.
#[derive(Deserialize, Default)]
#[serde(default)]
pub struct KeepingForm {
    id: Option<Uuid>,
    log: String,
    removed: String,
    archived: String,
    sign_in: String,
    was_log: String,
    was_removed: String,
    was_archived: String,
    was_sign_in: String,
    /// Whoever chose knows that jobs go.
    sure: String,
}

impl KeepingForm {
    fn days(&self, field: &str) -> &str {
        match field {
            "log" => &self.log,
            "removed" => &self.removed,
            "archived" => &self.archived,
            _ => &self.sign_in,
        }
    }

    fn was(&self, field: &str) -> &str {
        match field {
            "log" => &self.was_log,
            "removed" => &self.was_removed,
            "archived" => &self.was_archived,
            _ => &self.was_sign_in,
        }
    }
}

/// Settles what was changed. Where jobs would go by it, it is asked first.
pub async fn keep(who: Who, Form(form): Form<KeepingForm>) -> Result<Response, Failure> {
    let id = form.id.ok_or_else(|| Failure::BadForm("id".into()))?;
    let (scope, now) = (who.scope().await?, Utc::now());
    let mut then = scope.retention().await?;
    let mut changes = BTreeMap::new();
    // What was not touched stays, whoever changed it meanwhile.
    for kind in KINDS.iter().filter(|k| form.days(k.field) != form.was(k.field)) {
        let days = match form.days(kind.field) {
            "" => None,
            days => {
                let offered = days.parse().ok().filter(|d| *d >= kind.least && OFFERED.contains(d));
                Some(offered.ok_or_else(|| Failure::BadForm(kind.field.into()))?)
            }
        };
        match kind.field {
            "removed" => then.removed = days,
            "archived" => then.archived = days,
            _ => {}
        }
        changes.insert(kind.setting.clone(), days.map(|d| d.to_string()));
    }
    let gone = scope.jobs_past(&then, now).await?.len();
    let by_this = changes.contains_key(&Setting::RemovedDays) || changes.contains_key(&Setting::ArchivedDays);
    if by_this && gone > 0 && form.sure.is_empty() {
        drop(scope);
        let why = who.language().say_with("keeping-older", &[("n", gone.into())]);
        return Ok(refused(&who, &form, vec![("sure", why)]).await?.into_response());
    }
    scope.settle(PracticeAct { id, by: who.person.consultant_id, at: now }, changes).await?;
    scope.commit().await?;
    Ok(Redirect::to("/practice#keeping").into_response())
}
