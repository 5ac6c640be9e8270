//! What the rules and the library of today would say of what was released.

use crate::run::Run;
use rules::say::Say;
use rules::specification::Specification;
use rules::system::Derived;

/// Windows that differ by less than this are one, Pa.
const SAME_PA: f64 = 1.0;

impl Run {
    /// Why the release no longer stands: rules or the project's library changed since, and what follows from the same plan is another thing now.
    /// None once the run has begun: it goes on under the rules of its release.
    pub fn withdrawn(&self, specification: &Specification, say: Say) -> Option<String> {
        let changed = self.untouched().then(|| self.differs(specification, say)).flatten()?;
        Some(format!("The release is withdrawn. Rules or the project's library changed: {changed}. Look at Derive, and release it anew."))
    }

    /// What somebody who is under pressure has to know: what follows from the plan is another thing today. None before the run has begun, or after it.
    pub fn warned(&self, specification: &Specification, say: Say) -> Option<String> {
        if self.untouched() || self.over() {
            return None;
        }
        let changed = self.differs(specification, say)?;
        Some(format!(
            "Rules or the project's library changed after the release: {changed}. This run goes on under the window of its release. Go no higher before \
             the engineer has looked at it."
        ))
    }

    /// How today's rules and library see the plan that was released, where they see it otherwise.
    fn differs(&self, specification: &Specification, say: Say) -> Option<String> {
        let f = self.frozen();
        let now = rules::system::derive(&f.plan.system(&f.title, f.parts.clone(), &f.instruments, specification));
        let show = self.at_gauge(say);
        let window = |d: &Derived| format!("{} to {}", show.up(d.lower_pa), show.down(d.upper_pa));
        let differs = |a: &Derived, b: &Derived| {
            (a.lower_pa - b.lower_pa).pa().abs() > SAME_PA
                || (a.upper_pa - b.upper_pa).pa().abs() > SAME_PA
                || a.day.as_ref().map(|d| d.planned_pa) != b.day.as_ref().map(|d| d.planned_pa)
        };
        Some(match (&self.facts().derived, &now) {
            (_, Err(e)) => format!("today it is refused, because {}", e.say(say)),
            (_, Ok(now)) if !now.objections.is_empty() => {
                let open: Vec<&str> = now.objections.iter().map(|o| o.sentence.as_str()).collect();
                format!("today this stands against it: {}", open.join(" ").trim_end_matches('.'))
            }
            (Ok(then), Ok(now)) if differs(then, now) => {
                let planned = |d: &Derived| d.day.as_ref().map_or_else(|| "nothing".to_owned(), |d| show.up(d.planned_pa));
                format!(
                    "it was released for {} (planned {}), and today the same plan gives {} (planned {})",
                    window(then),
                    planned(then),
                    window(now),
                    planned(now)
                )
            }
            _ => return None,
        })
    }
}
