//! GATE-INSTRUMENT-DATE and GATE-GAUGE-RANGE: instruments in date, and the gauge right for this window.

use super::{Facts, GateResult};
use crate::instrument::InstrumentKind;
use crate::signing::{Form, Signers};
use rules::accept::Criterion;
use rules::rule::{Rule, Standing};
use terms::Term;

/// In date.
pub const DATE: Rule = Rule {
    id: "GATE-INSTRUMENT-DATE",
    sentence: "Gauge and thermometer are chosen, and within their certificates on the day.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "gate_instrument_date_an_instrument_out_of_date_stops_the_release",
};

/// In range.
pub const RANGE: Rule = Rule {
    id: "GATE-GAUGE-RANGE",
    sentence: "The gauge's full scale suits the planned pressure and reaches beyond stop line and relief.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "gate_gauge_range_a_gauge_of_the_wrong_range_stops_the_release",
};

/// Where the project asks for a calibration within some days of the test.
fn not_recent(i: &crate::instrument::Instrument, facts: &Facts) -> Option<String> {
    let days = facts.specification.answer("gauge_calibration").days?;
    let old = i.calibrated_on.days_until(facts.today)?;
    (old > i64::from(days)).then(|| {
        format!(
            "{} was calibrated {old} days ago, and the project asks for {days} days at most: have it calibrated, or take another.",
            i.tag
        )
    })
}

pub(super) fn check(facts: &Facts) -> Vec<GateResult> {
    let plan = facts.plan;
    let find = |tag: &str, kind| facts.instruments.iter().find(|i| i.tag == tag && i.kind == kind);
    let mut missing = Vec::new();
    for (tag, kind, why) in [
        (&plan.gauge_tag, InstrumentKind::Gauge, "the test is read from it"),
        (&plan.thermometer_tag, InstrumentKind::Thermometer, "without one a fall cannot be told from cooling"),
    ] {
        let word = kind.words();
        match find(tag, kind) {
            // whoever tests alone may have none: the record says what cannot be told then
            None if tag.is_empty() && kind == InstrumentKind::Thermometer && facts.form == Form::Quick => {}
            Some(i) if i.owner_s && facts.form == Form::Pack => {
                missing.push("A test pack is read from a gauge of the store, with its certificate: choose one.".to_owned());
            }
            Some(i) if i.uncalibrated() && facts.plan.signers != Signers::One => missing.push(
                "What a gauge shows that nobody calibrated is its owner's information, and others cannot rely on it: take a calibrated one, or let one person sign."
                    .to_owned(),
            ),
            None if tag.is_empty() => missing.push(format!("No {word} is chosen: {why}.")),
            None => missing.push(format!("{tag} is not a {word} of the store: choose one that is, or enter it there.")),
            Some(i) => missing.extend(i.objection(facts.today).or_else(|| not_recent(i, facts))),
        }
    }
    for also in &plan.also {
        match facts.instruments.iter().find(|i| i.tag == also.tag) {
            None => {
                missing.push(format!("{} is to be recorded and is not in the store: enter it there, or take it off the plan.", also.tag))
            }
            Some(i) => missing.extend(i.objection(facts.today)),
        }
    }
    let gauge = find(&plan.gauge_tag, InstrumentKind::Gauge);
    let mut found = if gauge.is_some_and(crate::instrument::Instrument::uncalibrated) {
        "Your gauge is not calibrated, and the record says so: it is your own information.".to_owned()
    } else {
        "Instruments in date.".to_owned()
    };
    if plan.thermometer_tag.is_empty() {
        found.push_str(" Without a thermometer a fall by cooling cannot be told from a leak, and warming can hide one.");
        // such a rule is held against the leak alone
        let counts = |c: &Criterion| matches!(c, Criterion::NoLoss(_) | Criterion::MakeupAllowance(_));
        if facts.derived.as_ref().is_ok_and(|d| d.criteria.iter().any(counts)) {
            found.push_str(" This rule allows a loss that is counted, or none: it comes out as met only where the temperature was read from start to end.");
        }
    }
    let date = GateResult::new(&DATE, (!missing.is_empty()).then(|| missing.join(" ")), &found, "engineer", "ready");
    let offer = facts.derived.as_ref().ok().and_then(|d| d.gauge_offer.as_ref());
    let range = match (offer, find(&plan.gauge_tag, InstrumentKind::Gauge)) {
        (Some(offer), Some(_)) => Some(GateResult::new(&RANGE, offer.refused.clone(), "The gauge's range suits.", "engineer", "ready")),
        _ => None,
    };
    std::iter::once(date).chain(range).collect()
}
