//! A system as it is joined: where the water stands while it fills and drains, where air and water stay, what sees the pressure, and what is forgotten at
//! its boundary.
//!
//! SI throughout. Everything is quasi-static and full bore: what flows is slow, a surface is level, and neither water nor air passes the other in a pipe that is
//! full of it (common practice; a fast fill carries some air along, so that less stays than is said here, never more).

pub mod draining;
pub mod emptying;
mod enclosed;
pub mod filling;
pub mod findings;
pub mod isolated;
pub mod joined;
mod levels;
pub mod lineup;
pub mod look;
pub mod network;
pub mod pockets;
pub mod pressure;
pub mod suggested;
pub mod survey;

use rules::rule::Rule;

/// Every rule of this crate.
pub fn catalogue() -> Vec<&'static Rule> {
    findings::rules()
}
