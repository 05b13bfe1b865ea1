//! Links by which a client reads a version of a report without a name here, and what they said.

use crate::auth::{Who, fresh_secret};
use crate::error::Failure;
use crate::extract::{Form, Path};
use crate::fields::{Options, Reader, Typed, Wrongs};
use crate::pages::office::people::origin;
use crate::places::SHARING;
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::http::{HeaderMap, StatusCode};
use axum::response::{IntoResponse, Redirect, Response};
use casework::{CaseFile, InView};
use chrono::{TimeDelta, Utc};
use language::say;
use store::{Depth, Letter, MOST_SHARES, ReportVersion, Scope, Share, ShareWord, WordKind};
use uuid::Uuid;

/// Longest name of a reader, characters.
const LONGEST: usize = 120;
/// Days a link holds: at most, and usually.
const DAYS: [f64; 2] = [365.0, 30.0];

struct ShareRow {
    id: Uuid,
    reader: String,
    version: String,
    made: String,
    until: String,
    opened: String,
    /// Whether it can be shut.
    open: bool,
}

struct WordRow {
    who: String,
    version: String,
    when: String,
    accepts: bool,
    words: String,
}

#[derive(Template, WebTemplate)]
#[template(path = "report/sharing.html")]
struct SharingPage {
    frame: Frame,
    job: JobFrame,
    shares: Vec<ShareRow>,
    said: Vec<WordRow>,
    versions: Options,
    version: String,
    reader: String,
    days: String,
    email: String,
    /// A link just made, shown once, and for whom.
    link: Option<(String, String)>,
    wrong: Wrongs,
    act_id: Uuid,
}

impl SharingPage {
    fn error(&self, field: &str) -> Option<&str> {
        self.wrong.iter().find(|(f, _)| f == field).map(|(_, e)| e.as_str())
    }

    fn new_id(&self) -> Uuid {
        Uuid::now_v7()
    }
}

fn named(file: &CaseFile, id: Uuid) -> String {
    let version = file.reports.versions.iter().find(|v| v.id == id);
    version.map_or_else(String::new, |v| say!("{title}, version {n}", title = v.title, n = v.n))
}

async fn view(
    who: &Who,
    scope: &Scope,
    file: &CaseFile,
    typed: &Typed,
    wrong: Wrongs,
    link: Option<(String, String)>,
) -> Result<SharingPage, Failure> {
    let job = file.job.id;
    let (show, now) = (who.show(), Utc::now());
    let shares = scope.shares(job).await?;
    let words = scope.share_words(job).await?;
    let row = |s: &Share| ShareRow {
        id: s.id,
        reader: s.reader.clone(),
        version: named(file, s.version_id),
        made: say!(
            "{made_at} by {file}",
            made_at = show.day(s.made_at),
            file = file.people.get(&s.made_by).cloned().unwrap_or_default()
        ),
        until: match s.revoked_at {
            Some(at) => say!("shut {at}", at = show.day(at)),
            None if s.expires_at <= now => say!("ended {expires_at}", expires_at = show.day(s.expires_at)),
            None => say!("until {expires_at}", expires_at = show.day(s.expires_at)),
        },
        opened: match (s.opened, s.opened_at) {
            (0, _) => say!("not opened").into(),
            (n, at) => say!(
                "{n} time{n2}, last {tring}",
                n,
                n2 = if n == 1 { "" } else { "s" },
                tring = at.map_or_else(String::new, |at| show.moment(at))
            ),
        },
        open: s.revoked_at.is_none() && s.expires_at > now,
    };
    let word = |w: &ShareWord| WordRow {
        who: w.name.clone(),
        version: shares.iter().find(|s| s.id == w.share_id).map_or_else(String::new, |s| named(file, s.version_id)),
        when: show.moment(w.at),
        accepts: w.kind == WordKind::Accept,
        words: w.words.clone(),
    };
    let versions = file.reports.versions.iter().rev();
    let typed = |name: &str| typed.get(name).cloned().unwrap_or_default();
    Ok(SharingPage {
        shares: shares.iter().map(row).collect(),
        said: words.iter().map(word).collect(),
        versions: versions
            .map(|v: &ReportVersion| (v.id.to_string(), say!("{title}, version {n}", title = v.title, n = v.n)))
            .collect(),
        version: typed("version"),
        reader: typed("reader"),
        days: Some(typed("days")).filter(|d| !d.is_empty()).unwrap_or_else(|| format!("{}", DAYS[1])),
        email: typed("email"),
        link,
        wrong,
        act_id: Uuid::now_v7(),
        frame: Frame::of(who, file),
        job: JobFrame::new(file, SHARING),
    })
}

/// The links of a job.
pub async fn page(who: Who, Path(job): Path<Uuid>) -> Result<Response, Failure> {
    let file = who.file(job, InView::Latest, Depth::Plan).await?;
    let scope = who.scope().await?;
    Ok(view(&who, &scope, &file, &Typed::new(), Vec::new(), None).await?.into_response())
}

/// Makes a link, or shuts one.
pub async fn act(
    who: Who,
    Path(job): Path<Uuid>,
    headers: HeaderMap,
    Form(typed): Form<Typed>,
) -> Result<Response, Failure> {
    let text = |name: &str| typed.get(name).map_or("", |t| t.trim());
    let scope = who.scope().await?;
    if !scope.hold_job(job).await? {
        return Err(Failure::NotFound);
    }
    let (now, by) = (Utc::now(), who.person.consultant_id);
    let back = SHARING.of(&job.to_string());
    if text("act") == "shut" {
        let share = text("share").parse().map_err(|_| Failure::BadForm("share".into()))?;
        if !scope.revoke_share(job, share, now).await? {
            return Err(Failure::NotFound);
        }
        scope.audit(Uuid::now_v7(), Some(by), say!("Shut a client’s link"), Some(job)).await?;
        scope.commit().await?;
        return Ok(Redirect::to(&back).into_response());
    }
    let id: Uuid = text("id").parse().map_err(|_| Failure::BadForm("id of a link".into()))?;
    let file = CaseFile::load(&scope, job, InView::Latest, Depth::Plan).await?;
    let show = who.show();
    let mut r = Reader::new(&typed, &show);
    let reader = r.line("reader", LONGEST, Some(say!("Whom is it for?")));
    let days = r.figure("days", [1.0, DAYS[0]], "days").unwrap_or(DAYS[1]);
    let email = r.line("email", 254, None);
    if !email.is_empty() && !crate::pages::office::people::is_email(&email) {
        r.bad("email", say!("An e-mail address, like name@example.org."));
    }
    let version = text("version").parse().ok().filter(|id| file.reports.versions.iter().any(|v| v.id == *id));
    let Some(version) = version.filter(|_| r.wrong.is_empty()) else {
        if version.is_none() {
            r.bad("version", say!("Choose the version."));
        }
        let page = view(&who, &scope, &file, &typed, r.wrong, None).await?;
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response());
    };
    // Sent twice: its link was shown the first time.
    let known = scope.shares(job).await?;
    if known.iter().any(|s| s.id == id) {
        return Ok(Redirect::to(&back).into_response());
    }
    let secret = fresh_secret()?;
    let share = Share {
        id,
        job_id: job,
        version_id: version,
        reader: reader.clone(),
        made_by: by,
        made_at: now,
        expires_at: now + TimeDelta::minutes((days * 1440.0) as i64),
        revoked_at: None,
        opened: 0,
        opened_at: None,
    };
    if !scope.open_share(share.clone(), &secret).await? {
        let wrong =
            vec![("version".to_owned(), say!("A job has {most_shares} links at most.", most_shares = MOST_SHARES))];
        let page = view(&who, &scope, &file, &typed, wrong, None).await?;
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response());
    }
    let link = format!("{origin}/shared/{secret}", origin = origin(&headers));
    if !email.is_empty() {
        let body = format!(
            "{who} of {who2} shares a report on {file} with you:\n\n{link}\n\nIt can be read until {share}.\n",
            who = who.person.name,
            who2 = who.person.practice_name,
            file = file.job.name,
            share = show.day(share.expires_at)
        );
        let subject = say!("Report: {file}", file = file.job.name);
        let letter = Letter { id: Uuid::now_v7(), job_id: Some(job), mail_to: email, subject, body };
        scope.post_letter(&letter).await?;
    }
    scope.audit(Uuid::now_v7(), Some(by), &say!("Shared a report with {reader}", reader), Some(job)).await?;
    let page = view(&who, &scope, &file, &Typed::new(), Vec::new(), Some((link, reader))).await?;
    scope.commit().await?;
    Ok(page.into_response())
}
