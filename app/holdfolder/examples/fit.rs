use std::path::Path;
fn main() {
    let root = std::env::args().nth(1).unwrap();
    let mut dirs: Vec<_> = std::fs::read_dir(Path::new(&root)).unwrap().map(|e| e.unwrap().path()).filter(|p| holdfolder::is_case(p)).collect();
    dirs.sort();
    for d in dirs {
        let f = holdfolder::read(&d).unwrap();
        let truth: serde_json::Value = serde_json::from_str(&std::fs::read_to_string(d.join("truth.json")).unwrap()).unwrap();
        let t0 = std::time::Instant::now();
        let r = hold::model::fit(&hold::model::Problem { hold: &f.hold, record: &f.record });
        let ms = t0.elapsed().as_secs_f64() * 1e3;
        let k = 3.6e6;
        let leak = truth["leak_l_per_h"].as_f64().unwrap();
        if let (Ok(r), Ok(want)) = (&r, std::env::var("SHOW")) { if want == f.case.case {
            for (u, x, sd) in &r.unknowns { if !u.starts_with("Surr") && (x/sd).abs() > 0.02 { println!("   {u:22} {x:12.5} sd {sd:12.5} z {:6.2}", x/sd); } }
            println!("   W {:?}", r.weights); println!("   heat {:?} truth {} {}", r.heat, truth["path"]["skin_c"], truth["path"]["water_c"]); println!("   S {}", r.unknowns.iter().filter(|u| u.0.starts_with("Surr")).map(|u| format!("{:.2}", u.1/u.2)).collect::<Vec<_>>().join(" "));
            for c in &r.compared { println!("{}", c.iter().map(|(t,v,e)| format!("{t:.0}:{:.4}/{:.4}", if v.abs()>1e3 {v/1e5} else {*v}, if v.abs()>1e3 {(e-v)/1e5} else {e-v})).collect::<Vec<_>>().join(" ")); }
        }}
        match r {
            Ok(r) => println!("{} {:18} {:3} true {:9.5} est {:9.5} [{:9.5},{:9.5}] z {:5.2} sd/bound {:5.2} dl/true {:5.2} misfit {:5.2} {:5.1} ms defects {}", f.case.case, f.case.family, if f.case.leak_unit == holdfolder::LeakUnit::LPerH {""} else {"gas"}, leak, r.mean*k, r.lo*k, r.hi*k, (r.mean*k-leak)/(r.sd*k), r.sd*k/truth["bound_sd_l_per_h"].as_f64().unwrap(), r.detection_limit*k/truth["detection_limit_l_per_h"].as_f64().unwrap(), r.misfit, ms, truth["defects"].to_string()),
            Err(e) => println!("{} ERR {e}", f.case.case),
        }
    }
}
