//! What a server is told at its start.

use std::path::PathBuf;

/// Settings of a server.
#[derive(Debug, Clone)]
pub struct Config {
    /// Address of the database for the server's account.
    pub database_url: String,
    /// File of the sealing key; made on the first start.
    pub key_file: PathBuf,
    /// Port on loopback.
    pub port: u16,
    /// What the site is called where the database does not say so yet; none where whoever begins is asked.
    pub site: Option<String>,
    /// Its zone then (IANA name): "today", times on charts.
    pub zone: String,
    /// Its units then, for whoever chose none.
    pub units: quantity::Units,
    /// Sign-ins allowed in a row from one address before it has to wait.
    pub sign_in_burst: u32,
    /// Where people reach it, and whom it believes about them.
    pub door: crate::door::Door,
    /// Networks in which instruments may answer; the practice rig's address in any case, nothing else where none is named.
    pub instruments: Vec<ipnet::IpNet>,
    /// The installation's clock; faster than the real one only for training.
    pub clock: crate::clock::Clock,
    /// Where the practice rig of this installation answers; none where there is none.
    pub rig: Option<std::net::SocketAddr>,
    /// Loads an invented site where whoever sets up asks for it.
    pub demo: Option<std::sync::Arc<dyn crate::demo_site::LoadsDemo>>,
    /// Lays reports out.
    pub press: std::sync::Arc<dyn paper::Press>,
    /// Also answers the routes that figures are held against.
    pub bench: bool,
    /// Starts a rig of its own for each practice run; none where nobody practises.
    pub practice: Option<std::sync::Arc<dyn crate::practice_rigs::StartsRigs>>,
}
