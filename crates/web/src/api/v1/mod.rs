//! What programs may ask by a token of somebody: jobs, buildings, visits, readings, findings, plans and logs.

mod building;
mod caller;
mod exchange;
mod findings;
mod jobs;
mod logs;
mod plan;
mod problem;
mod visits;

use crate::access::Right;
use crate::state::App;
use axum::handler::Handler;
use axum::http::{Method, StatusCode, header};
use axum::response::IntoResponse;
use axum::routing::{MethodFilter, on};
use axum::{Extension, Router};
use caller::Needs;
use problem::Problem;
use store::TokenScope;
use utoipa::openapi::security::{Http, HttpAuthScheme, SecurityScheme};
use utoipa::{Modify, OpenApi};

/// An address of the interface as declared.
#[derive(Debug, Clone)]
pub struct Declared {
    /// Its method.
    pub method: Method,
    /// With its parameters in braces.
    pub path: &'static str,
    /// What the token must let a program do.
    pub scope: TokenScope,
    /// What the person must be let to do.
    pub right: Right,
}

#[derive(Default)]
struct Routes {
    router: Router<App>,
    declared: Vec<Declared>,
}

impl Routes {
    fn add<H, T>(mut self, method: Method, path: &'static str, (scope, right): (TokenScope, Right), handler: H) -> Self
    where
        H: Handler<T, App>,
        T: 'static,
    {
        let filter = match method {
            Method::POST => MethodFilter::POST,
            Method::PUT => MethodFilter::PUT,
            Method::PATCH => MethodFilter::PATCH,
            Method::DELETE => MethodFilter::DELETE,
            _ => MethodFilter::GET,
        };
        self.declared.push(Declared { method, path, scope, right });
        self.router = self.router.route(path, on(filter, handler).layer(Extension(Needs { scope, right })));
        self
    }
}

fn routes() -> Routes {
    const READ: (TokenScope, Right) = (TokenScope::Read, Right::Look);
    const VISIT: (TokenScope, Right) = (TokenScope::Visit, Right::Visit);
    const PLAN: (TokenScope, Right) = (TokenScope::Plan, Right::Decide);
    let (get, post, put, patch, delete) = (Method::GET, Method::POST, Method::PUT, Method::PATCH, Method::DELETE);
    Routes::default()
        .add(get.clone(), "/api/v1/me", READ, jobs::me)
        .add(get.clone(), "/api/v1/instruments", READ, jobs::instruments)
        .add(post.clone(), "/api/v1/instruments/{instrument}/readings", VISIT, logs::post)
        .add(get.clone(), "/api/v1/jobs", READ, jobs::list)
        .add(post.clone(), "/api/v1/jobs", (TokenScope::Jobs, Right::Open), jobs::open)
        .add(get.clone(), "/api/v1/jobs/{job}", READ, jobs::get)
        .add(patch.clone(), "/api/v1/jobs/{job}", (TokenScope::Jobs, Right::Decide), jobs::change)
        .add(get.clone(), "/api/v1/jobs/{job}/building", READ, building::get)
        .add(put.clone(), "/api/v1/jobs/{job}/building/spaces/{id}", VISIT, building::put_space)
        .add(delete.clone(), "/api/v1/jobs/{job}/building/spaces/{id}", VISIT, building::remove_space)
        .add(put.clone(), "/api/v1/jobs/{job}/building/boundaries/{id}", VISIT, building::put_boundary)
        .add(delete.clone(), "/api/v1/jobs/{job}/building/boundaries/{id}", VISIT, building::remove_boundary)
        .add(put, "/api/v1/jobs/{job}/building/surfaces/{id}", VISIT, building::put_surface)
        .add(delete.clone(), "/api/v1/jobs/{job}/building/surfaces/{id}", VISIT, building::remove_surface)
        .add(get.clone(), "/api/v1/jobs/{job}/visits", READ, visits::list)
        .add(post.clone(), "/api/v1/jobs/{job}/visits", VISIT, visits::begin)
        .add(get.clone(), "/api/v1/jobs/{job}/visits/{visit}", READ, visits::get)
        .add(patch.clone(), "/api/v1/jobs/{job}/visits/{visit}", VISIT, visits::change)
        .add(get.clone(), "/api/v1/jobs/{job}/readings", READ, visits::readings)
        .add(post.clone(), "/api/v1/jobs/{job}/readings", VISIT, visits::keep)
        .add(post.clone(), "/api/v1/jobs/{job}/readings/{reading}/withdrawal", VISIT, visits::withdraw)
        .add(get.clone(), "/api/v1/jobs/{job}/findings", READ, findings::list)
        .add(post.clone(), "/api/v1/jobs/{job}/findings", VISIT, findings::keep)
        .add(get.clone(), "/api/v1/jobs/{job}/findings/{finding}", READ, findings::get)
        .add(patch, "/api/v1/jobs/{job}/findings/{finding}", VISIT, findings::change)
        .add(delete, "/api/v1/jobs/{job}/findings/{finding}", VISIT, findings::remove)
        .add(get.clone(), "/api/v1/jobs/{job}/plan", READ, plan::get)
        .add(post, "/api/v1/jobs/{job}/plan/{fix}/decisions", PLAN, plan::decide)
        .add(get.clone(), "/api/v1/jobs/{job}/logs", READ, logs::list)
        .add(get, "/api/v1/jobs/{job}/logs/{series}/points", READ, logs::points)
}

/// Every address of the interface, and who may go there.
#[must_use]
pub fn declared() -> Vec<Declared> {
    routes().declared
}

/// The interface: what is not there, and what is not done there, is told like anything else.
pub fn router() -> Router<App> {
    let all = routes().router.method_not_allowed_fallback(|| async {
        Problem::new(StatusCode::METHOD_NOT_ALLOWED, "That is not done at this address.")
    });
    all.route("/api/v1/{*rest}", axum::routing::any(|| async { Problem::not_found() }))
}

#[derive(OpenApi)]
#[openapi(
    info(title = "Gutteral", version = "1", description = "What programs may ask of Gutteral: jobs with everything on them, readings \
        of loggers, and the headless calculations. Figures are SI, named with their units; moments are ISO 8601 in universal time. \
        Lists come in parts: send `next` as `after`. What is got has an ETag, what is changed asks for it as If-Match. A POST, PUT, \
        PATCH or DELETE may carry an Idempotency-Key: sent again under it within two days it is not done again, and the first answer \
        comes back. Errors are application/problem+json. At most 600 requests a minute and 1 MB a request. A plan’s steps name what \
        can hurt whoever does them; local code and licensed people stand above all of them."),
    paths(
        jobs::me, jobs::instruments, jobs::list, jobs::open, jobs::get, jobs::change, building::get, building::put_space,
        building::remove_space, building::put_boundary, building::remove_boundary, building::put_surface,
        building::remove_surface, visits::list, visits::begin, visits::get, visits::change, visits::readings, visits::keep,
        visits::withdraw, findings::list, findings::keep, findings::get, findings::change, findings::remove, plan::get,
        plan::decide, logs::list, logs::points, logs::post
    ),
    modifiers(&Tokens)
)]
struct Described;

/// How programs are let in: each address by the scope it asks for.
struct Tokens;

impl Modify for Tokens {
    fn modify(&self, doc: &mut utoipa::openapi::OpenApi) {
        let bearer = SecurityScheme::Http(Http::new(HttpAuthScheme::Bearer));
        doc.components.get_or_insert_default().add_security_scheme("token", bearer);
    }
}

/// What programs may ask, described for programs: OpenAPI 3.1.
pub async fn described() -> impl IntoResponse {
    let text =
        whole().map(|doc| doc.to_string()).map_err(|e| Problem::from(crate::error::Failure::Defect(e.to_string())));
    text.map(|text| ([(header::CONTENT_TYPE, "application/json")], text))
}

/// The description of the interface, of what loggers post and of the headless calculations.
fn whole() -> serde_json::Result<serde_json::Value> {
    let mut doc = serde_json::to_value(Described::openapi())?;
    let rest: serde_json::Value = serde_json::from_str(include_str!("../openapi.json"))?;
    for d in routes().declared {
        let operation = &mut doc["paths"][d.path][d.method.as_str().to_lowercase()];
        operation["security"] = serde_json::json!([{ "token": [d.scope.id()] }]);
    }
    for part in ["paths", "components/schemas", "components/securitySchemes"] {
        let at = format!("/{part}");
        if let (Some(into), Some(from)) = (doc.pointer_mut(&at), rest.pointer(&at))
            && let (Some(into), Some(from)) = (into.as_object_mut(), from.as_object())
        {
            into.extend(from.clone());
        }
    }
    Ok(doc)
}
