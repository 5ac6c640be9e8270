use holds::bound::*; use holds::instruments::*; use holds::plant::*; use holds::simulate::*; use holds::weather::*;
use serde_json::Value;
fn f(v:&Value)->f64{v.as_f64().unwrap_or(0.0)}
fn list(v:&Value)->Vec<f64>{v.as_array().map(|a|a.iter().map(f).collect()).unwrap_or_default()}
fn main(){
 let dir="/work/shared/data/holds"; 
 for n in 0..24 {
  let s=format!("s{n:04}");
  let c:Value=serde_json::from_str(&std::fs::read_to_string(format!("{dir}/{s}/case.json")).unwrap()).unwrap();
  let t:Value=serde_json::from_str(&std::fs::read_to_string(format!("{dir}/{s}/truth.json")).unwrap()).unwrap();
  let tr=&t["true"]; let path=&t["path"]; let time=list(&path["time_s"]);
  let gas=c["medium"]!="water"; let medium= if gas {Medium::Nitrogen} else {Medium::Water};
  let segs=c["segments"].as_array().unwrap();
  let soak=f(&c["soak_before_hold_s"]); let length=f(&c["hold_length_s"]);
  let (sl,wl)=(list(&tr["skin_lag_s"]),list(&tr["water_lag_s"]));
  let env=&tr["environment"]; let fill=f(&c["fill_temperature_c"]);
  let skins:Vec<Vec<f64>>=path["skin_c"].as_array().unwrap().iter().map(list).collect();
  let step=(length/600.0).clamp(5.0,60.0); let np=((length+soak)/step).ceil() as usize+2;
  let interp=|v:&[f64],x:f64|{ let i=time.partition_point(|u|*u<=x).clamp(1,time.len()-1); let u=(x-time[i-1])/(time[i]-time[i-1]); v[i-1]+u.min(1.0)*(v[i]-v[i-1])};
  let bodies_e:Vec<Vec<f64>>=(0..segs.len()).map(|b|{ let tau=sl[b]; let k=(-soak/tau).exp(); let e0=(skins[b][0]-fill*k)/(1.0-k);
    let h=time[1]-time[0]; let m=time.len();
    let drive:Vec<f64>=(0..m).map(|i|{let (a,z)=(i.saturating_sub(1),(i+1).min(m-1)); skins[b][i]+tau*(skins[b][z]-skins[b][a])/((z-a) as f64*h)}).collect();
    let e0=e0.clamp(-20.0,60.0);
    (0..np).map(|i|{let x=-soak+i as f64*step; if x<0.0 {e0} else {interp(&drive,x)}}).collect()}).collect();
  let corners:Vec<Corner>=segs.iter().enumerate().map(|(i,g)|{let buried=g["exposure"]=="buried"; Corner{buried,offset_k:0.0,slope_k_per_h:0.0,wander:if buried{(0.05,30_000.0)}else{(0.1,6000.0)},sun_k:list(&tr["sun_gain_k"])[i]}}).collect();
  let w=Weather{base_c:15.0,daily_k:f(&env["diurnal_k"]),clock_h:f(&env["clock0_h"]),air:(f(&env["ou_sd_k"]),f(&env["ou_tau_s"])),cloud_tau:f(&env["cloud_tau_s"]),overcast:env["overcast"].as_bool().unwrap(),soil_c:f(&env["soil_base_c"])};
  let pr=list(&path["pressure_bar_abs"]); let (lo,hi)=pr.iter().fold((1e9f64,0f64),|a,p|(a.0.min(*p),a.1.max(*p)));
  let all:Vec<f64>=bodies_e.iter().flatten().copied().chain(skins.iter().flatten().copied()).collect();
  let (tl,th)=all.iter().fold((1e9f64,-1e9f64),|a,p|(a.0.min(*p),a.1.max(*p)));
  let (tl,th)=((tl.min(fill)-2.0).max(0.12),th.max(fill)+2.0);
  let relax=t["relaxation"].as_array().unwrap(); let find=|k:&str|relax.iter().find(|r|r["kind"]==k);
  let creep=find("creep_log").map_or(0.0,|r|f(&r["coefficient"]));
  let pa0=pr[0]*1e5;
  let plant=Plant{bodies:segs.iter().enumerate().map(|(i,g)|{let a=f(&g["linear_expansion_1_per_k"]);TrueBody{volume:list(&tr["volume_m3"])[i],stretch:list(&tr["wall_compliance_1_per_pa"])[i],growth:if g["restraint"]=="held"{2.0*a*(1.0+f(&g["poisson_ratio"]))}else{3.0*a},creep}}).collect(),
    air:f(&tr["trapped_air_fraction_at_atm"]),atmosphere:1e5*f(&c["atmospheric_pressure_bar_abs"]),filled_c:fill,density:DensityGrid::new(medium,(tl,th),(lo*0.4e5,hi*1.8e5+10e5))};
  let scene=Scene{medium,plant,start_pa:pa0,soak,at_pressure:f(&c["time_at_pressure_before_hold_s"]),length,lags:(0..segs.len()).map(|i|(sl[i],wl[i])).collect(),
    surroundings:Surroundings{from:-soak,step,air:if corners.iter().all(|c|c.buried){(0..np).map(|i|15.0+swing(&w,-soak+i as f64*step)).collect()}else{bodies_e[corners.iter().position(|c|!c.buried).unwrap()].clone()},bodies:bodies_e.clone()},
    relaxation:Relaxation{gaskets:find("gasket_set").map(|r|(f(&r["volume_fraction"]),f(&r["tau_s"]))),air:find("air_dissolving").map(|r|(f(&r["fraction"]),f(&r["tau_s"])))},strokes:vec![]};
  let gauges:Vec<TrueGauge>=c["gauges"].as_array().unwrap().iter().zip(tr["gauges"].as_array().unwrap()).map(|(g,x)|TrueGauge{elevation:0.0,range:1e5*f(&g["range_bar"]),division:1e5*f(&g["resolution_bar"]),accuracy:f(&g["accuracy_percent_of_range"]),white_nominal:1e5*f(&g["repeatability_sd_bar"]),white:1e5*f(&x["white_sd_bar"]),correlated:(1e5*f(&x["ar_sd_bar"]),f(&x["ar_tau_s"])),offset:0.0,per_k_95:1e5*f(&g["temperature_coefficient_95_bar_per_k"]),per_k:0.0}).collect();
  let th:Vec<TrueThermometer>=c["thermometers"].as_array().unwrap().iter().map(|x|{let b=segs.iter().position(|g|g["name"]==x["segment"]).unwrap_or(0);TrueThermometer{spot:match x["location"].as_str().unwrap(){"skin"=>Spot::Skin(b),"water"=>Spot::Fluid(b),_=>Spot::Air},division:f(&x["resolution_k"]),accuracy:f(&x["accuracy_95_k"]),noise:f(&x["noise_sd_k"]),offset:0.0}}).collect();
  let mat=segs[0]["material"].as_str().unwrap();
  let creep_sd=if mat.contains("pe")&&creep>0.0{0.0144}else if creep>0.0{0.0035}else{0.0};
  let known=Known{volume:f(&c["volume_unc_95_rel"]),stretch:segs.iter().map(|g|f(&g["wall_compliance_unc_95_rel"])).collect(),air:f(&c["trapped_air_fraction_unc_95"]),creep:vec![creep_sd;segs.len()],lag_factor:2.5,steps:vec![]};
  let interval=f(&c["logging"]["interval_s"]); let count=(length/interval).floor() as usize+1;
  let times:Vec<f64>=(0..count).map(|i|i as f64*interval).collect();
  let blocks=|most:f64|->Blocks{(0..gauges.len()+th.len()).map(|_|{ let width=length/most; let many=times.len()>60; let mut out:Vec<(f64,f64)>=vec![]; let mut cur=usize::MAX; for x in &times{let b=if many{(x/width) as usize}else{out.len()}; if many&&b==cur&&!out.is_empty(){let l=out.last_mut().unwrap(); l.0=(l.0*l.1+x)/(l.1+1.0); l.1+=1.0;}else{out.push((*x,1.0));} cur=b;} out}).collect()};
  let setting=Setting{scene:&scene,weather:&w,corners:&corners,gauges:&gauges,thermometers:&th,known:&known};
  let none=Leak{rate:0.0,start:0.0};
  let b1=bound(&setting,none,&blocks(std::env::var("NB").ok().and_then(|v|v.parse().ok()).unwrap_or(50.0)))*3.6e6;
  let sample=f(&t["planned_detection_limit_l_per_h"])/3.29;
  println!("{s} ours {b1:.5} sample planned {sample:.5} ratio {:.2} tight {:.2}",b1/sample,f(&t["detection_limit_l_per_h"])/3.29/sample);
 }
}
