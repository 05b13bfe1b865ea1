//! A logger or a weather station that is none: it posts what the physics makes of an invented building, with the faults of real ones.

pub mod forecast;
pub mod mail;

use crate::outside::client;
use anyhow::{Context, Result, anyhow, bail};
use building::SensorKind;
use chrono::{DateTime, Datelike, NaiveDate, TimeDelta, Utc};
use serde_json::{Map, Value, json};
use stand_ins::{DemoLogger, scenario, showing};
use std::time::Duration;
use uuid::Uuid;

/// What stands in for what, and how faulty it is.
#[derive(Debug, Clone, PartialEq)]
pub struct StandIn {
    /// A weather station rather than a logger.
    pub weather: bool,
    /// Where it posts to.
    pub url: String,
    /// Its token.
    pub token: String,
    /// Seed of its building and weather.
    pub seed: u64,
    /// Seconds between posts.
    pub every_s: u64,
    /// Per cent of RH its hygrometer drifts in a day.
    pub drift: f64,
    /// Share of its posts that are lost, 0–1.
    pub lost: f64,
    /// Hours its clock is ahead.
    pub clock_h: f64,
}

/// The invented building it hangs in.
const BUILDING: &str = "School archive";
/// Posts kept back and sent along with the next while nobody answers.
const MOST_KEPT: usize = 500;

/// A thermal picture of an invented surface, as a camera's program saves it; without a name, the names there are.
///
/// # Errors
/// What makes no sense of the command line, or a name nobody has.
pub fn camera(words: &[&str]) -> Result<String> {
    let all = stand_ins::camera::pictures().map_err(|e| anyhow!("{e}"))?;
    let (seed, rest) = match words {
        ["--seed", seed, rest @ ..] => (seed.parse().with_context(|| format!("“{seed}” is no seed"))?, rest),
        rest => (7480, rest),
    };
    let name = rest.join(" ");
    if name.is_empty() {
        return Ok(all.iter().map(|p| format!("{}\n", p.name)).collect());
    }
    let found = all.iter().find(|p| p.name == name);
    Ok(stand_ins::camera::saved(found.with_context(|| format!("nothing is called “{name}”"))?, seed))
}

/// What the command line says.
///
/// # Errors
/// What makes no sense of it.
pub fn arguments(words: &[&str]) -> Result<StandIn> {
    let (what, rest) = words.split_first().context("logger or weather?")?;
    let weather = match *what {
        "weather" => true,
        "logger" => false,
        other => bail!("“{other}” is neither logger nor weather"),
    };
    let mut made = StandIn {
        weather,
        url: "http://127.0.0.1:7480".into(),
        token: std::env::var("GUTTERAL_LOGGER_TOKEN").unwrap_or_default(),
        seed: 7480,
        every_s: 60,
        drift: 0.0,
        lost: 0.0,
        clock_h: 0.0,
    };
    for pair in rest.chunks(2) {
        let [name, value] = pair else { bail!("{} of what?", pair[0]) };
        let number = || {
            value
                .parse::<f64>()
                .ok()
                .filter(|x| x.is_finite())
                .with_context(|| format!("{name} is a number, got “{value}”"))
        };
        match *name {
            "--url" => made.url = value.trim_end_matches('/').into(),
            "--token" => made.token = (*value).into(),
            "--seed" => made.seed = number()? as u64,
            "--every" => made.every_s = number()?.max(1.0) as u64,
            "--drift" => made.drift = number()?,
            "--lost" => made.lost = number()?.clamp(0.0, 1.0),
            "--clock" => made.clock_h = number()?,
            other => bail!("{other} is unknown; known are --url --token --seed --every --drift --lost --clock"),
        }
    }
    if made.token.is_empty() {
        bail!("which logger? Make a token on the Bench and give it as GUTTERAL_LOGGER_TOKEN");
    }
    Ok(made)
}

/// Posts until it is stopped.
///
/// # Errors
/// Where the token is refused, or the shipped scenario is not whole.
pub async fn run(stand_in: StandIn) -> Result<()> {
    let jobs = scenario(stand_in.seed, Uuid::now_v7).map_err(|e| anyhow!("scenario: {e}"))?;
    let job = jobs.iter().find(|j| j.name == BUILDING).context("the building it hangs in")?;
    let begun = Utc::now();
    let visits: Vec<DateTime<Utc>> = job.visits.iter().filter_map(|v| at_day(&v.day, v.hour, begun)).collect();
    post_all(&stand_in, begun, |now| {
        showing(stand_in.seed, job, &job.building, &visits, now).map_err(|e| anyhow!("{e}"))
    })
    .await
}

/// A day of the scenario in the last year in which it is past.
fn at_day(day: &str, hour: u32, now: DateTime<Utc>) -> Option<DateTime<Utc>> {
    let of = |year: i32| {
        Some(NaiveDate::parse_from_str(&format!("{year}-{day}"), "%Y-%m-%d").ok()?.and_hms_opt(hour, 5, 0)?.and_utc())
    };
    of(now.year()).filter(|at| *at < now).or_else(|| of(now.year() - 1))
}

/// Posts what is shown, again and again; what could not be sent is sent with the next.
///
/// # Errors
/// Where the token is refused, or nothing can be shown.
pub async fn post_all(
    stand_in: &StandIn,
    begun: DateTime<Utc>,
    show: impl Fn(DateTime<Utc>) -> Result<Vec<DemoLogger>>,
) -> Result<()> {
    let http = client(Duration::from_secs(20))?;
    let mut kept: Vec<Value> = Vec::new();
    let mut dice = stand_in.seed;
    loop {
        let now = Utc::now();
        let days = (now - begun).num_seconds() as f64 / 86_400.0;
        for logger in show(now)? {
            kept.extend(rows(stand_in, &logger, days * stand_in.drift));
        }
        kept.drain(..kept.len().saturating_sub(MOST_KEPT));
        dice = dice.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        if ((dice >> 40) as f64) < stand_in.lost * (1_u64 << 24) as f64 {
            // Lost on the way, and nobody knows.
            kept.clear();
        } else {
            let sent =
                http.post(format!("{}/api/log", stand_in.url)).bearer_auth(&stand_in.token).json(&kept).send().await;
            match sent.map(|a| a.status()) {
                Ok(status) if status == reqwest::StatusCode::UNAUTHORIZED => {
                    bail!("the token is refused: make a new one on the Bench")
                }
                Ok(status) if status.is_success() || status.is_client_error() => kept.clear(),
                // Whoever it posts to is away: it keeps what it has.
                _ => {}
            }
        }
        tokio::time::sleep(Duration::from_secs(stand_in.every_s)).await;
    }
}

/// Readings of a logger as they are posted.
fn rows(stand_in: &StandIn, logger: &DemoLogger, drift: f64) -> Vec<Value> {
    let ahead = TimeDelta::seconds((3600.0 * stand_in.clock_h) as i64);
    let one = |s: &stand_ins::DemoSensor| {
        let outdoors = s.place == building::Place::Outdoors;
        let p = s.points.last().filter(|_| outdoors == stand_in.weather)?;
        let mut row = Map::new();
        row.insert("at".into(), json!((p.at + ahead).to_rfc3339_opts(chrono::SecondsFormat::Secs, true)));
        row.insert("channel".into(), json!(s.channel));
        let name = if s.kind == SensorKind::Surface { "surface_c" } else { "t_c" };
        row.insert(name.into(), json!(p.t_c));
        if let Some(rh) = p.rh_pct {
            row.insert("rh_pct".into(), json!((rh + drift).clamp(0.0, 100.0)));
        }
        if s.kind == SensorKind::Rain {
            row.insert("rain_mm".into(), json!(p.value));
        }
        Some(Value::Object(row))
    };
    logger.sensors.iter().filter_map(one).collect()
}
