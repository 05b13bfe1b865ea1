//! What can go wrong at the edge: one message for the person, one for the log, and never a success code.

use crate::token::{FIELD, Token};
use askama::Template;
use axum::http::StatusCode;
use axum::response::{Html, IntoResponse, Redirect, Response};
use store::StoreError;

/// A request that cannot be answered as asked.
#[derive(Debug)]
pub enum Failure {
    /// Nobody is signed in; go there first, then on to `next`.
    SignIn {
        /// Where to go on.
        next: String,
    },
    /// A post without a session.
    SignedOut,
    /// The same, with what was typed.
    SignedOutWith(Box<Typed>),
    /// The form's token is missing or old.
    StaleForm(Box<Typed>),
    /// A post from another site.
    ForeignForm,
    /// More bytes than any form has.
    TooLarge,
    /// No such page, or not in this practice.
    NotFound,
    /// The form lacks fields it always has: not made by our page.
    BadForm(String),
    /// The database does not answer.
    Unavailable(String),
    /// The same on a post, with what was typed.
    UnavailableWith(Box<Typed>),
    /// The visit was finished, perhaps in another tab.
    VisitFinished,
    /// The same on a post, with what was typed.
    VisitFinishedWith(Box<Typed>),
    /// Ours.
    Defect(String),
}

/// The fields of a post that went nowhere, so that nothing typed is lost.
#[derive(Debug)]
pub struct Typed {
    action: String,
    fields: Vec<(String, String)>,
    /// A file came with it, which has to be chosen again.
    picture: bool,
    token: String,
}

impl Typed {
    pub fn new(action: &str, fields: Vec<(String, String)>, picture: bool, token: Token) -> Self {
        Self { action: action.to_owned(), fields, picture, token: token.0 }
    }

    pub fn token(&self) -> Option<&str> {
        self.fields.iter().find(|(k, _)| k == FIELD).map(|(_, v)| v.as_str())
    }

    /// Fields to carry over. A password is never echoed.
    fn kept(&self) -> Vec<(&str, &str)> {
        let hidden = [FIELD, "password"];
        self.fields
            .iter()
            .filter(|(k, _)| !hidden.contains(&k.as_str()))
            .map(|(k, v)| (k.as_str(), v.as_str()))
            .collect()
    }
}

impl From<StoreError> for Failure {
    fn from(e: StoreError) -> Self {
        match e {
            StoreError::Unavailable(e) => Self::Unavailable(e.to_string()),
            other => Self::Defect(other.to_string()),
        }
    }
}

#[derive(Template)]
#[template(path = "failure.html")]
struct FailurePage<'a> {
    title: &'a str,
    message: &'a str,
    sign_in: bool,
    action: &'a str,
    token: &'a str,
    fields: Vec<(&'a str, &'a str)>,
    picture: bool,
}

impl Failure {
    /// The failure behind a post's answer again, now with what was typed; `None` where the answer already shows it.
    pub fn with_typed(status: StatusCode, typed: Typed) -> Option<Self> {
        let typed = Box::new(typed);
        match status {
            StatusCode::UNAUTHORIZED => Some(Self::SignedOutWith(typed)),
            StatusCode::SERVICE_UNAVAILABLE => Some(Self::UnavailableWith(typed)),
            StatusCode::GONE => Some(Self::VisitFinishedWith(typed)),
            _ => None,
        }
    }

    /// One line to stand in a page where part of it could not be fetched.
    pub const fn in_place(status: StatusCode) -> &'static str {
        match status {
            StatusCode::SEE_OTHER => "You have been signed out. Sign in in a new tab; what you typed stays here.",
            StatusCode::SERVICE_UNAVAILABLE => {
                "The database is not answering. What you typed stays here; try again in a moment."
            }
            _ => "This could not be worked out. What you typed stays here.",
        }
    }

    const fn told(&self) -> (StatusCode, &'static str, &'static str) {
        match self {
            Self::SignIn { .. } | Self::SignedOut | Self::SignedOutWith(_) => (
                StatusCode::UNAUTHORIZED,
                "You have been signed out",
                "Nothing was stored. Sign in in a new tab, then come back here and send it again: what you typed is below.",
            ),
            Self::StaleForm(_) => (
                StatusCode::FORBIDDEN,
                "This form is out of date",
                "Nothing was stored. What you typed is below; look it over and send it again.",
            ),
            Self::ForeignForm => (
                StatusCode::FORBIDDEN,
                "This came from another site",
                "Forms are taken only from Gutteral’s own pages. Nothing was stored.",
            ),
            Self::TooLarge => (
                StatusCode::PAYLOAD_TOO_LARGE,
                "That is too much",
                "A form may hold 8 MB at most, a picture 20 MB. Nothing was stored. Go back: your browser still has what you typed.",
            ),
            Self::NotFound => (
                StatusCode::NOT_FOUND,
                "There is nothing here",
                "The address may be mistyped, or what it pointed to belongs to another practice.",
            ),
            Self::BadForm(_) => (
                StatusCode::UNPROCESSABLE_ENTITY,
                "This form cannot be read",
                "A field is missing or has no sense. Nothing was stored. Go back, reload the page and try again.",
            ),
            Self::Unavailable(_) | Self::UnavailableWith(_) => (
                StatusCode::SERVICE_UNAVAILABLE,
                "The database is not answering",
                "Nothing was stored. It is usually back in a moment: wait a little and try again.",
            ),
            Self::VisitFinished | Self::VisitFinishedWith(_) => (
                StatusCode::GONE,
                "This visit has been finished",
                "Nothing was stored. Open it again from the Round in a new tab, then come back here and send it again.",
            ),
            Self::Defect(_) => (
                StatusCode::INTERNAL_SERVER_ERROR,
                "Something broke on our side",
                "Nothing was stored. It has been logged with the number in this page’s x-request-id header.",
            ),
        }
    }

    fn log(&self, status: StatusCode) {
        match self {
            Self::Defect(why) => tracing::error!(%status, why, "defect"),
            Self::Unavailable(why) => tracing::warn!(%status, why, "database unavailable"),
            Self::BadForm(why) => tracing::warn!(%status, why, "form refused"),
            _ => tracing::debug!(%status, "refused"),
        }
    }
}

impl IntoResponse for Failure {
    fn into_response(self) -> Response {
        if let Self::SignIn { next } = &self {
            let query = serde_urlencoded::to_string([("next", next)]).unwrap_or_default();
            return Redirect::to(&format!("/sign-in?{query}")).into_response();
        }
        let (status, title, message) = self.told();
        self.log(status);
        let typed = match &self {
            Self::SignedOutWith(t) | Self::StaleForm(t) | Self::UnavailableWith(t) | Self::VisitFinishedWith(t) => {
                Some(t)
            }
            _ => None,
        };
        let page = FailurePage {
            title,
            message,
            sign_in: status == StatusCode::UNAUTHORIZED,
            action: typed.map_or("", |t| &t.action),
            token: typed.map_or("", |t| &t.token),
            fields: typed.map(|t| t.kept()).unwrap_or_default(),
            picture: typed.is_some_and(|t| t.picture),
        };
        let html = page.render().unwrap_or_else(|_| format!("{title}. {message}"));
        (status, Html(html)).into_response()
    }
}
