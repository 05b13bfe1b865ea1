//! A forecast service that is none: invented weather of a climate's typical year, as the real one would be asked for.

use anyhow::{Context, Result, bail};
use axum::extract::Query;
use axum::http::StatusCode;
use axum::routing::get;
use axum::{Json, Router};
use building::Climate;
use chrono::Utc;
use serde::Deserialize;
use serde_json::{Value, json};
use stand_ins::{AHEAD, weather};
use std::net::SocketAddr;
use tokio::net::TcpListener;

#[derive(Deserialize)]
struct Asked {
    climate: String,
}

/// Where to listen, and the seed of the weather.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Service {
    /// Where to listen.
    pub addr: SocketAddr,
    /// Seed of its weather.
    pub seed: u64,
}

/// What the command line says.
///
/// # Errors
/// What makes no sense of it.
pub fn arguments(words: &[&str]) -> Result<Service> {
    let mut made = Service { addr: SocketAddr::from(([127, 0, 0, 1], 7481)), seed: 7480 };
    for pair in words.chunks(2) {
        match pair {
            ["--addr", at] => {
                made.addr = at.parse().with_context(|| format!("--addr is like 127.0.0.1:7481, got “{at}”"))?;
            }
            ["--seed", n] => made.seed = n.parse().with_context(|| format!("--seed is a whole number, got “{n}”"))?,
            [other, ..] => bail!("{other} is unknown; known are --addr and --seed"),
            [] => {}
        }
    }
    Ok(made)
}

/// Tells the weather to come to whoever asks, until it is dropped.
///
/// # Errors
/// Where it cannot listen.
pub async fn serve(listener: TcpListener, seed: u64) -> Result<()> {
    let told = async move |Query(asked): Query<Asked>| -> Result<Json<Value>, (StatusCode, String)> {
        let unknown = || (StatusCode::UNPROCESSABLE_ENTITY, format!("no climate {}", asked.climate));
        let climate = Climate::from_id(&asked.climate).ok_or_else(unknown)?;
        let hour =
            |h: &stand_ins::WeatherHour| json!({"at": h.at, "t_c": h.t_c, "rh_pct": h.rh_pct, "rain_mm": h.rain_mm});
        let hours: Vec<Value> = weather(seed, climate, Utc::now(), AHEAD).iter().map(hour).collect();
        Ok(Json(json!({ "hours": hours })))
    };
    Ok(axum::serve(listener, Router::new().route("/forecast", get(told))).await?)
}

/// The address by which it is asked.
#[must_use]
pub fn address(at: SocketAddr) -> String {
    format!("http://{at}/forecast?climate={{climate}}")
}
