//! The paper from the example record: what it says, that it carries the sealed file, that it is vector, that it is quick and small.

use pack::registers::{BoundaryItem, BoundaryKind};
use paper::attached::{NoSealedFile, sealed_file};
use paper::check::{Pages, check};
use paper::{Document, Form, Paper, Press};
use record::sealed::SealedRecord;
use record::verify::{Verification, verify};
use report::Typesetter;

const EXAMPLE: &[u8] = include_bytes!("../../../docs/formats/sealed-record.example.json");

fn record() -> SealedRecord {
    serde_json::from_slice(EXAMPLE).unwrap()
}

fn document(r: &SealedRecord) -> Document<'_> {
    Document { parts: &r.parts, signatures: &r.signatures, seal: Some(&r.seal), site: "Merrowick Works" }
}

#[test]
fn a_report_carries_its_sealed_file_byte_for_byte() {
    let r = record();
    for (paper, form) in [(Paper::A4, Form::Report), (Paper::Letter, Form::Report), (Paper::A4, Form::Certificate)] {
        let made = Typesetter.pdf(&document(&r), Some(EXAMPLE.to_vec()), paper, form).unwrap();
        assert!(made.starts_with(b"%PDF-1."));
        let inside = sealed_file(&made).unwrap();
        assert_eq!(inside, EXAMPLE);
        assert!(matches!(verify(&inside, None), Verification::Genuine { .. }));
    }
}

/// All text of the pages of the example.
fn text(form: Form) -> String {
    text_of(&record(), form)
}

/// All text of the pages, from the PDF itself.
fn text_of(r: &SealedRecord, form: Form) -> String {
    let made = Typesetter.pdf(&document(r), Some(EXAMPLE.to_vec()), Paper::A4, form).unwrap();
    let parsed = lopdf::Document::load_mem(&made).unwrap();
    // no raster: every chart is drawn
    let images = parsed
        .objects
        .values()
        .filter(|o| o.as_stream().is_ok_and(|s| s.dict.get(b"Subtype").and_then(|t| t.as_name()).is_ok_and(|n| n == b"Image")));
    assert_eq!(images.count(), 0);
    let pages: Vec<u32> = parsed.get_pages().keys().copied().collect();
    parsed.extract_text(&pages).unwrap()
}

#[test]
fn the_paper_says_the_verdict_first_and_then_all_that_it_rests_on() {
    let all = text(Form::Report).split_whitespace().collect::<Vec<_>>().join(" ");
    let said = [
        "Pressure test report",
        "Owner's information, not a certificate.",
        "By the basis Meets",
        "About a leak No leak is shown",
        "What was read Fell",
        "The test",
        "Working pressure",
        "Test pressure",
        "Held from",
        "Read in the hold least",
        "Hold, the last per cent",
        "The whole run",
        "The hold as a round chart",
        "Events",
        "No leak was seen.",
        "What this test could not have shown",
        "Rule by rule",
        "Derivation",
        "not checked against the published edition",
        "Parts and window",
        "Instruments",
        "Where the readings come from",
        "Put back",
        "The adopted code, the local law and a licensed or appointed person decide",
        "Signatures",
        "I carried out this test as recorded.",
        "Content SHA-256",
    ];
    let places: Vec<usize> = said
        .iter()
        .map(|words| {
            let from = all.find(words);
            from.unwrap_or_else(|| panic!("the paper does not say \"{words}\": {all}"))
        })
        .collect();
    // the basis is named in the facts too, so clauses alone may come earlier than their place in the list
    let earlier = ["not checked against the published edition", "Instruments"];
    let order: Vec<usize> = said.iter().zip(&places).filter(|(words, _)| !earlier.contains(words)).map(|(_, p)| *p).collect();
    assert!(order.windows(2).all(|w| w[0] < w[1]), "{order:?}");
    let r = record();
    let seal: String = r.seal.content_sha256.chars().take(16).collect();
    let count = |words: &str| all.matches(words).count();
    let sheets = count("page ");
    assert!(count(&format!("seal {seal}")) >= 3 && sheets >= 3, "seal and page stand on every sheet");
}

/// A limit is never printed higher than it is, nor what is needed lower, however coarse the gauge; and times say whose they are.
#[test]
fn the_paper_rounds_to_the_safe_side_and_names_the_zone_of_its_times() {
    let mut r = record();
    r.parts.subject.zone = "Asia/Kathmandu".into();
    r.parts.readings.gauge.unit = quantity::PressureUnit::Bar;
    r.parts.readings.gauge.division_pa = quantity::PressureDifference::from_bar(1.0);
    r.parts.derived.lower_readable_pa = quantity::GaugePressure::from_bar(12.2);
    r.parts.derived.upper_shown_pa = quantity::GaugePressure::from_bar(29.98);
    let all = text_of(&r, Form::Report).split_whitespace().collect::<Vec<_>>().join(" ");
    let after = |words: &str| {
        all.split(words).nth(1).unwrap_or_else(|| panic!("no {words} in {all}")).trim_start().chars().take(8).collect::<String>()
    };
    assert!(after("Gauge shows at least").starts_with("13 bar"), "{}", after("Gauge shows at least"));
    assert!(after("Gauge shows at most").starts_with("29.9 bar"), "{}", after("Gauge shows at most"));
    assert!(all.contains("Times in Asia/Kathmandu.") && !all.contains("UTC"), "{all}");
}

#[test]
fn what_carries_none_is_said_in_a_sentence() {
    let r = record();
    let bare = Typesetter.pdf(&document(&r), None, Paper::A4, Form::Report).unwrap();
    assert_eq!(sealed_file(&bare), Err(NoSealedFile::None));
    assert!(sealed_file(&bare).unwrap_err().to_string().contains("carries no sealed record"));
    assert!(matches!(sealed_file(b"%PDF-1.7 and then nothing"), Err(NoSealedFile::Unreadable(_))));
}

#[test]
fn pages_that_were_touched_are_told_from_those_that_were_printed() {
    let r = record();
    for (paper, form) in [(Paper::A4, Form::Report), (Paper::Letter, Form::Report), (Paper::A4, Form::Certificate)] {
        let made = Typesetter.pdf(&document(&r), Some(EXAMPLE.to_vec()), paper, form).unwrap();
        assert_eq!(check(&made, &Typesetter).unwrap().1, Pages::AsPrinted, "{paper:?} {form:?}");
    }
    let made = Typesetter.pdf(&document(&r), Some(EXAMPLE.to_vec()), Paper::Letter, Form::Certificate).unwrap();
    let (sealed, pages) = check(&made, &Typesetter).unwrap();
    assert_eq!((sealed.as_slice(), pages), (EXAMPLE, Pages::AsPrinted));
    // another site's name on the same record: the sealed file is whole, the pages are not those that were printed
    let mut other = made.clone();
    let at = other.windows(9).position(|w| w == b"Merrowick").unwrap();
    other[at] = b'N';
    let (sealed, pages) = check(&other, &Typesetter).unwrap();
    assert_eq!((sealed.as_slice(), pages), (EXAMPLE, Pages::NotAsPrinted));
}

#[test]
fn the_same_record_gives_the_same_bytes() {
    let r = record();
    let made = || Typesetter.pdf(&document(&r), Some(EXAMPLE.to_vec()), Paper::A4, Form::Report).unwrap();
    assert!(made() == made(), "a report depends on something else than its record");
}

#[test]
fn a_certificate_is_one_page_and_a_report_says_draft_until_it_is_signed() {
    let r = record();
    assert_eq!(Typesetter.pages(&document(&r), Paper::A4, Form::Certificate).unwrap().len(), 1);
    assert_eq!(Typesetter.pages(&document(&r), Paper::Letter, Form::Certificate).unwrap().len(), 1);
    // a long one is set smaller, not over two pages
    let mut long = record();
    long.parts.judgement.sentence = long.parts.judgement.sentence.repeat(6);
    long.parts.instruments = long.parts.instruments.iter().cycle().take(9).cloned().collect();
    assert_eq!(Typesetter.pages(&document(&long), Paper::Letter, Form::Certificate).unwrap().len(), 1);
    let draft = Document { signatures: &[], seal: None, ..document(&r) };
    let all = Typesetter.pages(&draft, Paper::A4, Form::Report).unwrap();
    assert!(all.len() >= 3, "{} pages", all.len());
    assert!(all.iter().all(|p| p.starts_with("<svg") && !p.contains("<image")), "a page is a picture made of points");
}

/// A line that governs and a restriction that somebody declared not to be there stand on the paper with who said so.
#[test]
fn the_paper_says_which_line_governs_and_what_was_declared_not_there() {
    let mut r = record();
    let governs = r.parts.derived.lower_part.clone();
    for part in &mut r.parts.derived.parts {
        part.design_pa = (part.tag == governs).then(|| quantity::GaugePressure::from_bar(5.0));
    }
    r.parts.system.parts[0].none.insert("proven_pa".into(), "boiler-owner".into());
    let made = Typesetter.pdf(&document(&r), None, Paper::A4, Form::Report).unwrap();
    let parsed = lopdf::Document::load_mem(&made).unwrap();
    let pages: Vec<u32> = parsed.get_pages().keys().copied().collect();
    let all = parsed.extract_text(&pages).unwrap().split_whitespace().collect::<Vec<_>>().join(" ");
    assert!(all.contains("whose line is rated 5.0"), "{all}");
    assert!(all.contains("an earlier proof of") && all.contains("by boiler-owner"), "{all}");
}

/// A note in the letters of the world's sites, with signs that no face has and signs that would turn a sentence round.
const EVERYWHERE: [&str; 11] = [
    "Łódź, Þórshöfn, Đà Nẵng, Čačak, şğı, µ, ½",
    "Αθήνα, δοκιμή πίεσης",
    "Київ, Өскемен, Ђаково: испытание",
    "اختبار الضغط عند 26 bar",
    "מבחן לחץ 26 bar",
    "दबाव परीक्षण क्षेत्र",
    "การทดสอบแรงดันน้ำ",
    "压力试验 壓力試驗 耐圧テスト",
    "압력 시험",
    "drip \u{1f4a7}\u{1f468}\u{200d}\u{1f527} \u{202e}rab 62\u{202c} \u{e000}\u{0}\u{7}\u{fffe}\u{301}",
    "क\u{301}\u{5b0}ا\u{64b}ก\u{301}한\u{302}\u{fe0f}",
];

#[test]
fn a_note_in_any_script_is_printed_and_never_keeps_the_record_from_the_paper() {
    let mut r = record();
    for (event, note) in r.parts.events.iter_mut().zip(EVERYWHERE.iter().cycle()) {
        event.note = (*note).to_owned();
    }
    r.parts.subject.title = EVERYWHERE.join(" ");
    r.parts.system.parts[0].tag = EVERYWHERE[8].to_owned();
    for form in [Form::Report, Form::Certificate] {
        let pdf = Typesetter.pdf(&document(&r), None, Paper::A4, form).unwrap();
        assert!(pdf.starts_with(b"%PDF"));
    }
    let pages = Typesetter.pages(&document(&r), Paper::A4, Form::Report).unwrap();
    assert!(pages.len() > 1);
}

proptest::proptest! {
    #![proptest_config(proptest::test_runner::Config { cases: 12, failure_persistence: None, ..Default::default() })]
    #[test]
    fn whatever_somebody_writes_is_printed(note in "\\PC{0,60}", title in proptest::collection::vec(proptest::char::any(), 1..40)) {
        let mut r = record();
        r.parts.events[0].note = note;
        r.parts.subject.title = title.into_iter().collect();
        let printed = Typesetter.pdf(&document(&r), None, Paper::A4, Form::Certificate);
        proptest::prop_assert!(printed.is_ok(), "{:?}", printed.err());
    }
}

/// A booking by hand of a record, at a time of its run.
fn by_hand(kind: terms::EventKind, clock: &str, figure: Option<f64>, of: Option<&str>) -> record::sealed::RecordedEvent {
    record::sealed::RecordedEvent {
        id: format!("{kind:?}"),
        at: format!("2026-06-01T{clock}:00Z"),
        kind,
        place: None,
        looked: None,
        volume_m3: None,
        figure,
        of: of.map(str::to_owned),
        note: String::new(),
        by: "boiler-owner".into(),
        stored_at: String::new(),
    }
}

#[test]
fn what_stood_before_the_hold_is_printed_and_only_what_was_booked() {
    use terms::EventKind as K;
    let mut r = record();
    let plain = text_of(&r, Form::Report);
    assert!(!plain.contains("Low gas test") && !plain.contains("Attempts before") && plain.contains("Next test"));
    assert!(plain.contains("nobody named a day"));
    r.parts.subject.released_at = "2026-06-01T07:00:00Z".into();
    r.parts.events.extend([
        by_hand(K::GasOn, "07:05", Some(1.5e5), None),
        by_hand(K::Soaped, "07:09", None, Some("soap on every joint")),
        by_hand(K::GasOff, "07:20", None, None),
        by_hand(K::FillBegun, "07:30", None, Some("from the bottom")),
        by_hand(K::VentRan, "07:40", Some(300.0), Some("dome")),
        by_hand(K::Hammered, "08:10", Some(14.0), Some("firebox stays")),
    ]);
    r.parts.gates = serde_json::from_str(r#"[{ "rule": "GATE-PUNCH-A", "found": "No open A item." }]"#).unwrap();
    r.parts.earlier = vec![record::sealed::EarlierAttempt {
        number: 1,
        released_at: "2026-05-28T07:00:00Z".into(),
        outcome: Some(terms::Outcome::DoesNotMeet),
        leaks: vec![record::sealed::SeenLeak { class: Some(terms::LeakPlace::TubeEnd), place: "third tube from the left".into() }],
        content_sha256: String::new(),
    }];
    r.parts.plan.next_test = Some(pack::plan::NextTest { on: "2027-06-01".into(), by: "the club's rule".into() });
    let all = text_of(&r, Form::Report).split_whitespace().collect::<Vec<_>>().join(" ");
    for words in [
        "Low gas test 1.50 bar at 07:05:00, soap on every joint, let out at 07:20:00",
        "Filled begun from the bottom at 07:30:00",
        "Vents ran clear dome, 5 min at 07:40:00",
        "Stays sounded firebox stays, 14 at 08:10:00",
        "Next test 2027-06-01, by the club's rule",
        "Passed at the release",
        "No open A item.",
        "does not meet, not signed",
        "tube end: third tube from the left",
    ] {
        assert!(all.contains(words), "the paper does not say \"{words}\": {all}");
    }
}

/// An objection to one gauge says nothing of another whose tag begins alike.
#[test]
fn what_speaks_against_one_instrument_is_printed_at_that_one() {
    let mut r = record();
    let tag = r.parts.system.gauge.tag.clone();
    r.parts.readings.acceptance.instrument_objections =
        vec![format!("{tag}0: certificate MC-9 ran out on 2026-01-01. Have it calibrated.")];
    assert!(!text_of(&r, Form::Report).contains("not within it"));
    r.parts.readings.acceptance.instrument_objections = vec![format!("{tag} was driven past its scale: what it reads counts for nothing.")];
    assert!(text_of(&r, Form::Report).contains("not within it"));
}

#[test]
fn a_practice_report_is_no_draft_of_a_record() {
    let mut r = record();
    r.parts.plan.run = pack::plan::RunKind::Practice;
    r.parts.subject.practice = true;
    r.signatures.clear();
    let all = text_of(&r, Form::Report);
    assert!(all.contains("Practice report: no test was made") && all.contains("PRACTICE"), "{all}");
    assert!(!all.contains("Draft.") && !all.contains("Signatures") && !all.contains("Pressure test report"), "{all}");
}

/// What was put in for the test is out again and what was taken out is back, or the page says which is not.
#[test]
fn the_page_says_which_blind_is_still_in() {
    let mut r = record();
    let item =
        |tag: &str, kind, put_back| BoundaryItem { tag: tag.into(), kind, place: "at the header".into(), set_for_test: true, put_back };
    r.parts.boundary = vec![
        item("BL-1", BoundaryKind::Blind, true),
        item("BL-2", BoundaryKind::Blind, true),
        item("SS-4", BoundaryKind::RemovedItem, true),
    ];
    let page = text_of(&r, Form::Certificate);
    assert!(page.contains("BL-1, BL-2; both out again") && page.contains("SS-4; back"), "{page}");
    r.parts.boundary[1].put_back = false;
    let page = text_of(&r, Form::Certificate);
    assert!(page.contains("BL-1, BL-2; not out again: BL-2"), "{page}");
}

/// A run that was let out before its hold: nothing is printed as held, and what was decided stands on the page.
#[test]
fn a_page_of_a_stopped_run_says_that_nothing_was_held_and_what_was_decided() {
    let mut r = record();
    r.parts.readings.stopped = true;
    r.parts.decisions = vec![pack::registers::Decision {
        what: "shell beside the foot".into(),
        attempt: 1,
        way: pack::registers::Remedy::Scrap,
        how: "wall gone, cut up".into(),
        person: "owner".into(),
        due: "2026-12-20".into(),
        done: false,
    }];
    let page = text_of(&r, Form::Certificate);
    assert!(page.contains("not held; let out at") && !page.contains("Read in the hold"), "{page}");
    assert!(page.contains("Decided") && page.contains("wall gone, cut up"), "{page}");
    assert!(!text_of(&r, Form::Report).contains("round chart"));
}
