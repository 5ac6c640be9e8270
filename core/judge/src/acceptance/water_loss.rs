//! WATER-LOSS and AIR-CHECK: water that belongs to a fall of pressure (EN 805).

use super::{RuleResult, Verdict};
use crate::case::{Event, HoldCase};
use crate::finding::{Found, usable};
use crate::read::{self, Read, TimeRange};
use crate::words::Shown;
use quantity::dimension::Dimension;
use quantity::show::{self, Figures, Toward};
use quantity::{GaugePressure, PressureDifference, Span, Volume};
use rules::accept::WaterLoss;
use rules::rule::{Rule, Standing};
use terms::EventKind;

/// Main test by water loss.
pub const RULE: Rule = Rule {
    id: "WATER-LOSS",
    sentence: "The water that brings the pressure back is at most 1.2·V·Δp·(1/E_w + D/(e·E_R)).",
    clause: "11.3.3.4.2",
    edition: "EN 805:2000",
    standing: Standing::NotChecked,
    file: file!(),
    test: "worked_water_loss_of_en_805",
};

/// Air check.
pub const AIR_RULE: Rule = Rule {
    id: "AIR-CHECK",
    sentence: "The water drawn while the pressure is lowered is at most 1.5·V·Δp·(1/E_w + D/(e·E_R)); more means air.",
    clause: "A.26",
    edition: "EN 805:2000",
    standing: Standing::NotChecked,
    file: file!(),
    test: "worked_air_check_of_en_805",
};

/// Bulk modulus of water that the standard takes, Pa.
const WATER_MODULUS: f64 = 2.1e9;

/// Pressures so near an event, either way, are those before and after it (common practice).
const NEAR: Span = Span::from_s(600.0);

/// Greatest volume for a change of pressure.
pub fn volume_allowed(loss: &WaterLoss, change: PressureDifference) -> Volume {
    let per_pa: f64 =
        loss.pieces.iter().map(|p| p.volume_m3.m3() * (1.0 / WATER_MODULUS + p.diameter_m.m() / (p.wall_m.m() * p.modulus_pa.pa()))).sum();
    Volume::from_m3(loss.factor * per_pa * change.pa())
}

/// Pressures just before and just after an event.
fn about(case: &HoldCase, found: &Found, event: &Event) -> Option<(GaugePressure, GaugePressure)> {
    // one that the hold begins with lies between readings before it and of it
    let read: Vec<Read> = if event.t_s > case.hold_start_s { usable(case, found) } else { case.pressures().collect() };
    // the extreme nearest the event
    let near = |start, end| read.iter().filter(move |r| TimeRange { start, end }.contains(r.t)).map(|r| r.p);
    let before = near(event.t_s - NEAR, event.t_s);
    let after = near(event.t_s, event.t_s + NEAR);
    if event.kind == EventKind::Bleed { read::most(before).zip(read::least(after)) } else { read::least(before).zip(read::most(after)) }
}

/// A measured volume.
fn said(v: Volume, case: &HoldCase) -> String {
    show::amount(v.m3(), Dimension::VolumeM3, &case.units(), Figures::Said, Toward::Nearest)
}

/// The volume of the last measured event of a kind held against what its change of pressure allows.
fn held(case: &HoldCase, found: &Found, loss: &WaterLoss, rule: &Rule, kind: EventKind, words: (&str, &str)) -> RuleResult {
    let new = |result, margin, sentence| RuleResult::of_basis(rule, &loss.origin, result, margin, sentence);
    let measured = case.events.iter().rev().find_map(|e| (e.kind == kind).then_some((e, e.volume_m3?)));
    let Some((event, volume)) = measured else {
        return new(Verdict::NotShown, String::new(), words.1.to_owned());
    };
    let Some((before, after)) = about(case, found, event) else {
        return new(Verdict::NotShown, String::new(), "No pressure was read before and after it: read the gauge at both.".to_owned());
    };
    let change = (before - after).abs();
    let allowed = volume_allowed(loss, change);
    let result = if volume <= allowed { Verdict::Pass } else { Verdict::Fail };
    let shown = Shown::of(case);
    let sentence = format!("{} {} for {}; {} allowed.", said(volume, case), words.0, shown.change(change), said(allowed, case));
    new(result, said(allowed - volume, case), sentence)
}

pub(super) fn check(case: &HoldCase, found: &Found, loss: &WaterLoss) -> RuleResult {
    let ask = "No water that brought the pressure back is booked with its volume: pump back to the test pressure, measure it, and book it.";
    held(case, found, loss, &RULE, EventKind::Repump, ("brought the pressure back", ask))
}

pub(super) fn check_air(case: &HoldCase, found: &Found, loss: &WaterLoss) -> RuleResult {
    let ask = "No water drawn for the air check is booked with its volume: lower the pressure by a measured volume, and book it.";
    held(case, found, loss, &AIR_RULE, EventKind::Bleed, ("drawn", ask))
}
