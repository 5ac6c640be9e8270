//! Wrong passwords. Who guesses from one address waits there; an account that is guessed at from many waits everywhere, save where it has been
//! signed in from: so nobody who guesses keeps an honest person out.

use crate::problem::Problem;
use std::collections::{HashMap, HashSet};
use std::net::IpAddr;
use std::sync::{Mutex, PoisonError};
use std::time::{Duration, Instant};

/// Wrong passwords for one account from one address that are forgiven.
const FORGIVEN: u32 = 5;
/// The same from everywhere.
const FORGIVEN_IN_ALL: u32 = 30;
/// How long an account waits after one more, and for how long its wrong passwords are remembered.
const WAIT: Duration = Duration::from_secs(60);
/// Accounts that are remembered; names that nobody has count too.
const MOST: usize = 10_000;

#[derive(Debug, Default)]
struct Kept {
    wrong: HashMap<(String, Option<IpAddr>), (u32, Instant)>,
    signed_in: HashSet<(String, IpAddr)>,
}

impl Kept {
    /// Seconds to wait.
    fn waits(&self, key: &(String, Option<IpAddr>), forgiven: u32) -> Option<u32> {
        let (wrong, last) = self.wrong.get(key)?;
        let left = WAIT.checked_sub(last.elapsed())?;
        (*wrong > forgiven).then(|| u32::try_from(left.as_secs() + 1).unwrap_or(60))
    }

    fn count(&mut self, key: (String, Option<IpAddr>)) {
        let entry = self.wrong.entry(key).or_insert((0, Instant::now()));
        *entry = if entry.1.elapsed() < WAIT { (entry.0 + 1, Instant::now()) } else { (1, Instant::now()) };
    }
}

/// Wrong passwords of this server.
#[derive(Debug, Default)]
pub struct Guesses(Mutex<Kept>);

impl Guesses {
    /// Refuses an account that was guessed at too often.
    ///
    /// # Errors
    /// While it has to wait.
    pub fn may(&self, name: &str, from: IpAddr) -> Result<(), Problem> {
        let kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let name = name.to_lowercase();
        let known = kept.signed_in.contains(&(name.clone(), from));
        let here = kept.waits(&(name.clone(), Some(from)), FORGIVEN);
        let anywhere = if known { None } else { kept.waits(&(name, None), FORGIVEN_IN_ALL) };
        here.max(anywhere).map_or(Ok(()), |seconds| Err(Problem::TooManyGuesses(seconds)))
    }

    /// True where an account has been signed in from an address: others who guess there do not keep it waiting.
    pub fn knows(&self, name: &str, from: IpAddr) -> bool {
        self.0.lock().unwrap_or_else(PoisonError::into_inner).signed_in.contains(&(name.to_lowercase(), from))
    }

    /// Counts a wrong password, or forgets them all after a right one.
    pub fn tried(&self, name: &str, from: IpAddr, right: bool) {
        let mut kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let name = name.to_lowercase();
        if kept.wrong.len() >= MOST {
            kept.wrong.retain(|_, (_, last)| last.elapsed() < WAIT);
        }
        if kept.signed_in.len() >= MOST {
            kept.signed_in.clear();
        }
        if right {
            kept.wrong.remove(&(name.clone(), Some(from)));
            kept.wrong.remove(&(name.clone(), None));
            kept.signed_in.insert((name, from));
        } else {
            kept.count((name.clone(), Some(from)));
            kept.count((name, None));
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const HERE: IpAddr = IpAddr::V4(std::net::Ipv4Addr::new(10, 0, 0, 1));

    fn there(n: u8) -> IpAddr {
        IpAddr::from([203, 0, 113, n])
    }

    #[test]
    fn who_guesses_waits_and_nobody_behind_another_address_does() {
        let guesses = Guesses::default();
        for _ in 0..=FORGIVEN {
            assert!(guesses.may("Inspector", there(1)).is_ok());
            guesses.tried("inspector", there(1), false);
        }
        assert!(matches!(guesses.may("INSPECTOR", there(1)), Err(Problem::TooManyGuesses(1..=60))));
        assert!(guesses.may("inspector", HERE).is_ok());
        assert!(guesses.may("supervisor", there(1)).is_ok());
        guesses.tried("inspector", there(1), true);
        assert!(guesses.may("inspector", there(1)).is_ok());
    }

    #[test]
    fn an_account_guessed_at_from_everywhere_waits_save_where_it_has_been_signed_in() {
        let guesses = Guesses::default();
        guesses.tried("reader", HERE, true);
        for n in 0..=u8::try_from(FORGIVEN_IN_ALL).unwrap() {
            guesses.tried("reader", there(n), false);
        }
        assert!(guesses.may("reader", there(200)).is_err());
        assert!(guesses.may("reader", HERE).is_ok());
    }
}
