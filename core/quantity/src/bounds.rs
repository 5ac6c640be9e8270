//! What is believable: one table, written as "inside", so that NaN fails.

use crate::parse_error::ParseQuantityError;

/// One believable range.
#[derive(Debug, Clone, Copy)]
pub struct Bound {
    /// Word for the quantity, as in a sentence.
    pub word: &'static str,
    /// Unit of `least` and `most`.
    pub unit: &'static str,
    /// Least believable value.
    pub least: f64,
    /// Greatest believable value.
    pub most: f64,
    /// Why these ends.
    pub origin: &'static str,
}

macro_rules! bounds {
    ($($name:ident: $word:literal, $unit:literal, $least:expr, $most:expr, $origin:literal;)+) => {
        $(#[doc = concat!($word, ", ", $unit, ": ", $origin)]
          pub const $name: Bound = Bound { word: $word, unit: $unit, least: $least, most: $most, origin: $origin };)+
        /// Every bound, for tests and documentation.
        pub const ALL: &[Bound] = &[$($name),+];
    };
}

bounds! {
    HEIGHT: "height", "m", -500.0, 5000.0, "deepest mine plant to highest site; above that a typing mistake";
    DESIGN_PRESSURE: "design pressure", "bar", 0.001, 3000.0, "above zero; the water equation ends at 10 000 bar";
    READING_PRESSURE: "pressure reading", "bar", -1.1, 3000.0, "vacuum to the strongest vessel";
    LIMIT_PRESSURE: "pressure limit", "bar", 0.001, 5000.0, "above zero";
    WALL: "wall thickness", "mm", 0.05, 600.0, "foil to the thickest forged shell";
    DIAMETER: "outside diameter", "mm", 1.0, 20_000.0, "capillary to storage sphere";
    PART_LENGTH: "length", "m", 0.0, 200_000.0, "a fitting to a long main";
    VOLUME: "volume", "m³", 1e-6, 1e6, "a drop to a reservoir";
    WATER_TEMPERATURE: "water temperature", "°C", 0.5, 95.0, "liquid water that a person may stand beside";
    READING_TEMPERATURE: "temperature reading", "°C", -60.0, 150.0, "arctic air to a hot pipe skin";
    DESIGN_TEMPERATURE: "design temperature", "°C", -196.0, 1000.0, "liquid nitrogen to furnace tubes";
    HOLD: "hold time", "min", 1.0, 20_160.0, "one minute to two weeks";
    GAUGE_RANGE: "gauge range", "bar", 0.01, 6000.0, "draught gauge to the highest dial made";
    CORROSION: "corrosion allowance", "mm", 0.0, 50.0, "none to more than any line has";
}

impl Bound {
    /// The value, if it is inside; otherwise a sentence.
    ///
    /// # Errors
    /// When the value is outside the range or not a number.
    pub fn check(&self, value: f64) -> Result<f64, ParseQuantityError> {
        if value >= self.least && value <= self.most {
            Ok(value)
        } else {
            Err(ParseQuantityError::OutOfBounds { word: self.word, unit: self.unit, value, least: self.least, most: self.most })
        }
    }
}
