fn main() {
    let bytes = std::fs::read(std::env::args().nth(1).unwrap()).unwrap();
    let r: record::sealed::SealedRecord = serde_json::from_slice(&bytes).unwrap();
    let d = report::Document { parts: &r.parts, signatures: &r.signatures, seal: Some(&r.seal), site: "Merrowick Works" };
    for (form, name) in [(report::Form::Report, "report"), (report::Form::Certificate, "certificate")] {
        let t = std::time::Instant::now();
        let pdf = report::pdf(&d, Some(bytes.clone()), report::Paper::A4, form).unwrap();
        println!("{name} {} kB {:?}", pdf.len() / 1000, t.elapsed());
        std::fs::write(format!("/tmp/{name}.pdf"), pdf).unwrap();
    }
}
