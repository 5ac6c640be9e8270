//! Where this server may speak to instruments.

use ipnet::IpNet;
use pack::instrument::Connection;
use std::net::{IpAddr, SocketAddr};
use std::sync::Arc;

/// Where this server may speak to instruments.
#[derive(Debug, Clone, Default)]
pub struct Reach {
    /// Networks that the administrator named.
    pub networks: Arc<[IpNet]>,
    /// The practice rig.
    pub rig: Option<SocketAddr>,
}

impl Reach {
    /// The address of an instrument, when this server may speak to it.
    pub fn address(&self, connection: &Connection) -> Option<SocketAddr> {
        let ip: IpAddr = connection.address.parse().ok()?;
        let at = SocketAddr::new(ip, connection.port);
        let named = self.networks.iter().any(|net| net.contains(&ip));
        (connection.port > 0 && (named || self.rig == Some(at))).then_some(at)
    }
}
