#![allow(missing_docs)]
use std::time::Instant;
fn main() {
    let bytes = std::fs::read("docs/formats/sealed-record.example.json").unwrap();
    let mut r: record::sealed::SealedRecord = serde_json::from_slice(&bytes).unwrap();
    let first = r.parts.readings.readings[0];
    r.parts.readings.readings = (0..86_400).map(|i| judge::case::Reading { t_s: first.t_s + f64::from(i), pressure_pa: Some(quantity::GaugePressure::from_pa(7.65e5 + f64::from(i % 11))), temperature_c: Some(quantity::Temperature::from_c(16.0 + 0.001 * f64::from(i % 7))) }).collect();
    r.parts.readings.hold_end_s = first.t_s + 86_400.0;
    let key = record::key::SealingKey::from_bytes([7; 32]);
    let t = Instant::now();
    let json = serde_json::to_string(&r.parts).unwrap(); println!("to_string {:?} {}", t.elapsed(), json.len());
    let t = Instant::now();
    let parts: record::sealed::Parts = serde_json::from_str(&json).unwrap(); println!("from_str {:?}", t.elapsed());
    let t = Instant::now();
    let sealed = record::sealed::seal(parts, r.signatures.clone(), &key).unwrap(); println!("seal {:?}", t.elapsed());
    let t = Instant::now();
    let file = sealed.to_bytes().unwrap(); println!("to_bytes {:?}", t.elapsed());
    let d = report::Document { parts: &sealed.parts, signatures: &sealed.signatures, seal: Some(&sealed.seal), site: "Merrowick Works" };
    for _ in 0..2 {
    let t = Instant::now();
    let pages = report::pages(&d, report::Paper::A4, report::Form::Report).unwrap(); println!("pages {} {:?}", pages.len(), t.elapsed());
    let t = Instant::now();
    let pdf = report::pdf(&d, Some(file.clone()), report::Paper::A4, report::Form::Report).unwrap(); println!("pdf {} {:?}", pdf.len(), t.elapsed());
    let t = Instant::now();
    let pdf = report::pdf(&d, None, report::Paper::A4, report::Form::Report).unwrap(); println!("pdf without {} {:?}", pdf.len(), t.elapsed());
    }
}
