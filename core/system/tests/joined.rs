//! Lists of parts as they are walked, and what becomes of the water in them.

use quantity::{Length, Volume};
use rules::part::{Part, PartKind, ValveType};
use system::draining::{Stays, draining};
use system::filling::filling;
use system::joined::{Joined, joined};
use system::network::Way;

fn part(tag: &str, kind: PartKind, z: f64, to: Option<f64>, litres: f64) -> Part {
    let mut p = Part::new(tag, kind, Length::from_m(z));
    p.to_elevation_m = to.map(Length::from_m);
    p.volume_m3 = (litres > 0.0).then(|| Volume::from_m3(litres / 1e3));
    p
}

fn named(mut p: Part, from: &str, to: &str) -> Part {
    p.from = (!from.is_empty()).then(|| from.to_owned());
    p.to = (!to.is_empty()).then(|| to.to_owned());
    p
}

/// Up to a crest, down behind it, up to a second high point; a branch to a dome that leads nowhere; vent on the second high point alone.
fn line(vent_on_crest: bool) -> Vec<Part> {
    let mut all = vec![
        part("D1", PartKind::Drain, 0.0, None, 0.0),
        named(part("Riser", PartKind::Pipe, 0.0, Some(6.0), 60.0), "", "crest"),
        part("Down", PartKind::Pipe, 6.0, Some(1.0), 50.0),
        named(part("Up", PartKind::Pipe, 1.0, Some(8.0), 70.0), "", "top"),
        part("V1", PartKind::Vent, 8.0, None, 0.0),
        named(part("Dome", PartKind::Vessel, 6.0, Some(7.5), 30.0), "crest", ""),
    ];
    if vent_on_crest {
        all.push(named(part("V2", PartKind::Vent, 6.0, None, 0.0), "crest", ""));
    }
    all
}

fn pockets(parts: &[Part]) -> Vec<(String, f64)> {
    let j = joined(parts);
    let fill = j.points_of(parts, PartKind::Drain);
    let found = filling(&j.network, &fill, &j.points_of(parts, PartKind::Vent)).unwrap();
    let tag =
        |run: usize| parts.iter().zip(&j.places).find(|(_, p)| p.is_some_and(|p| p.run == Some(run))).map(|(p, _)| p.tag.clone()).unwrap();
    found.pockets.iter().map(|p| (p.runs.iter().map(|(r, _)| tag(*r)).collect::<Vec<_>>().join("+"), p.volume.l())).collect()
}

#[test]
fn a_pocket_goes_when_a_vent_is_added_where_it_is() {
    let before = pockets(&line(false));
    assert_eq!(before.len(), 1, "{before:?}");
    assert!(before[0].0 == "Down+Dome" && (before[0].1 - 80.0).abs() < 1e-9, "{before:?}");
    // the crest vented, the dome above it still keeps its own
    let after = pockets(&line(true));
    assert_eq!(after.iter().map(|p| p.0.as_str()).collect::<Vec<_>>(), ["Dome"], "{after:?}");
}

#[test]
fn a_list_without_names_is_a_chain_and_what_sits_at_a_point_does_not_carry_it_on() {
    let parts = [
        part("A", PartKind::Pipe, 0.0, Some(2.0), 10.0),
        part("V", PartKind::Vent, 2.0, None, 0.0),
        part("S", PartKind::Support, 1.0, None, 0.0),
        part("B", PartKind::Pipe, 2.0, Some(1.0), 10.0),
        part("End", PartKind::Blind, 1.0, None, 0.0),
    ];
    let j = joined(&parts);
    assert_eq!((j.network.points.len(), j.network.runs.len(), j.steps.len()), (3, 2, 0), "{j:?}");
    assert_eq!(j.places[2], None);
    assert_eq!(j.places[1].map(|p| p.from), j.places[3].map(|p| p.from));
}

#[test]
fn where_heights_do_not_meet_there_is_a_riser_that_nobody_measured() {
    let parts = [part("Low", PartKind::Pipe, 1.0, None, 10.0), part("High", PartKind::Pipe, 7.0, None, 10.0)];
    let Joined { network, steps, .. } = joined(&parts);
    assert_eq!(steps.len(), 1);
    assert_eq!((steps[0].low.m(), steps[0].high.m(), steps[0].parts.clone()), (1.0, 7.0, vec!["Low".to_owned(), "High".to_owned()]));
    // it has no room
    assert!((network.volume().l() - 20.0).abs() < 1e-12);
    // with both heights typed there is none
    let parts = [part("Low", PartKind::Pipe, 1.0, Some(7.0), 10.0), part("High", PartKind::Pipe, 7.0, None, 10.0)];
    assert!(joined(&parts).steps.is_empty());
}

#[test]
fn a_closed_valve_lets_nothing_through_and_a_check_valve_one_way() {
    let mut check = part("CV", PartKind::Valve, 1.0, None, 0.5);
    check.valve = Some(ValveType::Check);
    let parts = [
        part("D", PartKind::Drain, 0.0, None, 0.0),
        part("A", PartKind::Pipe, 0.0, Some(1.0), 10.0),
        check,
        part("B", PartKind::Pipe, 1.0, Some(3.0), 10.0),
        part("V", PartKind::Vent, 3.0, None, 0.0),
        part("CL", PartKind::ClosedValve, 3.0, None, 0.0),
        part("C", PartKind::Pipe, 3.0, None, 10.0),
    ];
    let j = joined(&parts);
    assert_eq!(j.places[2].and_then(|p| p.run).map(|r| j.network.runs[r].way), Some(Way::Onward));
    let (fill, vent) = (j.points_of(&parts, PartKind::Drain), j.points_of(&parts, PartKind::Vent));
    let filled = filling(&j.network, &fill, &vent).unwrap();
    assert!(filled.pockets.is_empty() && filled.not_reached.len() == 1 && (filled.volume.l() - 20.5).abs() < 1e-9, "{filled:?}");
    // through the check valve nothing comes back to the drain: what stands behind it stays
    let drained = draining(&j.network, &fill, &vent).unwrap();
    let stays: Vec<_> = drained.left.iter().map(|l| l.why).collect();
    assert!(stays.contains(&Stays::Pool) && drained.volume.m3() == 0.0, "{drained:?}");
}
