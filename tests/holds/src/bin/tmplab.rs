fn main(){ let dir="/work/shared/data/holds"; let (mut a,mut b,mut n)=(0,0,0); let mut ws=vec![];
 for i in 0..24 { let s=format!("{dir}/s{i:04}"); let case:holdfolder::Case=serde_json::from_str(&std::fs::read_to_string(format!("{s}/case.json")).unwrap()).unwrap();
 let t:serde_json::Value=serde_json::from_str(&std::fs::read_to_string(format!("{s}/truth.json")).unwrap()).unwrap(); let g=|k:&str|t[k].as_f64().unwrap();
 let c:serde_json::Value=serde_json::from_str(&std::fs::read_to_string(format!("{s}/case.json")).unwrap()).unwrap();
 let f=holdfolder::of(case,&std::fs::read(format!("{s}/readings.csv")).unwrap()).unwrap();
 let j=hold::judge(&f.hold,&f.record,Some(c["required_sensitivity_l_per_h"].as_f64().unwrap()/3.6e6)); let p=hold::model::planned_detection_limit(&f.hold).unwrap()*3.6e6;
 let fit=j.fitted.unwrap(); let k=if c["leak_unit"]=="l_per_h"{3.6e6}else{3.6e6};
 let (l,pl)=(fit.detection_limit*k/g("detection_limit_l_per_h"),p/g("planned_detection_limit_l_per_h")); n+=1; a+=(l<2.0&&l>0.5) as i32; b+=(pl<3.0&&pl>1.0/3.0) as i32; let w=(fit.hi-fit.lo)*k/3.92/g("bound_sd_l_per_h"); ws.push(w);
 println!("s{i:04} {} {} w {w:.2} lim {l:.2} plan {pl:.2} in {}",j.verdict.word(),t["expected_verdict"],fit.lo*k<=g("leak_l_per_h")&&fit.hi*k>=g("leak_l_per_h")); }
 ws.sort_by(f64::total_cmp); println!("limit {a}/{n} plan {b}/{n} w50 {:.2} w90 {:.2}",ws[12],ws[21]); }
