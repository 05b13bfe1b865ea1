//! Telling other programs by HTTP what happened. Their address was typed by somebody of a practice: it must not lead to what
//! only this machine or its own network may reach, whatever its name stands for today.

use crate::outside::client_to;
use casework::outside::{OutsideError, Telling};
use std::net::{IpAddr, Ipv4Addr, Ipv6Addr, SocketAddr};
use std::time::Duration;
use tokio::net::lookup_host;

/// How long a program may take to answer.
const PATIENCE: Duration = Duration::from_secs(10);

/// Whoever tells.
#[derive(Debug, Clone, Copy)]
pub struct Teller {
    /// Whether it may be this machine or its own network.
    at_home: bool,
}

impl Teller {
    /// One that may tell programs on this machine or in its own network, or only those outside.
    #[must_use]
    pub const fn new(at_home: bool) -> Self {
        Self { at_home }
    }

    /// Tells, and gives the HTTP status that was answered.
    ///
    /// # Errors
    /// [`OutsideError::Failed`] for an address nobody may be told at, [`OutsideError::Away`] where nobody answers.
    pub async fn tell(&self, what: &Telling) -> Result<u16, OutsideError> {
        let wrong = |said: &str| OutsideError::Failed(said.to_owned());
        let away = |said: &str| OutsideError::Away(said.to_owned());
        let url = reqwest::Url::parse(&what.url).map_err(|_| wrong("its address is none"))?;
        if !matches!(url.scheme(), "http" | "https") {
            return Err(wrong("its address is none"));
        }
        let (Some(host), Some(port)) = (url.host_str(), url.port_or_known_default()) else {
            return Err(wrong("its address is none"));
        };
        let bare = host.trim_matches(['[', ']']);
        let at = match bare.parse::<IpAddr>() {
            Ok(ip) => vec![SocketAddr::new(ip, port)],
            Err(_) => lookup_host((bare, port)).await.map_err(|_| away("its name is not known"))?.collect(),
        };
        let at: Vec<SocketAddr> = at.into_iter().filter(|a| self.at_home || is_outside(a.ip())).collect();
        if at.is_empty() {
            return Err(wrong("its address is of this machine or its own network"));
        }
        // Connected to where its name was looked up: asked again, it could stand for somewhere else. Sent on to nowhere.
        let http = client_to(PATIENCE, bare, &at).map_err(|_| away("no connection can be made"))?;
        let sent = http
            .post(url)
            .header("content-type", "application/json")
            .header("webhook-id", &what.id)
            .header("webhook-timestamp", what.at)
            .header("webhook-signature", &what.signature)
            .body(what.body.clone());
        Ok(sent.send().await.map_err(|_| away("it does not answer"))?.status().as_u16())
    }
}

/// Whether an address is one of the network at large.
fn is_outside(ip: IpAddr) -> bool {
    match ip.to_canonical() {
        IpAddr::V4(v4) => is_outside_v4(v4),
        IpAddr::V6(v6) => {
            let [first, ..] = v6.segments();
            let home = v6.is_loopback() || v6.is_unspecified() || v6.is_multicast();
            // Unique local, link-local, and what stands for IPv4 addresses (RFC 4193, 4291, 6052).
            !(home || first & 0xfe00 == 0xfc00 || first & 0xffc0 == 0xfe80 || translated(v6))
        }
    }
}

/// Whether it stands for an IPv4 address that is not of the network at large.
fn translated(v6: Ipv6Addr) -> bool {
    let s = v6.segments();
    let within = |high: u16, low: u16| Ipv4Addr::from((u32::from(high) << 16) | u32::from(low));
    match s {
        [0x64, 0xff9b, 0, 0, 0, 0, high, low] => !is_outside_v4(within(high, low)),
        [0x2002, high, low, ..] => !is_outside_v4(within(high, low)),
        [0, 0, 0, 0, 0, 0, ..] => true,
        _ => false,
    }
}

fn is_outside_v4(v4: Ipv4Addr) -> bool {
    let [a, b, ..] = v4.octets();
    let home = v4.is_loopback() || v4.is_private() || v4.is_link_local() || v4.is_unspecified() || v4.is_broadcast();
    // Shared by providers, for tests between networks, and reserved (RFC 6598, 2544, 1112).
    !(home
        || v4.is_multicast()
        || v4.is_documentation()
        || a == 0
        || (a == 100 && b & 0xc0 == 64)
        || (a == 198 && b & 0xfe == 18)
        || a >= 240)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[tokio::test]
    async fn nobody_of_this_machine_or_its_network_is_told() {
        let telling = |url: &str| Telling {
            url: url.into(),
            id: "x".into(),
            at: 0,
            signature: String::new(),
            body: String::new(),
        };
        for url in [
            "http://127.0.0.1:5432/",
            "http://localhost/",
            "http://10.1.2.3/",
            "http://172.16.0.1/",
            "http://192.168.1.1/",
            "http://169.254.169.254/latest",
            "http://100.64.0.1/",
            "http://0.0.0.0/",
            "http://[::1]/",
            "http://[::ffff:10.0.0.1]/",
            "http://[fd00::1]/",
            "http://[fe80::1]/",
            "http://[64:ff9b::a00:1]/",
            "http://[2002:7f00:1::]/",
            "http://2130706433/",
            "http://0x7f.1/",
            "ftp://192.0.2.1/",
            "file:///etc/passwd",
            "nothing",
        ] {
            let said = Teller::new(false).tell(&telling(url)).await;
            assert!(matches!(said, Err(OutsideError::Failed(_))), "{url}: {said:?}");
        }
        assert!(["9.9.9.9", "2620:fe::fe", "64:ff9b::909:909"].iter().all(|ip| ip.parse().is_ok_and(is_outside)));
    }
}
