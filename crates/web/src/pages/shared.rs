//! What a client sees by a link: one version of a report, as it went out, and room to say something.

use crate::auth::tongue;
use crate::error::Failure;
use crate::extract::{Form, Path};
use crate::pages::job::report::language_of;
use crate::pages::job::report::{picture, printed};
use crate::pages::office::one_line_in;
use crate::state::App;
use crate::token::Token;
use askama::Template;
use askama_web::WebTemplate;
use axum::extract::State;
use axum::http::{HeaderMap, HeaderName, HeaderValue, StatusCode};
use axum::response::{IntoResponse, Redirect, Response};
use chrono::Utc;
use language::{Language, aloud, say};
use notation::{Show, Units};
use report::at_home;
use serde::Deserialize;
use store::{ReportVersion, Scope, Share, ShareWord, Signature, WordKind};
use uuid::Uuid;

/// Longest name and longest words, characters.
const LONGEST: [usize; 2] = [120, 2000];

/// A signature under a report.
pub struct Signed {
    pub name: String,
    pub signs_as: String,
    pub when: String,
}

/// Signatures as they stand under a report.
pub fn signed(show: &Show, all: &[Signature]) -> Vec<Signed> {
    let one = |s: &Signature| Signed { name: s.name.clone(), signs_as: s.signs_as.clone(), when: show.moment(s.at) };
    all.iter().map(one).collect()
}

struct Word {
    name: String,
    when: String,
    words: String,
    accepts: bool,
}

#[derive(Template, WebTemplate)]
#[template(path = "report/shared.html")]
struct SharedPage {
    /// What the reader’s browser asks for; the report is in the language it was written in.
    tongue: Language,
    token: String,
    secret: String,
    practice: String,
    title: String,
    /// Until when it is shared, in a sentence.
    until: String,
    body: String,
    /// The language the report is in.
    speaks: Language,
    signed: Vec<Signed>,
    printed: bool,
    said: Vec<Word>,
    accepted: bool,
    /// Who answers, as typed.
    called: String,
    words: String,
    wrong: Vec<(&'static str, String)>,
    act_id: Uuid,
}

impl SharedPage {
    fn error(&self, field: &str) -> Option<&str> {
        self.wrong.iter().find(|(f, _)| *f == field).map(|(_, e)| e.as_str())
    }
}

/// The link’s scope, itself and its version.
async fn opened(app: &App, secret: &str) -> Result<(Scope, Share, ReportVersion, String), Failure> {
    let (scope, share) = app.store.shared(secret, Utc::now()).await?.ok_or(Failure::NoInvite)?;
    let (version, html) = scope.version(share.version_id).await?.ok_or(Failure::NoInvite)?;
    Ok((scope, share, version, html))
}

/// Nothing of it belongs into a search engine, nor its address into another site’s log.
fn quiet(page: impl IntoResponse) -> Response {
    let mut response = page.into_response();
    let headers = response.headers_mut();
    headers.insert(HeaderName::from_static("x-robots-tag"), HeaderValue::from_static("noindex, nofollow"));
    response
}

async fn view(
    scope: &Scope,
    (token, tongue): (Token, Language),
    secret: String,
    (share, version, html): (&Share, &ReportVersion, &str),
    typed: Said,
    wrong: Vec<(&'static str, String)>,
) -> Result<SharedPage, Failure> {
    let (practice, zone) = scope.practice_named().await?;
    let show = Show::new(Units::Metric, &zone);
    let signatures = scope.signatures(version.id).await?;
    let words = scope.share_words(share.job_id).await?;
    let speaks = language_of(version);
    let own: Vec<&ShareWord> = words.iter().filter(|w| w.share_id == share.id).collect();
    let word = |w: &&ShareWord| Word {
        name: w.name.clone(),
        when: show.moment(w.at),
        words: w.words.clone(),
        accepts: w.kind == WordKind::Accept,
    };
    Ok(SharedPage {
        tongue,
        token: token.0,
        body: at_home(html, &format!("/shared/{secret}")),
        secret,
        practice,
        title: version.title.clone(),
        until: tongue.say_with("shared-until", &[("day", show.day(share.expires_at).into())]),
        printed: scope.has_pdf(version.id, signatures.len()).await?,
        speaks,
        signed: aloud(speaks, || signed(&show, &signatures)),
        accepted: own.iter().any(|w| w.kind == WordKind::Accept),
        said: own.iter().rev().map(word).collect(),
        called: if typed.name.is_empty() { share.reader.clone() } else { typed.name },
        words: typed.words,
        wrong,
        act_id: Uuid::now_v7(),
    })
}

/// The report.
pub async fn page(
    State(app): State<App>,
    axum::Extension(token): axum::Extension<Token>,
    Path(secret): Path<String>,
    headers: HeaderMap,
) -> Result<Response, Failure> {
    let tongue = tongue(&headers);
    let (scope, share, version, html) = opened(&app, &secret).await?;
    scope.count_open(share.id, Utc::now()).await?;
    let page = view(&scope, (token, tongue), secret, (&share, &version, &html), Said::default(), Vec::new()).await?;
    scope.commit().await?;
    Ok(quiet(page))
}

#[derive(Deserialize, Default)]
#[serde(default)]
pub struct Said {
    id: Option<Uuid>,
    name: String,
    words: String,
    /// A comment, or that the plan is accepted.
    kind: String,
}

/// Takes what a reader says.
pub async fn say(
    State(app): State<App>,
    axum::Extension(token): axum::Extension<Token>,
    Path(secret): Path<String>,
    headers: HeaderMap,
    Form(form): Form<Said>,
) -> Result<Response, Failure> {
    let tongue = tongue(&headers);
    let id = form.id.ok_or_else(|| Failure::BadForm("id".into()))?;
    let kind = WordKind::from_id(&form.kind).ok_or_else(|| Failure::BadForm("kind".into()))?;
    let (scope, share, version, html) = opened(&app, &secret).await?;
    let mut wrong = Vec::new();
    let name = one_line_in(tongue, &form.name, LONGEST[0], &tongue.say("shared-no-name"));
    let name = name.map_err(|e| wrong.push(("name", e)));
    let words = form.words.replace("\r\n", "\n").trim().to_owned();
    let length = words.chars().count();
    if length > LONGEST[1] {
        wrong.push((
            "words",
            tongue
                .say_with("shared-long", &[("n", length.to_string().into()), ("most", LONGEST[1].to_string().into())]),
        ));
    } else if words.is_empty() && kind == WordKind::Comment {
        wrong.push(("words", tongue.say("shared-no-words")));
    }
    if let (Ok(name), true) = (name, wrong.is_empty()) {
        let word = ShareWord { id, job_id: share.job_id, share_id: share.id, kind, name, words, at: Utc::now() };
        if scope.say_by_share(word).await? {
            if kind == WordKind::Accept {
                let what = say!("{share} accepted the plan by a link", share = share.reader);
                scope.audit(Uuid::now_v7(), None, &what, Some(share.job_id)).await?;
            }
            scope.commit().await?;
            return Ok(Redirect::to(&format!("/shared/{secret}#said")).into_response());
        }
        wrong.push(("words", tongue.say("shared-enough")));
    }
    let page = view(&scope, (token, tongue), secret, (&share, &version, &html), form, wrong).await?;
    Ok((StatusCode::UNPROCESSABLE_ENTITY, quiet(page)).into_response())
}

/// A picture of the report.
pub async fn image(State(app): State<App>, Path((secret, n)): Path<(String, i32)>) -> Result<Response, Failure> {
    let (scope, share) = app.store.shared(&secret, Utc::now()).await?.ok_or(Failure::NoInvite)?;
    picture(&scope, share.version_id, n).await
}

/// The report as printed.
pub async fn pdf(State(app): State<App>, Path(secret): Path<String>) -> Result<Response, Failure> {
    let (scope, _, version, _) = opened(&app, &secret).await?;
    Ok(quiet(printed(&scope, &version).await?))
}
