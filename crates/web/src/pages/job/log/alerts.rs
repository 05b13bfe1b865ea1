//! What the log of a job is watched for, and what that raised.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path, Query};
use crate::places::ALERTS;
use crate::view::last_change::{LastChange, last_change};
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use building::AlertKind;
use casework::{CaseFile, InView};
use chrono::Utc;
use language::{known, say};
use notation::Show;
use notation::number::{plain_number, short};
use notation::unit::TEMPERATURE;
use serde::Deserialize;
use store::{Act, Alert, AlertRule, Depth, Raised};
use uuid::Uuid;

/// Most rules of a job.
const MOST: usize = 100;
/// Longest address of a reader, characters.
const LONGEST: usize = 200;
/// Hours a rule may ask for.
const HOURS: [i32; 2] = [1, 336];

/// What is usually watched for: the kind, its figure and its hours.
const USUAL: [(AlertKind, Option<f64>, i32); 5] = [
    (AlertKind::Wet, None, 4),
    (AlertKind::Humid, Some(70.0), 24),
    (AlertKind::Freezing, Some(2.0), 1),
    (AlertKind::Silent, None, 6),
    (AlertKind::Stuck, None, 12),
];

#[derive(Template, WebTemplate)]
#[template(path = "log/alerts.html")]
struct AlertsPage {
    frame: Frame,
    job: JobFrame,
    rules: Vec<RuleRow>,
    past: Vec<String>,
    spaces: Vec<(String, String)>,
    kinds: Vec<(&'static str, &'static str, String)>,
    form: RuleForm,
    error: Option<String>,
    last: Option<LastChange>,
    undo_id: Uuid,
}

/// A rule and how it stands.
struct RuleRow {
    id: Uuid,
    act: Uuid,
    space: String,
    words: String,
    mail_to: String,
    raised: Option<String>,
}

#[derive(Deserialize, Default)]
pub struct RuleForm {
    #[serde(default)]
    id: Uuid,
    /// The rule that is changed; a new one where empty.
    #[serde(default)]
    rule: String,
    #[serde(default)]
    space: String,
    #[serde(default)]
    kind: String,
    #[serde(default)]
    figure: String,
    #[serde(default)]
    hours: String,
    #[serde(default)]
    mail_to: String,
}

impl RuleForm {
    /// For a new rule.
    fn empty() -> Self {
        Self { id: Uuid::now_v7(), ..Self::default() }
    }

    /// For changing a rule.
    fn of(rule: &AlertRule, show: &Show) -> Self {
        let figure = match rule.kind {
            AlertKind::Humid => rule.figure.map(|rh| rh.to_string()),
            AlertKind::Freezing => rule.figure.map(|t| TEMPERATURE.typed(t, show.units)),
            AlertKind::Wet | AlertKind::Silent | AlertKind::Stuck => None,
        };
        Self {
            id: Uuid::now_v7(),
            rule: rule.id.to_string(),
            space: rule.space_id.to_string(),
            kind: rule.kind.id().into(),
            figure: figure.unwrap_or_default(),
            hours: rule.hours.to_string(),
            mail_to: rule.mail_to.clone(),
        }
    }

    /// The rule it makes; what is wrong with it, in words.
    fn rule(&self, show: &Show, file: &CaseFile, by: Uuid) -> Result<AlertRule, String> {
        let space = self.space.parse().ok().filter(|id| file.building.space(*id).is_some());
        let space_id = space.ok_or(say!("Choose the space."))?;
        let kind = AlertKind::from_id(&self.kind).ok_or(say!("Choose what to watch for."))?;
        let usual = USUAL.iter().find(|u| u.0 == kind).ok_or(say!("Choose what to watch for."))?;
        let [least, most] = HOURS;
        let hours = match self.hours.trim() {
            "" => Some(usual.2),
            text => text.parse().ok().filter(|h| (least..=most).contains(h)),
        };
        let hours = hours.ok_or_else(|| say!("Hours are a whole number, {least} to {most}.", least, most))?;
        let figure = match (kind, self.figure.trim()) {
            (AlertKind::Humid | AlertKind::Freezing, "") => usual.1,
            (AlertKind::Humid, text) => {
                let rh = plain_number(text.trim_end_matches('%').trim()).ok().filter(|x| (1.0..=100.0).contains(x));
                Some(rh.ok_or_else(|| say!("“{short}” is no relative humidity: 1 to 100 %.", short = short(text)))?)
            }
            (AlertKind::Freezing, text) => {
                let t = TEMPERATURE.parse(text, show.units)?;
                let possible = (-40.0..=30.0).contains(&t);
                Some(if possible { t } else { return Err(say!("The temperature must be −40 to 30 °C.").into()) })
            }
            _ => None,
        };
        let mail_to = self.mail_to.trim();
        let parts: Vec<&str> = mail_to.split('@').collect();
        let is_address = matches!(parts.as_slice(), [name, at] if !name.is_empty() && at.contains('.'))
            && mail_to.chars().count() <= LONGEST
            && !mail_to.chars().any(|c| c.is_whitespace() || c.is_control() || c == ',' || c == ';');
        if !mail_to.is_empty() && !is_address {
            return Err(say!("“{short}” is no e-mail address.", short = short(mail_to)));
        }
        Ok(AlertRule {
            id: self.rule.parse().unwrap_or(self.id),
            job_id: file.job.id,
            consultant_id: by,
            space_id,
            kind,
            figure,
            hours,
            mail_to: mail_to.to_owned(),
            removed: false,
        })
    }
}

async fn view(who: &Who, job: Uuid, form: RuleForm, error: Option<String>) -> Result<AlertsPage, Failure> {
    let loaded = who.file(job, InView::Latest, Depth::Visit).await?;
    let scope = who.scope().await?;
    let (rules, alerts, raised) =
        (scope.alert_rules(job).await?, scope.alerts(job).await?, scope.raised(Some(job)).await?);
    let show = who.show();
    let name = |id: Uuid| loaded.building.space(id).map(|s| s.name.clone()).unwrap_or_default();
    let row = |r: &AlertRule| RuleRow {
        id: r.id,
        act: Uuid::now_v7(),
        space: name(r.space_id),
        words: wording::alert::rule(&show, r),
        mail_to: r.mail_to.clone(),
        raised: raised.iter().find(|x| x.rule.id == r.id).map(|x| raised_since(&show, x)),
    };
    let over = |a: &Alert| {
        let rule = rules.iter().find(|r| r.id == a.rule_id)?;
        let surface = a.surface_id.and_then(|id| loaded.building.surface(id)).map(|s| s.name.clone());
        let (from, until) = (show.moment(a.raised_at), show.moment(a.cleared_at?));
        let told =
            Raised { alert: a.clone(), rule: rule.clone(), job: String::new(), space: name(rule.space_id), surface };
        Some(say!("{alert}: {from} to {until}", alert = wording::alert::raised(&show, &told), from, until))
    };
    let usual = |kind: &AlertKind| {
        let (_, figure, hours) = USUAL.iter().find(|u| u.0 == *kind)?;
        let rule = AlertRule {
            id: Uuid::nil(),
            job_id: job,
            consultant_id: Uuid::nil(),
            space_id: Uuid::nil(),
            kind: *kind,
            figure: *figure,
            hours: *hours,
            mail_to: String::new(),
            removed: false,
        };
        Some(wording::alert::rule(&show, &rule))
    };
    Ok(AlertsPage {
        frame: Frame::of(who, &loaded),
        job: JobFrame::new(&loaded, ALERTS),
        rules: rules.iter().map(row).collect(),
        past: alerts.iter().filter_map(over).take(20).collect(),
        spaces: loaded.building.spaces.iter().map(|s| (s.id.to_string(), s.name.clone())).collect(),
        kinds: AlertKind::ALL.iter().map(|k| (k.id(), known(k.words()), usual(k).unwrap_or_default())).collect(),
        form,
        error,
        last: last_change(who, &loaded, &["alert_rule"]),
        undo_id: Uuid::now_v7(),
    })
}

/// What is raised, and since when.
pub fn raised_since(show: &Show, raised: &Raised) -> String {
    say!(
        "{alert}, since {raised}",
        alert = wording::alert::raised(show, raised),
        raised = show.moment(raised.alert.raised_at)
    )
}

#[derive(Deserialize)]
pub struct Asked {
    /// The rule to be changed.
    rule: Option<Uuid>,
}

/// What is watched for.
pub async fn page(who: Who, Path(job): Path<Uuid>, Query(asked): Query<Asked>) -> Result<impl IntoResponse, Failure> {
    let form = match asked.rule {
        None => RuleForm::empty(),
        Some(id) => {
            let rules = who.scope().await?.alert_rules(job).await?;
            let rule = rules.iter().find(|r| r.id == id).ok_or(Failure::NotFound)?;
            RuleForm::of(rule, &who.show())
        }
    };
    view(&who, job, form, None).await
}

/// Keeps a rule, new or changed.
pub async fn keep(who: Who, Path(job): Path<Uuid>, Form(form): Form<RuleForm>) -> Result<Response, Failure> {
    let loaded = who.file(job, InView::Latest, Depth::Visit).await?;
    let show = who.show();
    let refused = async |form, why| {
        Ok((StatusCode::UNPROCESSABLE_ENTITY, view(&who, job, form, Some(why)).await?).into_response())
    };
    let rule = match form.rule(&show, &loaded, who.person.consultant_id) {
        Ok(rule) => rule,
        Err(why) => return refused(form, why).await,
    };
    let scope = who.scope().await?;
    if !scope.hold_job(job).await? {
        return Err(Failure::NotFound);
    }
    let rules = scope.alert_rules(job).await?;
    let is_known = rules.iter().any(|r| r.id == rule.id);
    if !form.rule.is_empty() && !is_known {
        let form = RuleForm { rule: String::new(), ..form };
        return refused(form, say!("That rule was removed meanwhile; watched again, it is a new one.").into()).await;
    }
    if !is_known && rules.len() >= MOST {
        return refused(form, say!("A job is watched by {most} rules at most.", most = MOST)).await;
    }
    let space = loaded.building.space(rule.space_id).map_or("", |s| s.name.as_str());
    let (does, kind) =
        (if is_known { say!("Changed how it watches") } else { say!("Watches") }, language::known(rule.kind.words()));
    let act = Act::new(
        form.id,
        job,
        who.person.consultant_id,
        Utc::now(),
        say!("{does} {space} for {kind}", does, space, kind),
    );
    scope.keep_alert_rule(&act, rule).await?;
    scope.commit().await?;
    Ok(Redirect::to(&format!("/jobs/{job}/log/alerts")).into_response())
}

#[derive(Deserialize)]
pub struct Gone {
    id: Uuid,
}

/// Stops watching by a rule.
pub async fn remove(
    who: Who,
    Path((job, rule)): Path<(Uuid, Uuid)>,
    Form(form): Form<Gone>,
) -> Result<Redirect, Failure> {
    let scope = who.scope().await?;
    if !scope.hold_job(job).await? {
        return Err(Failure::NotFound);
    }
    if let Some(row) = scope.alert_rules(job).await?.into_iter().find(|r| r.id == rule) {
        let what = say!("Stopped watching for {row}", row = known(row.kind.words()));
        let act = Act::new(form.id, job, who.person.consultant_id, Utc::now(), what);
        scope.keep_alert_rule(&act, AlertRule { removed: true, ..row }).await?;
        scope.commit().await?;
    }
    Ok(Redirect::to(&format!("/jobs/{job}/log/alerts")))
}
