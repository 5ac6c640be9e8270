//! CONTRACTION: after a quick fall a main that creeps must rise or stand (EN 805, A.27).

use super::{RuleResult, Verdict};
use crate::case::HoldCase;
use crate::words::Shown;
use quantity::format::span;
use rules::accept::Contraction;
use rules::rule::{Rule, Standing};
use terms::EventKind;

/// Contraction.
pub const RULE: Rule = Rule {
    id: "CONTRACTION",
    sentence: "After a quick fall of 10 to 15 % the pressure of a polyethylene main rises or stands for 30 minutes; in doubt it is watched for 90 and falls by at most 25 kPa from its greatest.",
    clause: "A.27",
    edition: "EN 805:2000",
    standing: Standing::NotChecked,
    file: file!(),
    test: "a_creeping_main_rises_after_a_quick_fall",
};

/// A wait is as long as asked to this share of it (common practice).
const WAIT_SHORT: f64 = 0.02;

/// What is wrong with the wait between the pump and the quick fall, in a sentence; none where it was as asked, or nobody booked the pump.
fn waited(case: &HoldCase, asked: &Contraction, drop_s: f64, before: f64) -> Option<String> {
    let off = case.events.iter().rfind(|e| e.kind == EventKind::PumpOff && e.t_s <= drop_s)?.t_s;
    if drop_s - off < asked.wait_s.s() * (1.0 - WAIT_SHORT) {
        return Some(format!(
            "Lowered {} after the pump was taken off, {} asked: let the main rest, and begin again.",
            span(drop_s - off),
            span(asked.wait_s.s())
        ));
    }
    let near = |r: &&crate::case::Reading| (r.t_s - off).abs() <= 600.0;
    let at_off = case.readings.iter().filter(near).filter_map(|r| r.pressure_pa).map(|p| p.pa()).fold(f64::NAN, f64::max);
    let fell = (at_off - before) / at_off;
    // read to half a per cent
    (asked.wait_fall_share > 0.0 && fell > asked.wait_fall_share + 0.005).then(|| {
        format!(
            "It fell by {:.0} % while it waited, {:.0} % allowed: let it rest, look for leaks and air, and begin again.",
            100.0 * fell,
            100.0 * asked.wait_fall_share
        )
    })
}

pub(super) fn check(case: &HoldCase, asked: &Contraction) -> RuleResult {
    let new = |result, margin, sentence| RuleResult::of_basis(&RULE, &asked.origin, result, margin, sentence);
    let shown = Shown::of(case);
    let read: Vec<(f64, f64)> =
        case.readings.iter().filter(|r| r.t_s <= case.hold_end_s).filter_map(|r| Some((r.t_s, r.pressure_pa?.pa()))).collect();
    let Some(drop) = case.events.iter().rev().find(|e| e.kind == EventKind::Bleed && e.t_s <= case.hold_end_s) else {
        return new(
            Verdict::NotShown,
            String::new(),
            "No quick fall is booked: lower the pressure by 10 to 15 %, and book the bleed.".to_owned(),
        );
    };
    let before = read.iter().filter(|r| r.0 <= drop.t_s && r.0 >= drop.t_s - 600.0).map(|r| r.1).fold(f64::NAN, f64::max);
    let after: Vec<(f64, f64)> = read.iter().copied().filter(|r| r.0 > drop.t_s).collect();
    let low = after.iter().filter(|r| r.0 <= drop.t_s + 300.0).copied().reduce(|a, b| if b.1 < a.1 { b } else { a });
    let (Some(low), true) = (low, before.is_finite()) else {
        return new(
            Verdict::NotShown,
            String::new(),
            "No pressure was read before and within five minutes after the quick fall.".to_owned(),
        );
    };
    let share = (before - low.1) / before;
    // read to half a per cent
    if share < asked.least_drop_share - 0.005 || share > asked.most_drop_share + 0.005 {
        let sentence = format!(
            "The quick fall was {:.0} % of {}; it must be {:.0} to {:.0} %: repeat it after the main has relaxed.",
            share * 100.0,
            shown.pressure(before),
            asked.least_drop_share * 100.0,
            asked.most_drop_share * 100.0
        );
        return new(Verdict::NotShown, String::new(), sentence);
    }
    if let Some(short) = waited(case, asked, drop.t_s, before) {
        return new(Verdict::NotShown, String::new(), short);
    }
    // greatest so far, and how far below it any later reading lies
    let mut greatest = low.1;
    let (mut fell, mut fell_in_doubt, mut last) = (0.0f64, 0.0f64, low.0);
    let slack = case.gauge.division_pa.pa();
    for (t, p) in after.iter().filter(|r| r.0 >= low.0) {
        greatest = greatest.max(*p);
        let below = greatest - p;
        if *t <= low.0 + asked.stand_s.s() {
            fell = fell.max(below);
        }
        if *t <= low.0 + asked.doubt_s.s() {
            fell_in_doubt = fell_in_doubt.max(below);
            last = *t;
        }
    }
    let watched = last - low.0;
    if fell <= slack && watched >= 0.98 * asked.stand_s.s() {
        return new(Verdict::Pass, String::new(), format!("After the quick fall it rose or stood for {}.", span(asked.stand_s.s())));
    }
    let most = asked.doubt_fall_pa.pa();
    if fell_in_doubt > most + slack {
        return new(
            Verdict::Fail,
            shown.pressure(most - fell_in_doubt),
            format!(
                "After the quick fall it fell by {} from its greatest; {} allowed.",
                shown.pressure(fell_in_doubt),
                shown.pressure(most)
            ),
        );
    }
    if fell > slack && watched >= 0.98 * asked.doubt_s.s() {
        return new(
            Verdict::Pass,
            shown.pressure(most - fell_in_doubt),
            format!(
                "In doubt, watched for {}: fell by {} from its greatest; {} allowed.",
                span(asked.doubt_s.s()),
                shown.pressure(fell_in_doubt),
                shown.pressure(most)
            ),
        );
    }
    let until = if fell > slack { asked.doubt_s.s() } else { asked.stand_s.s() };
    new(
        Verdict::NotShown,
        String::new(),
        format!("Watched for {} since the quick fall: go on for {}.", span(watched), span((until - watched).max(0.0))),
    )
}
