//! Schedule, restoring, signing and spine.

use pack::people::{People, Role};
use pack::registers::{BoundaryItem, BoundaryKind};
use pack::restore::{closed, list};
use pack::schedule::{Raise, ScheduleName, next, steps};
use pack::signing::{Act, Form, HandWay, Signers, by_hand_objection, next as next_act, objection};
use pack::spine::{DeriveStands, SpineFacts, StepState, spine};
use proptest::prelude::*;
use quantity::{GaugePressure, PressureDifference, Span};
use rules::accept::Lowering;
use terms::EventKind as E;
use terms::VariantArray;

fn raise(name: ScheduleName, planned: f64, working: f64, hold_s: f64) -> Raise {
    Raise {
        show: rules::say::AtGauge::new(rules::say::Say::default(), quantity::PressureUnit::Bar, None),
        name,
        planned: GaugePressure::from_bar(planned),
        working: GaugePressure::from_bar(working),
        division: PressureDifference::from_bar(0.1),
        hold_s,
        first_stop: None,
        look: None,
        lowering: None,
    }
}

proptest! {
    #[test]
    fn schedule_every_schedule_ends_at_the_planned_pressure(planned in 1.0f64..500.0, share in 0.3f64..0.9, hold in 600.0f64..90_000.0) {
        for name in [ScheduleName::Quarters, ScheduleName::ThreeStage, ScheduleName::SmallBoiler, ScheduleName::Joint, ScheduleName::PneumaticFine, ScheduleName::PneumaticVessel] {
            let first = name.of_gas().then(|| GaugePressure::from_bar((0.5 * planned).min(1.7)));
            let s = steps(&Raise { first_stop: first, ..raise(name, planned, planned * share, hold) });
            prop_assert!(first.is_none_or(|f| s[0].target_pa <= f || s.len() == 1));
            prop_assert_eq!(s.last().unwrap().target_pa, GaugePressure::from_bar(planned));
            prop_assert!(s.windows(2).all(|w| w[0].target_pa < w[1].target_pa && w[1].raise_from_s == w[0].ends_s && w[0].reached_s < w[0].ends_s));
            prop_assert!(s.last().unwrap().hold_s >= hold);
            prop_assert!(next(&s, s.len()).is_none());
        }
    }
}

#[test]
fn pinned_quarters_of_26_bar() {
    let s = steps(&raise(ScheduleName::Quarters, 26.0, 16.0, 600.0));
    insta::assert_snapshot!(
        s.iter()
            .map(|s| format!("{:.1} bar at {:.0} s to {:.0} s: {}", s.target_pa.bar(), s.reached_s, s.ends_s, s.words))
            .collect::<Vec<_>>()
            .join("\n")
    );
}

/// A polyethylene main stretches at test pressure for three hours and is lowered by 10 psi before its hold (F2164, from memory).
#[test]
fn a_wall_that_creeps_stretches_and_is_lowered_before_its_hold() {
    let by = PressureDifference::from_psi(10.0);
    let s = steps(&Raise {
        lowering: Some(Lowering { stretch_s: Span::from_minutes(180.0), usual_pa: by, most_pa: by, quick: None }),
        ..raise(ScheduleName::Quarters, 8.0, 6.0, 3600.0)
    });
    let last = s.last().unwrap();
    assert_eq!((last.target_pa, last.hold_s), (GaugePressure::from_bar(8.0), 4.0 * 3600.0));
    insta::assert_snapshot!(last.words);
}

/// Gas stops first at the lesser of half the test pressure and 170 kPa, then as the fine schedule has it, whatever was chosen for water.
#[test]
fn pinned_steps_of_a_raise_with_gas() {
    let s = steps(&Raise {
        first_stop: Some(GaugePressure::from_bar(1.7)),
        look: Some(GaugePressure::from_bar(10.0)),
        ..raise(ScheduleName::Quarters, 11.0, 10.0, 600.0)
    });
    insta::assert_snapshot!(
        s.iter().map(|s| format!("{:.1} bar, {:.0} s: {}", s.target_pa.bar(), s.hold_s, s.words)).collect::<Vec<_>>().join("\n")
    );
}

#[test]
fn restore_release_first_restore_vent_first_order_of_restoring() {
    let said = |kind, booked: &[E]| pack::acts::out_of_order(kind, pack::acts::Stage::of(booked));
    assert!(said(E::HoldEnded, &[E::StepReached]).unwrap().contains("No hold has begun"));
    assert!(said(E::HoldEnded, &[E::StepReached, E::PumpOff]).is_none());
    assert!(said(E::Drained, &[]).unwrap().contains("released"));
    assert!(said(E::VentOpened, &[]).unwrap().contains("released"));
    assert!(said(E::Drained, &[E::Released]).unwrap().contains("vent"));
    assert!(said(E::Drained, &[E::Released, E::VentOpened]).is_none());
    assert!(said(E::Repump, &[E::Released]).unwrap().contains("new attempt"));
}

#[test]
fn restore_all_back_a_blind_left_in_keeps_restore_open() {
    let mut blind =
        BoundaryItem { tag: "TB-3".into(), kind: BoundaryKind::Blind, place: "north end".into(), set_for_test: true, put_back: false };
    let done = [E::Released, E::VentOpened, E::Drained];
    assert!(!closed(&list(false, &done, std::slice::from_ref(&blind), &[], None)));
    blind.put_back = true;
    assert!(closed(&list(false, &done, &[blind.clone()], &[], None)));
    assert!(list(false, &[], &[blind], &[], None).iter().all(|l| l.done || l.waits_for.is_some() || l.event == Some(E::Released)));
}

fn people() -> People {
    People { performs: "sup".into(), inspects: "insp".into(), witnesses: "wit".into(), accepts: "own".into() }
}

#[test]
fn sign_order_signatures_come_in_order_from_the_people_named() {
    let none: [(Act, String); 0] = [];
    let try_sign = |signed: &[(Act, String)], act, person, role| objection(Form::Pack, Signers::One, &people(), signed, act, person, role);
    assert!(try_sign(&none, Act::Inspected, "insp", Role::Inspector).unwrap().contains("performed comes first"));
    assert!(try_sign(&none, Act::Performed, "insp", Role::Inspector).unwrap().contains("signed by the supervisor"));
    assert!(try_sign(&none, Act::Performed, "other", Role::Supervisor).unwrap().contains("signed by sup"));
    assert_eq!(try_sign(&none, Act::Performed, "sup", Role::Supervisor), None);
    let all: Vec<(Act, String)> = Act::VARIANTS.iter().map(|a| (*a, a.person(&people()).to_owned())).collect();
    assert!(try_sign(&all, Act::Accepted, "own", Role::Owner).unwrap().contains("superseded"));
    assert_eq!(next_act(Form::Pack, Signers::One, &[Act::Performed, Act::Inspected]), Some(Act::Witnessed));
}

#[test]
fn sign_different_nobody_signs_twice_in_a_pack() {
    let same = People { performs: "x".into(), inspects: "x".into(), ..people() };
    let said = objection(Form::Pack, Signers::One, &same, &[(Act::Performed, "x".into())], Act::Inspected, "x", Role::Inspector).unwrap();
    assert!(said.contains("different person"), "{said}");
}

#[test]
fn sign_quick_a_quick_test_needs_one_signature() {
    let me = People { performs: "own".into(), ..People::default() };
    assert_eq!(objection(Form::Quick, Signers::One, &me, &[], Act::Performed, "own", Role::Owner), None);
    assert!(objection(Form::Quick, Signers::One, &me, &[], Act::Performed, "sup", Role::Supervisor).is_some());
    assert_eq!(next_act(Form::Quick, Signers::One, &[Act::Performed]), None);
    assert!(Act::Performed.statement(Form::Quick, Signers::One, terms::Outcome::Meets).contains("not a certificate"));
}

#[test]
fn the_spine_always_has_ten_steps_and_owes_only_what_is_begun() {
    let mut f = SpineFacts {
        proven_to: false,
        against_prove: 0,
        claim_words: "both claims, water".into(),
        derive: DeriveStands::NoParts,
        boundary: (0, 0),
        gates: (1, 4, "no permit".into()),
        released_for_test: String::new(),
        filled: false,
        raise: (0, 4),
        hold_since: String::new(),
        hold_ended: false,
        stopped: false,
        verdict: String::new(),
        restore: (0, 3),
        signed: (0, 4),
    };
    let states = |f: &SpineFacts| spine(f).iter().map(|s| s.state).collect::<Vec<_>>();
    use StepState::*;
    assert_eq!(states(&f), [Owes, Owes, Collapsed, Owes, Waiting, Waiting, Waiting, Waiting, Waiting, Waiting]);
    f.proven_to = true;
    f.derive = DeriveStands::Planned { pressure: "25.7 bar".into(), gauge: "PG-1".into() };
    f.boundary = (2, 2);
    f.gates.0 = 4;
    f.released_for_test = "07:40".into();
    f.filled = true;
    f.raise.0 = 4;
    f.hold_since = "09:12".into();
    assert_eq!(states(&f), [Done, Done, Done, Done, Done, Done, Now, Waiting, Waiting, Waiting]);
    // let out at its second step: what comes next is to put it back and sign what was seen
    let stopped = SpineFacts { stopped: true, raise: (2, 4), hold_since: String::new(), verdict: "not complete".into(), ..f.clone() };
    assert_eq!(states(&stopped)[4..], [Done, Collapsed, Collapsed, Done, Now, Waiting]);
    assert_eq!(spine(&stopped)[5].words, "stopped at 2 of 4 steps");
    assert_eq!(states(&SpineFacts { restore: (3, 3), ..stopped })[8..], [Done, Now]);
    f.hold_ended = true;
    f.verdict = "pass".into();
    f.restore.0 = 3;
    assert_eq!(states(&f)[6..], [Done, Done, Done, Now]);
    // a step of the raise that nobody booked is not the next thing once it was held
    f.raise.0 = 2;
    f.signed.0 = 4;
    assert_eq!(states(&f)[4..], [Done; 6]);
}

#[test]
fn restore_derated_derating_closes_on_valve_switch_and_tag() {
    use pack::plan::Derating;
    let done = [E::Released, E::VentOpened, E::Drained];
    let mut derating = Derating { valve: "PSV-9 at 6 bar, certificate 118".into(), switch: "PS-9 at 5.5 bar".into(), tag: String::new() };
    let open: Vec<String> = list(false, &done, &[], &[], Some(&derating)).into_iter().filter(|l| !l.done).map(|l| l.sentence).collect();
    assert_eq!(open, ["The tag carries the reduced pressure (entered on Prove)."]);
    derating.tag = "plate P-9".into();
    assert!(closed(&list(false, &done, &[], &[], Some(&derating))));
}

/// Gas is let out, not drained; nobody goes in before there is air to breathe. A run of before, booked as drained, stays closed.
#[test]
fn after_a_gas_test_air_to_breathe_is_proved_before_anybody_goes_in() {
    let of = |booked: &[E]| list(true, booked, &[], &[], None);
    let words: Vec<String> = of(&[]).into_iter().map(|l| l.sentence).collect();
    assert!(words.iter().all(|w| !w.contains("Drain") && !w.contains("bleed valve")), "{words:?}");
    assert!(words[2].contains("air to breathe"), "{words:?}");
    assert!(!closed(&of(&[E::Released, E::VentOpened])));
    assert!(closed(&of(&[E::Released, E::VentOpened, E::AirProved])) && closed(&of(&[E::Released, E::VentOpened, E::Drained])));
}

#[test]
fn restore_promised_what_is_owed_is_done_or_carried_over_by_name() {
    let done = [E::Filled, E::PumpOff, E::Released, E::VentOpened, E::Drained];
    let owed = pack::registers::StillOwed {
        what: "the shell".to_owned(),
        kind: pack::registers::OwedKind::InsideLook,
        person: "inspector".to_owned(),
        due: "2026-07-01".to_owned(),
        figure: String::new(),
        carried: false,
        done: false,
    };
    let left =
        |owed: pack::registers::StillOwed| list(false, &done, &[], &[owed], None).into_iter().filter(|l| !l.done).collect::<Vec<_>>();
    let open = left(owed.clone());
    assert_eq!(open.len(), 1);
    assert_eq!(open[0].sentence, "Look inside: the shell; inspector, until 2026-07-01.");
    assert!(left(pack::registers::StillOwed { carried: true, ..owed.clone() }).is_empty());
    assert!(left(pack::registers::StillOwed { done: true, figure: "clean".to_owned(), ..owed }).is_empty());
}

#[test]
fn sign_looked_every_place_is_closed_in_this_attempt_before_a_signature() {
    use pack::looks::not_looked_at;
    use pack::registers::{LookAt, LookFound, LookKind};
    let open = |n: usize| -> Vec<LookAt> { (0..n).map(|i| LookAt::open(format!("joint {i}"), LookKind::Original)).collect() };
    let closed = |attempt| LookAt { found: LookFound::Dry, looked: true, attempt, ..LookAt::open("weld 1", LookKind::Original) };
    assert_eq!(not_looked_at(&[], 1), None);
    assert_eq!(not_looked_at(&[closed(2)], 2), None);
    // what was dry in the attempt before is looked at again
    assert!(not_looked_at(&[closed(1)], 2).unwrap().starts_with("Not looked at in this attempt: weld 1. "));
    assert!(not_looked_at(&open(7), 1).unwrap().contains("joint 4 and 2 more."));
}

#[test]
fn sign_by_hand_is_never_the_testers_and_never_a_packs() {
    let said = |form, signers, done: &[Act], act| by_hand_objection(form, signers, done, act);
    for signers in Signers::VARIANTS.iter().copied() {
        let acts = signers.acts();
        assert_eq!(acts.first(), Some(&Act::Performed), "whoever tested signs first");
        assert!(said(Form::Quick, signers, &[], Act::Performed).unwrap().contains("own account"), "{signers:?}");
        for (i, act) in acts.iter().enumerate().skip(1) {
            assert_eq!(said(Form::Quick, signers, &acts[..i], *act), None, "{signers:?} {act:?}");
            assert!(said(Form::Quick, signers, &acts[..i - 1], *act).is_some(), "out of its turn: {signers:?} {act:?}");
            assert!(said(Form::Quick, signers, &acts[..=i], *act).unwrap().contains("already signed"));
            assert!(said(Form::Pack, signers, &Act::VARIANTS[..i], *act).unwrap().contains("have an account"));
        }
    }
    assert!(said(Form::Quick, Signers::One, &[Act::Performed], Act::Accepted).unwrap().contains("Every signature"));
    assert!(!HandWay::Here.authenticated() && HandWay::Link.authenticated());
    assert!(HandWay::Here.proviso().contains("no authority accepts anything by it"));
}

#[test]
fn on_a_quick_test_the_second_signature_is_another_persons() {
    let me = People { performs: "own".into(), ..People::default() };
    let signed = [(Act::Performed, "own".to_owned())];
    let said = |person, role| objection(Form::Quick, Signers::OwnerAndTester, &me, &signed, Act::Accepted, person, role);
    assert!(said("own", Role::Owner).unwrap().contains("another person's signature"));
    assert_eq!(said("other", Role::Owner), None);
    assert!(said("reader", Role::Reader).is_some());
    let named = People { accepts: "landlord".into(), ..me.clone() };
    let said = objection(Form::Quick, Signers::OwnerAndTester, &named, &signed, Act::Accepted, "other", Role::Owner).unwrap();
    assert!(said.contains("landlord"), "{said}");
    // alone it is the owner's information; with others the tester states what was done
    let stated = |signers| Act::Performed.statement(Form::Quick, signers, terms::Outcome::Meets);
    assert!(stated(Signers::One).contains("not a certificate") && !stated(Signers::OwnerAndTester).contains("owner's information"));
}
