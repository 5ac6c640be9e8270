//! BOUND-GAUGE: the gauge is where the plan and the basis have it.

use super::Found;
use crate::survey::Survey;
use rules::basis::entry::Duty;
use rules::part::{PartKind, Phase};
use rules::rule::{Rule, Standing};

/// The rule.
pub const RULE: Rule = Rule {
    id: "BOUND-GAUGE",
    sentence: "The gauge is connected at the height that the window is derived for; on a main at the lowest point of the section, where the basis names its pressure.",
    clause: "",
    edition: "",
    standing: Standing::NotChecked,
    file: file!(),
    test: "bound_gauge_a_gauge_that_is_not_where_its_window_is_derived_is_found",
};

/// Two heights that are taken for one, m: 0.1 m of water is 0.01 bar.
const SAME: f64 = 0.1;
/// A main's gauge may stand so far above its lowest point, m: how far a reader stands above the pipe (common practice).
const ABOVE: f64 = 2.0;

pub(super) fn check(s: &Survey, found: &mut Found) {
    let say = s.say();
    let planned = s.facts.system.gauge.elevation_m;
    for point in s.test.open_points_of(&s.parts, PartKind::GaugePoint, Phase::Test) {
        let here = s.height(point);
        let any = |z: quantity::Length| (z - here).m().abs() <= SAME;
        if !any(planned) && !s.facts.system.also_read.iter().any(|g| any(g.elevation_m)) {
            found.at(
                point,
                format!(
                    "The gauge is connected at {}, {} up; its window is derived for {}.",
                    s.place(point),
                    say.height(here),
                    say.height(planned)
                ),
                "Give the same height on Derive (height of the gauge), or connect it there.".to_owned(),
            );
        }
        let lowest = (0..s.pressed.len()).filter(|p| s.pressed[*p]).map(|p| s.height(p)).min_by(|a, b| a.m().total_cmp(&b.m()));
        if let Some(low) = lowest.filter(|z| s.duty() == Some(Duty::Main) && (here - *z).m() > ABOVE) {
            found.at(
                point,
                format!(
                    "The gauge stands {} up, the lowest point of the main is at {}: this basis names its pressure there.",
                    say.height(here),
                    say.height(low)
                ),
                "Connect the gauge near the lowest point, or have whoever accepts the test agree to the reading corrected for the height."
                    .to_owned(),
            );
        }
    }
}
