//! Why a text is not a quantity.

/// Why a text is not a quantity; each displays as a sentence that says what would be accepted.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum ParseQuantityError {
    /// Nothing typed.
    #[error("{word} is missing: type a number, for example {example}")]
    Missing {
        /// the quantity
        word: &'static str,
        /// what would do
        example: &'static str,
    },
    /// Not a number.
    #[error("\"{text}\" is not a number for {word}: type digits with one decimal sign, for example {example}")]
    NotANumber {
        /// the quantity
        word: &'static str,
        /// what was typed
        text: String,
        /// what would do
        example: &'static str,
    },
    /// Number with an unknown unit.
    #[error("\"{unit}\" is not a unit known for {word}: use {accepted}")]
    UnknownUnit {
        /// the quantity
        word: &'static str,
        /// what was typed
        unit: String,
        /// known units
        accepted: &'static str,
    },
    /// Outside what is believable.
    #[error("{word} of {} {unit} is not between {least} and {most} {unit}: check the figure and its unit", plain(*value))]
    OutOfBounds {
        /// the quantity
        word: &'static str,
        /// unit of the figures
        unit: &'static str,
        /// what came
        value: f64,
        /// least accepted
        least: f64,
        /// most accepted
        most: f64,
    },
}

/// A number without the dust of binary arithmetic: −7.110000000000001 → −7.11.
fn plain(value: f64) -> String {
    format!("{value:.9e}").parse::<f64>().map_or_else(|_| value.to_string(), |v| v.to_string())
}
