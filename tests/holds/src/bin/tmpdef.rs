fn main(){ for d in std::env::args().skip(1) { let case:holdfolder::Case=serde_json::from_str(&std::fs::read_to_string(format!("{d}/case.json")).unwrap()).unwrap();
 let f=holdfolder::of(case,&std::fs::read(format!("{d}/readings.csv")).unwrap()).unwrap();
 let r=hold::reading::read(&f.hold,&f.record); println!("{d}"); for x in &r.defects { println!("  {:?} ch {:?} {}..{} rows {:?}",x.kind,x.channel,x.start_s,x.end_s,&x.rows[..x.rows.len().min(6)]); 
 if x.rows.len()<20 { for i in x.rows.iter().take(3) { let a=i.saturating_sub(4); println!("     {i}: {:?}",(a..(a+9).min(f.record.time_s.len())).map(|k|f.record.channels[x.channel.unwrap_or(0)][k]).collect::<Vec<_>>()); } } } } }
