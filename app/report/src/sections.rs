//! What a record's sections say, in words: marks, facts, looks, what could not be shown, where the readings come from.

use crate::words::{Scale, Times};
use quantity::{RunTime, Span};
use record::sealed::Parts;
use terms::Term;
use terms::VariantArray;
use terms::{EventKind, LeakPlace};

/// What a reader must see before anything else.
pub(crate) fn marks(p: &Parts, owners_alone: bool) -> Vec<String> {
    let mut marks = Vec::new();
    if let Some(rate) = p.subject.training_clock_rate {
        marks.push(format!("TRAINING: made on a clock that runs {rate} times as fast. This is not a record of a real test."));
    }
    if p.subject.practice {
        marks.push("PRACTICE: made on a simulated system. This is not a record of a real test.".to_owned());
    }
    if owners_alone {
        marks.push("Owner's information, not a certificate.".to_owned());
    }
    marks
}

/// Facts of the test, term and text.
pub(crate) fn facts(p: &Parts, scale: &Scale) -> Vec<[String; 2]> {
    let d = &p.derived;
    let fact = |term: &str, text: String| [term.to_owned(), text];
    // somebody alone reads a dial; nobody speaks to them of a window at a gauge
    let alone = p.subject.form == pack::signing::Form::Quick;
    let (least, most) = if alone { ("Gauge shows at least", "Gauge shows at most") } else { ("Least at the gauge", "Most at the gauge") };
    let mut facts = vec![
        fact("Basis", format!("{}; clauses from memory, not checked against the published edition", p.derived.basis)),
        fact("Relied on by", p.plan.relied_on_by.clone()),
        fact(least, format!("{} (asked by {}{})", scale.gauge.up(d.lower_readable_pa), d.lower_part, line_of(p, scale))),
        fact(most, format!("{} (borne by {})", scale.gauge.down(d.upper_shown_pa), d.upper_part)),
    ];
    let declared = declared_none(p);
    if !declared.is_empty() {
        facts.push(fact("Declared not there", declared.join("; ")));
    }
    if let Some(day) = &d.day {
        facts.push(fact(
            "Planned",
            format!(
                "{}; alarm {}; stop line {}",
                scale.gauge.up(day.planned_pa),
                scale.gauge.down(day.alarm_pa),
                scale.gauge.down(day.stop_line_pa)
            ),
        ));
        facts.push(fact(
            "Relief valve",
            day.relief_set_pa.map_or_else(|| format!("none fits: {}", instead(p)), |r| relief(p, &scale.gauge.down(r))),
        ));
    }
    if let Some(lowering) = d.lowering() {
        let stretched = quantity::format::span(lowering.stretch_s);
        facts.push(fact(
            "Before the hold",
            format!("{stretched} at test pressure, then lowered to about {}", scale.gauge.p(d.hold_begins_pa())),
        ));
    }
    facts.extend(d.looks_at_pa().map(|p| fact("Look asked", format!("after the hold, at {} or more", scale.gauge.up(p)))));
    facts.push(fact("Gauge", format!("{} at {}", p.system.gauge.tag, scale.say.height(p.system.gauge.elevation_m))));
    let gas = p.readings.gas.is_some();
    if let Some(v) = d.volume_m3 {
        facts.push(fact(if gas { "Volume" } else { "Water" }, scale.say.volume(v)));
    }
    if p.readings.air_fraction_unc_95 > 0.0 && !gas {
        let percent = |f: f64| quantity::format::significant(100.0 * f, 2);
        let assumed = p.readings.air_fraction <= 0.0;
        let stated =
            p.plan.site.trapped_air_m3.filter(|_| !p.events.iter().any(|e| e.kind == EventKind::Stroked) && p.sources.recorded.is_empty());
        facts.push(fact(
            "Air at filling",
            if assumed {
                format!("not measured; up to {}\u{a0}% of the volume is reckoned with", percent(p.readings.air_fraction_unc_95))
            } else {
                let by = stated.map_or("", |_| ", as stated: a part that no vent reaches");
                format!("{} ± {}\u{a0}% of the volume{by}", percent(p.readings.air_fraction), percent(p.readings.air_fraction_unc_95))
            },
        ));
    }
    if !p.plan.permit_number.is_empty() {
        facts.push(fact("Permit", p.plan.permit_number.clone()));
    }
    facts
}

/// Where a relief valve is set; whoever pumps by hand may have none.
fn relief(p: &Parts, set: &str) -> String {
    match &p.plan {
        plan if plan.hand_pump => format!("{BY_HAND}; a valve would be set at {set}"),
        plan if plan.relief_fitted_pa.is_some() => format!("set at {set}, fitted by the word of whoever tested"),
        _ => format!("set at {set}"),
    }
}

/// What stands in for a relief valve at a hand pump.
const BY_HAND: &str = "pumped by hand, in part strokes, by whoever watched the gauge";

/// What keeps the pressure down where no relief valve can.
fn instead(p: &Parts) -> &str {
    match p.plan.relief_alternative.trim() {
        "" if p.plan.hand_pump => BY_HAND,
        approved => approved,
    }
}

/// What the line of the part that asks the most is rated, where lines of several conditions were tested together.
fn line_of(p: &Parts, scale: &Scale) -> String {
    let asks = p.derived.parts.iter().find(|part| part.tag == p.derived.lower_part);
    asks.and_then(|part| part.design_pa).map(|rated| format!(", whose line is rated {}", scale.say.p(rated))).unwrap_or_default()
}

/// Restrictions that somebody declared not to be there, each with who said so.
fn declared_none(p: &Parts) -> Vec<String> {
    let words = |field: &str| match field {
        "proven_pa" => "an earlier proof".to_owned(),
        "restraint_n" => "a limit of its restraint".to_owned(),
        "corrosion_m" => "corrosion to the next test".to_owned(),
        other => other.replace('_', " "),
    };
    let of_parts = p.system.parts.iter().flat_map(|part| part.none.iter().map(move |(field, who)| (part.tag.as_str(), field, who)));
    let of_system = p.system.none.iter().map(|(field, who)| ("the system", field, who));
    of_system.chain(of_parts).map(|(of, field, who)| format!("{} of {of}, by {who}", words(field))).collect()
}

/// Looks by class, the last of each, with the leaks of that class taken off.
pub(crate) fn looks(p: &Parts) -> Vec<[String; 2]> {
    let mut lines: Vec<[String; 2]> = LeakPlace::VARIANTS
        .iter()
        .copied()
        .filter_map(|place| {
            let looked =
                p.events.iter().filter(|e| e.kind == EventKind::LookDone && e.place == Some(place)).filter_map(|e| e.looked).next_back()?;
            let leaks =
                u32::try_from(p.events.iter().filter(|e| e.kind == EventKind::LeakSeen && e.place == Some(place)).count()).unwrap_or(0);
            Some([place.words().to_owned(), format!("{} of {looked} dry", looked.saturating_sub(leaks))])
        })
        .collect();
    lines.extend(p.events.iter().filter(|e| e.kind == EventKind::LookDone && e.place.is_none()).map(|e| {
        [
            "every joint in the claim".to_owned(),
            if e.note.is_empty() { format!("looked at by {}", e.by) } else { format!("{}, by {}", e.note, e.by) },
        ]
    }));
    lines
}

/// What the test could not have shown.
pub(crate) fn could_not(p: &Parts) -> Vec<String> {
    let times = Times::of(p);
    let at = |t_s: f64| times.after(t_s);
    let mut out = Vec::new();
    match &p.judgement.found.leak {
        // what is shown was not missed
        Some(_) if p.judgement.found.finding == judge::finding::Finding::LeakShown => {}
        Some(leak) => out.push(format!(
            "A steady leak below {}: the least that this volume, this hold, this gauge and this thermometer could have shown.",
            judge::words::flow(leak.detection_limit_m3_per_s, &p.readings)
        )),
        None => out.push(
            "Any leak rate: the readings support no figure. What is said of it rests on the look and the kept pressure alone.".to_owned(),
        ),
    }
    if p.readings.thermometer.is_none() {
        out.push("A leak hidden by warming, or a fall by cooling taken for one: no temperature was read.".to_owned());
    }
    if let Some(own) = p.instruments.iter().find(|i| i.uncalibrated()) {
        let percent = quantity::format::significant(100.0 * own.error_of_scale.unwrap_or(0.0), 2);
        out.push(format!("How right the gauge was: nobody calibrated it, and {percent}\u{a0}% of its scale is taken as its error."));
    }
    if !p.events.iter().any(|e| e.kind == EventKind::LookDone && e.place.is_none()) {
        out.push("A drip at a joint: the look at every joint is not booked.".to_owned());
    }
    for d in &p.judgement.found.defects {
        let channel = d.channel.as_deref().unwrap_or("the record");
        let what = match &d.overruled {
            Some(reason) => format!("{}; let stand: {reason}", d.kind.more()),
            None => d.kind.more().to_owned(),
        };
        out.push(format!("What {channel} did from {} to {}: {what}.", at(d.start_s.s()), at(d.end_s.s())));
    }
    out.extend(p.readings.moved.iter().map(|m| {
        let which = match m.boundary {
            judge::case::Boundary::Start => "The start of the hold",
            judge::case::Boundary::End => "The end of the hold",
            judge::case::Boundary::Between => "A boundary between two stretches of the run",
        };
        format!("{which} was found at {} and moved to {} by {}: {}.", at(m.found_s.s()), at(m.moved_s.s()), m.by, m.reason)
    }));
    let mut times: Vec<RunTime> = p.readings.pressures().map(|r| r.t).filter(|t| p.readings.hold().contains(*t)).collect();
    times.sort_by(RunTime::total_cmp);
    let longest = times.windows(2).map(|w| w[1] - w[0]).fold(Span::ZERO, Span::max);
    if longest > Span::from_s(60.0) {
        out.push(format!(
            "What happened between readings: the longest time without one in the hold was {}. A repump or a bleed in it would not show.",
            quantity::format::span(longest)
        ));
    }
    out.push("A leak that opens later, at another temperature or under movement: a test shows the day on which it was made.".to_owned());
    out
}

/// Where the readings come from.
pub(crate) fn sources(p: &Parts) -> Vec<String> {
    let mut out: Vec<String> = p
        .sources
        .recorded
        .iter()
        .map(|r| {
            let gap =
                if r.unanswered == 0 { "it answered every time".to_owned() } else { format!("it did not answer {} times", r.unanswered) };
            format!("{}: {} readings by the recorder; {gap}. SHA-256 {}.", r.tag, r.readings, r.sha256)
        })
        .collect();
    if !p.sources.typed.is_empty() {
        let mut by: Vec<&str> = p.sources.typed.iter().map(|t| t.by.as_str()).collect();
        by.sort_unstable();
        by.dedup();
        out.push(format!("{} readings typed by {}.", p.sources.typed.len(), by.join(", ")));
        for r in &p.sources.typed {
            if let Some(struck) = &r.struck {
                out.push(format!(
                    "Struck out by {}, and not judged: \"{}\", typed by {} for {}. {}",
                    struck.by, r.as_typed, r.by, r.at, struck.reason
                ));
            }
        }
    }
    out.extend(
        p.sources
            .files
            .iter()
            .map(|f| format!("{}: {} rows of a logger's file brought by {}. SHA-256 {}.", f.file_name, f.rows, f.by, f.sha256)),
    );
    out
}
