//! What lies outside the program: a forecast service by HTTP.

use casework::outside::{Outside, OutsideError};
use chrono::{TimeDelta, Utc};
use serde::Deserialize;
use std::time::Duration;
use store::{ForecastHour, Job};

/// How long anything outside may take to answer.
const PATIENCE: Duration = Duration::from_secs(20);
/// Longest answer read, bytes.
const LONGEST: usize = 1 << 20;
/// Most hours taken of a forecast: two weeks and a day.
const MOST_HOURS: usize = 361;

/// The world as it is set up.
#[derive(Clone)]
pub struct World {
    http: reqwest::Client,
    /// Address of the forecast service, with places for what it is asked.
    forecast: Option<String>,
}

#[derive(Deserialize)]
struct Told {
    hours: Vec<ForecastHour>,
}

/// A client that speaks TLS, too.
///
/// # Errors
/// Where no secure connection can be made on this machine.
pub fn client(patience: Duration) -> reqwest::Result<reqwest::Client> {
    // Installed already is as good.
    let _ = rustls::crypto::ring::default_provider().install_default();
    let limited = reqwest::redirect::Policy::limited(3);
    reqwest::Client::builder().timeout(patience).redirect(limited).user_agent("gutteral").build()
}

impl World {
    /// With a forecast service at an address in which `{latitude}`, `{longitude}`, `{altitude}` and `{climate}` stand for the job's.
    ///
    /// # Errors
    /// Where no secure connection can be made on this machine.
    pub fn new(forecast: Option<String>) -> anyhow::Result<Self> {
        Ok(Self { http: client(PATIENCE)?, forecast })
    }
}

/// The address to ask for a job.
fn address(template: &str, job: &Job) -> Result<String, OutsideError> {
    let asks_where = template.contains("{latitude}") || template.contains("{longitude}");
    let at = match job.site.at {
        Some(at) => at,
        None if asks_where => {
            return Err(OutsideError::NotSet(
                "the forecast needs to know where: give the job’s latitude and longitude",
            ));
        }
        None => [0.0; 2],
    };
    let places = [
        ("{latitude}", at[0].to_string()),
        ("{longitude}", at[1].to_string()),
        ("{altitude}", job.site.altitude_m.to_string()),
        ("{climate}", job.climate.id().to_owned()),
    ];
    Ok(places.iter().fold(template.to_owned(), |url, (place, value)| url.replace(place, value)))
}

/// Hours that can be, in the order of time, each once.
fn sound(told: Told) -> Result<Vec<ForecastHour>, OutsideError> {
    let now = Utc::now();
    let near = now - TimeDelta::days(2)..now + TimeDelta::days(20);
    let possible = |h: &ForecastHour| {
        near.contains(&h.at)
            && (-90.0..=60.0).contains(&h.t_c)
            && (0.0..=100.0).contains(&h.rh_pct)
            && (0.0..=500.0).contains(&h.rain_mm)
    };
    if told.hours.len() > MOST_HOURS {
        return Err(OutsideError::Failed(format!("the forecast has more than {MOST_HOURS} hours")));
    }
    let mut hours: Vec<ForecastHour> = told.hours.into_iter().filter(possible).collect();
    hours.sort_by_key(|h| h.at);
    hours.dedup_by_key(|h| h.at);
    if hours.is_empty() {
        return Err(OutsideError::Failed("the forecast holds no hour to come".into()));
    }
    Ok(hours)
}

impl Outside for World {
    async fn forecast(&self, job: &Job) -> Result<Vec<ForecastHour>, OutsideError> {
        let none = OutsideError::NotSet(
            "no forecast service is set: whoever runs Gutteral gives its address as GUTTERAL_FORECAST_URL",
        );
        let url = address(self.forecast.as_deref().ok_or(none)?, job)?;
        // An address may hold a key: it is not repeated.
        let failed = |what: &str| OutsideError::Failed(format!("the forecast service {what}"));
        let mut answer = self.http.get(url).send().await.map_err(|_| failed("does not answer"))?;
        if !answer.status().is_success() {
            return Err(failed(&format!("answered {}", answer.status().as_u16())));
        }
        let mut body = Vec::new();
        while let Some(more) = answer.chunk().await.map_err(|_| failed("stopped in the middle"))? {
            body.extend_from_slice(&more);
            if body.len() > LONGEST {
                return Err(failed("answered with more than a forecast"));
            }
        }
        sound(serde_json::from_slice(&body).map_err(|_| failed("answered with something that is no forecast"))?)
    }
}
