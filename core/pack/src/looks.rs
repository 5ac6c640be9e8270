//! The list of places to look at that a test begins with: the places of such an object, what was altered, its parts, and what is fitted for the test only.
//! Common practice; people add to it and take off it what does not apply.

use crate::plan::{ObjectKind, WhyNow};
use crate::registers::{BoundaryItem, BoundaryKind, LookAt, LookKind};
use rules::part::{Part, PartKind};
use rules::rule::{Rule, Standing};
use std::collections::{BTreeMap, BTreeSet};
use terms::Term;

/// Rules of the list.
pub const RULES: &[&Rule] = &[&LOOKED];

/// Each place is closed.
pub const LOOKED: Rule = Rule {
    id: "SIGN-LOOKED",
    sentence: "Where there is a list of places to look at, each of them is closed in this attempt before anybody signs: dry, leaking, or not seen and why.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "sign_looked_every_place_is_closed_in_this_attempt_before_a_signature",
};

/// So many places are named; the rest is counted.
const NAMED: usize = 5;

/// Which places nobody has closed in this attempt; none when all are.
pub fn not_looked_at(looks: &[LookAt], attempt: u32) -> Option<String> {
    let open: Vec<&str> = looks.iter().filter(|l| !l.closed_in(attempt)).map(|l| l.what.as_str()).collect();
    let first = open.iter().take(NAMED).copied().collect::<Vec<_>>().join("; ");
    let more = match open.len().saturating_sub(NAMED) {
        0 => String::new(),
        1 => " and 1 more".to_owned(),
        n => format!(" and {n} more"),
    };
    (!open.is_empty()).then(|| {
        format!("Not looked at in this attempt: {first}{more}. Close each on Hold; what cannot be seen any more is closed with the reason.")
    })
}

/// More places of one kind are one place of the list, looked at by drawing.
const ONE_BY_ONE: usize = 40;

/// Longest name of a place.
const MOST: usize = 64;

/// Places of an object, whatever its parts are called.
const fn places(object: ObjectKind) -> &'static [&'static str] {
    match object {
        ObjectKind::Boiler => &[
            "tubes and tube ends",
            "stays and stay ends",
            "foundation ring",
            "firebox and its seams",
            "bushes and mountings",
            "seams of the shell",
            "flue and furnace, for bulges",
        ],
        ObjectKind::MiniatureBoiler => &[
            "tubes and tube ends",
            "stays and stay ends",
            "foundation ring",
            "firebox and its seams",
            "bushes",
            "soldered joints of the shell",
        ],
        ObjectKind::Vessel => &[
            "seams of shell and heads",
            "nozzles and their welds",
            "tell-tale holes of the pads",
            "manholes and their gaskets",
            "supports and their welds",
        ],
        ObjectKind::AirReceiver => {
            &["seams of shell and heads", "bosses and their welds", "inspection openings", "drain and lowest place", "feet and their welds"]
        }
        ObjectKind::WaterMain => &["joints that are not covered", "hydrants", "valves and their glands", "restraints and thrust blocks"],
        ObjectKind::FireMain => &[
            "joints that are not covered",
            "hydrants",
            "valves and their glands",
            "restraints and thrust blocks",
            "dry barrels after closing",
        ],
        ObjectKind::Joint => &["primary gasket, all round", "secondary gasket, all round", "test ports", "faces and restraint"],
        ObjectKind::ProcessPiping | ObjectKind::PowerPiping => &["welds", "supports and springs"],
        ObjectKind::BuildingServices => &["joints", "valves and their glands", "supports and anchors"],
    }
}

/// What is looked at where a part is, and whether it stays there.
const fn at(part: PartKind) -> Option<(&'static str, LookKind)> {
    use PartKind as K;
    Some(match part {
        K::Flange => ("flanged joint", LookKind::Original),
        K::Valve => ("gland and joints", LookKind::Original),
        K::ClosedValve => ("seat, gland and joints", LookKind::Original),
        K::Strainer => ("cover and joints", LookKind::Original),
        K::Instrument => ("its connection", LookKind::Original),
        K::Bellows => ("convolutions, and that it has not moved", LookKind::Original),
        K::Coupling => ("mechanical joint", LookKind::Original),
        K::GasketedJoint => ("gasket, all round", LookKind::Original),
        K::Hydrant => ("valve and barrel", LookKind::Original),
        K::Exchanger => ("channel, tube plate and tubes", LookKind::Original),
        K::Machine => ("casing and its joints", LookKind::Original),
        K::Fitting => ("joints", LookKind::Original),
        K::Support | K::SpringHanger => ("bears, and has not moved", LookKind::Original),
        K::OrificePlate => ("its flanges", LookKind::Original),
        K::Hose | K::Blind | K::Vent | K::Drain | K::Fill | K::GaugePoint | K::ReliefPoint | K::PumpPoint => ("joint", LookKind::Temporary),
        K::Pipe | K::Bend | K::Reducer | K::Tee | K::Vessel | K::Boiler | K::Furnace | K::StayedPlate => return None,
    })
}

/// Name and what is looked at, no longer than a name may be.
fn named(tag: &str, what: &str) -> String {
    let room = MOST.saturating_sub(what.chars().count() + 2);
    format!("{}: {what}", tag.chars().take(room).collect::<String>())
}

/// The list for an object and the reason of its test, without what is called as something that is on it already.
pub fn proposed(object: ObjectKind, why_now: WhyNow, parts: &[Part], boundary: &[BoundaryItem], there: &[LookAt]) -> Vec<LookAt> {
    let mut seen: BTreeSet<String> = there.iter().map(|l| l.what.clone()).collect();
    let altered = match why_now {
        WhyNow::Repaired => Some("what was repaired: each weld, plug and joint of it"),
        WhyNow::Altered => Some("what was altered: each weld and joint of it"),
        WhyNow::New | WhyNow::Due | WhyNow::UnknownHistory | WhyNow::Restart => None,
    };
    let of_object = places(object).iter().map(|p| LookAt::open(*p, LookKind::Original));
    let mut many: BTreeMap<&str, usize> = BTreeMap::new();
    parts.iter().filter_map(|p| at(p.kind)).for_each(|(what, _)| *many.entry(what).or_default() += 1);
    let of_parts = parts.iter().filter_map(|p| {
        let (what, kind) = at(p.kind)?;
        let n = many.get(what).copied().unwrap_or(0);
        Some(LookAt::open(if n > ONE_BY_ONE { format!("all {n} by drawing: {what}") } else { named(&p.tag, what) }, kind))
    });
    let of_ends = boundary.iter().filter(|b| b.kind.put_in()).map(|b| match b.kind {
        // a line says what it is
        BoundaryKind::Plug => LookAt::open(b.tag.as_str(), LookKind::Temporary),
        _ => LookAt::open(named(&b.tag, b.kind.short()), LookKind::Temporary),
    });
    altered
        .into_iter()
        .map(|a| LookAt::open(a, LookKind::Altered))
        .chain(of_object)
        .chain(of_parts)
        .chain(of_ends)
        .filter(|l| seen.insert(l.what.clone()))
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::registers::{Item, Register};
    use quantity::Length;

    #[test]
    fn every_place_fits_its_register() {
        use ObjectKind as O;
        let all = [
            O::ProcessPiping,
            O::PowerPiping,
            O::BuildingServices,
            O::WaterMain,
            O::FireMain,
            O::Boiler,
            O::MiniatureBoiler,
            O::Vessel,
            O::AirReceiver,
            O::Joint,
        ];
        for object in all {
            for place in places(object) {
                let item = serde_json::to_value(LookAt::open(*place, LookKind::Original)).unwrap();
                assert!(Register::of(LookAt::REGISTER.key).unwrap().read(&item).is_ok(), "{place}");
            }
        }
        assert_eq!(named(&"x".repeat(80), "flanged joint").chars().count(), MOST);
    }

    #[test]
    fn a_list_has_the_object_its_parts_and_what_is_fitted_for_the_test_and_nothing_twice() {
        let of_boiler =
            |parts: &[Part], ends: &[BoundaryItem], there: &[LookAt]| proposed(ObjectKind::Boiler, WhyNow::Repaired, parts, ends, there);
        let parts = [("Shell", PartKind::Boiler), ("Feed", PartKind::Flange), ("Feed", PartKind::Flange), ("Pump hose", PartKind::Hose)]
            .map(|(tag, kind)| Part::new(tag, kind, Length::from_m(1.0)));
        let blind = BoundaryItem {
            tag: "TB-1".to_owned(),
            kind: BoundaryKind::Blind,
            place: "top".to_owned(),
            set_for_test: true,
            put_back: false,
        };
        let list = of_boiler(&parts, &[blind], &[LookAt::open("foundation ring", LookKind::Original)]);
        let names: Vec<&str> = list.iter().map(|l| l.what.as_str()).collect();
        assert_eq!(names.first(), Some(&"what was repaired: each weld, plug and joint of it"));
        assert!(names.contains(&"stays and stay ends") && !names.contains(&"foundation ring"));
        assert_eq!(names.iter().filter(|n| n.starts_with("Feed")).count(), 1);
        let temporary: Vec<&str> = list.iter().filter(|l| !l.counts()).map(|l| l.what.as_str()).collect();
        assert_eq!(temporary, ["Pump hose: joint", "TB-1: blind"]);
        let hundred: Vec<Part> = (0..120).map(|n| Part::new(format!("J{n}").as_str(), PartKind::Flange, Length::from_m(1.0))).collect();
        let of_many: Vec<String> = of_boiler(&hundred, &[], &[]).into_iter().map(|l| l.what).filter(|w| w.contains("flanged")).collect();
        assert_eq!(of_many, ["all 120 by drawing: flanged joint"]);
        assert!(
            of_boiler(&parts, &[], &[list, vec![LookAt::open("foundation ring", LookKind::Original)]].concat()).is_empty(),
            "made twice it is made once"
        );
    }
}
