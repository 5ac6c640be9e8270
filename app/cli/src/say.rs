//! Lines on standard output.

use std::io::Write;

/// Writes a line. Whoever reads may stop before the end, as `head` does: that is no error of ours.
pub fn say(line: impl std::fmt::Display) {
    let _ = writeln!(std::io::stdout(), "{line}");
}
