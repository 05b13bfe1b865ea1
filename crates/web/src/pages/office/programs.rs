//! Programs: tokens by which they are let in as somebody, and those that are told of what happens.

use super::one_line;
use crate::access::Right;
use crate::auth::{Who, fresh_secret};
use crate::error::Failure;
use crate::extract::Form;
use crate::view::Frame;
use askama::Template;
use askama_web::WebTemplate;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use base64::Engine;
use base64::engine::general_purpose::URL_SAFE_NO_PAD;
use casework::log::secret_of;
use chrono::{TimeDelta, Utc};
use language::{known, say};
use std::collections::HashMap;
use store::{ApiToken, Delivery, EventKind, MOST_WEBHOOKS, Scope, TokenScope, Webhook};
use uuid::Uuid;

/// Longest name of a token and longest address, characters.
const LONGEST: usize = 100;
const LONGEST_URL: usize = 500;
/// What every token begins with: whoever finds one knows what it is.
const PREFIX: &str = "gutteral_";
/// Characters of what follows: 32 bytes.
const SAID: usize = 43;
/// How long tokens hold, days, and in words.
const HOLDS: [(i64, &str); 4] = [(30, "a month"), (90, "three months"), (365, "a year"), (0, "until it is ended")];
/// Deliveries shown.
const SHOWN: u64 = 50;

/// What is wrong, by field.
type Wrongs = Vec<(&'static str, String)>;

/// A token in the list.
struct Row {
    id: Uuid,
    name: String,
    may: String,
    since: String,
    until: Option<String>,
    over: bool,
    used: Option<String>,
}

/// Somebody who is told.
struct Told {
    id: Uuid,
    url: String,
    events: String,
    since: String,
}

/// A letter.
struct Letter {
    id: Uuid,
    when: String,
    event: &'static str,
    to: String,
    state: String,
    /// Given up or long overdue: it can be sent again.
    again: bool,
}

#[derive(Template, WebTemplate)]
#[template(path = "programs.html")]
struct ProgramsPage {
    frame: Frame,
    tokens: Vec<Row>,
    hooks: Vec<Told>,
    letters: Vec<Letter>,
    scopes: &'static [TokenScope],
    events: &'static [EventKind],
    holds: [(i64, &'static str); 4],
    typed: HashMap<String, String>,
    wrong: Wrongs,
    /// What was just made, shown this once: what it is, and what it says.
    made: Option<(&'static str, String)>,
    /// What a token made next will say.
    fresh: String,
}

impl ProgramsPage {
    fn error(&self, field: &str) -> Option<&str> {
        self.wrong.iter().find(|(f, _)| *f == field).map(|(_, e)| e.as_str())
    }

    fn text(&self, field: &str) -> &str {
        self.typed.get(field).map_or("", String::as_str)
    }

    fn ticked(&self, field: &str, id: &str) -> bool {
        self.typed.contains_key(&format!("{field}-{id}"))
    }

    fn new_id(&self) -> Uuid {
        Uuid::now_v7()
    }
}

async fn view(who: &Who, scope: &Scope) -> Result<ProgramsPage, Failure> {
    let (show, now) = (who.show(), Utc::now());
    let token = |t: ApiToken| Row {
        id: t.id,
        may: t.scopes.iter().map(|s| known(s.words())).collect::<Vec<_>>().join("; "),
        since: show.day(t.made_at),
        over: t.expires_at.is_some_and(|at| at <= now),
        until: t.expires_at.map(|at| show.day(at)),
        used: t.used_at.map(|at| show.moment(at)),
        name: t.name,
    };
    let tokens = scope.tokens_of(who.person.consultant_id).await?.into_iter().map(token).collect();
    let (mut hooks, mut letters) = (Vec::new(), Vec::new());
    if who.may(Right::Practice) {
        let known = scope.webhooks().await?;
        let url = |id: Uuid| known.iter().find(|h| h.id == id).map(|h| h.url.clone()).unwrap_or_default();
        let letter = |d: Delivery| Letter {
            id: d.id,
            when: show.moment(d.made_at),
            event: language::known(d.event.words()),
            to: url(d.webhook_id),
            // Long overdue, nobody is at it any more.
            again: d.done_at.is_none()
                && d.next_at.is_none_or(|at| now - at > TimeDelta::hours(1))
                && !url(d.webhook_id).is_empty(),
            state: match (d.done_at, d.next_at, d.tries) {
                (Some(at), ..) => say!("taken {at}", at = show.moment(at)),
                (None, Some(_), 0) => say!("on its way").into(),
                (None, Some(at), n) => say!("{said}; try {n} {at}", said = d.said, n = n + 1, at = show.moment(at)),
                (None, None, n) => say!("given up after {n}: {said}", n, said = d.said),
            },
        };
        letters = scope.deliveries(SHOWN).await?.into_iter().map(letter).collect();
        hooks = known.iter().map(|h| told(&show, h)).collect();
    }
    Ok(ProgramsPage {
        frame: Frame::new(who),
        tokens,
        hooks,
        letters,
        scopes: TokenScope::ALL,
        events: EventKind::ALL,
        holds: HOLDS.map(|(days, words)| (days, known(words))),
        typed: HashMap::new(),
        wrong: Vec::new(),
        made: None,
        fresh: fresh_secret()?,
    })
}

fn told(show: &notation::Show, h: &Webhook) -> Told {
    Told {
        id: h.id,
        url: h.url.clone(),
        events: h.events.iter().map(|e| known(e.words())).collect::<Vec<_>>().join("; "),
        since: show.day(h.made_at),
    }
}

/// The page.
pub async fn page(who: Who) -> Result<Response, Failure> {
    let scope = who.scope().await?;
    Ok(view(&who, &scope).await?.into_response())
}

/// A form as it came.
type Fields = HashMap<String, String>;

fn id_of(fields: &Fields, name: &str) -> Result<Uuid, Failure> {
    fields.get(name).and_then(|id| id.parse().ok()).ok_or_else(|| Failure::BadForm(name.to_owned()))
}

fn said<'a>(fields: &'a Fields, name: &str) -> &'a str {
    fields.get(name).map_or("", |v| v.trim())
}

async fn again(who: &Who, scope: &Scope, typed: Fields, wrong: Wrongs) -> Result<Response, Failure> {
    let page = ProgramsPage { typed, wrong, ..view(who, scope).await? };
    Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response())
}

/// Makes a token of one’s own, shown this once, or ends one.
pub async fn act(who: Who, Form(fields): Form<Fields>) -> Result<Response, Failure> {
    let scope = who.scope().await?;
    let (by, now, id) = (who.person.consultant_id, Utc::now(), id_of(&fields, "id")?);
    if said(&fields, "act") == "end" {
        let of = id_of(&fields, "of")?;
        if scope.end_token(by, of, now).await? {
            scope.audit(id, Some(by), say!("Ended a token of theirs"), None).await?;
        }
        scope.commit().await?;
        return Ok(Redirect::to("/programs").into_response());
    }
    let mut wrong: Wrongs = Vec::new();
    let name =
        one_line(said(&fields, "name"), LONGEST, say!("Say what it is for.")).map_err(|e| wrong.push(("name", e)));
    let ticked = |s: &&TokenScope| fields.contains_key(&format!("may-{id}", id = s.id()));
    let scopes: Vec<TokenScope> = TokenScope::ALL.iter().filter(ticked).copied().collect();
    if scopes.is_empty() {
        wrong.push(("may", say!("Tick what it may do.").into()));
    }
    let days = said(&fields, "holds").parse::<i64>().ok().filter(|d| HOLDS.iter().any(|(days, _)| days == d));
    if days.is_none() {
        wrong.push(("holds", say!("Choose how long it holds.").into()));
    }
    // It came with the form, so that one sent twice shows the token that was kept.
    let secret = said(&fields, "secret").to_owned();
    if secret.len() != SAID || URL_SAFE_NO_PAD.decode(&secret).is_err() {
        return Err(Failure::BadForm("token".into()));
    }
    let (Ok(name), Some(days), true) = (name, days, wrong.is_empty()) else {
        return again(&who, &scope, fields, wrong).await;
    };
    let secret = format!("{PREFIX}{secret}");
    let token = ApiToken {
        id,
        consultant_id: by,
        name: name.clone(),
        key_hash: String::new(),
        scopes,
        made_at: now,
        expires_at: (days > 0).then(|| now + TimeDelta::days(days)),
        used_at: None,
        ended_at: None,
    };
    if !scope.make_token(token, &secret).await? {
        let said = say!("You have as many tokens as anybody may: end one first.").to_owned();
        return again(&who, &scope, fields, vec![("name", said)]).await;
    }
    scope.audit(id, Some(by), &say!("Made a token for programs: {name}", name), None).await?;
    let page = ProgramsPage { made: Some(("token", secret)), ..view(&who, &scope).await? };
    scope.commit().await?;
    Ok(page.into_response())
}

/// Tells another program from now on, or no more, or again what it did not take.
pub async fn tell(who: Who, Form(fields): Form<Fields>) -> Result<Response, Failure> {
    let scope = who.scope().await?;
    let (by, now, id) = (who.person.consultant_id, Utc::now(), id_of(&fields, "id")?);
    match said(&fields, "act") {
        "end" => {
            if scope.end_webhook(id_of(&fields, "of")?, now).await? {
                scope.audit(id, Some(by), say!("Stopped telling another program"), None).await?;
            }
        }
        "again" => drop(scope.deliver_again(id_of(&fields, "of")?).await?),
        _ => return add(&who, scope, id, fields).await,
    }
    scope.commit().await?;
    Ok(Redirect::to("/programs").into_response())
}

async fn add(who: &Who, scope: Scope, id: Uuid, fields: Fields) -> Result<Response, Failure> {
    let mut wrong: Wrongs = Vec::new();
    let url = one_line(said(&fields, "url"), LONGEST_URL, say!("Give the address it listens at."));
    let url = url.and_then(|url| {
        let rest = url.strip_prefix("https://").or_else(|| url.strip_prefix("http://"));
        let plain = rest.is_some_and(|r| !r.is_empty() && !r.contains('@') && r.chars().all(|c| c.is_ascii_graphic()));
        if plain { Ok(url) } else { Err("It begins with https:// and holds no name or password.".into()) }
    });
    let url = url.map_err(|e| wrong.push(("url", e)));
    let ticked = |e: &&EventKind| fields.contains_key(&format!("of-{id}", id = e.id()));
    let events: Vec<EventKind> = EventKind::ALL.iter().filter(ticked).copied().collect();
    if events.is_empty() {
        wrong.push(("events", say!("Tick what it is to be told.").into()));
    }
    let key = URL_SAFE_NO_PAD.decode(said(&fields, "secret")).ok().filter(|k| k.len() == 32);
    let key = key.ok_or_else(|| Failure::BadForm("key".into()))?;
    let (Ok(url), true) = (url, wrong.is_empty()) else {
        return again(who, &scope, fields, wrong).await;
    };
    let (by, secret) = (who.person.consultant_id, secret_of(&key));
    let hook = Webhook {
        id,
        url: url.clone(),
        secret: secret.clone(),
        events,
        made_by: by,
        made_at: Utc::now(),
        ended_at: None,
    };
    if !scope.add_webhook(hook).await? {
        let said =
            say!("{most_webhooks} programs are told already: stop telling one first.", most_webhooks = MOST_WEBHOOKS);
        return again(who, &scope, fields, vec![("url", said)]).await;
    }
    scope.audit(id, Some(by), &say!("Tells another program: {url}", url), None).await?;
    let page = ProgramsPage { made: Some(("key", secret)), ..view(who, &scope).await? };
    scope.commit().await?;
    Ok(page.into_response())
}
