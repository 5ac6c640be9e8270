//! RESTORE: release, vent before drain, everything back.

use crate::acts::{Stage, out_of_order};
use crate::plan::Derating;
use crate::registers::{BoundaryItem, StillOwed};
use rules::rule::{Rule, Standing};
use serde::{Deserialize, Serialize};
use terms::EventKind;

/// Rules of restoring.
pub const RULES: &[&Rule] = &[&RELEASE_FIRST, &VENT_FIRST, &ALL_BACK, &DERATED, &PROMISED];

/// Derated.
pub const DERATED: Rule = Rule {
    id: "RESTORE-DERATED",
    sentence: "A proof from a reduced working pressure closes only when relief valve, pressure switch and tag carry the reduced figure.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "restore_derated_derating_closes_on_valve_switch_and_tag",
};

/// What was promised.
pub const PROMISED: Rule = Rule {
    id: "RESTORE-PROMISED",
    sentence: "What was promised for after the test is done before anybody signs, or carried over by name: who does it, and until when. The pack is closed once all of it is done.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "restore_promised_what_is_owed_is_done_or_carried_over_by_name",
};

/// Release first.
pub const RELEASE_FIRST: Rule = Rule {
    id: "RESTORE-RELEASE-FIRST",
    sentence: "Nothing is opened or drained before the pressure is released and zero proved in every section that can be isolated.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "restore_release_first_restore_vent_first_order_of_restoring",
};

/// Vent before drain.
pub const VENT_FIRST: Rule = Rule {
    id: "RESTORE-VENT-FIRST",
    sentence: "The high vent is opened before draining; a column of water without a vent pulls a vacuum that collapses tanks and large thin pipe.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "restore_release_first_restore_vent_first_order_of_restoring",
};

/// Everything back.
pub const ALL_BACK: Rule = Rule {
    id: "RESTORE-ALL-BACK",
    sentence: "Every blind is out and every removed item is back before anybody signs.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "restore_all_back_a_blind_left_in_keeps_restore_open",
};

/// One line of the list.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct RestoreLine {
    /// What must be done.
    pub sentence: String,
    /// True once done.
    pub done: bool,
    /// Event that closes it, where one does.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub event: Option<EventKind>,
    /// Tag of the boundary item that it is about, where it is about one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub item: Option<String>,
    /// What is owed that it is about, as the register calls it, where it is about that.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub promise: Option<String>,
    /// What carries a reduced pressure, and how, where it is about that.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub derated: Option<String>,
    /// Why it cannot be done yet, where it cannot.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub waits_for: Option<String>,
}

/// The list that must be closed after a run.
pub fn list(
    gas: bool,
    booked: &[EventKind],
    items: &[BoundaryItem],
    promises: &[StillOwed],
    derating: Option<&Derating>,
) -> Vec<RestoreLine> {
    let event = |kind, sentence: &str| RestoreLine {
        sentence: sentence.to_owned(),
        done: booked.contains(&kind),
        event: Some(kind),
        item: None,
        promise: None,
        derated: None,
        waits_for: out_of_order(kind, Stage::of(booked)).filter(|_| !booked.contains(&kind)).map(str::to_owned),
    };
    let mut lines = if gas {
        let air = event(EventKind::AirProved, "Blow it through with air; prove that there is air to breathe before anybody goes in.");
        vec![
            event(
                EventKind::Released,
                "Let the gas out slowly through the vent to the outside, nobody in line; prove zero in every section.",
            ),
            event(EventKind::VentOpened, "Leave the vent open to the outside, the supply disconnected."),
            // a run of before there was this act was booked as drained
            RestoreLine { done: air.done || booked.contains(&EventKind::Drained), ..air },
        ]
    } else {
        vec![
            event(EventKind::Released, "Release slowly by the bleed valve, nobody in line; prove zero in every section."),
            event(EventKind::VentOpened, "Open the high vent."),
            event(EventKind::Drained, "Drain."),
        ]
    };
    let released = booked.contains(&EventKind::Released);
    lines.extend(items.iter().filter(|i| i.set_for_test).map(|i| RestoreLine {
        sentence: match i.kind {
            crate::registers::BoundaryKind::Plug => format!("Take out: {}.", i.tag),
            crate::registers::BoundaryKind::Blind => format!("Take blind {} out ({}).", i.tag, i.place),
            crate::registers::BoundaryKind::RemovedItem => format!("Put {} back ({}); renew what seals it.", i.tag, i.place),
            crate::registers::BoundaryKind::ShutValve => format!("Take the tag off {} and set it as it was ({}).", i.tag, i.place),
            crate::registers::BoundaryKind::Restraint => format!("Take pin or restraint off {} after draining ({}).", i.tag, i.place),
            crate::registers::BoundaryKind::Exemption => {
                format!("Look at {} in its first service ({}): it stayed covered.", i.tag, i.place)
            }
        },
        done: i.put_back,
        event: None,
        item: Some(i.tag.clone()),
        promise: None,
        derated: None,
        waits_for: (!released).then(|| RELEASE_FIRST.sentence.to_owned()),
    }));
    // a proof from a reduced pressure closes only when everything that acts on the pressure carries it
    lines.extend(derating.into_iter().flat_map(|d| {
        [("relief valve", &d.valve), ("pressure switch", &d.switch), ("tag", &d.tag)].map(|(what, by)| RestoreLine {
            sentence: match by.trim() {
                "" => format!("The {what} carries the reduced pressure (entered on Prove)."),
                by => format!("The {what} carries the reduced pressure: {by}."),
            },
            done: !by.trim().is_empty(),
            event: None,
            item: None,
            promise: None,
            derated: Some(format!("{what}: {}", if by.trim().is_empty() { "not yet" } else { by.trim() })),
            waits_for: None,
        })
    }));
    lines.extend(promises.iter().map(|p| RestoreLine {
        sentence: if p.carried && !p.done { format!("{} Carried over.", p.sentence()) } else { p.sentence() },
        done: p.done || p.carried,
        event: None,
        item: None,
        promise: Some(p.what.clone()),
        derated: None,
        waits_for: None,
    }));
    lines
}

/// True when every line is closed.
pub fn closed(lines: &[RestoreLine]) -> bool {
    lines.iter().all(|l| l.done)
}
