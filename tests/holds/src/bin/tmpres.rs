fn main(){ for d in std::env::args().skip(1) { let case:holdfolder::Case=serde_json::from_str(&std::fs::read_to_string(format!("{d}/case.json")).unwrap()).unwrap();
 let f=holdfolder::of(case,&std::fs::read(format!("{d}/readings.csv")).unwrap()).unwrap();
 let j=hold::judge(&f.hold,&f.record,None); let m=j.fitted.unwrap(); println!("{d} misfit {:.2} mean {:.5} lo {:.5} hi {:.5} lim {:.5}",m.misfit,m.mean*3.6e6,m.lo*3.6e6,m.hi*3.6e6,m.detection_limit*3.6e6);
 for (c,x) in m.compared.iter().enumerate() { println!(" ch {c} noise {:?}",f.hold.noise_of(c)); for (t,a,b) in x.iter().step_by(6) { print!(" {:.0}:{:.3}",t,a-b); } println!(); }
 for (u,v,sd) in m.unknowns.iter().filter(|(u,_,_)|!matches!(u,hold::model::Unknown::Surroundings(_))) { print!(" {:?}={:.3}/{:.3}",u,v,sd); } println!(); for (c,w) in &m.causes {println!("  {c:?} {w:.3}");} } }
