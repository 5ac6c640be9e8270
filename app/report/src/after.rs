//! What the registers of a pack say in its record: where it was looked, what was decided, what is still owed, what stood on the punch list.

use crate::words::Times;
use pack::registers::{BoundaryItem, BoundaryKind, LookAt, LookFound};
use record::sealed::{BookedAct, Parts};
use terms::{EventKind, LeakPlace, Term};

/// So many places are named in one line; the rest is in the table.
const NAMED: usize = 6;

fn listed(places: &[&LookAt], why: bool) -> String {
    let one = |l: &&LookAt| if why && !l.place.is_empty() { format!("{} ({})", l.what, l.place) } else { l.what.clone() };
    let named: Vec<String> = places.iter().take(NAMED).map(one).collect();
    let more = places.len().saturating_sub(NAMED);
    if more == 0 { named.join("; ") } else { format!("{}; and {more} more", named.join("; ")) }
}

/// The same where nobody made a list: that every joint was looked at, when and by whom, and where it leaked.
fn without_a_list(p: &Parts) -> Vec<[String; 2]> {
    let times = Times::of(p);
    let of = |kind| p.events.iter().filter(move |e| e.kind == kind);
    let looked = of(EventKind::LookDone).rfind(|e| e.place.is_none());
    let leaks: Vec<String> = of(EventKind::LeakSeen)
        .map(|e| {
            let class = e.place.map_or("leak", LeakPlace::words);
            if e.note.is_empty() { class.to_owned() } else { format!("{class}: {}", e.note) }
        })
        .collect();
    let dry = if leaks.is_empty() { "every joint, all dry" } else { "every joint" };
    let said = looked.map_or_else(
        || "nobody booked that every joint was looked at".to_owned(),
        |e| format!("{dry}, {} at {}", e.by, times.clock(&e.at)),
    );
    let mut lines = vec![["Looked at".to_owned(), said]];
    if !leaks.is_empty() {
        lines.push(["Leaks".to_owned(), leaks.join("; ")]);
    }
    lines
}

/// Where it was looked, in lines of a few words each: what counts for the object, apart from what was fitted for the test only. Empty where no list was made.
pub(crate) fn looked(p: &Parts) -> Vec<[String; 2]> {
    let all: Vec<&LookAt> = p.looks.iter().filter(|l| l.counts()).collect();
    if p.looks.is_empty() {
        return without_a_list(p);
    }
    let of = |found: LookFound| -> Vec<&LookAt> { all.iter().filter(|l| l.found == found).copied().collect() };
    let dry = of(LookFound::Dry);
    let mut lines = vec![[
        "Looked at and dry".to_owned(),
        match dry.len() {
            n if n == all.len() => format!("all {n} places: {}", listed(&dry, false)),
            0 => format!("none of {} places", all.len()),
            n => format!("{n} of {} places: {}", all.len(), listed(&dry, false)),
        },
    ]];
    let named = [("Leaks", LookFound::Leaks), ("Could not be seen", LookFound::NotSeen), ("Not looked at", LookFound::Open)];
    lines.extend(named.iter().filter_map(|(name, found)| {
        let places = of(*found);
        (!places.is_empty()).then(|| [(*name).to_owned(), listed(&places, true)])
    }));
    let fitted: Vec<&LookAt> = p.looks.iter().filter(|l| !l.counts() && l.found != LookFound::Dry).collect();
    if !fitted.is_empty() {
        let words = fitted.iter().map(|l| format!("{}, {}", l.what, l.found.words())).collect::<Vec<_>>().join("; ");
        lines.push(["Fitted for the test only".to_owned(), words]);
    }
    lines
}

/// The same in one line of the certificate.
pub(crate) fn ways(p: &Parts) -> Option<[String; 2]> {
    let all: Vec<String> = decided(p).into_iter().map(|[state, words]| format!("{words} ({state})")).collect();
    (!all.is_empty()).then(|| ["Decided".to_owned(), all.join(" ")])
}

/// What was put in and taken out for the test, and whether it is out and back again, a line of a few words each.
pub(crate) fn in_and_out(p: &Parts) -> Vec<[String; 2]> {
    let of = |kind, name: &str, again: &str| {
        let set: Vec<&BoundaryItem> = p.boundary.iter().filter(|i| i.kind == kind && i.set_for_test).collect();
        let left: Vec<&str> = set.iter().filter(|i| !i.put_back).map(|i| i.tag.as_str()).collect();
        let named =
            set.iter().take(NAMED).map(|i| i.tag.as_str()).collect::<Vec<_>>().join(if kind == BoundaryKind::Plug { "; " } else { ", " });
        let more = match set.len().saturating_sub(NAMED) {
            0 => String::new(),
            n => format!(" and {n} more"),
        };
        let state = match left.as_slice() {
            [] if set.len() == 1 => again.to_owned(),
            [] if set.len() == 2 => format!("both {again}"),
            [] => format!("all {} {again}", set.len()),
            left => format!("not {again}: {}", left.join(", ")),
        };
        (!set.is_empty()).then(|| [name.to_owned(), format!("{named}{more}; {state}")])
    };
    let blinds = of(BoundaryKind::Blind, "Put in for the test", "out again");
    blinds
        .into_iter()
        .chain(of(BoundaryKind::Plug, "Closed for the test", "out again"))
        .chain(of(BoundaryKind::RemovedItem, "Taken out", "back"))
        .chain(of(BoundaryKind::ShutValve, "Shut as the boundary", "as it was"))
        .chain(of(BoundaryKind::Restraint, "Pinned or restrained", "off again"))
        .chain(of(BoundaryKind::Exemption, "Stayed covered", "looked at in service"))
        .collect()
}

/// Every place with what was found there, and by whom.
pub(crate) fn places(p: &Parts) -> Vec<[String; 3]> {
    let times = Times::of(p);
    p.looks
        .iter()
        .map(|l| {
            let by = p.booked.iter().find(|b| b.act == BookedAct::Looked && b.item == l.what);
            let kind = if l.counts() { "" } else { ", fitted for the test only" };
            let found = if l.place.is_empty() { l.found.words().to_owned() } else { format!("{}: {}", l.found.words(), l.place) };
            [format!("{}{kind}", l.what), found, by.map(|b| format!("{}, {}", b.by, times.clock(&b.stored_at))).unwrap_or_default()]
        })
        .collect()
}

/// What is still owed, by whom and until when.
pub(crate) fn owed(p: &Parts) -> Vec<[String; 2]> {
    let state = |done: bool, carried: bool| match (done, carried) {
        (true, _) => "done",
        (false, true) => "carried over",
        (false, false) => "open",
    };
    let words = |x: &pack::registers::StillOwed| if x.figure.is_empty() { x.sentence() } else { format!("{} {}", x.sentence(), x.figure) };
    p.promises.iter().map(|x| [state(x.done, x.carried).to_owned(), words(x)]).collect()
}

/// The same in one line of the certificate: only what is not done.
pub(crate) fn still_owed(p: &Parts) -> Option<[String; 2]> {
    let open: Vec<String> = p.promises.iter().filter(|x| !x.done).map(pack::registers::StillOwed::sentence).collect();
    (!open.is_empty()).then(|| ["Still owed".to_owned(), open.join(" ")])
}

/// What was decided about what leaked.
pub(crate) fn decided(p: &Parts) -> Vec<[String; 2]> {
    p.decisions
        .iter()
        .map(|d| {
            let done = if d.done { "done" } else { "open" };
            [
                done.to_owned(),
                format!("{}, after attempt {}: {}. {}; {}, until {}.", d.what, d.attempt, d.way.words(), d.how, d.person, d.due),
            ]
        })
        .collect()
}

/// The punch list.
pub(crate) fn punch(p: &Parts) -> Vec<[String; 2]> {
    p.punch
        .iter()
        .map(|x| {
            let state = if x.cleared { "cleared" } else { "open" };
            [state.to_owned(), format!("{} {}: {} ({})", x.category.short(), x.number, x.text, x.owner)]
        })
        .collect()
}
