fn main(){ for d in std::env::args().skip(1) { let case:holdfolder::Case=serde_json::from_str(&std::fs::read_to_string(format!("{d}/case.json")).unwrap()).unwrap();
 let f=holdfolder::of(case,&std::fs::read(format!("{d}/readings.csv")).unwrap()).unwrap();
 let j=hold::judge(&f.hold,&f.record,None); let m=j.fitted.unwrap(); println!("{d} misfit {}",m.misfit);
 for (c,x) in m.compared.iter().enumerate() { println!(" ch {c} noise {:?}",f.hold.noise_of(c)); for (t,a,b) in x.iter() { print!(" {:.0}:{:.3}({:.1})",t,a-b,a); } println!(); }
 for (u,v,sd) in m.unknowns.iter().filter(|(u,_,_)|!matches!(u,hold::model::Unknown::Surroundings(_))) { print!(" {:?}={:.3}/{:.3}",u,v,sd); } println!(); for (c,w) in &m.causes {println!("  {c:?} {w:.3}");} } }
