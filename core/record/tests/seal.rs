//! The seal: every byte counts, no other key passes, and an alteration names its part.

use judge::case::*;
use judge::{HoldCase, judge};
use pack::instrument::IsoDate;
use pack::people::{People, Role};
use pack::plan::Plan;
use pack::signing::{Act, Form, HandWay, Signers};
use physics::exposure::Exposure;
use physics::system::Segment;
use quantity::*;
use record::key::SealingKey;
use record::sealed::*;
use record::verify::{Verification, verify};
use rules::system::{System, derive};
use terms::Claim;
use terms::EventKind;
use terms::Term;
use terms::ThermometerPlace;
use terms::VariantArray;

fn system() -> System {
    serde_json::from_str(
        r#"{"title":"line","basis":{"id":"b31_3","design_pressure_pa":1600000,"design_temperature_c":38},
            "parts":[{"tag":"run","kind":"pipe","elevation_m":18.5,"outside_diameter_m":0.1683,"wall_m":0.00711,"length_m":120,"material":"a106_b"},
                     {"tag":"flange","kind":"flange","elevation_m":1.0,"flange_class":150,"material":"a106_b"}],
            "gauge":{"tag":"PG-1","elevation_m":1.2,"full_scale_pa":4000000,"division_pa":10000,"error_of_scale":0.005},
            "water_temperature_c":15}"#,
    )
    .unwrap()
}

fn body(segment: Segment) -> CaseBody {
    CaseBody {
        segment,
        wall_unc_95_rel: 0.06,
        exposure: Exposure::Indoor,
        skin_lag_s: Span::from_s(2000.0),
        fluid_lag_s: Span::from_s(2300.0),
        lag_factor_95: 2.5,
        creep: None,
    }
}

fn parts() -> Parts {
    let system = system();
    let derived = derive(&system).unwrap();
    let readings: Vec<Reading> = (0..20)
        .map(|i| {
            let read = GaugePressure::from_bar(26.0 - 0.01 * f64::from(i % 2));
            Reading::new(RunTime::from_s(f64::from(i) * 60.0), Some(read), Some(Temperature::from_c(15.0)))
        })
        .collect();
    let case = HoldCase {
        format: 2,
        title: "line".into(),
        gas: None,
        bodies: system.shut_in().unwrap().segments.into_iter().map(body).collect(),
        air_fraction: 0.0,
        air_fraction_unc_95: 0.001,
        volume_unc_95_rel: 0.05,
        atmosphere_pa: STANDARD_ATMOSPHERE,
        expected_pa: GaugePressure::from_bar(26.0),
        heat: HeatBefore {
            fill_c: Temperature::from_c(15.0),
            fill_unc_95_k: TemperatureDifference::from_k(0.6),
            soak_s: Span::from_s(7200.0),
            surroundings_c: None,
            swing_k: None,
        },
        at_pressure_s: Span::from_s(600.0),
        gasketed_joints: 1,
        also_gauges: vec![],
        also_thermometers: vec![],
        overruled: vec![],
        clock_set: vec![],
        told_in: None,
        lowered: None,
        let_out_before_s: None,
        moved: vec![],
        decided: None,
        stopped: false,
        gauge: HoldGauge {
            tag: "PG-1".into(),
            elevation_m: Length::from_m(0.0),
            noise_pa: None,
            temperature_pa_per_k: 0.0,
            division_pa: PressureDifference::from_bar(0.1),
            full_scale_pa: GaugePressure::from_bar(40.0),
            error_of_scale: 0.005,
            unit: PressureUnit::Bar,
        },
        thermometer: Some(Thermometer {
            tag: "TT-1".into(),
            location: ThermometerPlace::Water,
            division_k: TemperatureDifference::from_k(0.1),
            error_k: TemperatureDifference::from_k(0.3),
            body: None,
            noise_k: None,
        }),
        readings,
        hold_start_s: RunTime::from_s(0.0),
        hold_end_s: RunTime::from_s(1140.0),
        events: vec![Event { t_s: RunTime::from_s(300.0), kind: EventKind::LookDone, place: None, volume_m3: None }],
        acceptance: Acceptance {
            claim: Claim::Both,
            lower_pa: derived.lower_pa,
            upper_pa: derived.upper_pa,
            look_pa: None,
            hold_floor_s: Span::from_s(600.0),
            required_sensitivity_m3_per_s: None,
            one_repump: false,
            pump_stays: false,
            loss_fails_strength: false,
            instrument_objections: vec![],
            criteria: vec![],
        },
    };
    let plan: Plan = serde_json::from_value(serde_json::json!({
        "object": "process_piping", "claim": "both", "why_now": "new", "basis": system.basis, "water_temperature_c": 15.0, "gauge_elevation_m": 1.2,
        "people": People { performs: "sup".into(), inspects: "insp".into(), witnesses: "wit".into(), accepts: "own".into() },
    }))
    .unwrap();
    Parts {
        subject: Subject {
            pack_number: "SW-014".into(),
            title: "line".into(),
            form: Form::Pack,
            signers: Some(Signers::Four),
            attempt: 1,
            released_at: "2026-06-01T07:40:00Z".into(),
            follows_attempt: None,
            supersedes: None,
            supersedes_reason: None,
            site: "Merrowick Works".into(),
            zone: String::new(),
            software: "0.1.0".into(),
            released_by_rules: String::new(),
            training_clock_rate: None,
            practice: false,
        },
        plan,
        derivations: vec![],
        schedule: vec![],
        instruments: vec![],
        punch: vec![],
        boundary: vec![],
        gates: vec![],
        earlier: vec![],
        events: vec![RecordedEvent {
            id: "e1".into(),
            at: "2026-06-01T08:00:00Z".into(),
            kind: terms::EventKind::LookDone,
            looked: None,
            volume_m3: None,
            figure: None,
            of: None,
            place: None,
            note: String::new(),
            by: "sup".into(),
            stored_at: "2026-06-01T08:00:02Z".into(),
        }],
        judgement: judge(&case),
        sources: Sources {
            typed: vec![RecordedReading {
                id: "r1".into(),
                at: "2026-06-01T09:30:00Z".into(),
                channel: "pressure".into(),
                of: None,
                as_typed: "376 psi".into(),
                value: 2.592e6,
                by: "reader".into(),
                struck: None,
                stored_at: "2026-06-01T09:30:03Z".into(),
            }],
            files: Vec::new(),
            recorded: vec![],
        },
        readings: case,
        restore: vec![],
        looks: vec![],
        promises: vec![],
        decisions: vec![],
        booked: vec![Booked { item: "SS-4".into(), act: BookedAct::Set, by: "fit".into(), stored_at: "2026-06-01T07:00:00Z".into() }],
        cautions: vec!["The adopted code, the local law and a licensed or appointed person decide.".into()],
        rows: None,
        derived,
        system,
    }
}

fn key(n: u8) -> SealingKey {
    SealingKey::from_bytes([n; 32])
}

fn signed(parts: &Parts, key: &SealingKey) -> Vec<SignedStatement> {
    let content = Content::new(parts).unwrap().sha256().unwrap();
    let mut all: Vec<SignedStatement> = Vec::new();
    for act in Act::VARIANTS.iter().copied() {
        let s = SignedStatement {
            act,
            person: act.person(&parts.plan.people).to_owned(),
            role: act.role(),
            statement: act.statement(Form::Pack, Signers::One, terms::Outcome::Meets).to_owned(),
            by_hand: None,
            signed_at: "2026-06-01T12:00:00Z".into(),
            content_sha256: content.clone(),
            previous_sha256: String::new(),
            ed25519: String::new(),
        };
        let s = s.sign(all.last(), key).unwrap();
        all.push(s);
    }
    all
}

fn seal(parts: &Parts, signatures: &[SignedStatement], key: &SealingKey) -> Vec<u8> {
    Content::new(parts).unwrap().seal(signatures, key).unwrap().1
}

fn sealed() -> Vec<u8> {
    let p = parts();
    seal(&p, &signed(&p, &key(7)), &key(7))
}

fn genuine(v: &Verification) -> bool {
    matches!(v, Verification::Genuine { .. })
}

#[test]
fn a_sealed_record_is_genuine() {
    let file = sealed();
    assert!(genuine(&verify(&file, None)), "{:?}", verify(&file, None));
    assert!(genuine(&verify(&file, Some(&key(7).public()))));
}

#[test]
fn what_somebody_without_an_account_signed_is_sealed_with_who_drew_it_and_that_nobody_proved_it() {
    let mut p = parts();
    p.subject.form = Form::Quick;
    p.subject.signers = Some(Signers::OwnerAndTester);
    p.subject.zone = "Europe/Lisbon".into();
    p.system.format = 2;
    let mut all = signed(&p, &key(7));
    all.truncate(1);
    let hand = SignedByHand {
        name: "Warden of the shed".into(),
        body: "the club".into(),
        number: "17".into(),
        way: HandWay::Here,
        authenticated: HandWay::Here.authenticated(),
        drawing: "M10 20L30 40".into(),
    };
    let drawn = SignedStatement { act: Act::Accepted, person: hand.name.clone(), by_hand: Some(hand), ..all[0].clone() };
    all.push(drawn.sign(all.last(), &key(7)).unwrap());
    let text = String::from_utf8(seal(&p, &all, &key(7))).unwrap();
    assert!(genuine(&verify(text.as_bytes(), None)), "{:?}", verify(text.as_bytes(), None));
    for (from, to) in [
        (r#""authenticated":false"#, r#""authenticated":true"#),
        ("Warden of the shed", "Warden of the yard"),
        (r#""number":"17""#, r#""number":"18""#),
        (r#""way":"here""#, r#""way":"link""#),
        ("M10 20L30 40", "M10 20L30 41"),
    ] {
        assert!(text.contains(from), "{from}");
        assert!(!genuine(&verify(text.replace(from, to).as_bytes(), None)), "{from}");
    }
    // a record of before says nothing of who signs, and is written as it was
    assert_eq!(Content::new(&p).unwrap().format(), record::sealed::FORMAT);
    p.subject.signers = None;
    assert_eq!(Content::new(&p).unwrap().format(), READS[4]);
}

#[test]
fn every_byte_of_a_sealed_file_flipped_is_found() {
    let file = sealed();
    let public = key(7).public();
    let mut tried = 0;
    for i in 0..file.len() {
        let mut bad = file.clone();
        bad[i] ^= 1 << (i % 7);
        let v = verify(&bad, Some(&public));
        assert!(!genuine(&v), "byte {i} ({:?}) flipped unseen", char::from(file[i]));
        tried += 1;
    }
    assert!(tried > 5_000, "{tried} bytes");
}

#[test]
fn bytes_added_or_taken_away_are_found() {
    let file = sealed();
    let mut longer = file.clone();
    longer.push(b'\n');
    assert!(!genuine(&verify(&longer, None)));
    assert!(!genuine(&verify(&file[..file.len() - 1], None)));
    assert!(matches!(verify(b"", None), Verification::Unreadable { .. }));
    assert!(matches!(verify(b"{}", None), Verification::Unreadable { .. }));
}

#[test]
fn an_alteration_names_its_part() {
    let text = String::from_utf8(sealed()).unwrap();
    for (from, to, part) in [
        ("\"pressure_pa\":2600000,\"t_s\":0", "\"pressure_pa\":2610000,\"t_s\":0", "readings"),
        ("\"by\":\"sup\"", "\"by\":\"her\"", "events"),
        ("\"by\":\"fit\"", "\"by\":\"sup\"", "booked"),
        ("\"pack_number\":\"SW-014\"", "\"pack_number\":\"SW-015\"", "subject"),
        ("\"person\":\"insp\"", "\"person\":\"insq\"", "signature: inspected"),
        ("\"fingerprint\":\"", "\"fingerprint\":\"0", "seal"),
    ] {
        assert!(text.contains(from), "{from}");
        let v = verify(text.replacen(from, to, 1).as_bytes(), None);
        let Verification::Altered { parts, sentence } = v else { panic!("{from}: {v:?}") };
        assert_eq!(parts, [part], "{sentence}");
    }
    let spaced = text.replacen("\"format\":", "\"format\": ", 1);
    assert!(matches!(verify(spaced.as_bytes(), None), Verification::Altered { parts, .. } if parts == ["form"]));
}

#[test]
fn altered_and_sealed_again_by_another_key_is_never_genuine_for_the_holder_of_the_right_key() {
    let mut p = parts();
    p.readings.readings[3].pressure_pa = Some(GaugePressure::from_bar(25.99));
    p.judgement = judge(&p.readings);
    let forged = seal(&p, &signed(&p, &key(9)), &key(9));
    assert!(genuine(&verify(&forged, None)), "consistent in itself, under its own key");
    let v = verify(&forged, Some(&key(7).public()));
    assert!(matches!(&v, Verification::Altered { sentence, .. } if sentence.contains("another key")), "{v:?}");
}

#[test]
fn a_verdict_that_does_not_follow_is_found_even_under_the_right_key() {
    let mut p = parts();
    p.judgement.sentence = "All is well.".into();
    let v = verify(&seal(&p, &signed(&p, &key(7)), &key(7)), Some(&key(7).public()));
    assert!(matches!(&v, Verification::Altered { parts, .. } if parts == &["judgement"]), "{v:?}");
}

/// A record by other rules is genuine, and says that nobody computed it again; the published example is by the rules of this version, so that a
/// change of any of its figures is seen.
#[test]
fn only_the_rules_that_judged_judge_again() {
    let said = |v: Verification| match v {
        Verification::Genuine { checked, .. } => checked.join(" "),
        other => panic!("{other:?}"),
    };
    let mut parts = parts();
    parts.judgement.rules_version = "0.0.1".to_owned();
    let earlier = said(verify(&seal(&parts, &signed(&parts, &key(42)), &key(42)), None));
    assert!(earlier.contains("was not recomputed") && earlier.contains("0.0.1"), "{earlier}");
    let example = said(verify(include_bytes!("../../../docs/formats/sealed-record.example.json"), None));
    assert!(example.contains("follow from the inputs"), "{example}");
}

#[test]
fn what_nobody_signed_is_no_record() {
    let p = parts();
    let v = verify(&seal(&p, &[], &key(7)), Some(&key(7).public()));
    assert!(matches!(&v, Verification::Unsigned { sentence } if sentence.contains("Nobody signed it")), "{v:?}");
}

#[test]
fn site_and_time_of_storing_are_sealed() {
    let text = String::from_utf8(sealed()).unwrap();
    for (from, to) in [
        ("Merrowick Works", "Merrowick Workz"),
        ("2026-06-01T08:00:02Z", "2026-06-01T08:00:01Z"),
        ("2026-06-01T09:30:03Z", "2026-06-01T09:30:01Z"),
    ] {
        assert!(text.contains(from), "{from}");
        assert!(matches!(verify(text.replace(from, to).as_bytes(), None), Verification::Altered { .. }), "{from}");
    }
    // content of the formats before has neither, and is written in them
    let mut now = parts();
    now.system.format = 2;
    now.subject.zone = "Asia/Kathmandu".into();
    assert_eq!(Content::new(&now).unwrap().format(), record::sealed::FORMAT);
    now.subject.zone = String::new();
    assert_eq!(Content::new(&now).unwrap().format(), READS[2]);
    now.subject.site = String::new();
    assert_eq!(Content::new(&now).unwrap().format(), READS[1]);
}

#[test]
fn signatures_cannot_be_dropped_or_reordered() {
    let p = parts();
    let mut s = signed(&p, &key(7));
    let mut whole: SealedRecord = serde_json::from_slice(&seal(&p, &s, &key(7))).unwrap();
    whole.signatures.pop();
    assert!(!genuine(&verify(&record::canonical::bytes(&whole).unwrap(), None)));
    s.swap(1, 2);
    assert!(!genuine(&verify(&seal(&p, &s, &key(7)), None)));
}

#[test]
fn the_file_is_the_canonical_form_of_the_record_and_each_hash_that_of_its_part() {
    let p = parts();
    let content = Content::new(&p).unwrap();
    let (_, file) = content.seal(&signed(&p, &key(7)), &key(7)).unwrap();
    let record: SealedRecord = serde_json::from_slice(&file).unwrap();
    assert_eq!(record.parts, p);
    assert_eq!(file, record::canonical::bytes(&record).unwrap());
    let serde_json::Value::Object(members) = serde_json::to_value(&p).unwrap() else { panic!("parts are an object") };
    let each: std::collections::BTreeMap<String, String> =
        members.iter().map(|(name, value)| (name.clone(), record::canonical::digest(value).unwrap())).collect();
    assert_eq!(record.seal.part_sha256, each);
    // kept as it was written, it is the same content
    let kept = Content::kept(content.canonical().to_vec()).unwrap();
    assert_eq!(kept.sha256().unwrap(), content.sha256().unwrap());
}

/// RFC 8785, 3.2.2.3 and 3.2.3: numbers as ECMAScript prints them, names sorted by UTF-16 code units.
#[test]
fn published_canonical_form() {
    let value: serde_json::Value = serde_json::from_str(
        r#"{"numbers":[333333333.33333329,1E30,4.50,2e-3,0.000000000000000000000000001],"literals":[null,true,false]}"#,
    )
    .unwrap();
    assert_eq!(
        String::from_utf8(record::canonical::bytes(&value).unwrap()).unwrap(),
        r#"{"literals":[null,true,false],"numbers":[333333333.3333333,1e+30,4.5,0.002,1e-27]}"#
    );
}

/// RFC 8032, 7.1, test 1 and 2: Ed25519 key pairs and signatures. FIPS 180-4 example: SHA-256 of "abc".
#[test]
fn published_keys_and_hashes() {
    for (secret, public, message, signature) in [
        (
            "9d61b19deffd5a60ba844af492ec2cc44449c5697b326919703bac031cae7f60",
            "d75a980182b10ab7d54bfed3c964073a0ee172f3daa62325af021a68f707511a",
            &b""[..],
            "e5564300c360ac729086e2cc806e828a84877f1eb8e5d974d873e065224901555fb8821590a33bacc61e39701cf9b46bd25bf5f0595bbe24655141438e7a100b",
        ),
        (
            "4ccd089b28ff96da9db6c346ec114e0f5b8a319f35aba624da8cf6ed4fb8a6fb",
            "3d4017c3e843895a92b70aa74d1b7ebc9c982ccf2ec4968cc0cd55f12af4660c",
            &b"\x72"[..],
            "92a009a9f0d4cab8720e820b5f642540a2b27b5416503f8fb3762223ebdb69da085ac1e43e15996e458f3613d0f11d8c387b2eaeb4302aeeb00d291612bb0c00",
        ),
    ] {
        let key = SealingKey::from_hex(secret).unwrap();
        assert_eq!(key.public().to_hex(), public);
        assert_eq!(key.sign(message), signature);
        assert!(key.public().verifies(message, signature));
    }
    assert_eq!(record::canonical::sha256_hex(b"abc"), "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad");
}

#[test]
fn dates_and_roles_survive_the_round_trip() {
    let d = IsoDate::new("2026-06-01").unwrap();
    assert_eq!(serde_json::to_string(&d).unwrap(), "\"2026-06-01\"");
    for r in Role::VARIANTS.iter().copied() {
        assert_eq!(Role::from_key(r.key()), Some(r));
    }
}
