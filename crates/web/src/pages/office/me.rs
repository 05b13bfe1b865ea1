//! One’s own account: name, password, second factor, sessions, and when one came in.

use super::one_line;
use crate::auth::Who;
use crate::auth::password::{SHORTEST, hash_later};
use crate::auth::second::{Second, spare};
use crate::error::Failure;
use crate::extract::{Form, Path};
use crate::state::App;
use crate::view::Frame;
use askama::Template;
use askama_web::WebTemplate;
use axum::extract::State;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use chrono::{TimeDelta, Utc};
use serde::Deserialize;
use store::{Account, Scope, Session, SignIn};
use uuid::Uuid;

/// Longest name, characters.
const LONGEST: usize = 120;
/// Most lines of the history.
const MOST: u64 = 50;
/// Tries at one’s own password within ten minutes.
const TRIES: f64 = 10.0;

struct SessionRow {
    id: Uuid,
    here: bool,
    agent: String,
    address: String,
    since: String,
    seen: String,
}

struct HistoryRow {
    when: String,
    how: String,
    came_in: bool,
    agent: String,
    address: String,
}

/// A second factor being set up.
struct Setting {
    word: String,
    typed: String,
    side: usize,
    squares: String,
}

#[derive(Template, WebTemplate)]
#[template(path = "me.html")]
struct MePage {
    frame: Frame,
    role: &'static str,
    email: String,
    called: String,
    second: bool,
    setting: Option<Setting>,
    /// Spare codes just made, shown once.
    spare: Vec<String>,
    sessions: Vec<SessionRow>,
    history: Vec<HistoryRow>,
    wrong: Vec<(&'static str, String)>,
    shortest: usize,
}

impl MePage {
    fn error(&self, field: &str) -> Option<&str> {
        self.wrong.iter().find(|(f, _)| *f == field).map(|(_, e)| e.as_str())
    }

    fn new_id(&self) -> Uuid {
        Uuid::now_v7()
    }
}

/// What is done about one’s own account.
#[derive(Deserialize)]
pub struct Act {
    id: Uuid,
    act: String,
    #[serde(default)]
    name: String,
    #[serde(default)]
    password: String,
    #[serde(default)]
    new_password: String,
    #[serde(default)]
    word: String,
    #[serde(default)]
    code: String,
    #[serde(default)]
    of: Option<Uuid>,
}

/// The page.
pub async fn page(who: Who) -> Result<Response, Failure> {
    let scope = who.scope().await?;
    Ok(view(&who, &scope, Vec::new(), None, Vec::new()).await?.into_response())
}

async fn own(who: &Who, scope: &Scope) -> Result<Account, Failure> {
    scope.own_account(who.person.consultant_id).await?.ok_or(Failure::NotFound)
}

async fn view(
    who: &Who,
    scope: &Scope,
    wrong: Vec<(&'static str, String)>,
    setting: Option<Setting>,
    spare: Vec<String>,
) -> Result<MePage, Failure> {
    let (show, me) = (who.show(), who.person.consultant_id);
    let account = own(who, scope).await?;
    let session = |s: Session| SessionRow {
        here: s.id == who.person.session_id,
        id: s.id,
        agent: s.agent,
        address: s.address,
        since: show.moment(s.started_at),
        seen: show.moment(s.seen_at),
    };
    let line = |s: SignIn| HistoryRow {
        when: show.moment(s.at),
        how: s.how,
        came_in: s.came_in,
        agent: s.agent,
        address: s.address,
    };
    Ok(MePage {
        role: who.person.role.words(),
        email: account.email,
        called: account.name,
        second: !account.second.is_empty(),
        setting,
        spare,
        sessions: scope.sessions_of(me).await?.into_iter().map(session).collect(),
        history: scope.sign_ins_of(me, MOST).await?.into_iter().map(line).collect(),
        wrong,
        shortest: SHORTEST,
        frame: Frame::new(who),
    })
}

fn setting(app: &App, who: &Who, email: &str, word: String) -> Result<Setting, Failure> {
    let second = Second::of(app, who.person.consultant_id, email, &word)?;
    let (side, squares) = second.squares()?;
    Ok(Setting { typed: second.typed(), word, side, squares })
}

/// Changes name, password or second factor, and ends sessions. What weakens the account asks for the password.
pub async fn act(State(app): State<App>, who: Who, Form(form): Form<Act>) -> Result<Response, Failure> {
    let scope = who.scope().await?;
    let account = own(&who, &scope).await?;
    let (me, now) = (who.person.consultant_id, Utc::now());
    let mut wrong = Vec::new();
    let mut asked = None;
    let asks_password = matches!(form.act.as_str(), "password" | "second" | "set-second" | "no-second" | "spare");
    if asks_password {
        let tries = app.store.count_under(&format!("own password {me}"), 1.0, TimeDelta::minutes(10), now).await?;
        if tries > TRIES {
            wrong.push(("password", "Too many tries. Wait ten minutes.".to_owned()));
        } else if !app.passwords.verify(form.password.clone(), Some(account.password_hash.clone())).await? {
            wrong.push(("password", "That is not your password.".to_owned()));
        }
    }
    let mut done = None;
    let mut codes = Vec::new();
    match form.act.as_str() {
        _ if !wrong.is_empty() => {}
        "name" => match one_line(&form.name, LONGEST, "A name is needed.") {
            Ok(name) => {
                scope.set_name(me, &name).await?;
                done = Some(format!("Changed their name from {} to {name}", account.name));
            }
            Err(why) => wrong.push(("name", why)),
        },
        "password" => match hash_later(&app, &form.new_password).await? {
            Ok(hashed) => {
                scope.set_password(me, &hashed, Some(who.person.session_id)).await?;
                done = Some("Changed their password".into());
            }
            Err(why) => wrong.push(("new_password", why)),
        },
        "second" => asked = Some(setting(&app, &who, &account.email, Second::fresh()?)?),
        "set-second" => {
            let word: String = form.word.chars().filter(char::is_ascii_graphic).take(64).collect();
            let second = Second::of(&app, me, &account.email, &word)?;
            let at = u64::try_from(now.timestamp()).unwrap_or_default();
            match second.step(&form.code, at) {
                Some(step) if word.len() >= 32 => {
                    codes = spare()?;
                    scope.set_second(me, &word, step, &codes).await?;
                    done = Some("Set up a second factor".into());
                }
                _ => {
                    wrong.push(("code", "That is not the code shown now. Is the device’s clock right?".into()));
                    asked = Some(setting(&app, &who, &account.email, word)?);
                }
            }
        }
        "spare" if !account.second.is_empty() => {
            codes = spare()?;
            scope.set_second(me, &account.second, account.second_step, &codes).await?;
            done = Some("Made new spare codes".into());
        }
        "no-second" => {
            scope.set_second(me, "", 0, &[]).await?;
            done = Some("Took their second factor away".into());
        }
        "end" => {
            scope.end_session(me, form.of.unwrap_or_default()).await?;
            done = Some("Ended a session of their own".into());
        }
        "end-others" => {
            let n = scope.end_sessions(me, Some(who.person.session_id)).await?;
            done = Some(format!("Ended {n} other sessions of their own"));
        }
        _ => return Err(Failure::BadForm("act".into())),
    }
    if let Some(what) = &done {
        scope.audit(form.id, Some(me), what, None).await?;
    }
    if done.is_some() && codes.is_empty() {
        scope.commit().await?;
        return Ok(Redirect::to("/me").into_response());
    }
    let status = if wrong.is_empty() { StatusCode::OK } else { StatusCode::UNPROCESSABLE_ENTITY };
    let page = view(&who, &scope, wrong, asked, codes).await?;
    scope.commit().await?;
    Ok((status, page).into_response())
}

#[derive(Template, WebTemplate)]
#[template(path = "join.html")]
struct JoinPage {
    token: String,
    secret: String,
    practice: String,
    called: String,
    email: String,
    role: Option<&'static str>,
    wrong: Vec<(&'static str, String)>,
    shortest: usize,
}

impl JoinPage {
    fn error(&self, field: &str) -> Option<&str> {
        self.wrong.iter().find(|(f, _)| *f == field).map(|(_, e)| e.as_str())
    }
}

/// Where an invitation leads: a name and a password.
pub async fn join(
    State(app): State<App>,
    axum::Extension(token): axum::Extension<crate::token::Token>,
    Path(secret): Path<String>,
) -> Result<Response, Failure> {
    let invite = app.store.invite_by(&secret, Utc::now()).await?.ok_or(Failure::NoInvite)?;
    Ok(join_page(token, secret, &invite, invite.name.clone(), Vec::new()).into_response())
}

fn join_page(
    token: crate::token::Token,
    secret: String,
    invite: &store::Invite,
    name: String,
    wrong: Vec<(&'static str, String)>,
) -> JoinPage {
    JoinPage {
        token: token.0,
        secret,
        practice: invite.practice.1.clone(),
        called: name,
        email: invite.email.clone(),
        role: invite.consultant_id.is_none().then(|| invite.role.words()),
        wrong,
        shortest: SHORTEST,
    }
}

#[derive(Deserialize)]
pub struct Join {
    #[serde(default)]
    name: String,
    #[serde(default)]
    new_password: String,
}

/// Takes an invitation: somebody new, or a new password. Then they sign in with it, second factor and all.
pub async fn take(
    State(app): State<App>,
    axum::Extension(token): axum::Extension<crate::token::Token>,
    Path(secret): Path<String>,
    Form(form): Form<Join>,
) -> Result<Response, Failure> {
    let now = Utc::now();
    let invite = app.store.invite_by(&secret, now).await?.ok_or(Failure::NoInvite)?;
    let mut wrong = Vec::new();
    let name = match invite.consultant_id {
        Some(_) => invite.name.clone(),
        None => one_line(&form.name, LONGEST, "A name is needed.").unwrap_or_else(|e| {
            wrong.push(("name", e));
            form.name.clone()
        }),
    };
    let hashed = hash_later(&app, &form.new_password).await?.map_err(|e| wrong.push(("new_password", e)));
    let (Ok(hashed), true) = (hashed, wrong.is_empty()) else {
        let page = join_page(token, secret, &invite, name, wrong);
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response());
    };
    let scope = app.store.practice(invite.practice.0).await?;
    // Two who take it at once: one does.
    if !scope.end_invite(invite.id, now).await? {
        return Err(Failure::NoInvite);
    }
    let what = match invite.consultant_id {
        Some(id) => {
            scope.set_password(id, &hashed, None).await?;
            format!("{name} set a new password by a link")
        }
        None => {
            let person = store::Person {
                id: Uuid::now_v7(),
                email: invite.email.clone(),
                name: name.clone(),
                password_hash: hashed,
            };
            if !scope.add_person(person, invite.role).await? {
                let wrong =
                    vec![("name", "Somebody signs in with this e-mail already: ask for another invitation.".into())];
                return Ok((StatusCode::CONFLICT, join_page(token, secret, &invite, name, wrong)).into_response());
            }
            format!("{name} <{}> joined as {}", invite.email, invite.role.words())
        }
    };
    scope.audit(Uuid::now_v7(), invite.consultant_id, &what, None).await?;
    scope.commit().await?;
    Ok(Redirect::to("/sign-in?joined=yes").into_response())
}
