//! What the readings say while a test runs: is a channel alive, do the gauges agree, how much air is in, does a part give
//! way, when to stop the pump.
//!
//! Nothing here judges a hold; nothing here is an acceptance.

pub mod agreement;
pub mod channel;
pub mod falling;
pub mod forecast;
pub mod giving_way;
pub mod pumping;
pub mod rejoined;
