//! Who may do what: every address declares the right it asks for, and nobody reaches a handler without it.

use crate::state::App;
use axum::handler::Handler;
use axum::http::Method;
use axum::routing::{MethodRouter, get, post};
use axum::{Extension, Router};
use store::Role;

/// What somebody must be let to do.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Right {
    /// Nothing: anybody, signed in or not, or known by a token of its own.
    Anybody,
    /// To be signed in: one’s own account, units, theme.
    Own,
    /// To look at jobs and what all jobs share.
    Look,
    /// To visit: the building as found, readings, findings, tests, photos, logs, rounds.
    Visit,
    /// To look through what a trainee did, and to sign.
    Review,
    /// To open a job.
    Open,
    /// To decide: conclusions, the plan, closing in, what a job is.
    Decide,
    /// To run the practice: people, prices, materials, approaches.
    Practice,
}

impl Right {
    /// Whether a role has it; a trainee more on a rehearsal of their own.
    #[must_use]
    pub const fn is_of(self, role: Role, rehearsal: bool) -> bool {
        match self {
            Self::Anybody | Self::Own | Self::Look => true,
            Self::Visit => matches!(role, Role::Lead | Role::Technician | Role::Trainee),
            Self::Review => matches!(role, Role::Lead | Role::Reviewer),
            Self::Open => matches!(role, Role::Lead | Role::Trainee),
            Self::Decide => matches!(role, Role::Lead) || (matches!(role, Role::Trainee) && rehearsal),
            Self::Practice => matches!(role, Role::Lead),
        }
    }

    /// What it lets one do.
    #[must_use]
    pub const fn words(self) -> &'static str {
        match self {
            Self::Anybody | Self::Own | Self::Look => "look at jobs",
            Self::Visit => "take readings and change the building",
            Self::Review => "review a trainee’s work",
            Self::Open => "open a job",
            Self::Decide => "decide about a job",
            Self::Practice => "run the practice",
        }
    }
}

/// What an address asks for: to see it, and to send what its forms hold.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct Needs {
    /// To be answered.
    pub right: Right,
    /// To use what is on the page.
    pub acts: Right,
}

/// An address as declared.
#[derive(Debug, Clone)]
pub struct Declared {
    /// GET or POST.
    pub method: Method,
    /// With its parameters in braces.
    pub path: &'static str,
    /// What it asks for.
    pub right: Right,
}

/// Addresses with what each asks for.
#[derive(Default)]
pub(crate) struct Routes {
    router: Router<App>,
    declared: Vec<Declared>,
}

impl Routes {
    /// A page: whoever looks may see it; its forms ask for `acts`.
    pub fn page<H, T>(self, path: &'static str, acts: Right, handler: H) -> Self
    where
        H: Handler<T, App>,
        T: 'static,
    {
        let right = acts.min(Right::Look);
        self.add(Method::GET, path, Needs { right, acts }, get(handler))
    }

    /// An answer that only some may have.
    pub fn get<H, T>(self, path: &'static str, right: Right, handler: H) -> Self
    where
        H: Handler<T, App>,
        T: 'static,
    {
        self.add(Method::GET, path, Needs { right, acts: right }, get(handler))
    }

    /// What a form does.
    pub fn post<H, T>(self, path: &'static str, right: Right, handler: H) -> Self
    where
        H: Handler<T, App>,
        T: 'static,
    {
        self.add(Method::POST, path, Needs { right, acts: right }, post(handler))
    }

    fn add(mut self, method: Method, path: &'static str, needs: Needs, to: MethodRouter<App>) -> Self {
        self.declared.push(Declared { method, path, right: needs.right });
        self.router = self.router.route(path, to.layer(Extension(needs)));
        self
    }

    /// These and others.
    pub fn merge(mut self, others: Self) -> Self {
        self.declared.extend(others.declared);
        self.router = self.router.merge(others.router);
        self
    }

    /// The router, and what was declared.
    pub fn done(self) -> (Router<App>, Vec<Declared>) {
        (self.router, self.declared)
    }
}
