//! Measures the judge on fresh holds.
fn main() {
    let args: Vec<String> = std::env::args().collect();
    let n: u64 = args.get(1).map_or(100, |v| v.parse().unwrap());
    let seed: u64 = args.get(2).map_or(1, |v| v.parse().unwrap());
    let clean = args.get(3).map_or(true, |v| v == "clean");
    let show = std::env::var("SHOW").is_ok();
    let t0 = std::time::Instant::now();
    let next = std::sync::atomic::AtomicU64::new(0);
    let all_lines = std::sync::Mutex::new(Vec::new());
    let all_by = std::sync::Mutex::new(std::collections::BTreeMap::<&str, Vec<(f64, f64, f64, f64, bool)>>::new());
    let all_flags = std::sync::Mutex::new(std::collections::BTreeMap::<&str, Vec<(f64, f64, f64, f64, bool)>>::new());
    std::thread::scope(|scope| {
        for _ in 0..2 {
            scope.spawn(|| loop {
                let i = next.fetch_add(1, std::sync::atomic::Ordering::Relaxed);
                if i >= n { break; }
                let m = holds::make(seed, i, holds::family::Family::ALL[(i % 10) as usize]);
                if clean && !m.defects.is_empty() { continue; }
                let case: holdfolder::Case = serde_json::from_value(m.case.clone()).unwrap();
                let f = holdfolder::of(case, &m.readings).unwrap();
                let t = std::time::Instant::now();
                let r = hold::model::fit(&hold::model::Problem { hold: &f.hold, record: &f.record });
                let ms = t.elapsed().as_secs_f64() * 1e3;
                match r {
                    Ok(r) => {
                        let k = 3.6e6;
                        let z = (r.mean * k - m.leak) / (r.sd * k);
                        let inside = m.leak >= r.lo * k && m.leak <= r.hi * k;
                        let width = (r.hi - r.lo) * k / 3.92 / m.bound;
                        let dl = r.detection_limit * k / m.detection_limit;
                        let g = &f.hold.gauges;
                        let mut flags = vec!["all"];
                        let coarse = g.iter().all(|g| g.resolution_pa > 2.5 * g.white_sd_pa);
                        flags.push(if m.by_hand { "hand" } else if coarse { "coarse gauge" } else { "fine gauge" });
                        let t = &f.hold.thermometers;
                        flags.push(if !t.iter().any(|t| t.place != hold::Place::Ambient) { "air only" } else if t.iter().filter(|t| t.place != hold::Place::Ambient).all(|t| t.resolution_k > 0.3) { "coarse thermo" } else { "fine thermo" });
                        if t.iter().any(|t| matches!(t.place, hold::Place::Fluid(_))) { flags.push("fluid thermo"); }
                        if !m.truth["relaxation"]["air"].is_null() { flags.push("air dissolves") }
                        if !m.truth["relaxation"]["gaskets"].is_null() { flags.push("gaskets set") }
                        if m.truth["relaxation"]["air"].is_null() && m.truth["relaxation"]["gaskets"].is_null() { flags.push("no relaxation") }
                        if m.truth["leak_start_s"].as_f64() > Some(0.0) && m.leak > 0.0 { flags.push("late") }
                        flags.push(if f.hold.bodies.len() > 1 { "two bodies" } else { "one body" });
                        if f.hold.bodies.iter().any(|b| b.exposure == hold::Exposure::BareOutdoor) { flags.push("bare"); }
                        flags.push(if m.leak == 0.0 { "tight" } else if m.multiple < 3.0 { "small leak" } else { "large leak" });
                        if g.len() > 1 { flags.push("two gauges"); }
                        if t.iter().any(|t| t.place == hold::Place::Ambient) { flags.push("air thermo") }
                        if m.truth["relaxation"]["air"].is_null() && m.truth["relaxation"]["gaskets"].is_null() && !m.by_hand && !coarse && !flags.contains(&"late") && !flags.contains(&"coarse thermo") && !flags.contains(&"bare") { flags.push("PLAIN") }
                        if flags.contains(&"no relaxation") && !flags.contains(&"late") {
                            let has = |f: &str| flags.contains(&f);
                            let name = format!("R0 {} {} {} {}", if has("hand") { "hand" } else if has("coarse gauge") { "cg" } else { "fg" }, if has("air only") { "at" } else if has("coarse thermo") { "ct" } else { "ft" }, if has("two bodies") { "2b" } else { "1b" }, if has("bare") { "bare" } else { "" });
                            flags.push(Box::leak(name.into_boxed_str()));
                        }
                        let flags2 = flags.iter().find(|f| f.starts_with("R0")).map_or(String::new(), |f| f.to_string());
                        for fl in flags { all_flags.lock().unwrap().entry(fl).or_default().push((z, width, dl, ms, inside)); }
                        all_by.lock().unwrap().entry(m.family.name()).or_default().push((z, width, dl, ms, inside));
                        if show || !inside || !z.is_finite() {
                            all_lines.lock().unwrap().push(format!("{i:5} {:18} x{:<4} true {:9.5} [{:9.5},{:9.5}] z {z:5.2} width {width:5.2} dl {dl:5.2} misfit {:5.2} {ms:5.0} ms {}{}{}{}", m.family.name(), m.multiple, m.leak, r.lo * k, r.hi * k, r.misfit, if m.by_hand { "hand " } else { "" }, if m.truth["relaxation"]["air"].is_null() { "" } else { "air " }, if m.truth["relaxation"]["gaskets"].is_null() { "" } else { "gasket " }, if m.truth["leak_start_s"].as_f64() > Some(0.0) && m.leak > 0.0 { "late" } else { flags2.as_str() }));
                        }
                    }
                    Err(e) => all_lines.lock().unwrap().push(format!("{i:5} ERR {e}")),
                }
            });
        }
    });
    let mut lines = all_lines.into_inner().unwrap();
    lines.sort();
    lines.iter().for_each(|l| println!("{l}"));
    let by = all_by.into_inner().unwrap();
    println!("seed {seed}, {:.0} s", t0.elapsed().as_secs_f64());
    let med = |v: &mut Vec<f64>, q: f64| { v.sort_by(f64::total_cmp); v[((v.len() - 1) as f64 * q) as usize] };
    let mut all = Vec::new();
    for (name, v) in &by { all.extend(v.iter().copied()); line(name, v, &med); }
    for (name, v) in &all_flags.into_inner().unwrap() { line(name, v, &med); }
    println!("mean {:.1} ms", all.iter().map(|a: &(f64, f64, f64, f64, bool)| a.3).sum::<f64>() / all.len() as f64);
}
fn line(name: &str, v: &[(f64, f64, f64, f64, bool)], med: &dyn Fn(&mut Vec<f64>, f64) -> f64) {
    let n = v.len() as f64;
    let inside = v.iter().filter(|x| x.4).count() as f64 / n * 100.0;
    let mut w: Vec<f64> = v.iter().map(|x| x.1).collect();
    let mut d: Vec<f64> = v.iter().map(|x| x.2).collect();
    let rms = (v.iter().map(|x| x.0.clamp(-10.0, 10.0).powi(2)).sum::<f64>() / n).sqrt();
    println!("{name:20} n {n:5} inside {inside:5.1}% rms z {rms:5.2} width med {:5.2} p90 {:5.2} dl med {:5.2} p10 {:5.2} p90 {:5.2}", med(&mut w, 0.5), med(&mut w, 0.9), med(&mut d, 0.5), med(&mut d, 0.1), med(&mut d, 0.9));
}
