//! What can go wrong at the edge: one message for the person, one for the log, and never a success code.

use crate::access::Right;
use crate::token::{FIELD, Token};
use askama::Template;
use axum::http::{HeaderValue, StatusCode};
use axum::response::{Html, IntoResponse, Redirect, Response};
use casework::FileError;
use language::{Language, known, say};
use std::sync::Arc;
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
    SignedOutWith(Box<TypedFields>),
    /// The form's token is missing or old.
    StaleForm(Box<TypedFields>),
    /// A post from another site.
    ForeignForm,
    /// More bytes than any form has.
    TooLarge,
    /// A body that stops arriving, or never ends.
    TooSlow,
    /// Characters that no text has, in an address.
    Unreadable,
    /// The same in a form's field, with what was typed.
    UnreadableWith(Box<TypedFields>, String),
    /// The id of something new is taken.
    IdTaken,
    /// The same on a post, with what was typed.
    IdTakenWith(Box<TypedFields>),
    /// Too much is under way at once.
    Busy,
    /// The same on a post, with what was typed.
    BusyWith(Box<TypedFields>),
    /// The database has no room left.
    Full(String),
    /// The same on a post, with what was typed.
    FullWith(Box<TypedFields>),
    /// No such page, or not in this practice.
    NotFound,
    /// A link that was used, taken back, or never was.
    NoInvite,
    /// What somebody's role does not let them do.
    NotAllowed(Right),
    /// The same on a post, with what was typed.
    NotAllowedWith(Box<TypedFields>, Right),
    /// The form lacks fields it always has: not made by our page.
    BadForm(String),
    /// The database does not answer.
    Unavailable(String),
    /// The same on a post, with what was typed.
    UnavailableWith(Box<TypedFields>),
    /// The visit was finished, perhaps in another tab.
    VisitFinished,
    /// The same on a post, with what was typed.
    VisitFinishedWith(Box<TypedFields>),
    /// Ours.
    Defect(String),
}

/// The fields of a post that went nowhere, so that nothing typed is lost.
#[derive(Debug)]
pub struct TypedFields {
    action: String,
    fields: Vec<(String, String)>,
    /// A file came with it, which has to be chosen again.
    picture: bool,
    token: String,
}

impl TypedFields {
    pub fn new(action: &str, fields: Vec<(String, String)>, picture: bool, token: Token) -> Self {
        Self { action: action.to_owned(), fields, picture, token: token.0 }
    }

    pub fn token(&self) -> Option<&str> {
        self.fields.iter().find(|(k, _)| k == FIELD).map(|(_, v)| v.as_str())
    }

    /// The first field that holds a character no text has.
    pub fn unreadable(&self) -> Option<&str> {
        self.fields.iter().find(|(k, v)| !is_text(k) || !is_text(v)).map(|(k, _)| k.as_str())
    }

    /// With an id of its own: the one it came with is another entry's.
    fn with_new_id(mut self) -> Self {
        for (_, id) in self.fields.iter_mut().filter(|(k, _)| k == "id") {
            *id = uuid::Uuid::now_v7().to_string();
        }
        self
    }

    /// Fields to carry over. A password is never echoed, and what cannot be stored is left out.
    fn kept(&self) -> Vec<(String, String)> {
        let hidden = [FIELD, "password", "new_password", "code"];
        let text = |t: &str| t.chars().filter(|c| !unwritable(*c)).collect::<String>();
        self.fields.iter().filter(|(k, _)| !hidden.contains(&k.as_str())).map(|(k, v)| (text(k), text(v))).collect()
    }
}

/// Control characters other than tabs and ends of lines: nobody types them, and the database holds no NUL.
const fn unwritable(c: char) -> bool {
    matches!(c, '\0'..='\u{8}' | '\u{b}' | '\u{c}' | '\u{e}'..='\u{1f}' | '\u{7f}'..='\u{9f}')
}

/// Whether a text holds nothing but characters that can be stored.
pub fn is_text(text: &str) -> bool {
    !text.chars().any(unwritable)
}

/// Why a post failed, told by its answer to whoever still has the form.
#[derive(Debug, Clone, Copy)]
pub enum Again {
    SignedOut,
    Unavailable,
    VisitFinished,
    Busy,
    Full,
    IdTaken,
    NotAllowed(Right),
}

impl From<StoreError> for Failure {
    fn from(e: StoreError) -> Self {
        (&e).into()
    }
}

impl From<&StoreError> for Failure {
    fn from(e: &StoreError) -> Self {
        match e {
            StoreError::IdTaken(_) => Self::IdTaken,
            StoreError::Gone => Self::NotFound,
            StoreError::Full(e) => Self::Full(e.to_string()),
            StoreError::Unavailable(e) => Self::Unavailable(e.to_string()),
            other => Self::Defect(other.to_string()),
        }
    }
}

impl From<FileError> for Failure {
    fn from(e: FileError) -> Self {
        (&e).into()
    }
}

impl From<&FileError> for Failure {
    fn from(e: &FileError) -> Self {
        match e {
            FileError::NotFound => Self::NotFound,
            FileError::Store(e) => e.into(),
        }
    }
}

/// What many waited for and none got.
impl From<Arc<FileError>> for Failure {
    fn from(e: Arc<FileError>) -> Self {
        (&*e).into()
    }
}

#[derive(Template)]
#[template(path = "failure.html")]
struct FailurePage<'a> {
    language: Language,
    title: &'a str,
    message: &'a str,
    sign_in: bool,
    action: &'a str,
    token: &'a str,
    fields: Vec<(String, String)>,
    picture: bool,
}

impl Failure {
    /// This failure of a post again, now with what was typed.
    pub fn with_typed(again: Again, typed: TypedFields) -> Self {
        let typed = Box::new(typed);
        match again {
            Again::SignedOut => Self::SignedOutWith(typed),
            Again::Unavailable => Self::UnavailableWith(typed),
            Again::VisitFinished => Self::VisitFinishedWith(typed),
            Again::Busy => Self::BusyWith(typed),
            Again::Full => Self::FullWith(typed),
            Again::NotAllowed(right) => Self::NotAllowedWith(typed, right),
            Again::IdTaken => Self::IdTakenWith(Box::new(typed.with_new_id())),
        }
    }

    /// What may be sent again with what was typed, once the form is known.
    const fn again(&self) -> Option<Again> {
        match self {
            Self::SignedOut => Some(Again::SignedOut),
            Self::Unavailable(_) => Some(Again::Unavailable),
            Self::VisitFinished => Some(Again::VisitFinished),
            Self::Busy => Some(Again::Busy),
            Self::Full(_) => Some(Again::Full),
            Self::IdTaken => Some(Again::IdTaken),
            Self::NotAllowed(right) => Some(Again::NotAllowed(*right)),
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
            StatusCode::UNPROCESSABLE_ENTITY => {
                "It holds a character that cannot be read. Delete it and type it again."
            }
            _ => "This could not be worked out. What you typed stays here.",
        }
    }

    const fn status(&self) -> StatusCode {
        match self {
            Self::SignIn { .. } | Self::SignedOut | Self::SignedOutWith(_) => StatusCode::UNAUTHORIZED,
            Self::StaleForm(_) | Self::ForeignForm | Self::NotAllowed(_) | Self::NotAllowedWith(..) => {
                StatusCode::FORBIDDEN
            }
            Self::TooLarge => StatusCode::PAYLOAD_TOO_LARGE,
            Self::TooSlow => StatusCode::REQUEST_TIMEOUT,
            Self::Unreadable | Self::UnreadableWith(..) | Self::BadForm(_) => StatusCode::UNPROCESSABLE_ENTITY,
            Self::IdTaken | Self::IdTakenWith(_) => StatusCode::CONFLICT,
            Self::Busy | Self::BusyWith(_) => StatusCode::TOO_MANY_REQUESTS,
            Self::Full(_) | Self::FullWith(_) => StatusCode::INSUFFICIENT_STORAGE,
            Self::NotFound => StatusCode::NOT_FOUND,
            Self::Unavailable(_) | Self::UnavailableWith(_) => StatusCode::SERVICE_UNAVAILABLE,
            Self::VisitFinished | Self::VisitFinishedWith(_) | Self::NoInvite => StatusCode::GONE,
            Self::Defect(_) => StatusCode::INTERNAL_SERVER_ERROR,
        }
    }

    /// What it is called, and what to do.
    const fn told(&self) -> (&'static str, &'static str) {
        match self {
            Self::SignIn { .. } | Self::SignedOut | Self::SignedOutWith(_) => (
                "You have been signed out",
                "Nothing was stored. Sign in in a new tab, then come back here and send it again: what you typed is below.",
            ),
            Self::StaleForm(_) => (
                "This form is out of date",
                "Nothing was stored. What you typed is below; look it over and send it again.",
            ),
            Self::ForeignForm => {
                ("This came from another site", "Forms are taken only from Gutteral’s own pages. Nothing was stored.")
            }
            Self::TooLarge => (
                "That is too much",
                "A form may hold 8 MB at most, a picture 20 MB, a logger’s file 128 MB. Nothing was stored. Go back: your browser still has what you typed.",
            ),
            Self::TooSlow => (
                "It stopped arriving",
                "The connection was too slow or was lost on the way. Nothing was stored. Go back and send it again.",
            ),
            Self::Unreadable => (
                "This address cannot be read",
                "It holds a control character, which no text has. Delete it and try again.",
            ),
            Self::UnreadableWith(..) => (
                "One character cannot be stored",
                "A field holds a control character, perhaps pasted from another program. Nothing was stored. \
                 What you typed is below without it; look it over and send it again.",
            ),
            Self::IdTaken | Self::IdTakenWith(_) => (
                "This form was used for something else",
                "Its id belongs to another entry, perhaps of another job. Nothing was stored. Open the page anew, or send \
                 what you typed below as a new entry.",
            ),
            Self::Busy | Self::BusyWith(_) => {
                ("Too much at once", "Other work is under way. Nothing was stored. Wait a little and send it again.")
            }
            Self::Full(_) | Self::FullWith(_) => (
                "The database has no room left",
                "Nothing was stored. Whoever runs this has to make room on its disk; then send it again.",
            ),
            Self::NotFound => (
                "There is nothing here",
                "The address may be mistyped, or what it pointed to belongs to another practice.",
            ),
            Self::NoInvite => (
                "This link does not hold",
                "It was used, taken back, or is more than a week old. Ask whoever sent it for another.",
            ),
            Self::NotAllowed(_) | Self::NotAllowedWith(..) => (
                "Not yours to do",
                "Nothing was stored. A lead of your practice can do it, or change what you may under People.",
            ),
            Self::BadForm(_) => (
                "This form cannot be read",
                "A field is missing or has no sense. Nothing was stored. Go back, reload the page and try again.",
            ),
            Self::Unavailable(_) | Self::UnavailableWith(_) => (
                "The database is not answering",
                "Nothing was stored. It is usually back in a moment: wait a little and try again.",
            ),
            Self::VisitFinished | Self::VisitFinishedWith(_) => (
                "This visit has been finished",
                "Nothing was stored. Open it again from the Round in a new tab, then come back here and send it again.",
            ),
            Self::Defect(_) => (
                "Something broke on our side",
                "Nothing was stored. It has been logged with the number in this page’s x-request-id header.",
            ),
        }
    }

    fn log(&self, status: StatusCode) {
        match self {
            Self::Defect(why) => tracing::error!(%status, why, "defect"),
            Self::Unavailable(why) => tracing::warn!(%status, why, "database unavailable"),
            Self::Full(why) => tracing::error!(%status, why, "database full"),
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
        let (status, (title, message)) = (self.status(), self.told());
        self.log(status);
        let message = match &self {
            Self::UnreadableWith(_, field) => {
                say!("{message} The field: {field}.", message, field = field.escape_debug())
            }
            Self::NotAllowed(right) | Self::NotAllowedWith(_, right) => {
                say!("Your role does not let you {right}. {message}", right = known(right.words()), message)
            }
            _ => message.to_owned(),
        };
        let typed = match &self {
            Self::SignedOutWith(t)
            | Self::StaleForm(t)
            | Self::UnavailableWith(t)
            | Self::VisitFinishedWith(t)
            | Self::BusyWith(t)
            | Self::FullWith(t)
            | Self::IdTakenWith(t)
            | Self::NotAllowedWith(t, _)
            | Self::UnreadableWith(t, _) => Some(t),
            _ => None,
        };
        let page = FailurePage {
            language: language::spoken(),
            title,
            message: &message,
            sign_in: status == StatusCode::UNAUTHORIZED,
            action: typed.map_or("", |t| &t.action),
            token: typed.map_or("", |t| &t.token),
            fields: typed.map(|t| t.kept()).unwrap_or_default(),
            picture: typed.is_some_and(|t| t.picture),
        };
        let html = page.render().unwrap_or_else(|_| format!("{title}. {message}"));
        let mut response = (status, Html(html)).into_response();
        if let Some(again) = self.again() {
            response.extensions_mut().insert(again);
        }
        if matches!(self, Self::NotAllowed(_) | Self::NotAllowedWith(..)) {
            // What waits on a device is not sent again and again: it is said.
            response.headers_mut().insert("x-refused", HeaderValue::from_static("role"));
        }
        response
    }
}
