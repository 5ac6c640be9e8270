//! What an installation on one machine needs: a MariaDB of its own on loopback, credentials, the sealing key's place.

pub mod database;
pub mod folder;
pub mod installation;
pub mod migrations;
pub mod ports;
mod process;
pub mod rig;
