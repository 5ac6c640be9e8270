//! Lines on standard output.

use std::io::{ErrorKind, Write};

/// Writes a line. Whoever reads may stop before the end, as `head` does: that is no error of ours; anything else ends the command.
pub fn say(line: impl std::fmt::Display) {
    match writeln!(std::io::stdout(), "{line}") {
        Err(e) if e.kind() != ErrorKind::BrokenPipe => {
            eprintln!("zero-leak: the output cannot be written ({e}), so it is not whole: make room, or write it elsewhere.");
            std::process::exit(2);
        }
        _ => {}
    }
}
