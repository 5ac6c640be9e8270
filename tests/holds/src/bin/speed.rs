//! How long the judge takes: `speed [SEED]` makes one hold of each family that was read 10,000 times, and prints milliseconds from the bytes of
//! the CSV to the verdict; then the same holds read 50,000 times and judged anew after a minute, and 50,000 and 1,000,000 readings of one of them, with
//! the memory used.

use holds::family::Family;
use std::time::Instant;

/// Milliseconds from bytes to verdict, the least of some runs.
fn time(case: &holdfolder::Case, bytes: &[u8], runs: u32) -> (f64, String) {
    let mut best = f64::INFINITY;
    let mut said = String::new();
    for _ in 0..runs {
        let start = Instant::now();
        let folder = holdfolder::of(case.clone(), bytes).expect("a hold");
        let line = holdfolder::judge(&folder);
        best = best.min(start.elapsed().as_secs_f64() * 1e3);
        said = line.verdict.to_owned();
    }
    (best, said)
}

/// Milliseconds to judge a hold that was judged a minute before, the least of three, and how far the answer is from that of a search from nothing.
fn again_after_a_minute(folder: &holdfolder::FolderHold) -> (f64, String) {
    let before = folder.record.time_s.partition_point(|t| *t < folder.hold.length_s - 60.0);
    let mut shorter = folder.record.clone();
    shorter.time_s.truncate(before);
    shorter.channels.iter_mut().for_each(|c| c.truncate(before));
    shorter.sample_no.iter_mut().for_each(|c| c.truncate(before));
    let hold = hold::Hold { length_s: folder.hold.length_s - 60.0, ..folder.hold.clone() };
    let memory = hold::judge(&hold, &shorter, None).fitted.expect("a fit").memory;
    let mut best = f64::INFINITY;
    let mut found = None;
    for _ in 0..3 {
        let start = Instant::now();
        let judged = hold::finding::judge_from(&folder.hold, &folder.record, None, &[], Some(&memory));
        best = best.min(start.elapsed().as_secs_f64() * 1e3);
        found = judged.fitted.ok();
    }
    let anew = hold::judge(&folder.hold, &folder.record, None).fitted.expect("a fit");
    let found = found.expect("a fit");
    (best, format!("differs by {:+.2} sd, width {:.2} of", (found.mean - anew.mean) / anew.sd, (found.hi - found.lo) / (anew.hi - anew.lo)))
}

/// Greatest memory of this process so far, MB.
fn peak_mb() -> f64 {
    let status = std::fs::read_to_string("/proc/self/status").unwrap_or_default();
    let line = status.lines().find(|l| l.starts_with("VmHWM")).unwrap_or_default();
    line.split_whitespace().nth(1).and_then(|v| v.parse::<f64>().ok()).unwrap_or(0.0) / 1024.0
}

fn main() {
    let seed: u64 = std::env::args().nth(1).and_then(|v| v.parse().ok()).unwrap_or(1);
    let case_of = |made: &holds::Made| -> holdfolder::Case { serde_json::from_value(made.case.clone()).expect("a case") };
    let mut all = Vec::new();
    println!("10,000 readings, from CSV to verdict:");
    for family in Family::ALL {
        let made = holds::make_read(seed, 1, family, 10_000);
        let (ms, verdict) = time(&case_of(&made), &made.readings, 3);
        println!("  {:<20} {ms:>6.1} ms  {verdict}", family.name());
        all.push(ms);
    }
    all.sort_by(f64::total_cmp);
    println!("  median {:.1} ms, greatest {:.1} ms", all[all.len() / 2], all[all.len() - 1]);
    println!("a running hold judged anew after one more minute, from where the answer was, 50,000 readings:");
    let mut again = Vec::new();
    for family in Family::ALL {
        let made = holds::make_read(seed, 1, family, 50_000);
        let (ms, agrees) = again_after_a_minute(&holdfolder::of(case_of(&made), &made.readings).expect("a hold"));
        println!("  {:<20} {ms:>6.1} ms  {agrees}", family.name());
        again.push(ms);
    }
    again.sort_by(f64::total_cmp);
    println!("  median {:.1} ms, greatest {:.1} ms", again[again.len() / 2], again[again.len() - 1]);
    for readings in [50_000, 1_000_000] {
        let before = peak_mb();
        let made = holds::make_read(seed, 1, Family::ALL[1], readings);
        let made_mb = peak_mb() - before;
        let (ms, _) = time(&case_of(&made), &made.readings, 1);
        let file = made.readings.len() as f64 / 1e6;
        println!(
            "{readings} readings of {}: {ms:.0} ms; {:.0} MB at most, of which making it took {made_mb:.0} and the file {file:.0}",
            made.family.name(),
            peak_mb()
        );
    }
}
