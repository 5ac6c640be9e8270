//! A system as it is joined: where the water stands while it fills and drains, and where air and water stay.
//!
//! SI throughout. Everything is quasi-static and full bore: what flows is slow, a surface is level, and neither water nor air passes the other in a pipe that is
//! full of it (common practice; a fast fill carries some air along, so that less stays than is said here, never more).

pub mod draining;
mod enclosed;
pub mod filling;
pub mod joined;
mod levels;
pub mod network;
