//! Wrong passwords, counted by account: after a few the account has to wait, however many addresses they come from. A right one clears the count.

use crate::problem::Problem;
use std::collections::HashMap;
use std::sync::{Mutex, PoisonError};
use std::time::{Duration, Instant};

/// Wrong passwords that are forgiven.
const FORGIVEN: u32 = 5;
/// How long an account waits after one more, and for how long its wrong passwords are remembered.
const WAIT: Duration = Duration::from_secs(60);
/// Accounts that are remembered; names that nobody has count too.
const MOST: usize = 10_000;

/// Wrong passwords of this server.
#[derive(Debug, Default)]
pub struct Guesses(Mutex<HashMap<String, (u32, Instant)>>);

impl Guesses {
    /// Refuses an account that has guessed too often.
    ///
    /// # Errors
    /// While it has to wait.
    pub fn may(&self, name: &str) -> Result<(), Problem> {
        let all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        match all.get(&name.to_lowercase()) {
            Some((wrong, last)) if *wrong > FORGIVEN && last.elapsed() < WAIT => {
                let left = WAIT.saturating_sub(last.elapsed()).as_secs() + 1;
                Err(Problem::TooManyGuesses(u32::try_from(left).unwrap_or(60)))
            }
            _ => Ok(()),
        }
    }

    /// Counts a wrong password, or forgets them all after a right one.
    pub fn tried(&self, name: &str, right: bool) {
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let name = name.to_lowercase();
        if right {
            all.remove(&name);
            return;
        }
        if all.len() >= MOST {
            all.retain(|_, (_, last)| last.elapsed() < WAIT);
        }
        let entry = all.entry(name).or_insert((0, Instant::now()));
        *entry = if entry.1.elapsed() < WAIT { (entry.0 + 1, Instant::now()) } else { (1, Instant::now()) };
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_account_waits_after_a_few_wrong_passwords_and_no_other_does() {
        let guesses = Guesses::default();
        for _ in 0..=FORGIVEN {
            assert!(guesses.may("Inspector").is_ok());
            guesses.tried("inspector", false);
        }
        assert!(matches!(guesses.may("INSPECTOR"), Err(Problem::TooManyGuesses(1..=60))));
        assert!(guesses.may("supervisor").is_ok());
        guesses.tried("inspector", true);
        assert!(guesses.may("inspector").is_ok());
    }
}
