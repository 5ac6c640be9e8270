//! What the measured wall of used plant bears, and how long it lasts.

use super::line::{Draft, Toward};
use super::lines::Facts;
use crate::used;

pub(super) fn lines(f: &Facts) -> Vec<Draft> {
    let mut all = Vec::new();
    for w in used::worn(f.system, f.demand).into_iter().flatten() {
        let question = format!("What does the measured wall of {} bear?", w.tag);
        let key = format!("wall-{}", w.tag);
        let line = match w.needs {
            Some(needs) => Draft::new(&key, "derive", &question, "{0} by calculation; {1} is asked of it, which needs a wall of {2}.")
                .down(w.bears)
                .pressure(w.asked)
                .length(needs, Toward::Up),
            None => Draft::new(&key, "derive", &question, "{0} by calculation; {1} is asked of it.").down(w.bears).pressure(w.asked),
        };
        all.push(line.why(w.why.clone()));
        let question = format!("When is {} looked at next?", w.tag);
        let key = format!("life-{}", w.tag);
        all.push(match (w.life_years, w.next_years(), w.life_why.clone()) {
            (Some(_), Some(next), Some(why)) => {
                Draft::new(&key, "sign", &question, format!("Within {next:.1} years: half of what the loss of wall leaves, at most ten."))
                    .why(why)
            }
            _ => Draft::new(
                &key,
                "sign",
                &question,
                "The inspector names the date: a remaining life needs an earlier or the nominal wall, and the years between.",
            ),
        });
    }
    all
}
