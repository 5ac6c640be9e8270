//! Limits before the test.

use crate::input::Hold;

/// Least loss that a test so planned will be able to show, m³/s.
///
/// # Errors
/// In a sentence, when the hold leaves the fluid's range.
pub fn planned_detection_limit(hold: &Hold) -> Result<f64, String> {
    let _ = hold;
    Ok(f64::NAN)
}
