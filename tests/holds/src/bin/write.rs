//! Writes made holds into a folder: seed, number of the hold, folder.
fn main() -> std::io::Result<()> {
    let args: Vec<String> = std::env::args().collect();
    let (seed, number): (u64, u64) = (args[1].parse().unwrap_or(1), args[2].parse().unwrap_or(0));
    let family = holds::family::Family::ALL[(number % 10) as usize];
    holds::files::write(&holds::make(seed, number, family), std::path::Path::new(&args[3]))
}
