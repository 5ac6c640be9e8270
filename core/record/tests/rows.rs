//! A record of the fourth format carries the rows of its run: the hold is gathered from them again, and whoever alters one is found out.

use moment::Zone;
use pack::signing::{Act, Form, Signers};
use record::key::SealingKey;
use record::sealed::*;
use record::verify::{Verification, verify};
use run::Run;
use run::file::RunFile;

/// The day of the published example, as it would be sealed.
fn parts(change: impl FnOnce(&mut RunFile)) -> Parts {
    let mut file: RunFile = serde_json::from_str(include_str!("../../../docs/formats/run.example.json")).unwrap();
    change(&mut file);
    let released_at = file.released_at.to_string();
    let (run, _, _) = file.open().unwrap();
    of(&run, released_at)
}

fn of(run: &Run, released_at: String) -> Parts {
    let zone = "Asia/Kathmandu";
    let case = run.case(&Zone::named(zone).unwrap()).unwrap();
    let frozen = run.frozen();
    Parts {
        subject: Subject {
            pack_number: "SC-021".into(),
            title: frozen.title.clone(),
            form: Form::Quick,
            signers: Some(Signers::One),
            attempt: 1,
            released_at,
            follows_attempt: None,
            supersedes: None,
            supersedes_reason: None,
            site: "Merrowick Works".into(),
            zone: zone.into(),
            software: "0.1.0".into(),
            released_by_rules: String::new(),
            training_clock_rate: None,
            practice: false,
        },
        plan: frozen.plan.clone(),
        system: run.facts().system.clone(),
        derived: run.window().unwrap().clone(),
        derivations: vec![],
        schedule: run.facts().schedule.clone(),
        instruments: frozen.instruments.clone(),
        punch: vec![],
        boundary: vec![],
        events: vec![],
        sources: Sources { typed: vec![], files: vec![], recorded: vec![] },
        judgement: judge::judge(&case),
        readings: case,
        restore: vec![],
        looks: vec![],
        promises: vec![],
        decisions: vec![],
        gates: vec![],
        earlier: vec![],
        cautions: vec![],
        booked: vec![],
        rows: Some(run.recorded_rows().packed()),
    }
}

fn key() -> SealingKey {
    SealingKey::from_bytes([7; 32])
}

fn sealed(parts: &Parts) -> Vec<u8> {
    let content = Content::new(parts).unwrap();
    let signed = SignedStatement {
        act: Act::Performed,
        person: "supervisor".into(),
        role: pack::people::Role::Supervisor,
        statement: Act::Performed.statement(Form::Quick, Signers::One, terms::Outcome::Meets).to_owned(),
        by_hand: None,
        signed_at: "2026-06-01T12:00:00Z".into(),
        content_sha256: content.sha256().unwrap(),
        previous_sha256: String::new(),
        ed25519: String::new(),
    };
    content.seal(&[signed.sign(None, &key()).unwrap()], &key()).unwrap().1
}

#[track_caller]
fn found_out(parts: &Parts, why: &str) {
    match verify(&sealed(parts), None) {
        Verification::Altered { parts, sentence } => {
            assert_eq!(parts, ["readings"], "{sentence}");
            assert!(sentence.contains(why), "{sentence}");
        }
        other => panic!("{other:?}"),
    }
}

#[test]
fn the_hold_is_gathered_again_from_the_rows() {
    let parts = parts(|_| {});
    assert_eq!(Content::new(&parts).unwrap().format(), FORMAT);
    match verify(&sealed(&parts), Some(&key().public())) {
        Verification::Genuine { checked, .. } => assert!(checked.iter().any(|c| c.contains("follow from the inputs")), "{checked:?}"),
        other => panic!("{other:?}"),
    }
}

/// Sealed with the right key by whoever holds it, and still not what the rows say.
#[test]
fn rows_that_say_another_hold_are_found_out() {
    let honest = parts(|_| {});
    let other = parts(|file| file.rows.ticks[80].values[0].value = Some(25.1e5));
    found_out(&Parts { rows: other.rows, ..honest.clone() }, "readings are not those");
    let other = parts(|file| file.rows.events.retain(|e| e.kind != terms::EventKind::LookDone));
    found_out(&Parts { rows: other.rows, ..honest.clone() }, "besides its readings");
    let other = parts(|file| file.rows.corrections.clear());
    found_out(&Parts { rows: other.rows, ..honest.clone() }, "besides its readings");
    let mut cut = honest.clone();
    cut.rows.as_mut().unwrap().ticks[0].pop();
    found_out(&cut, "damaged");
    let mut none = honest;
    none.rows.as_mut().unwrap().events.clear();
    found_out(&none, "they hold none");
}

/// A certificate counts by the days of the zone: 23:30 UTC is the next day in Kathmandu.
#[test]
fn certificates_count_by_the_days_of_the_zone() {
    let late = |file: &mut RunFile| {
        file.release.instruments[0].valid_until = pack::instrument::IsoDate("2026-06-01".into());
        let by = 15.0 * 3600.0;
        file.released_at = file.released_at.plus_s(by);
        let us = (by * 1e6) as i64;
        file.rows.events.iter_mut().for_each(|e| e.at = e.at.plus_s(by));
        file.rows.ticks.iter_mut().for_each(|t| (t.at_us, t.run_us) = (t.at_us + us, t.run_us + us));
        file.rows.typed.clear();
        file.rows.recordings.clear();
        file.rows.clock_sets.clear();
    };
    let parts = parts(late);
    let said = &parts.readings.acceptance.instrument_objections;
    assert!(said.iter().any(|s| s.contains("ran out on 2026-06-01")), "{said:?}");
    let run = parts.run().unwrap().unwrap();
    assert!(run.case(&Zone::utc()).unwrap().acceptance.instrument_objections.is_empty());
    assert!(matches!(verify(&sealed(&parts), None), Verification::Genuine { .. }));
}
