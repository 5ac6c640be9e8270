fn main() {
    let f = holdfolder::read(std::path::Path::new(&std::env::args().nth(1).unwrap())).unwrap();
    for d in hold::reading::read(&f.hold, &f.record).defects { println!("{} {:?} {} {}", d.kind.word(), d.channel, d.start_s, d.end_s); }
}
