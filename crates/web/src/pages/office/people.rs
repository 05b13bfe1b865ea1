//! The people of a practice: who may do what, invitations, and the way back in for who forgot a password.

use super::one_line_in;
use crate::auth::{Who, fresh_secret};
use crate::error::Failure;
use crate::extract::{Form, Query};
use crate::view::Frame;
use crate::view::pages::{At, Pages};
use askama::Template;
use askama_web::WebTemplate;
use axum::http::{HeaderMap, StatusCode, header};
use axum::response::{IntoResponse, Redirect, Response};
use chrono::Utc;
use language::{Language, known, say};
use serde::Deserialize;
use std::borrow::Cow;
use std::collections::HashMap;
use store::{INVITE_DAYS, Invite, Letter, Member, Role, Scope};
use uuid::Uuid;

/// Longest name, characters, and e-mail.
const LONGEST: usize = 120;
const LONGEST_EMAIL: usize = 254;
/// Most people of a practice, and most open invitations.
const MOST: usize = 500;
/// Lines of the audit on a page.
const PER_PAGE: u64 = 100;

/// What is wrong, by field; under `list` of somebody in it.
type Wrongs = Vec<(&'static str, String)>;
/// Somebody to invite: name, e-mail, and what they may.
type Somebody = (String, String, Role);

/// Somebody in the list.
struct Row {
    id: Uuid,
    name: String,
    email: String,
    role: Role,
    here: bool,
    ended: Option<String>,
    second: bool,
    seen: String,
    /// How many are open, where any is.
    sessions: Option<String>,
}

/// An invitation that is open.
struct Open {
    id: Uuid,
    name: String,
    /// Whose e-mail, what for and until when.
    more: String,
}

/// Somebody to invite, as typed.
#[derive(Default)]
struct Typed {
    name: String,
    email: String,
    role: String,
}

#[derive(Template, WebTemplate)]
#[template(path = "people.html")]
struct PeoplePage {
    frame: Frame,
    people: Vec<Row>,
    invites: Vec<Open>,
    roles: Vec<(Role, Cow<'static, str>)>,
    typed: Typed,
    wrong: Wrongs,
    /// A link just made, shown once, and for whom.
    link: Option<(String, String)>,
}

impl PeoplePage {
    fn error(&self, field: &str) -> Option<&str> {
        self.wrong.iter().find(|(f, _)| *f == field).map(|(_, e)| e.as_str())
    }

    fn new_id(&self) -> Uuid {
        Uuid::now_v7()
    }

    /// What a role may, in a sentence.
    fn may(&self, role: &Role) -> String {
        self.frame.language.say(&format!("people-role-{role}", role = role.id()))
    }
}

/// What is done about people.
#[derive(Deserialize)]
pub struct Act {
    id: Uuid,
    act: String,
    #[serde(default)]
    of: Option<Uuid>,
    #[serde(default)]
    name: String,
    #[serde(default)]
    email: String,
    #[serde(default)]
    role: String,
}

/// Everybody, and what is open.
pub async fn page(who: Who) -> Result<Response, Failure> {
    let scope = who.scope().await?;
    Ok(view(&who, &scope, Typed::default(), Vec::new(), None).await?.into_response())
}

async fn view(
    who: &Who,
    scope: &Scope,
    typed: Typed,
    wrong: Wrongs,
    link: Option<(String, String)>,
) -> Result<PeoplePage, Failure> {
    let (show, now, tongue) = (who.show(), Utc::now(), who.language());
    let row = |m: Member| Row {
        here: m.id == who.person.consultant_id,
        ended: m.ended_at.map(|at| show.day(at)),
        seen: match m.seen_at {
            None => tongue.say("people-never"),
            Some(at) => tongue.say_with("people-seen", &[("moment", show.moment(at).into())]),
        },
        id: m.id,
        name: m.name,
        email: m.email,
        role: m.role,
        second: m.second,
        sessions: (m.sessions > 0)
            .then(|| tongue.say_with("people-sessions", &[("n", m.sessions.unsigned_abs().into())])),
    };
    let open = |i: Invite| Open {
        id: i.id,
        name: i.name,
        more: {
            let role = tongue.word("role", i.role.id(), i.role.words()).into_owned();
            let said = if i.consultant_id.is_some() { "people-open-password" } else { "people-open-role" };
            let with = [("email", i.email.into()), ("role", role.into()), ("day", show.day(i.expires_at).into())];
            tongue.say_with(said, &with)
        },
    };
    Ok(PeoplePage {
        people: scope.members().await?.into_iter().map(row).collect(),
        invites: scope.invites(now).await?.into_iter().map(open).collect(),
        roles: Role::ALL.iter().map(|r| (*r, tongue.word("role", r.id(), r.words()))).collect(),
        typed,
        wrong,
        link,
        frame: Frame::new(who),
    })
}

/// Whether a text can be an e-mail address.
pub fn is_email(text: &str) -> bool {
    let (before, after) = text.split_once('@').unwrap_or_default();
    let plain = text.chars().all(|c| c.is_ascii_graphic()) && !after.contains('@');
    !before.is_empty() && after.contains('.') && plain && text.len() <= LONGEST_EMAIL
}

/// Somebody new, as typed, or what is wrong.
fn somebody(tongue: Language, form: &Act, people: &[Member]) -> Result<Somebody, Wrongs> {
    let mut wrong = Vec::new();
    let name = one_line_in(tongue, &form.name, LONGEST, &tongue.say("people-who")).map_err(|e| wrong.push(("name", e)));
    let email = form.email.trim().to_lowercase();
    if !is_email(&email) {
        wrong.push(("email", tongue.say("people-email")));
    } else if people.iter().any(|p| p.email == email) {
        wrong.push(("email", tongue.say("people-taken")));
    }
    let role = Role::from_id(&form.role);
    if role.is_none() {
        wrong.push(("role", tongue.say("people-choose-role")));
    }
    match (name, role) {
        (Ok(name), Some(role)) if wrong.is_empty() => Ok((name, email, role)),
        _ => Err(wrong),
    }
}

/// Invites somebody, changes what they may, lets them in no more or again, ends their sessions, gives a way back in.
pub async fn act(who: Who, headers: HeaderMap, Form(form): Form<Act>) -> Result<Response, Failure> {
    let scope = who.scope().await?;
    scope.hold_people().await?;
    let people = scope.members().await?;
    let (me, now) = (who.person.consultant_id, Utc::now());
    let of = form.of.and_then(|id| people.iter().find(|p| p.id == id));
    let leads = |but: Uuid| people.iter().any(|p| p.id != but && p.ended_at.is_none() && p.role == Role::Lead);
    let refuse = |why: &str| Err(vec![("list", who.language().say(why))]);
    let done: Result<String, Wrongs> = match (form.act.as_str(), of) {
        ("invite", _) | ("reset", Some(_)) => {
            let invite = match of.filter(|_| form.act == "reset") {
                Some(p) if p.ended_at.is_some() => {
                    return refused(
                        &who,
                        &scope,
                        &form,
                        vec![("list", who.language().say_with("people-shut", &[("name", p.name.as_str().into())]))],
                    )
                    .await;
                }
                Some(p) => (Some(p.id), p.name.clone(), p.email.clone(), p.role),
                None => match somebody(who.language(), &form, &people) {
                    Ok((name, email, role)) => (None, name, email, role),
                    Err(wrong) => return refused(&who, &scope, &form, wrong).await,
                },
            };
            return send(&who, scope, &headers, form.id, invite).await;
        }
        ("revoke", _) => {
            let Some(id) = form.of else { return Err(Failure::BadForm("of".into())) };
            scope.end_invite(id, now).await?;
            Ok(say!("Took an invitation back").into())
        }
        ("role", Some(p)) => match Role::from_id(&form.role) {
            None => return Err(Failure::BadForm("role".into())),
            Some(role) if role != Role::Lead && !leads(p.id) => refuse("people-must-lead"),
            Some(role) => {
                scope.set_role(p.id, role).await?;
                Ok(say!(
                    "{name} is {role} now, {role2} before",
                    name = p.name,
                    role = known(role.words()),
                    role2 = known(p.role.words())
                ))
            }
        },
        ("end", Some(p)) if p.id == me => refuse("people-yourself"),
        ("end", Some(p)) if !leads(p.id) => refuse("people-must-lead"),
        ("end", Some(p)) => {
            scope.set_ended(p.id, Some(now)).await?;
            Ok(say!("{name} may not come in any more", name = p.name))
        }
        ("back", Some(p)) => {
            scope.set_ended(p.id, None).await?;
            Ok(say!("{name} may come in again", name = p.name))
        }
        ("second", Some(p)) => {
            scope.set_second(p.id, "", 0, &[]).await?;
            let keys = scope.drop_passkeys(p.id, None).await?;
            Ok(say!("Took {name}’s second factor away, and {keys} passkeys", name = p.name, keys))
        }
        ("sessions", Some(p)) => {
            let n = scope.end_sessions(p.id, Some(who.person.session_id)).await?;
            Ok(say!("Ended {n} sessions of {name}", n, name = p.name))
        }
        _ => return Err(Failure::NotFound),
    };
    match done {
        Err(wrong) => refused(&who, &scope, &form, wrong).await,
        Ok(what) => {
            scope.audit(form.id, Some(me), &what, None).await?;
            scope.commit().await?;
            Ok(Redirect::to("/people").into_response())
        }
    }
}

async fn refused(who: &Who, scope: &Scope, form: &Act, wrong: Wrongs) -> Result<Response, Failure> {
    let typed = Typed { name: form.name.clone(), email: form.email.clone(), role: form.role.clone() };
    Ok((StatusCode::UNPROCESSABLE_ENTITY, view(who, scope, typed, wrong, None).await?).into_response())
}

/// Makes a link, sends it, and shows it once: mail does not always arrive.
async fn send(
    who: &Who,
    scope: Scope,
    headers: &HeaderMap,
    id: Uuid,
    (consultant_id, name, email, role): (Option<Uuid>, String, String, Role),
) -> Result<Response, Failure> {
    let now = Utc::now();
    if scope.members().await?.len() >= MOST || scope.invites(now).await?.len() >= MOST {
        let wrong = vec![("list", who.language().say_with("people-most", &[("n", MOST.into())]))];
        let page = view(who, &scope, Typed { name, email, role: role.id().into() }, wrong, None).await?;
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response());
    }
    let secret = fresh_secret()?;
    let invite = Invite {
        id,
        practice: (who.person.practice_id, who.person.practice_name.clone()),
        consultant_id,
        email: email.clone(),
        name: name.clone(),
        role,
        made_by: who.person.consultant_id,
        expires_at: now + INVITE_DAYS,
    };
    // Sent twice: its link was shown the first time.
    if !scope.invite(&invite, &secret, now).await? {
        return Ok(Redirect::to("/people").into_response());
    }
    let link = format!("{origin}/join/{secret}", origin = origin(headers));
    let (until, practice) = (who.show().day(invite.expires_at), &who.person.practice_name);
    let (subject, said, what) = match consultant_id {
        Some(_) => (
            format!("Your password at {practice}"),
            format!("With this link you set a new password at {practice}."),
            say!("Gave {name} a way to set a new password", name),
        ),
        None => (
            format!("{practice} invites you"),
            format!(
                "{who} invites you to {practice} on Gutteral, as {role}.",
                who = who.person.name,
                role = known(role.words())
            ),
            say!("Invited {name} <{email}> as {role}", name, email, role = known(role.words())),
        ),
    };
    let body =
        format!("{said}\n\n{link}\n\nIt holds until {until}, and once. Who did not expect it leaves it alone.\n");
    scope.audit(Uuid::now_v7(), Some(who.person.consultant_id), &what, None).await?;
    scope.post_letter(&Letter { id: Uuid::now_v7(), job_id: None, mail_to: email.clone(), subject, body }).await?;
    let page = view(who, &scope, Typed::default(), Vec::new(), Some((link, name))).await?;
    scope.commit().await?;
    Ok(page.into_response())
}

/// Where this site is, as the browser sees it.
pub fn origin(headers: &HeaderMap) -> String {
    let text = |name: &str| headers.get(name).and_then(|v| v.to_str().ok());
    let scheme = if text("x-forwarded-proto") == Some("https") { "https" } else { "http" };
    let host = text(header::HOST.as_str()).unwrap_or("127.0.0.1");
    let plain = host.chars().all(|c| c.is_ascii_alphanumeric() || matches!(c, '.' | '-' | ':' | '[' | ']'));
    format!("{scheme}://{}", if plain { host } else { "127.0.0.1" })
}

/// What was done, by whom.
struct Line {
    when: String,
    by: String,
    what: String,
    job: Option<Uuid>,
}

#[derive(Template, WebTemplate)]
#[template(path = "audit.html")]
struct AuditPage {
    frame: Frame,
    lines: Vec<Line>,
    pages: Pages,
}

#[derive(Deserialize, Default)]
pub struct AuditView {
    #[serde(default)]
    page: u64,
}

/// What was done about people, access and data; nobody can change it.
pub async fn audit(who: Who, Query(view): Query<AuditView>) -> Result<impl IntoResponse, Failure> {
    let scope = who.scope().await?;
    let at = At { page: view.page };
    let (rows, found) = scope.audited(at.from(PER_PAGE).1, PER_PAGE).await?;
    let names: HashMap<Uuid, String> = scope.consultant_names().await?;
    let show = who.show();
    let line = |a: store::Audited| Line {
        when: show.moment(a.at),
        by: a.by.map_or_else(|| "Gutteral".into(), |id| names.get(&id).cloned().unwrap_or_default()),
        what: a.what,
        job: a.job_id,
    };
    Ok(AuditPage {
        lines: rows.into_iter().map(line).collect(),
        pages: Pages::new("/people/audit", "found-entries", at, PER_PAGE, found).speaking(who.language()),
        frame: Frame::new(&who),
    })
}
