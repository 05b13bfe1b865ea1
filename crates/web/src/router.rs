//! The whole site on one screen.

use crate::access::Right::{Anybody, Decide, Look, Open, Own, Practice, Review, Visit};
use crate::access::{Declared, Routes};
use crate::api::{calc, health, log as posts, v1};
use crate::assets::asset;
use crate::auth::{self, csrf};
use crate::error::Failure;
use crate::pages::job::{
    build_ups, building, call, coating, correct, data, drying, export, findings, follow_ups, history, job_form, log,
    photo_files, photos, plan, proof, questions, report, round, section, shorthand, skips, tests, thermal, unfolded,
    visits, why,
};
use crate::pages::office::{
    bench, calculator, calendar, causes, docket, exchange, join, keeping, materials, me, people, practice, preferences,
    prices, programs, queue, salt, sign_in, sources, weather,
};
use crate::pages::shared;
use crate::state::App;
use axum::Router;
use axum::extract::DefaultBodyLimit;
use axum::http::{HeaderName, HeaderValue, header};
use axum::middleware::{from_fn, from_fn_with_state};
use axum::routing::get;
use tower::ServiceBuilder;
use tower_http::catch_panic::CatchPanicLayer;
use tower_http::compression::CompressionLayer;
use tower_http::compression::predicate::{DefaultPredicate, NotForContentType, Predicate};
use tower_http::request_id::{MakeRequestUuid, PropagateRequestIdLayer, SetRequestIdLayer};
use tower_http::set_header::SetResponseHeaderLayer;
use tower_http::trace::{DefaultOnResponse, TraceLayer};

/// No inline script or style, no framing, nothing from elsewhere.
const CSP: &str = "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; img-src 'self' data: blob:; \
    connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'";

/// Every address.
pub fn router(app: App) -> Router {
    let pages = all_pages()
        .done()
        .0
        .fallback(|| async { Failure::NotFound })
        .layer(from_fn_with_state(app.clone(), csrf::guard))
        .layer(DefaultBodyLimit::max(8 * 1024 * 1024))
        .layer(from_fn(auth::heard));
    let all = Router::new()
        .route("/healthz", get(health::alive))
        .route("/readyz", get(health::ready))
        .route("/assets/{*path}", get(asset))
        .route("/sw.js", get(queue::worker))
        .route("/calendar.ics", get(calendar::feed))
        .merge(v1::router())
        .merge(pages);
    around(all).with_state(app)
}

fn all_pages() -> Routes {
    office().merge(job()).merge(visit()).merge(logged()).merge(judged())
}

/// Every address with a page behind it, and who may go there.
#[must_use]
pub fn declared() -> Vec<Declared> {
    all_pages().done().1
}

/// Who is here, and what all jobs of a practice share.
fn office() -> Routes {
    Routes::default()
        .page("/", Own, docket::home)
        .get("/sign-in", Anybody, sign_in::page)
        .post("/sign-in", Anybody, sign_in::submit)
        .post("/sign-in/demo", Anybody, sign_in::demo)
        .post("/sign-in/passkey", Anybody, sign_in::by_passkey)
        .get("/sign-in/second", Anybody, sign_in::second_page)
        .post("/sign-in/second", Anybody, sign_in::second)
        .get("/join/{secret}", Anybody, join::page)
        .post("/join/{secret}", Anybody, join::take)
        .get("/shared/{secret}", Anybody, shared::page)
        .post("/shared/{secret}", Anybody, shared::say)
        .get("/shared/{secret}/images/{n}", Anybody, shared::image)
        .get("/shared/{secret}/report.pdf", Anybody, shared::pdf)
        .page("/me", Own, me::page)
        .post("/me", Own, me::act)
        .page("/programs", Own, programs::page)
        .post("/programs", Own, programs::act)
        .post("/programs/webhooks", Practice, programs::tell)
        .page("/practice", Practice, practice::page)
        .post("/practice", Practice, practice::keep)
        .post("/practice/texts", Practice, practice::keep_text)
        .get("/practice/logo", Look, practice::logo)
        .post("/practice/keeping", Practice, keeping::keep)
        .post("/practice/logo", Practice, practice::take_logo)
        .get("/data", Practice, exchange::page)
        .post("/data", Practice, exchange::ask)
        .post("/data/in", Practice, exchange::take)
        .get("/data/{parcel}", Practice, exchange::give)
        .get("/api/job.schema.json", Anybody, exchange::schema)
        .get("/people", Practice, people::page)
        .post("/people", Practice, people::act)
        .get("/people/audit", Practice, people::audit)
        .post("/sign-out", Own, sign_in::sign_out)
        .post("/preferences", Own, preferences::submit)
        .page("/docket", Own, docket::page)
        .post("/jobs/{job}/pin", Own, docket::pin)
        .post("/jobs/{job}/archive", Practice, docket::archive)
        .page("/queue", Own, queue::page)
        .page("/shorthand", Own, shorthand::card)
        .page("/causes", Own, causes::page)
        .page("/bench", Visit, bench::page)
        .post("/bench", Visit, bench::add)
        .page("/bench/{instrument}", Visit, salt::page)
        .post("/bench/{instrument}", Visit, salt::keep)
        .page("/prices", Practice, prices::page)
        .post("/prices", Practice, prices::keep)
        .post("/prices/undo", Practice, prices::undo)
        .post("/prices/schools/{question}", Practice, prices::school)
        .page("/materials", Practice, materials::page)
        .post("/materials", Practice, materials::keep)
        .page("/sources", Practice, sources::page)
        .post("/sources", Practice, sources::keep)
        .page("/weather", Practice, weather::page)
        .post("/weather", Practice, weather::keep)
        .page("/calendar", Own, calendar::page)
        .post("/calendar", Own, calendar::change)
        .page("/calculator", Own, calculator::index)
        .page("/calculator/library", Own, calculator::library)
        .page("/calculator/{op}", Own, calculator::page)
        .get("/calculator/{op}/live", Look, calculator::live)
        .page("/jobs/new", Open, job_form::new)
        .post("/jobs/new", Open, job_form::create)
        .post("/api/calc", Anybody, calc::calc)
        .post("/api/log", Anybody, posts::keep)
        .get("/api/openapi.json", Anybody, v1::described)
        .post("/bench/{instrument}/token", Visit, salt::token)
}

/// A job and its building.
fn job() -> Routes {
    Routes::default()
        .page("/jobs/{job}", Visit, section::page)
        .page("/jobs/{job}/edit", Decide, job_form::edit)
        .post("/jobs/{job}/edit", Decide, job_form::save)
        .post("/jobs/{job}/remove", Decide, job_form::remove)
        .page("/jobs/{job}/building", Visit, building::page)
        .post("/jobs/{job}/building", Visit, building::change)
        .page("/jobs/{job}/unfolded", Visit, unfolded::page)
        .post("/jobs/{job}/unfolded/layout", Visit, unfolded::measure)
        .post("/jobs/{job}/unfolded/place", Visit, unfolded::place)
        .post("/jobs/{job}/unfolded/maps/{map}", Visit, unfolded::change_map)
        .page("/jobs/{job}/unfolded/walk", Visit, unfolded::walk)
        .post("/jobs/{job}/unfolded/walk", Visit, unfolded::keep_walk)
        .page("/jobs/{job}/build-ups", Visit, build_ups::page)
        .post("/jobs/{job}/build-ups", Visit, build_ups::change)
        .get("/jobs/{job}/build-ups/drawing", Look, build_ups::drawing)
        .page("/jobs/{job}/build-ups/questions", Own, questions::list)
        .page("/jobs/{job}/build-ups/questions/{question}", Own, questions::page)
        .get("/jobs/{job}/build-ups/questions/{question}/live", Look, questions::live)
        .page("/jobs/{job}/proof", Decide, proof::page)
        .post("/jobs/{job}/proof", Decide, proof::close)
        .post("/jobs/{job}/proof/season", Decide, proof::schedule)
        .page("/jobs/{job}/history", Visit, history::page)
        .post("/jobs/{job}/undo", Visit, history::undo)
}

/// What was seen, read and taken on a visit.
fn visit() -> Routes {
    Routes::default()
        .page("/jobs/{job}/findings", Visit, findings::page)
        .post("/jobs/{job}/findings", Visit, findings::tick)
        .post("/jobs/{job}/findings/{finding}", Visit, findings::keep)
        .page("/jobs/{job}/photos", Visit, photos::page)
        .post("/jobs/{job}/photos", Visit, photo_files::take)
        .page("/jobs/{job}/photos/{photo}", Visit, photos::one)
        .post("/jobs/{job}/photos/{photo}", Visit, photos::keep)
        .get("/jobs/{job}/photos/{photo}/{size}", Look, photo_files::give)
        .page("/jobs/{job}/thermal", Visit, thermal::list)
        .post("/jobs/{job}/thermal", Visit, thermal::take)
        .page("/jobs/{job}/thermal/survey", Visit, thermal::survey_page)
        .page("/jobs/{job}/thermal/{picture}", Visit, thermal::page)
        .post("/jobs/{job}/thermal/{picture}", Visit, thermal::keep)
        .get("/jobs/{job}/thermal/{picture}/picture.png", Look, thermal::picture)
        .page("/jobs/{job}/tests", Visit, tests::page)
        .post("/jobs/{job}/tests", Visit, tests::start)
        .post("/jobs/{job}/tests/{test}", Visit, tests::keep)
        .page("/jobs/{job}/call", Visit, call::page)
        .post("/jobs/{job}/call", Visit, call::keep)
        .get("/jobs/{job}/call/suggest", Look, call::suggest)
        .post("/jobs/{job}/visits", Visit, visits::start)
        .page("/jobs/{job}/round", Visit, round::page)
        .post("/jobs/{job}/round", Visit, round::keep)
        .get("/jobs/{job}/round/verdict", Look, round::verdict)
        .post("/jobs/{job}/skips", Visit, skips::keep)
        .page("/jobs/{job}/shorthand", Visit, shorthand::preview)
        .post("/jobs/{job}/shorthand", Visit, shorthand::keep)
        .post("/jobs/{job}/visits/{visit}/review", Review, visits::review)
        .post("/jobs/{job}/visits/{visit}/finish", Visit, visits::finish)
        .post("/jobs/{job}/visits/{visit}/reopen", Visit, visits::reopen)
        .get("/jobs/{job}/report", Look, report::latest)
        .page("/jobs/{job}/visits/{visit}/report", Own, report::page)
        .post("/jobs/{job}/reports", Decide, report::act)
        .page("/jobs/{job}/reports/{report}", Decide, report::builder_page)
        .post("/jobs/{job}/reports/{report}/versions", Decide, report::publish)
        .page("/jobs/{job}/reports/versions/{version}", Review, report::version_page)
        .post("/jobs/{job}/reports/versions/{version}", Review, report::sign)
        .post("/jobs/{job}/reports/versions/{version}/remarks", Own, report::about_version)
        .post("/jobs/{job}/visits/{visit}/remarks", Own, report::about_visit)
        .get("/jobs/{job}/reports/versions/{version}/images/{n}", Look, report::image)
        .get("/jobs/{job}/reports/versions/{version}/report.pdf", Look, report::pdf)
        .page("/jobs/{job}/sharing", Practice, report::sharing_page)
        .post("/jobs/{job}/sharing", Practice, report::share)
        .page("/jobs/{job}/data", Decide, data::page)
        .post("/jobs/{job}/data", Decide, data::act)
        .get("/jobs/{job}/data/{parcel}", Decide, data::give)
        .get("/jobs/{job}/visits/{visit}/readings.csv", Look, export::csv)
        .get("/jobs/{job}/visits/{visit}/readings.json", Look, export::json)
        .page("/jobs/{job}/readings/{reading}/correct", Visit, correct::page)
        .post("/jobs/{job}/readings/{reading}/correct", Visit, correct::submit)
}

/// What was read between visits.
fn logged() -> Routes {
    Routes::default()
        .page("/jobs/{job}/log", Visit, log::view::page)
        .get("/jobs/{job}/log/drawing.svg", Look, log::view::drawing)
        .get("/jobs/{job}/log/readings.csv", Look, log::readings::csv)
        .page("/jobs/{job}/log/air", Visit, log::air::page)
        .page("/jobs/{job}/log/budget", Visit, log::budget::page)
        .post("/jobs/{job}/log/budget", Visit, log::budget::keep)
        .post("/jobs/{job}/log/budget/live", Visit, log::budget::live)
        .page("/jobs/{job}/log/alerts", Visit, log::alerts::page)
        .post("/jobs/{job}/log/alerts", Visit, log::alerts::keep)
        .post("/jobs/{job}/log/alerts/{rule}/remove", Visit, log::alerts::remove)
        .page("/jobs/{job}/log/airing", Visit, log::airing::page)
        .post("/jobs/{job}/log/airing/forecast", Visit, log::airing::ask)
        .get("/jobs/{job}/log/airing.ics", Look, log::airing::calendar)
        .page("/jobs/{job}/log/live", Visit, log::live::page)
        .post("/jobs/{job}/log/live", Visit, log::live::place)
        .post("/jobs/{job}/log/live/down", Visit, log::live::take_down)
        .get("/jobs/{job}/log/told", Look, log::live::told)
        .post("/jobs/{job}/log/marks", Visit, log::marks::add)
        .post("/jobs/{job}/log/marks/{mark}/remove", Visit, log::marks::remove)
        .page("/jobs/{job}/log/files", Visit, log::files::page)
        .post("/jobs/{job}/log/files", Visit, log::files::send)
        .page("/jobs/{job}/log/files/{file}", Visit, log::file::page)
        .post("/jobs/{job}/log/files/{file}", Visit, log::file::decide)
        .post("/jobs/{job}/log/files/{file}/retry", Visit, log::file::retry)
        .get("/jobs/{job}/log/files/{file}/not-read.csv", Look, log::file::refused)
}

/// What is concluded from it, and done about it.
fn judged() -> Routes {
    Routes::default()
        .page("/jobs/{job}/why", Decide, why::page)
        .post("/jobs/{job}/why", Decide, why::conclude)
        .page("/jobs/{job}/plan", Decide, plan::page)
        .post("/jobs/{job}/plan/{fix}", Decide, plan::decide)
        .post("/jobs/{job}/plan/{fix}/figures", Decide, plan::figures)
        .post("/jobs/{job}/schools/{question}", Decide, plan::choose)
        .page("/jobs/{job}/coating", Decide, coating::page)
        .post("/jobs/{job}/coating", Decide, coating::keep)
        .page("/jobs/{job}/drying", Visit, drying::page)
        .page("/jobs/{job}/drying/setup", Decide, drying::setup_page)
        .post("/jobs/{job}/drying/setup", Decide, drying::keep_setup)
        .page("/jobs/{job}/drying/item", Visit, drying::item_page)
        .post("/jobs/{job}/drying/item", Visit, drying::keep_item)
        .page("/jobs/{job}/drying/round", Visit, drying::round_page)
        .post("/jobs/{job}/drying/round", Visit, drying::keep_round)
        .page("/jobs/{job}/drying/points/{point}", Visit, drying::point_page)
        .page("/jobs/{job}/drying/certificate", Decide, drying::certificate_page)
        .post("/jobs/{job}/drying/certificate", Decide, drying::issue)
        .post("/jobs/{job}/follow-ups", Decide, follow_ups::put)
        .page("/jobs/{job}/follow-ups/{follow_up}", Decide, follow_ups::page)
        .post("/jobs/{job}/follow-ups/{follow_up}", Decide, follow_ups::keep)
}

/// What every answer passes: its number, its log line, its headers; a broken handler is answered too.
fn around(all: Router<App>) -> Router<App> {
    let kept =
        SetResponseHeaderLayer::if_not_present(header::CACHE_CONTROL, HeaderValue::from_static("private, no-store"));
    let packed =
        CompressionLayer::new().compress_when(DefaultPredicate::new().and(NotForContentType::const_new("font/")));
    all.layer(
        ServiceBuilder::new()
            .layer(SetRequestIdLayer::x_request_id(MakeRequestUuid))
            .layer(
                TraceLayer::new_for_http()
                    .make_span_with(span)
                    .on_response(DefaultOnResponse::new().level(tracing::Level::INFO)),
            )
            .layer(PropagateRequestIdLayer::x_request_id())
            .layer(CatchPanicLayer::custom(|_| {
                use axum::response::IntoResponse;
                Failure::Defect("a handler panicked".into()).into_response()
            }))
            .layer(security(header::CONTENT_SECURITY_POLICY, CSP))
            .layer(security(header::X_FRAME_OPTIONS, "DENY"))
            .layer(security(header::REFERRER_POLICY, "same-origin"))
            .layer(security(header::X_CONTENT_TYPE_OPTIONS, "nosniff"))
            .layer(security(HeaderName::from_static("permissions-policy"), "geolocation=(), microphone=()"))
            .layer(kept)
            .layer(packed),
    )
}

fn security(name: HeaderName, value: &'static str) -> SetResponseHeaderLayer<HeaderValue> {
    SetResponseHeaderLayer::overriding(name, HeaderValue::from_static(value))
}

/// A log line names the path without its query: what people type stays out of the log.
fn span<B>(request: &axum::http::Request<B>) -> tracing::Span {
    let id = request.headers().get("x-request-id").and_then(|v| v.to_str().ok()).unwrap_or("");
    // A link's secret is not for the log.
    let path = request.uri().path();
    let secret = ["/join/", "/shared/"].into_iter().find(|p| path.starts_with(p));
    let path = secret.unwrap_or(path);
    tracing::info_span!("request", method = %request.method(), path, id)
}
