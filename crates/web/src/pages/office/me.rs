//! One’s own account: name, password, second factor, sessions, and when one came in.

use super::one_line_in;
use crate::auth::Who;
use crate::auth::passkey::{self, Question};
use crate::auth::password::{SHORTEST, hash_later};
use crate::auth::second::{Second, spare};
use crate::error::Failure;
use crate::extract::Form;
use crate::state::App;
use crate::view::Frame;
use askama::Template;
use askama_web::WebTemplate;
use axum::extract::State;
use axum::http::{HeaderMap, StatusCode};
use axum::response::{IntoResponse, Redirect, Response};
use chrono::{TimeDelta, Utc};
use language::{Language, say};
use serde::Deserialize;
use std::borrow::Cow;
use store::{Account, Passkey, Scope, Session, SignIn};
use uuid::Uuid;

/// Longest name, characters.
pub const LONGEST: usize = 120;
/// Most lines of the history.
const MOST: u64 = 50;
/// Longest name of a key, characters.
const LONGEST_KEY: usize = 60;
/// Tries at one’s own password within ten minutes.
const TRIES: f64 = 10.0;

struct SessionRow {
    id: Uuid,
    here: bool,
    agent: String,
    /// From where, since when and until when.
    more: String,
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

struct KeyRow {
    id: Uuid,
    name: String,
    /// Since when, and when it was used.
    more: String,
}

/// A key a device is asked to make, under the name it will have.
struct Making {
    name: String,
    question: Question,
}

#[derive(Template, WebTemplate)]
#[template(path = "me.html")]
struct MePage {
    frame: Frame,
    role: Cow<'static, str>,
    email: String,
    called: String,
    second: bool,
    setting: Option<Setting>,
    /// Spare codes just made, shown once.
    spare: Vec<String>,
    keys: Vec<KeyRow>,
    making: Option<Making>,
    /// What a new key would be called, as typed.
    key_name: String,
    sessions: Vec<SessionRow>,
    history: Vec<HistoryRow>,
    wrong: Vec<(&'static str, String)>,
    shortest: usize,
}

impl MePage {
    const fn languages(&self) -> &[Language] {
        &Language::ALL
    }

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
    #[serde(default)]
    key_name: String,
    /// What a device was asked, and what it answered.
    #[serde(default)]
    asked: String,
    #[serde(default)]
    credential: String,
}

/// The page.
pub async fn page(who: Who) -> Result<Response, Failure> {
    let scope = who.scope().await?;
    Ok(view(&who, &scope, Came::default(), String::new()).await?.into_response())
}

async fn own(who: &Who, scope: &Scope) -> Result<Account, Failure> {
    scope.own_account(who.person.consultant_id).await?.ok_or(Failure::NotFound)
}

async fn view(who: &Who, scope: &Scope, came: Came, key_name: String) -> Result<MePage, Failure> {
    let (show, me) = (who.show(), who.person.consultant_id);
    let Came { codes: spare, asked: setting, making, wrong, .. } = came;
    let account = own(who, scope).await?;
    let session = |s: Session| SessionRow {
        here: s.id == who.person.session_id,
        id: s.id,
        agent: s.agent,
        more: who.language().say_with(
            "session-more",
            &[
                ("address", s.address.into()),
                ("since", show.moment(s.started_at).into()),
                ("seen", show.moment(s.seen_at).into()),
            ],
        ),
    };
    let key = |k: Passkey| KeyRow {
        id: k.id,
        name: k.name,
        more: match k.used_at {
            Some(used) => who.language().say_with(
                "passkey-used",
                &[("since", show.moment(k.made_at).into()), ("used", show.moment(used).into())],
            ),
            None => who.language().say_with("passkey-unused", &[("since", show.moment(k.made_at).into())]),
        },
    };
    let line = |s: SignIn| HistoryRow {
        when: show.moment(s.at),
        how: who.language().kept("came", s.how),
        came_in: s.came_in,
        agent: s.agent,
        address: s.address,
    };
    Ok(MePage {
        role: who.language().word("role", who.person.role.id(), who.person.role.words()),
        email: account.email,
        called: account.name,
        second: !account.second.is_empty(),
        setting,
        spare,
        keys: scope.passkeys_of(me).await?.into_iter().map(key).collect(),
        making,
        key_name,
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

/// What comes of an act: what was done, codes to be shown once, a second factor or a key to be set up, or what is wrong.
#[derive(Default)]
struct Came {
    done: Option<String>,
    codes: Vec<String>,
    asked: Option<Setting>,
    making: Option<Making>,
    wrong: Vec<(&'static str, String)>,
}

impl Came {
    fn done(what: impl Into<String>) -> Self {
        Self { done: Some(what.into()), ..Self::default() }
    }

    fn wrong(field: &'static str, why: impl Into<String>) -> Self {
        Self { wrong: vec![(field, why.into())], ..Self::default() }
    }
}

/// What is wrong with the password given, where one is asked for, and at which field; nothing of the database is held meanwhile.
async fn not_theirs(app: &App, who: &Who, form: &Act, account: &Account) -> Result<Option<Came>, Failure> {
    let field = match form.act.as_str() {
        "password" => "password",
        "second" | "set-second" | "no-second" | "spare" => "second-password",
        "passkey" => "passkey-password",
        _ => return Ok(None),
    };
    let counted = format!("own password {account}", account = account.consultant_id);
    if app.store.count_under(&counted, 1.0, TimeDelta::minutes(10), Utc::now()).await? > TRIES {
        return Ok(Some(Came::wrong(field, who.language().say("second-tries"))));
    }
    let right = app.passwords.verify(form.password.clone(), Some(account.password_hash.clone())).await?;
    Ok((!right).then(|| Came::wrong(field, who.language().say("password-not-yours"))))
}

/// What a second factor being set up is made from, as the form carries it.
fn word(form: &Act) -> String {
    form.word.chars().filter(char::is_ascii_graphic).take(64).collect()
}

/// Does what is asked.
async fn done(
    app: &App,
    who: &Who,
    (scope, account): (&Scope, &Account),
    (form, headers): (&Act, &HeaderMap),
    hashed: Option<Result<String, String>>,
) -> Result<Came, Failure> {
    let (me, tongue) = (who.person.consultant_id, who.language());
    Ok(match form.act.as_str() {
        "name" => match one_line_in(tongue, &form.name, LONGEST, &tongue.say("name-needed")) {
            Ok(name) => {
                scope.set_name(me, &name).await?;
                Came::done(say!("Changed their name from {account} to {name}", account = account.name, name))
            }
            Err(why) => Came::wrong("name", why),
        },
        "password" => match hashed.ok_or_else(|| Failure::Defect("a password was not looked at".into()))? {
            Ok(hashed) => {
                scope.set_password(me, &hashed, Some(who.person.session_id)).await?;
                Came::done(say!("Changed their password"))
            }
            Err(why) => Came::wrong("new_password", why),
        },
        "second" => Came { asked: Some(setting(app, who, &account.email, Second::fresh()?)?), ..Came::default() },
        "set-second" => set_second(app, who, scope, account, form).await?,
        "spare" if !account.second.is_empty() => {
            let codes = spare()?;
            scope.set_spare(me, &codes).await?;
            Came { codes, ..Came::done(say!("Made new spare codes")) }
        }
        "passkey" => make_key(app, who, (scope, account), form, headers).await?,
        "keep-passkey" => keep_key(app, who, (scope, account), form, headers).await?,
        "drop-passkey" => {
            let n = scope.drop_passkeys(me, Some(form.of.unwrap_or_default())).await?;
            Came::done(say!("Took {n} of their passkeys away", n))
        }
        "no-second" => {
            scope.set_second(me, "", 0, &[]).await?;
            Came::done(say!("Took their second factor away"))
        }
        "end" => {
            scope.end_session(me, form.of.unwrap_or_default()).await?;
            Came::done(say!("Ended a session of their own"))
        }
        "end-others" => {
            let n = scope.end_sessions(me, Some(who.person.session_id)).await?;
            Came::done(say!("Ended {n} other sessions of their own", n))
        }
        _ => return Err(Failure::BadForm("act".into())),
    })
}

/// Turns the second factor on, once its code is shown back.
async fn set_second(app: &App, who: &Who, scope: &Scope, account: &Account, form: &Act) -> Result<Came, Failure> {
    let (me, word) = (who.person.consultant_id, word(form));
    let second = Second::of(app, me, &account.email, &word)?;
    let at = u64::try_from(Utc::now().timestamp()).unwrap_or_default();
    let Some(step) = second.step(&form.code, at).filter(|_| word.len() >= 32) else {
        let asked = Some(setting(app, who, &account.email, word)?);
        let why = who.language().say("code-wrong");
        return Ok(Came { asked, ..Came::wrong("code", why) });
    };
    let codes = spare()?;
    scope.set_second(me, &word, step, &codes).await?;
    Ok(Came { codes, ..Came::done(say!("Set up a second factor")) })
}

/// Has the browser’s device asked for a key.
async fn make_key(
    app: &App,
    who: &Who,
    (scope, account): (&Scope, &Account),
    form: &Act,
    headers: &HeaderMap,
) -> Result<Came, Failure> {
    let tongue = who.language();
    let name = match one_line_in(tongue, &form.key_name, LONGEST_KEY, &tongue.say("passkey-name-needed")) {
        Ok(name) => name,
        Err(why) => return Ok(Came::wrong("key_name", why)),
    };
    let held = scope.passkeys_of(account.consultant_id).await?;
    Ok(match passkey::make(app, headers, account, held, Utc::now())? {
        Some(question) => Came { making: Some(Making { name, question }), ..Came::default() },
        None => Came::wrong("key_name", tongue.say("passkey-nowhere")),
    })
}

/// Keeps the key a device made.
async fn keep_key(
    app: &App,
    who: &Who,
    (scope, account): (&Scope, &Account),
    form: &Act,
    headers: &HeaderMap,
) -> Result<Came, Failure> {
    let (me, tongue, now) = (account.consultant_id, who.language(), Utc::now());
    let name = match one_line_in(tongue, &form.key_name, LONGEST_KEY, &tongue.say("passkey-name-needed")) {
        Ok(name) => name,
        Err(why) => return Ok(Came::wrong("key_name", why)),
    };
    let (credential, key) = match passkey::made(app, headers, me, (&form.asked, &form.credential), now).await? {
        Ok(made) => made,
        Err(why) => return Ok(Came::wrong("key_name", tongue.say(why.says()))),
    };
    let key = Passkey { id: form.id, consultant_id: me, credential, key, name, made_at: now, used_at: None };
    let what = say!("Made a passkey, {key}", key = key.name);
    Ok(match scope.add_passkey(key).await? {
        true => Came::done(what),
        false => Came::wrong("key_name", tongue.say("passkey-many")),
    })
}

/// Changes name, password or second factor, and ends sessions. What weakens the account asks for the password.
pub async fn act(
    State(app): State<App>,
    who: Who,
    headers: HeaderMap,
    Form(form): Form<Act>,
) -> Result<Response, Failure> {
    let account = own(&who, &who.scope().await?).await?;
    let stranger = not_theirs(&app, &who, &form, &account).await?;
    let hashed = match form.act.as_str() {
        "password" if stranger.is_none() => Some(hash_later(&app, &form.new_password, who.language()).await?),
        _ => None,
    };
    let scope = who.scope().await?;
    let came = match stranger {
        // What was being set up stays on the page.
        Some(wrong) if form.act == "set-second" => {
            Came { asked: Some(setting(&app, &who, &account.email, word(&form))?), ..wrong }
        }
        Some(wrong) => wrong,
        None => done(&app, &who, (&scope, &account), (&form, &headers), hashed).await?,
    };
    if let Some(what) = &came.done {
        // Sent twice at once: the second finds it done, and nothing it did is kept.
        if !scope.audit(form.id, Some(who.person.consultant_id), what, None).await? {
            return Ok(Redirect::to("/me").into_response());
        }
        if came.codes.is_empty() {
            scope.commit().await?;
            return Ok(Redirect::to("/me").into_response());
        }
    }
    let status = if came.wrong.is_empty() { StatusCode::OK } else { StatusCode::UNPROCESSABLE_ENTITY };
    let page = view(&who, &scope, came, form.key_name).await?;
    scope.commit().await?;
    Ok((status, page).into_response())
}
