//! MAKEUP: the water that a main may lose.

use super::{RuleResult, Verdict};
use crate::case::HoldCase;
use crate::finding::{Finding, Found, usable};
use crate::words::{flow, flow_range};
use quantity::{GaugePressure, RunTime, Volume, VolumeFlow};
use rules::accept::{MakeupAllowance, MakeupForm};
use rules::rule::{Rule, Standing};
use terms::EventKind;

/// Allowance.
pub const RULE: Rule = Rule {
    id: "MAKEUP",
    sentence: "A main passes when the loss is shown to be below its make-up allowance, and fails when the loss is shown to be above it: S·D·√P/148 000 gal/h (ft, in, psi) summed over sizes, older editions /133 200 or N·D·√P/7400; a closed metal-seated valve adds 0.0078 gal/h per inch, a hydrant 5 fl oz a minute. Shown to be below is what the 99.9 % limit says, in a record whose own detection limit is not above 2.5 times that; a luckier one is not shown.",
    clause: "",
    edition: "",
    standing: Standing::NotChecked,
    file: file!(),
    test: "published_makeup_allowances",
};

const GALLON_M3: f64 = 3.785_411_784e-3;
const FOOT_M: f64 = 0.3048;
const INCH_M: f64 = 0.0254;
/// gal/h per inch of size of a closed metal-seated valve (C600, from memory).
const VALVE_GAL_H_PER_INCH: f64 = 0.0078;
/// Five fluid ounces a minute for a hydrant (NFPA 24, from memory), gal/h: 128 to the gallon.
const HYDRANT_GAL_H: f64 = 5.0 * 60.0 / 128.0;

/// Allowance at a mean pressure.
///
/// L = Σ S·D·√P/148 000 US gal/h (ft, in, psi); in SI L/h with m, mm, kPa: /794 797. Older: /133 200 (SI 715 318); N·D·√P/7400 for joints.
pub fn allowed(allowance: &MakeupAllowance, mean: GaugePressure) -> VolumeFlow {
    let root = mean.psi().max(0.0).sqrt();
    let of = |l: &rules::accept::MainLength| {
        let (s, d) = (l.length_m.m() / FOOT_M, l.diameter_m.m() / INCH_M);
        match allowance.form {
            MakeupForm::PerLength => s * d * root / 148_000.0,
            MakeupForm::PerLengthOld => s * d * root / 133_200.0,
            MakeupForm::PerJoint => l.joints * d * root / 7_400.0,
        }
    };
    let pipes: f64 = allowance.lengths.iter().map(of).sum();
    let valves: f64 = allowance.valves_m.iter().map(|v| VALVE_GAL_H_PER_INCH * v.m() / INCH_M).sum();
    VolumeFlow::from_m3_per_s((pipes + valves + f64::from(allowance.hydrants) * HYDRANT_GAL_H) * GALLON_M3 / 3600.0)
}

/// Mean pressure of the hold.
fn mean_pressure(case: &HoldCase, found: &Found) -> Option<GaugePressure> {
    let read = usable(case, found);
    let (first, last) = (read.first()?.t, read.last()?.t);
    if last <= first {
        return Some(read[0].p);
    }
    let area: f64 = read.windows(2).map(|w| 0.5 * (w[0].p.pa() + w[1].p.pa()) * (w[1].t - w[0].t).s()).sum();
    Some(GaugePressure::from_pa(area / (last - first).s()))
}

/// Volume measured while the pressure was brought back, over the hold; none unless every repump was measured.
fn measured(case: &HoldCase) -> Option<VolumeFlow> {
    let repumps: Vec<Option<Volume>> = case
        .events
        .iter()
        .filter(|e| e.kind == EventKind::Repump && e.t_s > case.hold_start_s && e.t_s <= case.hold_end_s)
        .map(|e| e.volume_m3)
        .collect();
    let all = repumps.iter().try_fold(Volume::ZERO, |sum, v| Some(sum + (*v)?));
    all.filter(|_| !repumps.is_empty()).map(|v| v.over(case.hold().length()))
}

/// True where the pressure at the end is that of the start again, within two divisions of the gauge: all that was lost was pumped in.
fn brought_back(case: &HoldCase, found: &Found) -> bool {
    let read = usable(case, found);
    let pumped = case.events.iter().filter(|e| e.kind == EventKind::Repump && e.t_s <= case.hold_end_s).map(|e| e.t_s).reduce(RunTime::max);
    let after = read.last().filter(|r| pumped.is_some_and(|t| r.t >= t));
    read.first().zip(after).is_some_and(|(first, last)| last.p >= first.p - case.gauge.division_pa * 2.0)
}

/// Mean allowance of the hold; none without readings.
pub(crate) fn of_hold(case: &HoldCase, found: &Found, allowance: &MakeupAllowance) -> Option<VolumeFlow> {
    Some(allowed(allowance, mean_pressure(case, found)?))
}

pub(super) fn check(case: &HoldCase, found: &Found, allowance: &MakeupAllowance) -> RuleResult {
    let new = |result, margin, sentence| RuleResult::of_basis(&RULE, &allowance.origin, result, margin, sentence);
    let flow = |v| flow(v, case);
    let Some(allowed) = of_hold(case, found, allowance) else {
        return new(Verdict::NotShown, String::new(), "No pressure was read in the hold, so no allowance follows.".to_owned());
    };
    if allowance.lengths.is_empty() {
        let ask = "No pipe of the main has bore and length, so no allowance follows: enter them.";
        return new(Verdict::NotShown, String::new(), ask.to_owned());
    }
    let pumped = measured(case).map(|m| format!(" {} of make-up water was measured.", flow(m))).unwrap_or_default();
    let by_measure = || {
        let made_up = measured(case).filter(|_| brought_back(case, found))?;
        let result = if made_up <= allowed { Verdict::Pass } else { Verdict::Fail };
        let sentence = format!("{} of make-up water brought the pressure back; {} is allowed.", flow(made_up), flow(allowed));
        Some(new(result, flow(allowed - made_up), sentence))
    };
    let Some(leak) = found.leak.filter(|_| found.finding != Finding::NotShown) else {
        let unmeasured =
            || new(Verdict::NotShown, String::new(), format!("{} allowed. {}{pumped}", flow(allowed), found.reasons.join(" ")));
        return by_measure().unwrap_or_else(unmeasured);
    };
    let (lo, upper) = (leak.lo_m3_per_s, leak.upper_999_m3_per_s);
    let between = flow_range(lo, leak.hi_m3_per_s, case);
    if lo > allowed {
        return new(
            Verdict::Fail,
            flow(allowed - lo),
            format!("A loss of {between}, above the {} that this main may lose.{pumped}", flow(allowed)),
        );
    }
    if !leak.rules_out(allowed)
        && let Some(measured) = by_measure()
    {
        return measured;
    }
    if leak.is_lucky(allowed) {
        return new(Verdict::NotShown, String::new(), format!("{}{pumped}", super::lucky(&leak, allowed, case)));
    }
    if leak.rules_out(allowed) {
        return new(
            Verdict::Pass,
            flow(allowed - upper),
            format!("Loses at most {} of the {} that this main may lose.{pumped}", flow(upper), flow(allowed)),
        );
    }
    new(
        Verdict::NotShown,
        flow(allowed - upper),
        format!(
            "A loss of {between}, at most {}, where {} is allowed: neither is shown. Hold longer, or with finer instruments.{pumped}",
            flow(upper),
            flow(allowed)
        ),
    )
}
