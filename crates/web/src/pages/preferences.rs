//! Units and theme, one switch each, per person.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::Form;
use axum::response::Redirect;
use serde::Deserialize;

#[derive(Deserialize)]
pub struct Choice {
    units: Option<String>,
    theme: Option<String>,
    back: String,
}

/// Stores the choice and returns to where it was made.
pub async fn submit(who: Who, Form(choice): Form<Choice>) -> Result<Redirect, Failure> {
    let pick = |given: Option<String>, known: [&str; 2], now: &str| match given {
        Some(g) if known.contains(&g.as_str()) => Ok(g),
        Some(g) => Err(Failure::BadForm(format!("unknown preference {g}"))),
        None => Ok(now.to_owned()),
    };
    let units = pick(choice.units, ["metric", "us"], &who.person.units)?;
    let theme = pick(choice.theme, ["paper", "headlamp"], &who.person.theme)?;
    let scope = who.scope().await?;
    scope.set_preferences(who.person.consultant_id, &units, &theme).await?;
    scope.commit().await?;
    Ok(Redirect::to(local(&choice.back)))
}

/// A path on this site; anything else leads home, so that nobody can be sent elsewhere.
pub fn local(path: &str) -> &str {
    let plain = path.starts_with('/') && !path.starts_with("//") && !path.contains(['\\', '\n', '\r']);
    if plain { path } else { "/" }
}
