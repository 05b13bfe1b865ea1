//! Settings come from the environment; anything unknown or malformed is refused by name.

use anyhow::{Result, bail};
use std::collections::BTreeMap;
use std::net::SocketAddr;
use std::path::PathBuf;

/// Everything that can be set. `gutteral.env.example` describes each for the operator.
#[derive(Debug, Clone)]
pub struct Settings {
    /// Where to listen.
    pub addr: SocketAddr,
    /// Database of `serve`, as the role that serves; the demo has its own.
    pub database_url: Option<String>,
    /// The same database as the owner of its tables, who alone makes and changes them.
    pub owner_url: Option<String>,
    /// How many proxies of the operator's stand in front.
    pub proxies: usize,
    /// Where the demo keeps its private cluster.
    pub data_dir: PathBuf,
    /// Keys the forms' tokens.
    pub secret: Option<String>,
    /// Address of a forecast service, with places for what it is asked.
    pub forecast_url: Option<String>,
    /// Server that takes letters, with its secret.
    pub smtp_url: Option<String>,
    /// Who letters are from.
    pub mail_from: Option<String>,
    /// The browser that prints reports.
    pub chromium: Option<String>,
    /// Whether other programs may be told that stand on this machine or in its own network.
    pub webhooks_at_home: bool,
}

/// Shortest secret taken.
const SHORTEST_SECRET: usize = 32;
/// Most proxies in a row.
const MOST_PROXIES: usize = 8;

fn postgres(own: &mut BTreeMap<String, String>, name: &str) -> Result<Option<String>> {
    let url = own.remove(name);
    match &url {
        // The value may hold a password: it is not repeated.
        Some(url) if !(url.starts_with("postgres://") || url.starts_with("postgresql://")) => {
            bail!("{name} must begin with postgres:// or postgresql://")
        }
        _ => Ok(url),
    }
}

impl Settings {
    /// Reads every `GUTTERAL_` variable of the environment given.
    ///
    /// # Errors
    /// Names the variable and says why, for the first one that is unknown or malformed.
    pub fn read(environment: impl Iterator<Item = (String, String)>) -> Result<Self> {
        let mut own: BTreeMap<String, String> =
            environment.filter(|(k, _)| k.starts_with("GUTTERAL_") && k != TEST_DATABASE).collect();
        let addr = own.remove("GUTTERAL_ADDR").unwrap_or_else(|| "127.0.0.1:7480".into());
        let Ok(addr) = addr.parse() else {
            bail!("GUTTERAL_ADDR must be an address and a port like 127.0.0.1:7480, got {addr:?}");
        };
        let database_url = postgres(&mut own, "GUTTERAL_DATABASE_URL")?;
        let owner_url = postgres(&mut own, "GUTTERAL_OWNER_URL")?;
        let proxies = own.remove("GUTTERAL_PROXIES").unwrap_or_else(|| "0".into());
        let Some(proxies) = proxies.parse().ok().filter(|n| *n <= MOST_PROXIES) else {
            bail!("GUTTERAL_PROXIES must be a number from 0 to {MOST_PROXIES}, got {proxies:?}");
        };
        let data_dir = PathBuf::from(own.remove("GUTTERAL_DATA_DIR").unwrap_or_else(|| "var".into()));
        if data_dir.as_os_str().is_empty() {
            bail!("GUTTERAL_DATA_DIR must name a folder, got nothing");
        }
        let secret = own.remove("GUTTERAL_SECRET");
        if secret.as_ref().is_some_and(|s| s.len() < SHORTEST_SECRET) {
            bail!("GUTTERAL_SECRET must be at least {SHORTEST_SECRET} characters long");
        }
        let forecast_url = own.remove("GUTTERAL_FORECAST_URL");
        if forecast_url.as_ref().is_some_and(|url| !url.starts_with("http://") && !url.starts_with("https://")) {
            bail!("GUTTERAL_FORECAST_URL must begin with http:// or https://");
        }
        let smtp_url = own.remove("GUTTERAL_SMTP_URL");
        if smtp_url.as_ref().is_some_and(|url| !url.starts_with("smtp://") && !url.starts_with("smtps://")) {
            bail!("GUTTERAL_SMTP_URL must begin with smtp:// or smtps://");
        }
        let mail_from = own.remove("GUTTERAL_MAIL_FROM");
        if mail_from.as_ref().is_some_and(|from| !from.contains('@')) {
            bail!("GUTTERAL_MAIL_FROM must be an e-mail address");
        }
        if smtp_url.is_some() && mail_from.is_none() {
            bail!("GUTTERAL_MAIL_FROM is not set: who are letters from?");
        }
        let chromium = own.remove("GUTTERAL_CHROMIUM");
        if chromium.as_ref().is_some_and(|path| !path.starts_with('/')) {
            bail!("GUTTERAL_CHROMIUM must be the whole path of a program, beginning with /");
        }
        let webhooks_at_home = match own.remove("GUTTERAL_WEBHOOKS_AT_HOME").as_deref() {
            None | Some("no") => false,
            Some("yes") => true,
            Some(other) => bail!("GUTTERAL_WEBHOOKS_AT_HOME must be yes or no, got {other:?}"),
        };
        if let Some(name) = own.keys().next() {
            bail!(
                "{name} is not a setting; known are GUTTERAL_ADDR, GUTTERAL_DATABASE_URL, GUTTERAL_OWNER_URL, \
                 GUTTERAL_PROXIES, GUTTERAL_DATA_DIR, GUTTERAL_SECRET, GUTTERAL_FORECAST_URL, \
                 GUTTERAL_SMTP_URL, GUTTERAL_MAIL_FROM, GUTTERAL_CHROMIUM, GUTTERAL_WEBHOOKS_AT_HOME"
            );
        }
        Ok(Self {
            addr,
            database_url,
            owner_url,
            proxies,
            data_dir,
            secret,
            forecast_url,
            smtp_url,
            mail_from,
            chromium,
            webhooks_at_home,
        })
    }
}

/// Set by `with-database` for the tests it runs; not a setting of the program.
pub const TEST_DATABASE: &str = "GUTTERAL_TEST_DATABASE";

#[cfg(test)]
mod tests {
    use super::*;

    fn read(pairs: &[(&str, &str)]) -> Result<Settings> {
        Settings::read(pairs.iter().map(|(k, v)| ((*k).to_owned(), (*v).to_owned())))
    }

    #[test]
    fn a_bad_setting_is_refused_with_its_name_and_no_secret_is_repeated() {
        let refused = |pairs: &[(&str, &str)]| read(pairs).err().map(|e| e.to_string()).unwrap_or_default();
        assert!(refused(&[("GUTTERAL_PORT", "1")]).contains("GUTTERAL_PORT is not a setting"));
        assert!(refused(&[("GUTTERAL_ADDR", "localhost")]).contains("GUTTERAL_ADDR must be"));
        let url = refused(&[("GUTTERAL_DATABASE_URL", "mysql://u:hunter2@h/d")]);
        assert!(url.contains("GUTTERAL_DATABASE_URL") && !url.contains("hunter2"));
        assert!(refused(&[("GUTTERAL_PROXIES", "9")]).contains("0 to 8"));
        let secret = refused(&[("GUTTERAL_SECRET", "tooshort")]);
        assert!(secret.contains("GUTTERAL_SECRET") && !secret.contains("tooshort"));
        assert!(read(&[("HOME", "/"), ("GUTTERAL_ADDR", "127.0.0.1:0")]).is_ok());
    }
}
