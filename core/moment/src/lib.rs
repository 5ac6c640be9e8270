//! Instants and the zone in which people read them.
//!
//! An instant is stored and sent in UTC; every screen, sentence and page shows it in the project's zone. Zones come from the published time zone
//! database that is compiled in, so that nothing here reads a file or a clock.

mod instant;
mod zone;

pub use instant::Instant;
pub use zone::{Change, Zone, is_day};
