//! Measures the judge on fresh holds: `measure [COUNT [SEED]]` makes COUNT holds (2,000) from SEED (the date's day number) and prints the
//! table of what is asked of the judge, by family; DUMP=1 prints each miss, DUMP=csv a sheet with a row for each hold.

use holds::defects::{Defect as Truth, Kind as TrueKind};
use holds::family::Family;
use std::collections::BTreeMap;
use std::sync::Mutex;
use std::sync::atomic::{AtomicU64, Ordering};
use terms::Term;

/// One judged hold.
struct Row {
    number: u64,
    family: &'static str,
    made: holds::Made,
    leak: f64,
    lo: f64,
    hi: f64,
    limit: f64,
    planned: f64,
    misfit: f64,
    outcome: hold::Outcome,
    found: Vec<hold::reading::Defect>,
    ms: f64,
}

fn main() {
    let args: Vec<String> = std::env::args().collect();
    let count: u64 = args.get(1).and_then(|v| v.parse().ok()).unwrap_or(2000);
    let seed: u64 = args.get(2).and_then(|v| v.parse().ok()).unwrap_or(20_783);
    let next = AtomicU64::new(0);
    let rows = Mutex::new(Vec::new());
    let threads = std::thread::available_parallelism().map_or(1, std::num::NonZero::get);
    std::thread::scope(|scope| {
        for _ in 0..threads {
            scope.spawn(|| {
                loop {
                    let number = next.fetch_add(1, Ordering::Relaxed);
                    if number >= count {
                        break;
                    }
                    let row = judged(seed, number);
                    rows.lock().unwrap_or_else(std::sync::PoisonError::into_inner).push(row);
                }
            });
        }
    });
    let mut rows = rows.into_inner().unwrap_or_else(std::sync::PoisonError::into_inner);
    rows.sort_by_key(|r| r.number);
    println!("{count} holds, seed {seed}");
    match std::env::var("DUMP").as_deref() {
        Ok("csv") => sheet(&rows),
        Ok(_) => dump(&rows),
        Err(_) => {}
    }
    table(&rows);
    defects(&rows);
}

fn judged(seed: u64, number: u64) -> Row {
    let family = Family::ALL[(number % 10) as usize];
    let made = holds::make(seed, number, family);
    let case: holdfolder::Case = serde_json::from_value(made.case.clone()).expect("a made case is a case");
    let folder = holdfolder::of(case, &made.readings).expect("made readings can be read");
    let start = std::time::Instant::now();
    let judged = hold::judge(&folder.hold, &folder.record, Some(made.required / 3.6e6));
    let ms = start.elapsed().as_secs_f64() * 1e3;
    let planned = hold::model::planned_detection_limit(&folder.hold).unwrap_or(f64::NAN) * 3.6e6;
    let k = 3.6e6;
    let (leak, lo, hi, limit, misfit) = match &judged.fitted {
        Ok(f) => (f.mean * k, f.lo * k, f.hi * k, f.detection_limit * k, f.misfit),
        Err(_) => (f64::NAN, f64::NAN, f64::NAN, f64::NAN, f64::NAN),
    };
    Row {
        number,
        family: family.name(),
        leak,
        lo,
        hi,
        limit,
        planned,
        misfit,
        outcome: judged.outcome,
        found: judged.read.defects,
        made,
        ms,
    }
}

/// Kinds of the faults that were made.
fn kinds(row: &Row) -> Vec<&'static str> {
    row.made.defects.iter().map(|d| word(d.kind)).collect()
}

fn quantile(values: &mut [f64], q: f64) -> f64 {
    if values.is_empty() {
        return f64::NAN;
    }
    values.sort_by(f64::total_cmp);
    values[((values.len() - 1) as f64 * q).round() as usize]
}

fn share(of: impl Iterator<Item = bool>) -> String {
    let (mut n, mut yes) = (0u32, 0u32);
    for v in of {
        n += 1;
        yes += u32::from(v);
    }
    if n == 0 { "     –".to_owned() } else { format!("{:5.1}%", 100.0 * f64::from(yes) / f64::from(n)) }
}

fn table(rows: &[Row]) {
    let mut families: BTreeMap<&str, Vec<&Row>> = BTreeMap::new();
    for r in rows {
        families.entry(r.family).or_default().push(r);
    }
    println!(
        "{:18}   in all  tight leaking | width 50% 90% | fail tight | >=3 not failed / passed | passed too large | not shown | limit x2  plan x3 |  ms",
        "family"
    );
    let line = |name: &str, rows: &[&Row]| {
        let inside = |r: &&&Row| -> bool { r.made.leak >= r.lo && r.made.leak <= r.hi };
        let tight: Vec<&&Row> = rows.iter().filter(|r| r.made.multiple == 0.0).collect();
        let leaking: Vec<&&Row> = rows.iter().filter(|r| r.made.multiple > 0.0).collect();
        let mut widths: Vec<f64> = rows.iter().map(|r| (r.hi - r.lo) / 3.92 / r.made.bound).filter(|w| w.is_finite()).collect();
        // leaks cut short by what the system can lose count by what they are
        let large: Vec<&&&Row> = leaking.iter().filter(|r| r.made.leak >= 2.99 * r.made.detection_limit).collect();
        let good: Vec<&&&Row> = tight.iter().filter(|r| r.made.detection_limit <= r.made.required).collect();
        let within = |a: f64, b: f64, f: f64| a / b < f && b / a < f;
        println!(
            "{name:18}  {} {} {}  | {:5.2} {:5.2}   | {}     | {} / {:2}             | {:3}              | {}    | {}   {}  | {:4.0}",
            share(rows.iter().map(|r| inside(&r))),
            share(tight.iter().map(inside)),
            share(leaking.iter().map(inside)),
            quantile(&mut widths, 0.5),
            quantile(&mut widths, 0.9),
            share(tight.iter().map(|r| r.outcome == hold::Outcome::Fail)),
            share(large.iter().map(|r| r.outcome != hold::Outcome::Fail)),
            large.iter().filter(|r| r.outcome == hold::Outcome::Pass).count(),
            rows.iter().filter(|r| r.outcome == hold::Outcome::Pass && r.made.leak > r.made.required).count(),
            share(good.iter().map(|r| r.outcome == hold::Outcome::NotShown)),
            share(rows.iter().map(|r| within(r.limit, r.made.detection_limit, 2.0))),
            share(rows.iter().map(|r| within(r.planned, r.made.planned_detection_limit, 3.0))),
            rows.iter().map(|r| r.ms).sum::<f64>() / rows.len() as f64,
        );
    };
    for (name, rows) in &families {
        line(name, rows);
    }
    line("all", &rows.iter().collect::<Vec<_>>());
}

fn word(kind: TrueKind) -> &'static str {
    match kind {
        TrueKind::Gap => "gap",
        TrueKind::Duplicate => "duplicate",
        TrueKind::Spike => "spike",
        TrueKind::Stuck => "stuck",
        TrueKind::WrongUnit => "wrong_unit",
        TrueKind::ClockJump => "clock_jump",
        TrueKind::Repump => "repump",
        TrueKind::Bleed => "bleed",
    }
}

/// A defect is found when one of its kind lies on it on the recorded clock, give or take some readings.
fn matches(row: &Row, truth: &Truth, found: &hold::reading::Defect) -> bool {
    let jump = row.made.defects.iter().find(|d| d.kind == TrueKind::ClockJump);
    let recorded = |t: f64| t + jump.filter(|j| t >= j.start_s).and_then(|j| j.jump_s).unwrap_or(0.0);
    let interval = row.made.case["logging"]["interval_s"].as_f64().unwrap_or(60.0);
    let slack = 2.0 * interval + 60.0;
    found.kind.key() == word(truth.kind) && found.start_s <= recorded(truth.end_s) + slack && found.end_s >= recorded(truth.start_s) - slack
}

fn defects(rows: &[Row]) {
    println!("{:12} {:>5} {:>8} {:>14}", "defect", "holds", "found", "false alarms");
    for kind in TrueKind::ALL {
        let unbooked = |d: &&Truth| d.kind == kind && !d.announced;
        let with: Vec<(&Row, &Truth)> = rows.iter().filter_map(|r| Some((r, r.made.defects.iter().find(unbooked)?))).collect();
        let found = share(with.iter().map(|(r, d)| r.found.iter().any(|f| matches(r, d, f))));
        let without: Vec<&Row> = rows.iter().filter(|r| !r.made.defects.iter().any(|d| d.kind == kind)).collect();
        let false_alarms = share(without.iter().map(|r| r.found.iter().any(|f| f.kind.key() == word(kind))));
        println!("{:12} {:5} {found:>8} {false_alarms:>14}", word(kind), with.len());
    }
}

/// One row a hold, for a closer look with a program for tables.
fn sheet(rows: &[Row]) {
    println!(
        "number,family,multiple,leak,mean,lo,hi,limit,planned,bound,true_limit,true_planned,required,misfit,verdict,ms,by_hand,division,white,rate,length,thermometers,defects"
    );
    for r in rows {
        let (gauge, defects) = (&r.made.case["gauges"][0], kinds(r).join("+"));
        println!(
            "{},{},{},{},{},{},{},{},{},{},{},{},{},{},{},{:.1},{},{},{},{},{},{},{defects}",
            r.number,
            r.family,
            r.made.multiple,
            r.made.leak,
            r.leak,
            r.lo,
            r.hi,
            r.limit,
            r.planned,
            r.made.bound,
            r.made.detection_limit,
            r.made.planned_detection_limit,
            r.made.required,
            r.misfit,
            r.outcome.word(),
            r.ms,
            r.made.by_hand,
            gauge["resolution_bar"],
            gauge["repeatability_sd_bar"],
            r.made.case["logging"]["interval_s"],
            r.made.case["hold_length_s"],
            r.made.case["thermometers"].as_array().map_or(0, Vec::len),
        );
    }
}

fn dump(rows: &[Row]) {
    for r in rows {
        let inside = r.made.leak >= r.lo && r.made.leak <= r.hi;
        let missed: Vec<&str> =
            r.made.defects.iter().filter(|d| !d.announced && !r.found.iter().any(|f| matches(r, d, f))).map(|d| word(d.kind)).collect();
        let false_alarms: Vec<&str> =
            r.found.iter().map(|f| f.kind.key()).filter(|k| !r.made.defects.iter().any(|d| word(d.kind) == *k)).collect();
        if !inside || !missed.is_empty() || !false_alarms.is_empty() {
            println!(
                "{:5} {:18} x{:<4} true {:9.5} est {:9.5} [{:9.5},{:9.5}] bound {:8.5} misfit {:6.2} {:9} hand {} defects {:?} missed {missed:?} false {false_alarms:?}",
                r.number,
                r.family,
                r.made.multiple,
                r.made.leak,
                r.leak,
                r.lo,
                r.hi,
                r.made.bound,
                r.misfit,
                r.outcome.word(),
                r.made.by_hand,
                kinds(r)
            );
        }
    }
}
