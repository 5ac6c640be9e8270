//! temporary
use holds::family::Family;
fn main() {
    let args: Vec<String> = std::env::args().collect();
    let seed: u64 = args[1].parse().unwrap();
    for n in &args[2..] {
        let number: u64 = n.parse().unwrap();
        let made = holds::make(seed, number, Family::ALL[(number % 10) as usize]);
        let case: holdfolder::Case = serde_json::from_value(made.case.clone()).unwrap();
        let folder = holdfolder::of(case, &made.readings).unwrap();
        let t = std::time::Instant::now();
        let j = hold::judge(&folder.hold, &folder.record, Some(made.required / 3.6e6));
        let ms = t.elapsed().as_secs_f64() * 1e3;
        let f = j.fitted.unwrap();
        let k = 3.6e6;
        println!("== {number} {} true {:.5} est {:.5} [{:.5},{:.5}] up {:.5} limit {:.5} bound {:.5} misfit {:.2} {:?} {ms:.0} ms", made.family.name(), made.leak, f.mean*k, f.lo*k, f.hi*k, f.upper_999*k, f.detection_limit*k, made.bound, f.misfit, j.verdict);
        for (c, w) in &f.causes { println!("   {c:?} {w:.4}"); }
        for (u, x, sd) in &f.unknowns { if matches!(u, hold::model::Unknown::Surroundings(_)) && (x/sd).abs() < 1.5 { continue; } println!("     {u:?} {x:.4e} = {:.2} sd", x/sd); }
    }
}
