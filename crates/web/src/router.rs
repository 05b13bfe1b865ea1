//! The whole site on one screen.

use crate::api::{calc, health, log as posts};
use crate::assets::asset;
use crate::auth::csrf;
use crate::error::Failure;
use crate::pages::job::{
    build_ups, building, call, coating, correct, drying, export, findings, follow_ups, history, job_form, log,
    photo_files, photos, plan, proof, questions, report, round, section, shorthand, skips, tests, thermal, unfolded,
    visits, why,
};
use crate::pages::office::{
    bench, calculator, calendar, causes, docket, materials, preferences, prices, queue, salt, sign_in, sources, weather,
};
use crate::state::App;
use axum::Router;
use axum::extract::DefaultBodyLimit;
use axum::http::{HeaderName, HeaderValue, header};
use axum::middleware::from_fn_with_state;
use axum::routing::{get, post};
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
    let pages = practice()
        .merge(job())
        .merge(visit())
        .merge(logged())
        .merge(judged())
        .fallback(|| async { Failure::NotFound })
        .layer(from_fn_with_state(app.clone(), csrf::guard))
        .layer(DefaultBodyLimit::max(8 * 1024 * 1024));
    let all = Router::new()
        .route("/healthz", get(health::alive))
        .route("/readyz", get(health::ready))
        .route("/assets/{*path}", get(asset))
        .route("/sw.js", get(queue::worker))
        .route("/calendar.ics", get(calendar::feed))
        .merge(pages);
    around(all).with_state(app)
}

/// Who is here, and what all jobs of a practice share.
fn practice() -> Router<App> {
    Router::new()
        .route("/", get(docket::home))
        .route("/sign-in", get(sign_in::page).post(sign_in::submit))
        .route("/sign-in/demo", post(sign_in::demo))
        .route("/sign-out", post(sign_in::sign_out))
        .route("/preferences", post(preferences::submit))
        .route("/docket", get(docket::page))
        .route("/queue", get(queue::page))
        .route("/shorthand", get(shorthand::card))
        .route("/causes", get(causes::page))
        .route("/bench", get(bench::page).post(bench::add))
        .route("/bench/keep", post(bench::keep))
        .route("/bench/{instrument}", get(salt::page).post(salt::keep))
        .route("/prices", get(prices::page).post(prices::keep))
        .route("/prices/undo", post(prices::undo))
        .route("/prices/schools/{question}", post(prices::school))
        .route("/materials", get(materials::page).post(materials::keep))
        .route("/sources", get(sources::page).post(sources::keep))
        .route("/weather", get(weather::page).post(weather::keep))
        .route("/calendar", get(calendar::page).post(calendar::change))
        .route("/calculator", get(calculator::index))
        .route("/calculator/library", get(calculator::library))
        .route("/calculator/{op}", get(calculator::page))
        .route("/calculator/{op}/live", get(calculator::live))
        .route("/jobs/new", get(job_form::new).post(job_form::create))
        .route("/api/calc", post(calc::calc))
        .route("/api/log", post(posts::keep))
        .route("/api/openapi.json", get(posts::described))
        .route("/bench/{instrument}/token", post(salt::token))
}

/// A job and its building.
fn job() -> Router<App> {
    Router::new()
        .route("/jobs/{job}", get(section::page))
        .route("/jobs/{job}/edit", get(job_form::edit).post(job_form::save))
        .route("/jobs/{job}/remove", post(job_form::remove))
        .route("/jobs/{job}/building", get(building::page).post(building::change))
        .route("/jobs/{job}/unfolded", get(unfolded::page))
        .route("/jobs/{job}/unfolded/layout", post(unfolded::measure))
        .route("/jobs/{job}/unfolded/place", post(unfolded::place))
        .route("/jobs/{job}/unfolded/maps/{map}", post(unfolded::change_map))
        .route("/jobs/{job}/unfolded/walk", get(unfolded::walk).post(unfolded::keep_walk))
        .route("/jobs/{job}/build-ups", get(build_ups::page).post(build_ups::change))
        .route("/jobs/{job}/build-ups/drawing", get(build_ups::drawing))
        .route("/jobs/{job}/build-ups/questions", get(questions::list))
        .route("/jobs/{job}/build-ups/questions/{question}", get(questions::page))
        .route("/jobs/{job}/build-ups/questions/{question}/live", get(questions::live))
        .route("/jobs/{job}/proof", get(proof::page).post(proof::close))
        .route("/jobs/{job}/proof/season", post(proof::schedule))
        .route("/jobs/{job}/history", get(history::page))
        .route("/jobs/{job}/undo", post(history::undo))
}

/// What was seen, read and taken on a visit.
fn visit() -> Router<App> {
    Router::new()
        .route("/jobs/{job}/findings", get(findings::page).post(findings::tick))
        .route("/jobs/{job}/findings/{finding}", post(findings::keep))
        .route("/jobs/{job}/photos", get(photos::page).post(photo_files::take))
        .route("/jobs/{job}/photos/{photo}", get(photos::one).post(photos::keep))
        .route("/jobs/{job}/photos/{photo}/{size}", get(photo_files::give))
        .route("/jobs/{job}/thermal", get(thermal::list).post(thermal::take))
        .route("/jobs/{job}/thermal/survey", get(thermal::survey_page))
        .route("/jobs/{job}/thermal/{picture}", get(thermal::page).post(thermal::keep))
        .route("/jobs/{job}/thermal/{picture}/picture.png", get(thermal::picture))
        .route("/jobs/{job}/tests", get(tests::page).post(tests::start))
        .route("/jobs/{job}/tests/{test}", post(tests::keep))
        .route("/jobs/{job}/call", get(call::page).post(call::keep))
        .route("/jobs/{job}/call/suggest", get(call::suggest))
        .route("/jobs/{job}/visits", post(visits::start))
        .route("/jobs/{job}/round", get(round::page).post(round::keep))
        .route("/jobs/{job}/round/verdict", get(round::verdict))
        .route("/jobs/{job}/skips", post(skips::keep))
        .route("/jobs/{job}/shorthand", get(shorthand::preview).post(shorthand::keep))
        .route("/jobs/{job}/visits/{visit}/finish", post(visits::finish))
        .route("/jobs/{job}/visits/{visit}/reopen", post(visits::reopen))
        .route("/jobs/{job}/report", get(report::latest))
        .route("/jobs/{job}/visits/{visit}/report", get(report::page))
        .route("/jobs/{job}/visits/{visit}/readings.csv", get(export::csv))
        .route("/jobs/{job}/visits/{visit}/readings.json", get(export::json))
        .route("/jobs/{job}/readings/{reading}/correct", get(correct::page).post(correct::submit))
}

/// What was read between visits.
fn logged() -> Router<App> {
    Router::new()
        .route("/jobs/{job}/log", get(log::view::page))
        .route("/jobs/{job}/log/drawing.svg", get(log::view::drawing))
        .route("/jobs/{job}/log/readings.csv", get(log::readings::csv))
        .route("/jobs/{job}/log/air", get(log::air::page))
        .route("/jobs/{job}/log/budget", get(log::budget::page).post(log::budget::keep))
        .route("/jobs/{job}/log/budget/live", post(log::budget::live))
        .route("/jobs/{job}/log/alerts", get(log::alerts::page).post(log::alerts::keep))
        .route("/jobs/{job}/log/alerts/{rule}/remove", post(log::alerts::remove))
        .route("/jobs/{job}/log/airing", get(log::airing::page))
        .route("/jobs/{job}/log/airing/forecast", post(log::airing::ask))
        .route("/jobs/{job}/log/airing.ics", get(log::airing::calendar))
        .route("/jobs/{job}/log/live", get(log::live::page).post(log::live::place))
        .route("/jobs/{job}/log/live/down", post(log::live::take_down))
        .route("/jobs/{job}/log/told", get(log::live::told))
        .route("/jobs/{job}/log/marks", post(log::marks::add))
        .route("/jobs/{job}/log/marks/{mark}/remove", post(log::marks::remove))
        .route("/jobs/{job}/log/files", get(log::files::page).post(log::files::send))
        .route("/jobs/{job}/log/files/{file}", get(log::file::page).post(log::file::decide))
        .route("/jobs/{job}/log/files/{file}/retry", post(log::file::retry))
        .route("/jobs/{job}/log/files/{file}/not-read.csv", get(log::file::refused))
}

/// What is concluded from it, and done about it.
fn judged() -> Router<App> {
    Router::new()
        .route("/jobs/{job}/why", get(why::page).post(why::conclude))
        .route("/jobs/{job}/plan", get(plan::page))
        .route("/jobs/{job}/plan/{fix}", post(plan::decide))
        .route("/jobs/{job}/plan/{fix}/figures", post(plan::figures))
        .route("/jobs/{job}/schools/{question}", post(plan::choose))
        .route("/jobs/{job}/coating", get(coating::page).post(coating::keep))
        .route("/jobs/{job}/drying", get(drying::page))
        .route("/jobs/{job}/drying/setup", get(drying::setup_page).post(drying::keep_setup))
        .route("/jobs/{job}/drying/item", get(drying::item_page).post(drying::keep_item))
        .route("/jobs/{job}/drying/round", get(drying::round_page).post(drying::keep_round))
        .route("/jobs/{job}/drying/points/{point}", get(drying::point_page))
        .route("/jobs/{job}/drying/certificate", get(drying::certificate_page).post(drying::issue))
        .route("/jobs/{job}/follow-ups", post(follow_ups::put))
        .route("/jobs/{job}/follow-ups/{follow_up}", get(follow_ups::page).post(follow_ups::keep))
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
    tracing::info_span!("request", method = %request.method(), path = request.uri().path(), id)
}
