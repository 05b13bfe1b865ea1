//! Where an invitation leads: somebody new, or a new password.

use super::me::LONGEST;
use super::one_line_in;
use crate::auth::password::{SHORTEST, hash_later};
use crate::auth::tongue;
use crate::error::Failure;
use crate::extract::{Form, Path};
use crate::state::App;
use askama::Template;
use askama_web::WebTemplate;
use axum::extract::State;
use axum::http::{HeaderMap, StatusCode};
use axum::response::{IntoResponse, Redirect, Response};
use chrono::Utc;
use language::{Language, known, say};
use serde::Deserialize;
use std::borrow::Cow;
use uuid::Uuid;

#[derive(Template, WebTemplate)]
#[template(path = "join.html")]
struct JoinPage {
    tongue: Language,
    token: String,
    secret: String,
    practice: String,
    called: String,
    email: String,
    role: Option<Cow<'static, str>>,
    wrong: Vec<(&'static str, String)>,
    shortest: usize,
}

impl JoinPage {
    fn error(&self, field: &str) -> Option<&str> {
        self.wrong.iter().find(|(f, _)| *f == field).map(|(_, e)| e.as_str())
    }
}

/// Where an invitation leads: a name and a password.
pub async fn page(
    State(app): State<App>,
    axum::Extension(token): axum::Extension<crate::token::Token>,
    Path(secret): Path<String>,
    headers: HeaderMap,
) -> Result<Response, Failure> {
    let invite = app.store.invite_by(&secret, Utc::now()).await?.ok_or(Failure::NoInvite)?;
    Ok(join_page((token, tongue(&headers)), secret, &invite, invite.name.clone(), Vec::new()).into_response())
}

fn join_page(
    (token, tongue): (crate::token::Token, Language),
    secret: String,
    invite: &store::Invite,
    name: String,
    wrong: Vec<(&'static str, String)>,
) -> JoinPage {
    JoinPage {
        tongue,
        token: token.0,
        secret,
        practice: invite.practice.1.clone(),
        called: name,
        email: invite.email.clone(),
        role: invite.consultant_id.is_none().then(|| tongue.word("role", invite.role.id(), invite.role.words())),
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
    headers: HeaderMap,
    Form(form): Form<Join>,
) -> Result<Response, Failure> {
    let tongue = tongue(&headers);
    let now = Utc::now();
    let invite = app.store.invite_by(&secret, now).await?.ok_or(Failure::NoInvite)?;
    let mut wrong = Vec::new();
    let name = match invite.consultant_id {
        Some(_) => invite.name.clone(),
        None => one_line_in(tongue, &form.name, LONGEST, &tongue.say("name-needed")).unwrap_or_else(|e| {
            wrong.push(("name", e));
            form.name.clone()
        }),
    };
    let hashed = hash_later(&app, &form.new_password, tongue).await?.map_err(|e| wrong.push(("new_password", e)));
    let (Ok(hashed), true) = (hashed, wrong.is_empty()) else {
        let page = join_page((token, tongue), secret, &invite, name, wrong);
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
            // Whoever needs a link may have lost more than a password.
            let (keys, tokens) = (scope.drop_passkeys(id, None).await?, scope.end_tokens_of(id, now).await?);
            say!(
                "{name} set a new password by a link; {keys} passkeys taken away, {tokens} tokens ended",
                name,
                keys,
                tokens
            )
        }
        None => {
            let person = store::Person {
                id: Uuid::now_v7(),
                email: invite.email.clone(),
                name: name.clone(),
                password_hash: hashed,
            };
            if !scope.add_person(person, invite.role).await? {
                let wrong = vec![("name", tongue.say("join-taken"))];
                return Ok(
                    (StatusCode::CONFLICT, join_page((token, tongue), secret, &invite, name, wrong)).into_response()
                );
            }
            say!(
                "{name} <{invite}> joined as {invite2}",
                name,
                invite = invite.email,
                invite2 = known(invite.role.words())
            )
        }
    };
    scope.audit(Uuid::now_v7(), invite.consultant_id, &what, None).await?;
    scope.commit().await?;
    Ok(Redirect::to("/sign-in?joined=yes").into_response())
}
