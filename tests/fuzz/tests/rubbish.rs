//! Whatever bytes come, everything that reads a file answers: with what it read or with a sentence, in time, within its memory, and never by ending
//! the program.
//!
//! `FUZZ_INPUTS` sets how many inputs each reader gets (10 000 where it is not set), `FUZZ_SEED` another beginning.

use cpu_time::ProcessTime;
use fuzz::{damage, damaged};
use peak_alloc::PeakAlloc;
use proptest::test_runner::{Config, RngAlgorithm, TestRng, TestRunner};
use record::key::SealingKey;
use record::sealed::{Content, Parts, SealedRecord};
use record::verify::{Verification, verify};
use std::path::PathBuf;
use std::sync::{Mutex, PoisonError};
use std::time::{Duration, Instant};

#[global_allocator]
static MEMORY: PeakAlloc = PeakAlloc;

/// One reader at a time: what it holds of memory is what the program holds.
static ONE: Mutex<()> = Mutex::new(());

/// Most processor time for one input, in a build without optimisation of the outer crates: a machine that stands still for others is no slow reader.
const SLOWEST: Duration = Duration::from_secs(5);
/// Most memory of a reader of files, MB.
const READER_MB: f32 = 100.0;
/// Most memory of the check of a sealed file, MB.
const VERIFY_MB: f32 = 512.0;

fn kept(name: &str) -> Vec<u8> {
    let root = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../..");
    std::fs::read(root.join(name)).unwrap_or_else(|e| panic!("{name}: {e}"))
}

fn inputs() -> u32 {
    std::env::var("FUZZ_INPUTS").ok().and_then(|n| n.parse().ok()).unwrap_or(10_000)
}

/// Gives a reader its inputs. It says whether it read anything, so that a test whose every input is refused at the door is told from a good one.
fn fuzz(name: &str, most_mb: f32, good: &[Vec<u8>], reads: impl Fn(&[u8]) -> bool) {
    let _one = ONE.lock().unwrap_or_else(PoisonError::into_inner);
    for (i, file) in good.iter().enumerate() {
        assert!(reads(file), "{name}: good file {i} is not read");
    }
    let mut seed = [7_u8; 32];
    if let Some(other) = std::env::var("FUZZ_SEED").ok().and_then(|s| s.parse::<u64>().ok()) {
        seed[..8].copy_from_slice(&other.to_le_bytes());
    }
    let config = Config { cases: inputs(), failure_persistence: None, max_shrink_iters: 200, ..Config::default() };
    let mut runner = TestRunner::new_with_rng(config, TestRng::from_seed(RngAlgorithm::ChaCha, &seed));
    let (read, slowest, peak) = (std::cell::Cell::new(0_u32), std::cell::Cell::new(Duration::ZERO), std::cell::Cell::new(0_f32));
    let begun = Instant::now();
    let outcome = runner.run(&damage(), |(which, edits)| {
        let file = damaged(&good[which % good.len()], &edits);
        MEMORY.reset_peak_usage();
        let before = MEMORY.current_usage_as_mb();
        let asked = ProcessTime::now();
        read.set(read.get() + u32::from(reads(&file)));
        let (took, held) = (asked.elapsed(), MEMORY.peak_usage_as_mb() - before);
        slowest.set(slowest.get().max(took));
        peak.set(peak.get().max(held));
        assert!(took < SLOWEST, "{name} took {took:?} of a processor");
        assert!(held < most_mb, "{name} held {held} MB");
        Ok(())
    });
    println!(
        "{name}: {} inputs, {} of them read, in {:.1} s; slowest {:.0} ms, most memory {:.1} MB",
        inputs(),
        read.get(),
        begun.elapsed().as_secs_f64(),
        slowest.get().as_secs_f64() * 1e3,
        peak.get()
    );
    if let Err(e) = outcome {
        panic!("{name}: {e}");
    }
    assert!(read.get() > 0, "{name}: nothing was read at all");
}

#[test]
fn a_system() {
    fuzz("system", READER_MB, &[kept("tests/old_files/1/system.json")], |file| {
        let Ok(system) = serde_json::from_slice::<rules::system::System>(file) else { return false };
        let _ = rules::system::derive(&system);
        true
    });
}

/// The hold case of the old files with its first ten readings.
fn ten_readings() -> Vec<u8> {
    let mut case: serde_json::Value = serde_json::from_slice(&kept("tests/old_files/1/hold-case.json")).expect("a case");
    let readings = case["readings"].as_array_mut().expect("readings");
    readings.truncate(10);
    serde_json::to_vec(&case).expect("written")
}

#[test]
fn a_hold_case() {
    fuzz("hold case", READER_MB, &[ten_readings()], |file| {
        let Ok(case) = serde_json::from_slice::<judge::HoldCase>(file) else { return false };
        if case.usable().is_ok() {
            let judged = judge::judge(&case);
            assert!(!judged.sentence.is_empty());
        }
        true
    });
}

/// Each figure of a hold case, one at a time, at each edge of what can be counted.
#[test]
fn every_figure_of_a_hold_case_at_every_edge() {
    let _one = ONE.lock().unwrap_or_else(PoisonError::into_inner);
    let good = ten_readings();
    let (mut judged, mut slow) = (0, Vec::new());
    for (what, file) in fuzz::at_the_edges(&good) {
        let Ok(case) = serde_json::from_slice::<judge::HoldCase>(&file) else { continue };
        if case.usable().is_err() {
            continue;
        }
        let asked = ProcessTime::now();
        let sentence = std::panic::catch_unwind(|| judge::judge(&case).sentence);
        if !sentence.is_ok_and(|s| !s.is_empty()) {
            slow.push(format!("ended: {what}"));
        }
        judged += 1;
        if asked.elapsed() > Duration::from_secs(1) {
            slow.push(format!("{:.1} s: {what}", asked.elapsed().as_secs_f64()));
        }
    }
    println!("{judged} cases judged");
    assert!(judged > 200, "{judged}");
    assert!(slow.is_empty(), "{}", slow.join("\n"));
}

/// Inputs that once ended the program.
#[test]
fn what_was_found_before() {
    use fuzz::Edit;
    let once = [vec![Edit::Figure(64_966, "1e5")]];
    for edits in once {
        let case: judge::HoldCase = serde_json::from_slice(&damaged(&ten_readings(), &edits)).expect("it is read");
        assert!(case.usable().is_ok(), "it is judged");
        assert!(!judge::judge(&case).sentence.is_empty());
    }
}

/// A record of ten readings, sealed and signed with a key of its own.
fn ten_reading_record(key: &SealingKey) -> (Parts, Vec<u8>) {
    let old: SealedRecord = serde_json::from_slice(&kept("tests/old_files/3/sealed-record.one-signature.json")).expect("a record");
    let mut parts = old.parts;
    parts.readings.readings.truncate(10);
    let file = sealed(&parts, key).expect("sealed");
    (parts, file)
}

fn sealed(parts: &Parts, key: &SealingKey) -> Option<Vec<u8>> {
    let old: SealedRecord = serde_json::from_slice(&kept("tests/old_files/3/sealed-record.one-signature.json")).ok()?;
    let content = Content::new(parts).ok()?;
    let statement = record::sealed::SignedStatement { content_sha256: content.sha256().ok()?, ..old.signatures[0].clone() };
    Some(content.seal(&[statement.sign(None, key).ok()?], key).ok()?.1)
}

#[test]
fn a_sealed_record() {
    let key = SealingKey::from_bytes([3; 32]);
    let (_, file) = ten_reading_record(&key);
    let ours = key.public();
    fuzz("sealed record", VERIFY_MB, std::slice::from_ref(&file), |bytes| {
        let found = verify(bytes, Some(&ours));
        // every byte counts: what is still read as genuine is what was sealed
        assert!(!matches!(found, Verification::Genuine { .. }) || bytes == file, "accepted, and it is another file");
        !matches!(found, Verification::Unreadable { .. })
    });
}

/// Whoever likes can seal a file of his own: with a right hash, seal and signature over any content, the check still answers.
#[test]
fn a_content_that_was_sealed_by_anybody() {
    let key = SealingKey::from_bytes([4; 32]);
    let (parts, _) = ten_reading_record(&key);
    let written = serde_json::to_vec(&parts).expect("written");
    fuzz("content sealed by anybody", VERIFY_MB, &[written], |bytes| {
        let Ok(parts) = serde_json::from_slice::<Parts>(bytes) else { return false };
        let Some(file) = sealed(&parts, &key) else { return false };
        !matches!(verify(&file, None), Verification::Unreadable { .. })
    });
}

#[test]
fn a_report() {
    let good = [kept("tests/old_files/3/report.one-signature.pdf")];
    fuzz("report", VERIFY_MB, &good, |file| {
        if !paper::attached::is_pdf(file) {
            return false;
        }
        let Ok((sealed, pages)) = paper::check::check(file, &report::Typesetter) else { return false };
        let _ = verify(&sealed, None);
        !pages.sentence().is_empty()
    });
}

#[test]
fn a_loggers_file() {
    let good = [
        "Zeit;Druck [psi];Temperatur \u{b0}C\n01.07.2026 08:00:00;377,1;15,2\n01.07.2026 08:00:30;377,0;\n".as_bytes().to_vec(),
        b"time,pressure bar,temp\n2026-06-01 08:00:00,26,15\n2026-06-01T08:01:00Z,26.01,15\n2026-10-25 02:10:00,25,15\n".to_vec(),
        b"t,p,T\n0,2600,59\n0.5,2599,59\n1e9,2599,59\n".to_vec(),
    ];
    fuzz("logger's file", READER_MB, &good, |file| {
        let Ok(table) = formats::delimited::read(file) else { return false };
        let mut mapping = formats::logger::Mapping::guess(&table.header, &table.rows, "Europe/Berlin");
        if let formats::logger::TimeForm::Elapsed { start, .. } = &mut mapping.time_form {
            *start = "2026-06-01T08:00:00Z".to_owned();
        }
        let _ = formats::logger::read(file, &mapping, &mut |_, _, _| true);
        true
    });
}

#[test]
fn a_parts_list() {
    let header = "tag;kind;length [m];size;schedule;height [m];material;class\n";
    let good = [
        format!("{header}Run;pipe;120;DN150;40;18.5;A106-B;\nFlange;flange;;;;1.0;A106-B;150\n").into_bytes(),
        "tag\tkind\tsize\tlength\nA\tpipe\t6\" sch 40\t100 ft\nB\tgate valve\t6\"\t\n".as_bytes().to_vec(),
    ];
    let library = rules::library::shipped();
    fuzz("parts list", READER_MB, &good, |file| {
        let read = formats::parts::read_text(library, file, None, quantity::PressureUnit::Bar);
        let named: Vec<String> = ["tag", "kind", "length", "size"].map(str::to_owned).into();
        let _ = formats::parts::read_text(library, file, Some(&named), quantity::PressureUnit::Psi);
        read.is_ok()
    });
}

#[test]
fn a_typed_figure() {
    let good: Vec<Vec<u8>> = ["16 bar", "230,5 psi", "-0.2", "1 234.5 kPa", "15 °C", "12 ft 6 in", "6\"", "2.4 L", "½ in", "1.6e3 mbar"]
        .iter()
        .map(|t| t.as_bytes().to_vec())
        .collect();
    use quantity::bounds::{GAUGE_RANGE, HEIGHT, READING_PRESSURE, READING_TEMPERATURE};
    fuzz("typed figure", READER_MB, &good, |bytes| {
        let text = String::from_utf8_lossy(bytes);
        let pressure = quantity::parse::gauge_pressure(&READING_PRESSURE, &text, quantity::PressureUnit::Bar);
        if let Ok((p, _)) = &pressure {
            assert!(p.pa().is_finite());
        }
        let length = quantity::parse::length(&HEIGHT, &text, "m");
        if let Ok(l) = &length {
            assert!(l.m().is_finite());
        }
        let _ = quantity::parse::gauge_pressure(&GAUGE_RANGE, &text, quantity::PressureUnit::Psi);
        let _ = quantity::parse::temperature(&READING_TEMPERATURE, &text);
        true
    });
}

#[test]
fn a_scenario_of_the_rig() {
    fuzz("scenario of the rig", READER_MB, &[kept("docs/formats/examples/pump-house.rig.json")], |file| {
        let Ok(text) = std::str::from_utf8(file) else { return false };
        let Ok(scenario) = rig::scenario::Scenario::read(text) else { return false };
        let _ = rig::simulation::Simulation::new(scenario);
        true
    });
}

#[test]
fn a_security_log() {
    use record::chain::{BEFORE_ALL, Entry, FORMAT, Head, check_file};
    let mut text = serde_json::to_string(&Head { format: FORMAT.to_owned(), site: "Merrowick Works".to_owned() }).expect("written");
    let mut before = BEFORE_ALL.to_owned();
    for seq in 1..=5 {
        let entry =
            Entry::after(&before, seq, 1_000 + i64::try_from(seq).expect("small"), ["signed_in", "reader", "10.0.0.7", "as gauge reader"]);
        before.clone_from(&entry.hash);
        text = text + "\n" + &serde_json::to_string(&entry).expect("written");
    }
    let whole = text.clone();
    fuzz("security log", READER_MB, &[text.into_bytes()], |file| {
        let Ok(text) = std::str::from_utf8(file) else { return false };
        let found = check_file(text);
        // what ends earlier is whole as far as it goes; all else is what was written
        let lines = |t: &str| {
            t.lines().filter(|l| !l.trim().is_empty()).map(|l| serde_json::from_str::<serde_json::Value>(l).ok()).collect::<Vec<_>>()
        };
        assert!(found.is_err() || lines(&whole)[1..].starts_with(&lines(text)[1..]), "accepted, and it is another log");
        found.is_ok()
    });
}

#[test]
fn what_the_interface_is_sent() {
    let plan = serde_json::from_slice::<SealedRecord>(&kept("tests/old_files/3/sealed-record.one-signature.json")).expect("a record").parts;
    let good = [serde_json::to_vec(&plan.plan).expect("written"), serde_json::to_vec(&plan.instruments).expect("written")];
    fuzz("bodies of requests", READER_MB, &good, |file| {
        serde_json::from_slice::<pack::plan::Plan>(file).is_ok()
            || serde_json::from_slice::<Vec<pack::instrument::Instrument>>(file).is_ok()
    });
}

/// The readings of a folder of holds, under the case that belongs to them.
#[test]
fn a_folder_of_holds() {
    let case = kept("tests/holds/tests/data/labelled/s0019/case.json");
    let all = String::from_utf8(kept("tests/holds/tests/data/labelled/s0019/readings.csv")).expect("text");
    let readings = all.lines().take(40).collect::<Vec<_>>().join("\n").into_bytes();
    fuzz("readings of a folder", READER_MB, &[readings], |file| {
        let case: holdfolder::Case = serde_json::from_slice(&case).expect("the sample case");
        holdfolder::of(case, file).is_ok()
    });
}
