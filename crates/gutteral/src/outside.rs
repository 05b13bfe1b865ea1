//! What lies outside the program: a forecast service by HTTP, and mail by SMTP.

use crate::press::Press;
use crate::teller::Teller;
use casework::outside::{News, Outside, OutsideError, Telling, ToPrint};
use chrono::{TimeDelta, Utc};
use lettre::message::Mailbox;
use lettre::{AsyncSmtpTransport, AsyncTransport, Message, Tokio1Executor};
use notation::{Show, Units};
use serde::Deserialize;
use std::net::SocketAddr;
use std::time::Duration;
use store::{ForecastHour, Job, Letter};

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
    mail: Option<(AsyncSmtpTransport<Tokio1Executor>, Mailbox)>,
    press: Press,
    teller: Teller,
}

/// Where what lies outside is; nothing where it is not set up.
#[derive(Debug, Clone, Default)]
pub struct Addresses {
    /// Of the forecast service: `{latitude}`, `{longitude}`, `{altitude}` and `{climate}` in it stand for the job's.
    pub forecast: Option<String>,
    /// Of the server that takes letters.
    pub smtp: Option<String>,
    /// Who letters are from.
    pub mail_from: Option<String>,
    /// The browser that prints; where Debian puts one when it is not said.
    pub chromium: Option<String>,
    /// Whether other programs may be told that stand on this machine or in its own network.
    pub webhooks_at_home: bool,
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

/// The same, to a host at these addresses and nowhere else.
///
/// # Errors
/// Where no secure connection can be made on this machine.
pub fn client_to(patience: Duration, host: &str, at: &[SocketAddr]) -> reqwest::Result<reqwest::Client> {
    let _ = rustls::crypto::ring::default_provider().install_default();
    let straight = reqwest::Client::builder().no_proxy().redirect(reqwest::redirect::Policy::none());
    straight.timeout(patience).resolve_to_addrs(host, at).user_agent("gutteral").build()
}

impl World {
    /// By its addresses.
    ///
    /// # Errors
    /// Where no secure connection can be made on this machine, or an address is none.
    pub fn new(at: Addresses) -> anyhow::Result<Self> {
        let http = client(PATIENCE)?;
        let mail = match at.smtp.zip(at.mail_from) {
            None => None,
            Some((url, from)) => {
                // The address holds a password: what is wrong with it is not repeated.
                let wrong = |_| anyhow::anyhow!("GUTTERAL_SMTP_URL is no address of a mail server");
                let server = AsyncSmtpTransport::<Tokio1Executor>::from_url(&url).map_err(wrong)?;
                Some((server.timeout(Some(PATIENCE)).build(), from.parse()?))
            }
        };
        Ok(Self {
            http,
            forecast: at.forecast,
            mail,
            press: Press::new(at.chromium),
            teller: Teller::new(at.webhooks_at_home),
        })
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
    async fn print(&self, version: &ToPrint) -> Result<Vec<u8>, OutsideError> {
        let files = web::paper(version).map_err(|e| OutsideError::Failed(e.to_string()))?;
        self.press.print(files).await
    }

    async fn mail(&self, letter: &Letter) -> Result<(), OutsideError> {
        let none =
            OutsideError::NotSet("no mail server is set: whoever runs Gutteral gives its address as GUTTERAL_SMTP_URL");
        let (server, from) = self.mail.as_ref().ok_or(none)?;
        let wrong = |what: &str| OutsideError::Failed(format!("the letter cannot be sent: {what}"));
        let to: Mailbox = letter.mail_to.parse().map_err(|_| wrong("its address is none"))?;
        let message = Message::builder()
            .from(from.clone())
            .to(to)
            .subject(&letter.subject)
            .message_id(Some(format!("<{}@gutteral>", letter.id)))
            .body(letter.body.clone())
            .map_err(|_| wrong("it is no letter"))?;
        match server.send(message).await {
            Ok(_) => Ok(()),
            Err(e) if e.is_permanent() => Err(wrong("the mail server refuses it")),
            Err(_) => Err(OutsideError::Away("the mail server does not answer".into())),
        }
    }

    async fn tell(&self, what: &Telling) -> Result<u16, OutsideError> {
        self.teller.tell(what).await
    }

    fn words(&self, news: &News) -> [String; 2] {
        let show = |units| Show::new(units, &news.file.time_zone);
        wording::alert::letter(&show(Units::Metric), &show(Units::Us), news)
    }
}
