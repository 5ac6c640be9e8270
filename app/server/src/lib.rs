//! The server: HTTP in front of the core, MariaDB behind it.

pub mod access;
pub mod api;
pub mod assets;
pub mod budget;
pub mod clock;
pub mod config;
pub mod demo_site;
pub mod door;
pub mod grid;
pub mod guesses;
pub mod heavy;
pub mod kept;
pub mod limits;
pub mod lines;
pub mod migrate;
pub mod places;
pub mod practice_rigs;
pub mod problem;
pub mod reach;
pub mod recorder;
pub mod rooms;
pub mod routes;
pub mod runs;
pub mod second_factor;
pub mod security;
pub mod session_store;
pub mod sign_in;
pub mod state;
pub mod store;
pub mod views;
pub mod waiting;
pub mod who;

pub use api::{openapi, router};
pub use config::Config;
pub use state::App;

pub use door::serve;
