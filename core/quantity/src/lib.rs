//! Typed quantities. The core computes in SI; a person reads and types the units of the gauge in hand.
//!
//! * [`GaugePressure`], [`AbsolutePressure`] and [`PressureDifference`] are three types: adding a head to a gauge
//!   pressure compiles, adding two gauge pressures does not.
//! * [`parse`] reads what a person typed ("210 psi", "2,4 MPa") and says what is wrong in a sentence.
//! * [`show`] decides unit, digits and rounding of every figure that a person sees.
//! * [`bounds`] is the one table of what is believable for each quantity.

pub mod bounds;
pub mod dimension;
pub mod format;
pub mod parse;
mod parse_error;
pub mod show;
mod types;
pub mod unit;
mod units;
pub mod words;

pub use dimension::Dimension;
pub use types::*;
pub use unit::{PressureUnit, TemperatureUnit, TimeUnit};
pub use units::{Chosen, LengthUnit, Units, VolumeUnit};

/// Standard acceleration of gravity, m/s² (ISO 80000-3; exact by convention).
pub const STANDARD_GRAVITY: f64 = 9.806_65;

/// Standard atmosphere, absolute (101 325 Pa; exact by convention).
pub const STANDARD_ATMOSPHERE: AbsolutePressure = AbsolutePressure::from_pa(101_325.0);
