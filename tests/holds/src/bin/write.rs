//! Writes made holds into a folder: `write SEED FROM COUNT FOLDER`.

fn main() -> std::io::Result<()> {
    let args: Vec<String> = std::env::args().collect();
    let number = |i: usize, otherwise: u64| args.get(i).and_then(|v| v.parse().ok()).unwrap_or(otherwise);
    let (seed, from, count) = (number(1, 1), number(2, 0), number(3, 10));
    let into = std::path::PathBuf::from(args.get(4).map_or("holds", String::as_str));
    for i in from..from + count {
        let family = holds::family::Family::ALL[(i % 10) as usize];
        holds::files::write(&holds::make(seed, i, family), &into)?;
    }
    Ok(())
}
