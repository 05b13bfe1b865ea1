//! Forms, queries and paths as extractors whose refusals are pages, not bare text.

use crate::error::Failure;
use axum::extract::rejection::{FormRejection, PathRejection, QueryRejection};
use axum::extract::{FromRequest, FromRequestParts};

/// A posted form.
#[derive(FromRequest)]
#[from_request(via(axum::extract::Form), rejection(Failure))]
pub struct Form<T>(pub T);

/// An address's query.
#[derive(FromRequestParts)]
#[from_request(via(axum::extract::Query), rejection(Failure))]
pub struct Query<T>(pub T);

/// The ids in an address; one that is no id leads nowhere.
#[derive(FromRequestParts)]
#[from_request(via(axum::extract::Path), rejection(Failure))]
pub struct Path<T>(pub T);

impl From<FormRejection> for Failure {
    fn from(e: FormRejection) -> Self {
        Self::BadForm(e.to_string())
    }
}

impl From<QueryRejection> for Failure {
    fn from(_: QueryRejection) -> Self {
        Self::NotFound
    }
}

impl From<PathRejection> for Failure {
    fn from(_: PathRejection) -> Self {
        Self::NotFound
    }
}
