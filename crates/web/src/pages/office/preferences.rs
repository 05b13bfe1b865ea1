//! Units, theme and language, one switch each, per person.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::Form;
use axum::response::Redirect;
use language::Language;
use serde::Deserialize;

#[derive(Deserialize)]
pub struct Choice {
    units: Option<String>,
    theme: Option<String>,
    language: Option<String>,
    back: String,
}

/// Stores the choice and returns to where it was made.
pub async fn submit(who: Who, Form(choice): Form<Choice>) -> Result<Redirect, Failure> {
    let languages = Language::ALL.map(Language::id);
    let pick = |given: Option<String>, known: [&str; 2], now: &str| match given {
        Some(g) if known.contains(&g.as_str()) => Ok(g),
        Some(g) => Err(Failure::BadForm(format!("unknown preference {g}"))),
        None => Ok(now.to_owned()),
    };
    let units = pick(choice.units, ["metric", "us"], &who.person.units)?;
    let theme = pick(choice.theme, ["paper", "headlamp"], &who.person.theme)?;
    let language = pick(choice.language, languages, &who.person.language)?;
    let scope = who.scope().await?;
    scope.set_preferences(who.person.consultant_id, &units, &theme, &language).await?;
    scope.commit().await?;
    Ok(Redirect::to(local(&choice.back)))
}

/// A path on this site, made of what the router can produce; anything else leads home, so that nobody can be sent elsewhere
/// and the answer can always be written.
pub fn local(path: &str) -> &str {
    let (way, rest) = path.split_at(path.find(['?', '#']).unwrap_or(path.len()));
    let plain = |c: char| c.is_ascii_alphanumeric() || matches!(c, '-' | '_' | '.' | '~');
    let segment = |s: &str| s.chars().all(plain) && !matches!(s, "." | "..");
    let whole =
        way.strip_prefix('/').is_some_and(|way| way.is_empty() || way.split('/').all(|s| !s.is_empty() && segment(s)));
    let asked = rest.chars().all(|c| plain(c) || matches!(c, '?' | '#' | '&' | '=' | '%' | '+' | ':' | ',' | '/'));
    if whole && asked && path.len() <= LONGEST { path } else { "/" }
}

/// Longest path gone back to, bytes.
const LONGEST: usize = 2000;

#[cfg(test)]
mod tests {
    use super::local;

    #[test]
    fn only_paths_the_router_can_make_are_gone_to() {
        for good in
            ["/", "/docket", "/jobs/0198-a_b/plan?step=ground_film#sizes", "/calculator/air?t_c=64F&rh_pct=78%25"]
        {
            assert_eq!(local(good), good);
        }
        let long = format!("/docket?{}", "a".repeat(3000));
        for bad in [
            "",
            "docket",
            "//evil.example",
            "/\t/evil.example",
            "/\\evil.example",
            "/a\r\nSet-Cookie: x=1",
            "/a//b",
            "/../x",
            "/docket?x=\0",
            "/docket?\u{7f}",
            "/d\u{e9}j\u{e0}",
            "https://evil.example",
            "/%2f/evil.example",
            &long,
        ] {
            assert_eq!(local(bad), "/", "{bad:?}");
        }
    }
}
