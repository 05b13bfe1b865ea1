//! Browsers somebody signed in from before: a stranger's wrong guesses must not keep the owner out of them.

use super::{csrf, fresh_secret};
use crate::error::Failure;
use crate::state::App;
use axum::http::HeaderMap;
use axum_extra::extract::cookie::{Cookie, CookieJar};
use uuid::Uuid;

const COOKIE: &str = "gutteral_known";

/// What a browser is known by to an account: the random part of its cookie, if that was made for this account.
pub fn known(app: &App, headers: &HeaderMap, account: Uuid) -> Result<Option<String>, Failure> {
    let Some(held) = CookieJar::from_headers(headers).get(COOKIE).map(|c| c.value().to_owned()) else {
        return Ok(None);
    };
    let Some((name, mark)) = held.split_once('.') else { return Ok(None) };
    Ok(csrf::verify(app, &said(account, name), mark)?.then(|| name.to_owned()))
}

/// The cookie by which this browser is known to an account from now on.
pub fn cookie(app: &App, headers: &HeaderMap, account: Uuid) -> Result<Cookie<'static>, Failure> {
    let name = fresh_secret()?;
    let mark = csrf::mark(app, &said(account, &name))?;
    let mut cookie = super::who::private_cookie(COOKIE, format!("{name}.{mark}"), headers);
    cookie.make_permanent();
    Ok(cookie)
}

fn said(account: Uuid, name: &str) -> String {
    format!("known {account} {name}")
}
