//! What a shut-in hold tells about a leak: defects of the record, the fit, its interval and its limits.
//!
//! SI throughout; times are seconds from the start of the hold; temperatures are °C, pressures Pa absolute unless a name says gauge.

pub mod finding;
pub mod input;
pub mod model;
pub mod reading;

pub use finding::{Judged, Outcome, judge};
pub use input::{Body, Creep, Exposure, Fluid, Gauge, Hold, Place, Record, Step, Thermometer};
