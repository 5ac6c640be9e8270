//! The finding: statistics only.

use crate::case::HoldCase;
use crate::defect::{DefectKind, FoundDefect};
use crate::found::{Band, ChartPoint, Explanation, Leak, Residual};
use crate::planning;
use crate::read::Read;
use crate::to_hold::{Fittable, fittable};
use crate::words::flow;
use hold::model::{Causes, Fitted, Memory};
use quantity::{
    AbsolutePressure, GaugePressure, Length, PressureDifference, RunTime, Span, Temperature, TemperatureDifference, VolumeFlow,
};
use rules::rule::{Rule, Standing};

pub use crate::found::{Finding, Found};

/// Rules of the finding.
pub const RULES: &[&Rule] = &[&FINDING, &ENOUGH_READINGS, &TEMPERATURE_NEEDED, &NEGATIVE_LEAK, &RECORD_READ];

/// How a finding is reached.
pub const FINDING: Rule = Rule {
    id: "FINDING",
    sentence: "A leak is shown when its 95 % interval excludes zero; otherwise the hold is tight to the one-sided 99.9 % upper limit of the leak.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "finding_a_leak_put_in_is_found_within_its_interval",
};

/// Enough readings.
pub const ENOUGH_READINGS: Rule = Rule {
    id: "HOLD-READINGS",
    sentence: "A leak rate needs at least 10 pressure readings in the hold; with fewer the record cannot tell about a leak.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "hold_readings_too_few_readings_show_nothing",
};

/// Least number of pressure readings.
pub const LEAST_READINGS: usize = rules::accept::readings::FOR_LEAK;
/// Share of the hold over which temperature must have been read.
const COVERED: f64 = 0.8;

/// Share of the hold between the first and the last temperature that was read in it.
fn temperature_covers(fittable: &Fittable) -> f64 {
    let gauges = fittable.hold.gauges.len();
    let read = |row: &usize| fittable.record.channels[gauges..].iter().any(|c| !c[*row].is_nan());
    let rows: Vec<usize> = (0..fittable.record.time_s.len()).filter(read).collect();
    match (rows.first(), rows.last()) {
        (Some(a), Some(b)) => (fittable.record.time_s[*b] - fittable.record.time_s[*a]) / fittable.hold.length_s,
        _ => 0.0,
    }
}

/// Temperature.
pub const TEMPERATURE_NEEDED: Rule = Rule {
    id: "HOLD-TEMPERATURE",
    sentence: "Without a temperature of its own over the hold, a fall cannot be told from cooling and nothing is shown.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "hold_temperature_without_temperature_nothing_is_shown",
};

/// Negative leak.
pub const NEGATIVE_LEAK: Rule = Rule {
    id: "NEGATIVE-LEAK",
    sentence: "A clearly negative leak means that the model is wrong (heat, a stuck gauge, an unbooked pump): not shown, never pass.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "negative_leak_a_negative_leak_is_never_a_pass",
};

/// Reading the record.
pub const RECORD_READ: Rule = Rule {
    id: "RECORD-READ",
    sentence: "Gaps, repeated rows, spikes, stuck gauges, slips of unit, clock jumps and unbooked pumping are named and left out in the open; a person can let each stand, with a reason.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "record_read_a_frozen_gauge_is_named_and_a_person_can_let_it_stand",
};

impl Found {
    /// Of a run that was stopped before a hold.
    pub(crate) fn of_stopped() -> Self {
        Self::not_shown("Nothing was held.".to_owned())
    }

    fn not_shown(reason: String) -> Self {
        Self {
            finding: Finding::NotShown,
            reasons: vec![reason],
            written: Vec::new(),
            start_pa: None,
            end_pa: None,
            temperature_change_k: None,
            explained_pa: None,
            relaxed_pa: None,
            left_pa: None,
            leak: None,
            planned_limit_m3_per_s: None,
            noise_pa: None,
            misfit: None,
            explanations: Vec::new(),
            defects: Vec::new(),
            left_out: Vec::new(),
            chart: Vec::new(),
            residuals: Vec::new(),
        }
    }
}

/// The finding for a case.
pub fn find(case: &HoldCase) -> Found {
    find_from(case, None).0
}

/// The finding for a case, from where the answer was found for the same hold with fewer readings; and where it was found now.
pub fn find_from(case: &HoldCase, memory: Option<&Memory>) -> (Found, Option<Memory>) {
    let nothing = |found| (found, None);
    let inside = case.pressures().filter(|r| case.hold().contains(r.t));
    let pressures: Vec<GaugePressure> = inside.map(|r| r.p).collect();
    let ends = |found: Found| Found { start_pa: pressures.first().copied(), end_pa: pressures.last().copied(), ..found };
    if case.bodies.is_empty() {
        return nothing(ends(Found::not_shown(
            "No part of the system has volume, diameter, wall and material (or it is filled with another liquid than water), so a fall of pressure cannot be turned into a volume: enter them.".to_owned(),
        )));
    }
    if pressures.len() < LEAST_READINGS {
        return nothing(ends(Found::not_shown(format!(
            "The hold has {} pressure readings; a leak rate needs {LEAST_READINGS}: read more often, or longer.",
            pressures.len()
        ))));
    }
    let fittable = fittable(case);
    let judged = hold::finding::judge_from(&fittable.hold, &fittable.record, None, &fittable.overruled, memory);
    let defects = defects(case, &fittable, &judged.read.defects);
    let left_out = left_out(case, &judged.read);
    let fitted = match judged.fitted {
        Ok(fitted) => fitted,
        Err(reason) => return nothing(ends(Found { defects, left_out, ..Found::not_shown(reason.to_string()) })),
    };
    let told = Found { left_out, ..told(case, &fittable, &fitted, defects) };
    if let Some(question) = crate::flat::question(case).filter(|_| !flat_explained(case)) {
        // a steady gauge over a changing day is asked about before a leak is claimed from it
        return nothing(Found {
            defects: told.defects,
            left_out: told.left_out,
            residuals: told.residuals,
            ..ends(Found::not_shown(question))
        });
    }
    if let Some(reason) = without_temperature(&fittable) {
        // what little heat is known of still bounds nothing that a person could act on
        return nothing(Found {
            defects: told.defects,
            left_out: told.left_out,
            residuals: told.residuals,
            ..ends(Found::not_shown(reason.to_owned()))
        });
    }
    (ends(told), Some(fitted.memory))
}

/// True where a person said what kept the gauge still.
fn flat_explained(case: &HoldCase) -> bool {
    case.overruled.iter().any(|o| o.kind == DefectKind::Flat)
}

/// Why a fall cannot be told from cooling, where it cannot.
fn without_temperature(fittable: &Fittable) -> Option<&'static str> {
    if fittable.hold.thermometers.is_empty() {
        Some("No temperature was recorded, so the fall cannot be told from cooling: read water or metal temperature over the hold.")
    } else if temperature_covers(fittable) < COVERED {
        Some(
            "Temperature was read over less than four fifths of the hold, so the fall cannot be told from cooling: read it from start to end.",
        )
    } else {
        None
    }
}

/// Times of the main gauge's readings that the search left out: each by itself, for spikes lie far apart and what is between them counts.
fn left_out(case: &HoldCase, read: &hold::reading::ReadRecord) -> Vec<RunTime> {
    let single = [DefectKind::Spike, DefectKind::WrongUnit, DefectKind::Stuck, DefectKind::Saturated];
    let of_gauge = read.defects.iter().filter(|d| d.channel == Some(0) && single.contains(&d.kind));
    let at = |row: &usize| case.hold_start_s + Span::from_s(read.record.time_s[*row]);
    let mut times: Vec<RunTime> = of_gauge.flat_map(|d| &d.rows).map(at).collect();
    times.sort_by(RunTime::total_cmp);
    times
}

/// What was left out, and what a person let stand.
fn defects(case: &HoldCase, fittable: &Fittable, found: &[hold::reading::Defect]) -> Vec<FoundDefect> {
    let mut all: Vec<FoundDefect> = found
        .iter()
        .map(|d| FoundDefect {
            kind: d.kind,
            channel: d.channel.map(|c| fittable.tags[c].clone()),
            start_s: case.hold_start_s + Span::from_s(d.start_s),
            end_s: case.hold_start_s + Span::from_s(d.end_s),
            jump_s: d.jump_s.map(Span::from_s),
            readings: d.rows.len(),
            overruled: None,
        })
        .collect();
    if crate::flat::flat(case).is_some() && !flat_explained(case) {
        all.push(FoundDefect {
            kind: DefectKind::Flat,
            channel: Some(case.gauge.tag.clone()),
            start_s: case.hold_start_s,
            end_s: case.hold_end_s,
            jump_s: None,
            readings: case.pressures().filter(|r| case.hold().contains(r.t)).count(),
            overruled: None,
        });
    }
    all.extend(case.overruled.iter().map(|o| FoundDefect {
        kind: o.kind,
        channel: o.channel.clone(),
        start_s: o.start_s,
        end_s: o.start_s,
        jump_s: None,
        readings: 0,
        overruled: Some(format!("{} ({})", o.reason, o.by)),
    }));
    all.extend(case.clock_set.iter().filter(|c| c.t_s <= case.hold_end_s).map(|c| FoundDefect {
        kind: DefectKind::ClockJump,
        channel: None,
        start_s: c.t_s,
        end_s: c.t_s,
        jump_s: Some(c.by_s),
        readings: 0,
        overruled: None,
    }));
    all.sort_by(|a, b| a.start_s.total_cmp(&b.start_s));
    all
}

/// Half-width at 95 % of a normal standard deviation.
const TWO_SIDED: f64 = 1.96;

fn told(case: &HoldCase, fittable: &Fittable, fitted: &Fitted, defects: Vec<FoundDefect>) -> Found {
    let leak = leak_of(case, fitted);
    let shares = fitted.story.shares;
    let pa = PressureDifference::from_pa;
    let band = |s: hold::model::Share| Band { value: pa(s.fall), half_width_95: pa(TWO_SIDED * s.sd) };
    let relaxes = shares.relaxation.fall != 0.0 || shares.relaxation.sd > 0.0;
    let gauge = fitted.compared.first().map(Vec::as_slice).unwrap_or_default();
    let noise = (gauge.iter().map(|c| (c.1 - c.2).powi(2)).sum::<f64>() / (gauge.len().max(1) as f64)).sqrt();
    let grown = TWO_SIDED * (shares.heat.sd.powi(2) + shares.relaxation.sd.powi(2)).sqrt();
    let length = fittable.hold.length_s;
    let limit = planning::limit(case);
    let (finding, reasons) = classify(case, &leak, fitted.misfit);
    let volume: f64 = fittable.hold.volume_m3();
    let mean_change: f64 = fitted.heat.iter().zip(&fittable.hold.bodies).map(|(h, b)| (h[3] - h[2]) * b.volume_m3 / volume).sum();
    Found {
        finding,
        reasons,
        written: fittable.written.clone(),
        start_pa: None,
        end_pa: None,
        temperature_change_k: Some(TemperatureDifference::from_k(mean_change)),
        explained_pa: Some(band(shares.heat)),
        relaxed_pa: relaxes.then(|| band(shares.relaxation)),
        left_pa: Some(band(shares.leak)),
        leak: Some(leak),
        planned_limit_m3_per_s: limit,
        noise_pa: Some(pa(noise)),
        misfit: Some(fitted.misfit),
        explanations: explanations(&fitted.causes, &fittable.hold),
        defects,
        left_out: Vec::new(),
        chart: fitted
            .story
            .moments
            .iter()
            .map(|m| ChartPoint {
                t_s: case.hold_start_s + Span::from_s(m.t),
                without_loss_pa: GaugePressure::from_pa(tenth(m.without_leak)),
                half_width_95_pa: pa(tenth((TWO_SIDED * noise).hypot(grown * (m.t / length).clamp(0.0, 1.0)))),
                fitted_pa: GaugePressure::from_pa(tenth(m.fitted)),
            })
            .collect(),
        residuals: gauge
            .iter()
            .map(|c| Residual { t_s: case.hold_start_s + Span::from_s(c.0), residual_pa: pa(tenth(c.1 - c.2)) })
            .collect(),
    }
}

/// Rounded to a tenth of a pascal, which no gauge here resolves.
fn tenth(pa: f64) -> f64 {
    (pa * 10.0).round() / 10.0
}

fn leak_of(case: &HoldCase, fitted: &Fitted) -> Leak {
    let flow = VolumeFlow::from_m3_per_s;
    Leak {
        mean_m3_per_s: flow(fitted.mean),
        lo_m3_per_s: flow(fitted.lo),
        hi_m3_per_s: flow(fitted.hi),
        upper_999_m3_per_s: flow(fitted.upper_999),
        detection_limit_m3_per_s: flow(fitted.detection_limit),
        end_m3_per_s: flow(fitted.end_rate.0),
        end_lo_m3_per_s: flow(fitted.end_rate.1),
        end_hi_m3_per_s: flow(fitted.end_rate.2),
        equivalent_hole_m: equivalent_hole(case, flow(fitted.mean)),
    }
}

/// Diameter of the hole that would lose a flow.
fn equivalent_hole(case: &HoldCase, flow: VolumeFlow) -> Length {
    let t = Temperature::from_c(case.heat.fill_c.c());
    let p: AbsolutePressure = case.expected_pa.absolute(case.atmosphere_pa);
    match case.gas {
        None => physics::water::state(t, p)
            .map_or(Length::from_m(0.0), |w| physics::orifice::equivalent_diameter(flow, case.expected_pa, w.density)),
        Some(gas) => physics::orifice::equivalent_diameter_of_gas(gas, flow, p, t),
    }
}

/// Words for each set of causes, those with the same words together.
fn explanations(causes: &[(Causes, f64)], hold: &hold::Hold) -> Vec<Explanation> {
    let creeps = hold.bodies.iter().any(|b| b.creep.is_some());
    let mut all: Vec<Explanation> = Vec::new();
    for (cause, weight) in causes {
        let mut parts = vec!["heat"];
        if creeps {
            parts.push("creep of the wall");
        }
        if cause.air {
            parts.push("air going into solution");
        }
        if cause.gaskets {
            parts.push("gaskets setting");
        }
        parts.push(if cause.leak_from.is_some() { "a leak that begins within the hold" } else { "a steady leak or none" });
        let words = parts.join(", ");
        match all.iter_mut().find(|e| e.words == words) {
            Some(e) => e.weight += weight,
            None => all.push(Explanation { words, weight: *weight }),
        }
    }
    all.iter_mut().for_each(|e| e.weight = (e.weight * 1e4).round() / 1e4);
    all.sort_by(|a, b| b.weight.total_cmp(&a.weight));
    all
}

/// Above this mean square of the standardised residuals the model does not describe the readings (common practice).
pub const MISFIT: f64 = 3.0;

/// Why a fitted hold shows nothing, in sentences.
pub(crate) fn reasons(case: &HoldCase, leak: &Leak, misfit: f64) -> Vec<String> {
    classify(case, leak, misfit).1
}

pub(crate) fn classify(case: &HoldCase, leak: &Leak, misfit: f64) -> (Finding, Vec<String>) {
    if !(leak.lo_m3_per_s.is_finite() && leak.hi_m3_per_s.is_finite()) {
        return (Finding::NotShown, vec!["The readings bound no leak: read more often, or hold longer.".to_owned()]);
    }
    let none = VolumeFlow::from_m3_per_s(0.0);
    if leak.lo_m3_per_s > none {
        return (Finding::LeakShown, Vec::new());
    }
    if leak.hi_m3_per_s < none {
        let reason = format!(
            "The hold seems to gain {}, which it cannot: a warmer system than {} shows, a stuck gauge, or an unbooked pump. Find which before anything is judged.",
            flow(-leak.mean_m3_per_s, case),
            case.thermometer.as_ref().map_or("the thermometer", |t| &t.tag)
        );
        return (Finding::NotShown, vec![reason]);
    }
    if misfit > MISFIT {
        let reason = format!(
            "What the readings do is not described by heat, relaxation and a leak (residuals {misfit:.1} times what the instruments explain): look for what was not booked.",
        );
        return (Finding::NotShown, vec![reason]);
    }
    (Finding::TightTo, Vec::new())
}

/// Pressures of the hold as they were recorded and not found defective.
pub(crate) fn usable(case: &HoldCase, found: &Found) -> Vec<Read> {
    let out = &found.left_out;
    let same = Span::from_s(1e-6);
    let bad = |t: RunTime| {
        let i = out.partition_point(|o| *o < t - same);
        out.get(i).is_some_and(|o| *o <= t + same)
    };
    case.pressures().filter(|r| case.hold().contains(r.t) && !bad(r.t)).collect()
}
