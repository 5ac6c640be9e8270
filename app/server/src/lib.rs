//! The server: HTTP in front of the core, MariaDB behind it.

pub mod access;
pub mod api;
pub mod assets;
pub mod attempt_view;
pub mod budget;
pub mod clock;
pub mod config;
pub mod door;
pub mod freeze;
pub mod grid;
pub mod guesses;
pub mod heavy;
mod hold_case;
pub mod judged;
pub mod judging;
pub mod limits;
pub mod live;
pub mod migrate;
pub mod practice_rigs;
pub mod problem;
pub mod recorder;
pub mod routes;
pub mod sealing;
pub mod security;
pub mod session_store;
pub mod sign_in;
pub mod situation;
pub mod state;
pub mod store;
pub mod view;
pub mod waiting;
pub mod who;

pub use api::{openapi, router};
pub use config::Config;
pub use state::App;

pub use door::serve;
