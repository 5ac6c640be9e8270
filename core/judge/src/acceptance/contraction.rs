//! CONTRACTION: after a quick fall a main that creeps must rise or stand (EN 805, A.27).

use super::{RuleResult, Verdict};
use crate::case::HoldCase;
use crate::read::{self, Read};
use crate::words::Shown;
use quantity::format::span;
use quantity::{GaugePressure, PressureDifference, RunTime, Span};
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
    test: "contraction_a_creeping_main_rises_after_a_quick_fall",
};

/// A wait is as long as asked to this share of it (common practice).
const WAIT_SHORT: f64 = 0.02;

/// Pressures so near an event, either way, are those at it (common practice).
const NEAR: Span = Span::from_s(600.0);
/// The quick fall is over so soon (common practice).
const SOON: Span = Span::from_s(300.0);

/// What is wrong with the wait between the pump and the quick fall, in a sentence; none where it was as asked, or nobody booked the pump.
fn waited(case: &HoldCase, asked: &Contraction, drop: RunTime, before: GaugePressure) -> Option<String> {
    let off = case.events.iter().rfind(|e| e.kind == EventKind::PumpOff && e.t_s <= drop)?.t_s;
    if drop - off < asked.wait_s * (1.0 - WAIT_SHORT) {
        return Some(format!(
            "Lowered {} after the pump was taken off, {} asked: let the main rest, and begin again.",
            span(drop - off),
            span(asked.wait_s)
        ));
    }
    let at_off = read::most(case.pressures().filter(|r| (r.t - off).abs() <= NEAR).map(|r| r.p))?;
    let fell = (at_off - before).pa() / at_off.pa();
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
    let read: Vec<Read> = case.pressures().filter(|r| r.t <= case.hold_end_s).collect();
    let Some(drop) = case.events.iter().rev().find(|e| e.kind == EventKind::Bleed && e.t_s <= case.hold_end_s) else {
        return new(
            Verdict::NotShown,
            String::new(),
            "No quick fall is booked: lower the pressure by 10 to 15 %, and book the bleed.".to_owned(),
        );
    };
    let before = read::most(read.iter().filter(|r| r.t <= drop.t_s && r.t >= drop.t_s - NEAR).map(|r| r.p));
    let after: Vec<Read> = read.iter().copied().filter(|r| r.t > drop.t_s).collect();
    let low = after.iter().filter(|r| r.t <= drop.t_s + SOON).copied().reduce(|a, b| if b.p < a.p { b } else { a });
    let Some((low, before)) = low.zip(before) else {
        return new(
            Verdict::NotShown,
            String::new(),
            "No pressure was read before and within five minutes after the quick fall.".to_owned(),
        );
    };
    let share = (before - low.p).pa() / before.pa();
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
    let mut greatest = low.p;
    let (mut fell, mut fell_in_doubt, mut last) = (PressureDifference::ZERO, PressureDifference::ZERO, low.t);
    let slack = case.gauge.division_pa;
    for r in after.iter().filter(|r| r.t >= low.t) {
        greatest = greatest.max(r.p);
        let below = greatest - r.p;
        if r.t <= low.t + asked.stand_s {
            fell = fell.max(below);
        }
        if r.t <= low.t + asked.doubt_s {
            fell_in_doubt = fell_in_doubt.max(below);
            last = r.t;
        }
    }
    let watched = last - low.t;
    if fell <= slack && watched >= asked.stand_s * (1.0 - WAIT_SHORT) {
        return new(Verdict::Pass, String::new(), format!("After the quick fall it rose or stood for {}.", span(asked.stand_s)));
    }
    let most = asked.doubt_fall_pa;
    if fell_in_doubt > most + slack {
        return new(
            Verdict::Fail,
            shown.change(most - fell_in_doubt),
            format!("After the quick fall it fell by {} from its greatest; {} allowed.", shown.change(fell_in_doubt), shown.change(most)),
        );
    }
    if fell > slack && watched >= asked.doubt_s * (1.0 - WAIT_SHORT) {
        return new(
            Verdict::Pass,
            shown.change(most - fell_in_doubt),
            format!(
                "In doubt, watched for {}: fell by {} from its greatest; {} allowed.",
                span(asked.doubt_s),
                shown.change(fell_in_doubt),
                shown.change(most)
            ),
        );
    }
    let until = if fell > slack { asked.doubt_s } else { asked.stand_s };
    new(
        Verdict::NotShown,
        String::new(),
        format!("Watched for {} since the quick fall: go on for {}.", span(watched), span(until - watched)),
    )
}
