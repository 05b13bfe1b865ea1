//! A program, let in as somebody by a token of theirs.

use super::problem::Problem;
use crate::access::Right;
use crate::body::is_path;
use crate::error::is_text;
use crate::state::App;
use axum::extract::FromRequestParts;
use axum::http::request::Parts;
use axum::http::{StatusCode, header};
use casework::{CaseFile, InView};
use chrono::{TimeDelta, Utc};
use notation::{Show, Units};
use store::{Depth, Scope, Token, TokenScope};
use uuid::Uuid;

/// Most requests by a token in a minute.
const MOST: f64 = 600.0;
/// How long what a token says may be.
const LENGTHS: std::ops::RangeInclusive<usize> = 16..=200;

/// What an address asks for: of the token, and of the person.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Needs {
    /// What the token must let a program do.
    pub scope: TokenScope,
    /// What the person must be let to do.
    pub right: Right,
}

/// Whoever asks.
pub struct Caller {
    /// Their token, and who they are.
    pub token: Token,
    app: App,
}

impl Caller {
    /// Begins a transaction in their practice.
    pub async fn scope(&self) -> Result<Scope, Problem> {
        Ok(self.app.store.practice(self.token.person.practice_id).await?)
    }

    /// A job as it stands, in a scope.
    pub async fn file(
        &self,
        scope: &Scope,
        job: Uuid,
        view: impl Into<InView>,
        depth: Depth,
    ) -> Result<CaseFile, Problem> {
        Ok(CaseFile::load(scope, job, view.into(), depth).await?)
    }

    /// Who it is.
    pub const fn by(&self) -> Uuid {
        self.token.person.consultant_id
    }

    /// How values are told in words: by the practice's clock, in SI.
    pub fn show(&self) -> Show {
        Show::new(Units::Metric, &self.token.person.time_zone)
    }

    /// What every request may reach.
    pub const fn app(&self) -> &App {
        &self.app
    }
}

impl FromRequestParts<App> for Caller {
    type Rejection = Problem;

    async fn from_request_parts(parts: &mut Parts, app: &App) -> Result<Self, Problem> {
        let text = |part: &str| {
            serde_urlencoded::from_str::<Vec<(String, String)>>(part)
                .is_ok_and(|q| q.iter().all(|(k, v)| is_text(k) && is_text(v)))
        };
        if !is_path(parts.uri.path()) || !parts.uri.query().is_none_or(text) {
            return Err(Problem::new(StatusCode::BAD_REQUEST, "The address holds characters that no text has."));
        }
        let unknown = || {
            Problem::new(StatusCode::UNAUTHORIZED, "No token was sent, or it does not hold: make one on your account’s page and send it as Authorization: Bearer.")
                .with(header::WWW_AUTHENTICATE, "Bearer")
        };
        let said = parts.headers.get(header::AUTHORIZATION).and_then(|v| v.to_str().ok());
        let said = said.and_then(|v| v.strip_prefix("Bearer ")).map(str::trim).filter(|t| LENGTHS.contains(&t.len()));
        let about = parts.uri.path().split("/jobs/").nth(1).and_then(|p| p.split('/').next()?.parse().ok());
        let (said, now) = (said.ok_or_else(unknown)?, Utc::now());
        let token = app.store.token(said, now, about).await?.ok_or_else(unknown)?;
        let asked = app.store.count_under(&format!("api {}", token.id), 1.0, TimeDelta::minutes(1), now).await?;
        if asked > MOST {
            return Err(Problem::new(StatusCode::TOO_MANY_REQUESTS, format!("More than {MOST} requests in a minute."))
                .with(header::RETRY_AFTER, "60"));
        }
        let needs = parts.extensions.get::<Needs>().copied();
        let needs = needs.ok_or_else(|| crate::error::Failure::Defect("an address that says not who may".into()))?;
        if !token.scopes.contains(&needs.scope) {
            let said = format!("The token has no scope “{}”: it may not {}.", needs.scope.id(), needs.scope.words());
            return Err(Problem::new(StatusCode::FORBIDDEN, said));
        }
        if !needs.right.is_of(token.person.role, token.person.rehearsal) {
            let said = format!("{} may not {}.", token.person.name, needs.right.words());
            return Err(Problem::new(StatusCode::FORBIDDEN, said));
        }
        Ok(Self { token, app: app.clone() })
    }
}
