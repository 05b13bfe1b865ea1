//! The signed-in consultant, as an extractor: a handler that takes [`Who`] cannot be reached without signing in.

use crate::access::{Needs, Right};
use crate::error::Failure;
use crate::state::App;
use crate::token::Token;
use axum::extract::FromRequestParts;
use axum::http::{HeaderMap, Method, request::Parts};
use axum_extra::extract::cookie::{Cookie, CookieJar, SameSite};
use casework::{CaseFile, InView};
use judgment::limits::Limits;
use language::Language;
use notation::Show;
use notation::Units;
use std::sync::Arc;
use store::{Depth, Scope, SignedIn};
use uuid::Uuid;

const COOKIE: &str = "gutteral_session";

/// The signed-in consultant with a way to their practice's rows, what their forms carry, and where they are.
pub struct Who {
    pub person: SignedIn,
    /// What their forms carry.
    pub token: Token,
    /// The address they asked for.
    pub here: String,
    /// The job in that address.
    about: Option<Uuid>,
    /// What it asks for.
    needs: Needs,
    app: App,
}

/// The job an address is about.
fn job_in(path: &str) -> Option<Uuid> {
    path.strip_prefix("/jobs/")?.split('/').next()?.parse().ok()
}

impl Who {
    /// Begins a transaction in this consultant's practice.
    pub async fn scope(&self) -> Result<Scope, Failure> {
        Ok(self.app.store.practice(self.person.practice_id).await?)
    }

    /// The job in the address as it stands, to be looked at; what is decided about it is decided in a scope.
    pub async fn file(&self, job: Uuid, view: impl Into<InView>, depth: Depth) -> Result<Arc<CaseFile>, Failure> {
        if self.about != Some(job) {
            // An address may be written in more ways than one: whose revision is not known is read.
            return Ok(CaseFile::load(&self.scope().await?, job, view.into(), depth).await?.into());
        }
        let (store, practice, revision) = (&self.app.store, self.person.practice_id, self.person.revision);
        Ok(self.app.shelf.file(store, practice, (job, revision), view.into(), depth).await?)
    }

    /// Whether their role has a right, on the job in the address.
    pub const fn may(&self, right: Right) -> bool {
        right.is_of(self.person.role, self.person.rehearsal)
    }

    /// The right that what is on this page asks for, where they do not have it.
    pub fn lacks(&self) -> Option<Right> {
        (!self.may(self.needs.acts)).then_some(self.needs.acts)
    }

    pub fn units(&self) -> Units {
        if self.person.units == "us" { Units::Us } else { Units::Metric }
    }

    /// The limits their practice works by.
    pub fn limits(&self) -> Limits {
        Limits::of(self.person.schools.iter().map(|(q, s)| (q.as_str(), s.as_str())))
    }

    /// The language they read in.
    pub fn language(&self) -> Language {
        Language::from_id(&self.person.language).unwrap_or_default()
    }

    /// How values are shown to this person.
    pub fn show(&self) -> Show {
        Show::new(self.units(), &self.person.time_zone)
    }
}

impl FromRequestParts<App> for Who {
    type Rejection = Failure;

    async fn from_request_parts(parts: &mut Parts, app: &App) -> Result<Self, Failure> {
        let about = job_in(parts.uri.path());
        let person = match session_secret(&parts.headers) {
            Some(secret) => app.store.signed_in(&secret, chrono::Utc::now(), about).await?,
            None => None,
        };
        let here = parts.uri.path_and_query().map_or("/", |p| p.as_str()).to_owned();
        match person {
            Some(person) => {
                let token = parts.extensions.get::<Token>().cloned();
                let token = token.ok_or_else(|| Failure::Defect("a page outside the guard of forms".into()))?;
                let needs = parts.extensions.get::<Needs>().copied();
                let needs = needs.ok_or_else(|| Failure::Defect("an address that says not who may".into()))?;
                if !needs.right.is_of(person.role, person.rehearsal) {
                    return Err(Failure::NotAllowed(needs.right));
                }
                let who = Self { person, token, here, about, needs, app: app.clone() };
                language::speak(who.language());
                Ok(who)
            }
            None if parts.method == Method::GET => Err(Failure::SignIn { next: here }),
            None => Err(Failure::SignedOut),
        }
    }
}

/// The session's secret, from its cookie.
pub fn session_secret(headers: &HeaderMap) -> Option<String> {
    CookieJar::from_headers(headers).get(COOKIE).map(|c| c.value().to_owned())
}

/// The cookie that holds a session's secret.
pub fn session_cookie(secret: String, headers: &HeaderMap) -> Cookie<'static> {
    let mut cookie = private_cookie(COOKIE, secret, headers);
    cookie.make_permanent(); // the session row decides when it ends
    cookie
}

/// The cookie that takes the session's secret away.
pub fn no_session_cookie() -> Cookie<'static> {
    let mut cookie = Cookie::new(COOKIE, "");
    cookie.set_path("/");
    cookie.make_removal();
    cookie
}

/// A cookie scripts cannot read and other sites cannot send along with a post.
pub fn private_cookie(name: &'static str, value: String, headers: &HeaderMap) -> Cookie<'static> {
    let mut cookie = Cookie::new(name, value);
    cookie.set_path("/");
    cookie.set_http_only(true);
    cookie.set_same_site(SameSite::Lax);
    let https = headers.get("x-forwarded-proto").is_some_and(|p| p == "https");
    cookie.set_secure(https);
    cookie
}
