//! What stands before the hold in a record: the gates as they were passed, the attempts before, the low gas test, the filling.

use crate::words::{Scale, Times};
use pack::plan::ObjectKind;
use record::sealed::{Parts, RecordedEvent};
use terms::{EventKind, LeakPlace, Term};

/// The gates as they were passed at the release: rule and what was found.
pub(crate) fn gates(p: &Parts) -> Vec<[String; 2]> {
    p.gates.iter().map(|g| [g.rule.clone(), g.found.clone()]).collect()
}

/// The attempts before, each with what became of it and where it leaked.
pub(crate) fn earlier(p: &Parts) -> Vec<[String; 3]> {
    let times = Times::of(p);
    let leaks = |e: &record::sealed::EarlierAttempt| {
        let one = |l: &record::sealed::SeenLeak| {
            let class = l.class.map_or("leak", LeakPlace::words);
            if l.place.is_empty() { class.to_owned() } else { format!("{class}: {}", l.place) }
        };
        if e.leaks.is_empty() { "no leak was seen".to_owned() } else { e.leaks.iter().map(one).collect::<Vec<_>>().join("; ") }
    };
    let signed = |e: &record::sealed::EarlierAttempt| if e.content_sha256.is_empty() { "not signed" } else { "signed" };
    let of = |e: &record::sealed::EarlierAttempt| {
        let outcome = e.outcome.map_or("let out before anything could be judged", |o| o.words());
        [format!("{}, {}", e.number, times.instant(&e.released_at)), format!("{outcome}, {}", signed(e)), leaks(e)]
    };
    p.earlier.iter().map(of).collect()
}

/// The same in one line of the certificate.
pub(crate) fn before_this(p: &Parts) -> Option<[String; 2]> {
    let all: Vec<String> = earlier(p).into_iter().map(|[attempt, became, leaks]| format!("attempt {attempt}: {became}; {leaks}")).collect();
    (!all.is_empty()).then(|| ["Before".to_owned(), all.join(". ")])
}

/// What carries the reduced pressure, where the test is the proof of one.
pub(crate) fn derated(p: &Parts) -> Option<[String; 2]> {
    let all: Vec<&str> = p.restore.iter().filter_map(|l| l.derated.as_deref()).collect();
    (!all.is_empty()).then(|| ["Derated".to_owned(), all.join("; ")])
}

fn of_kind(p: &Parts, kind: EventKind) -> impl DoubleEndedIterator<Item = &RecordedEvent> {
    p.events.iter().filter(move |e| e.kind == kind)
}

/// An event by what it is about, its figure and its time.
fn told(e: &RecordedEvent, scale: &Scale, times: &Times) -> String {
    let figure = scale.figure(e);
    let words: Vec<&str> = [e.of.as_deref().unwrap_or_default(), figure.as_str()].into_iter().filter(|w| !w.is_empty()).collect();
    if words.is_empty() { times.clock(&e.at) } else { format!("{} at {}", words.join(", "), times.clock(&e.at)) }
}

/// Low gas test, filling and what was read before the raise, in lines of a few words each; only what was booked.
pub(crate) fn before_the_raise(p: &Parts, scale: &Scale) -> Vec<[String; 2]> {
    let times = Times::of(p);
    let joined = |kind| of_kind(p, kind).map(|e| told(e, scale, &times)).collect::<Vec<_>>().join("; ");
    let mut lines = Vec::new();
    let on: Vec<&RecordedEvent> = of_kind(p, EventKind::GasOn).collect();
    if let Some(last) = on.last() {
        let out = of_kind(p, EventKind::GasOff).next_back().filter(|off| off.at >= last.at);
        let how =
            of_kind(p, EventKind::Soaped).next_back().and_then(|e| e.of.clone()).unwrap_or_else(|| "not looked at for bubbles".to_owned());
        let end = out.map_or_else(|| "not booked as let out".to_owned(), |o| format!("let out at {}", times.clock(&o.at)));
        let tries = if on.len() == 1 { String::new() } else { format!("; made {} times, the last counts", on.len()) };
        lines.push(["Low gas test".to_owned(), format!("{}, {how}, {end}{tries}", told(last, scale, &times))]);
    } else if p.derived.pretest.as_ref().is_some_and(|t| t.refused.is_none()) {
        lines.push(["Low gas test".to_owned(), "planned, and not booked".to_owned()]);
    }
    let filled = of_kind(p, EventKind::Filled).next_back().map(|e| format!("full and looked at, {}", times.clock(&e.at)));
    let begun = of_kind(p, EventKind::FillBegun).next_back().map(|e| format!("begun {}", told(e, scale, &times)));
    if begun.is_some() {
        lines.push(["Filled".to_owned(), begun.into_iter().chain(filled).collect::<Vec<_>>().join("; ")]);
    }
    let named = [
        ("Vents ran clear", EventKind::VentRan),
        ("Temperature of water", EventKind::WaterWas),
        ("of the metal", EventKind::MetalWas),
        ("of the surroundings", EventKind::AirWas),
        ("Past its scale", EventKind::BeyondScale),
        ("Tightened", EventKind::NippedUp),
        ("Cured at zero", EventKind::DripCured),
        ("Stays sounded", EventKind::Hammered),
        ("Looked into with a lamp", EventKind::LampLooked),
        ("Swelling", EventKind::Swelled),
        ("Deflection", EventKind::Deflected),
        ("Watched by", EventKind::HandedOver),
    ];
    lines.extend(named.iter().map(|(name, kind)| [(*name).to_owned(), joined(*kind)]).filter(|l| !l[1].is_empty()));
    lines
}

/// What a joint that is tested by itself says: its gaskets, how it was filled, how far it is out of line.
pub(crate) fn of_joint(p: &Parts) -> Vec<[String; 2]> {
    if p.plan.object != ObjectKind::Joint {
        return Vec::new();
    }
    let wet = |place| of_kind(p, EventKind::LeakSeen).any(|e| e.place == Some(place));
    let looked = of_kind(p, EventKind::LookDone).next().is_some() || p.looks.iter().any(|l| l.looked);
    let gaskets = match (looked, wet(LeakPlace::GasketPrimary), wet(LeakPlace::GasketSecondary)) {
        (_, true, true) => "the primary leaks, and the secondary",
        (_, true, false) => "the primary leaks",
        (_, false, true) => "the primary is dry, the secondary weeps",
        (true, false, false) => "primary and secondary dry, all round",
        (false, false, false) => "not looked at",
    };
    let ports = of_kind(p, EventKind::VentRan).next_back().and_then(|e| e.of.clone());
    let ports = ports.map_or_else(
        || "nobody booked through which port it was filled and at which one it ran clear".to_owned(),
        |port| format!("filled through the low port, and it ran clear at {port}"),
    );
    let mut lines = vec![["Gaskets".to_owned(), gaskets.to_owned()], ["Ports".to_owned(), ports]];
    if of_kind(p, EventKind::Deflected).next().is_none() {
        lines.push(["Deflection".to_owned(), "not measured".to_owned()]);
    }
    lines
}

/// When the next test is due, by which rule.
pub(crate) fn next_test(p: &Parts) -> [String; 2] {
    let said = p.plan.next_test.as_ref().filter(|n| !n.on.trim().is_empty());
    let words = said.map_or_else(
        || "nobody named a day: whoever inspects sets it by the rules that hold here".to_owned(),
        |n| if n.by.trim().is_empty() { n.on.clone() } else { format!("{}, by {}", n.on, n.by) },
    );
    ["Next test".to_owned(), words]
}
