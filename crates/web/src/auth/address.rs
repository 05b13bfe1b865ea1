//! Where a request comes from.

use crate::state::App;
use axum::extract::{ConnectInfo, FromRequestParts};
use axum::http::request::Parts;
use std::convert::Infallible;
use std::net::{IpAddr, Ipv6Addr, SocketAddr};

/// A caller's address. Behind the operator's proxies it is the one the outermost of them saw; what stands before that in
/// `X-Forwarded-For` anybody may have written. Of IPv6 only the network counts: a household has a whole one.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Address(pub IpAddr);

impl FromRequestParts<App> for Address {
    type Rejection = Infallible;

    async fn from_request_parts(parts: &mut Parts, app: &App) -> Result<Self, Infallible> {
        let peer = parts.extensions.get::<ConnectInfo<SocketAddr>>().map(|c| c.0.ip());
        let said = parts.headers.get_all("x-forwarded-for").iter().filter_map(|v| v.to_str().ok());
        let said: Vec<IpAddr> = said.flat_map(|v| v.split(',')).filter_map(|a| a.trim().parse().ok()).collect();
        let behind = app.proxies.checked_sub(1).and_then(|nth| said.iter().rev().nth(nth).copied());
        Ok(Self(network(behind.or(peer).unwrap_or(IpAddr::V6(Ipv6Addr::UNSPECIFIED)))))
    }
}

fn network(address: IpAddr) -> IpAddr {
    match address.to_canonical() {
        IpAddr::V6(v6) => {
            let [a, b, c, d, ..] = v6.segments();
            Ipv6Addr::new(a, b, c, d, 0, 0, 0, 0).into()
        }
        v4 @ IpAddr::V4(_) => v4,
    }
}
