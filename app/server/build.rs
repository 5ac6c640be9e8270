//! The folder of the front end's build must exist when the server is compiled; it may still be empty then.

fn main() -> std::io::Result<()> {
    println!("cargo::rerun-if-changed=build.rs");
    std::fs::create_dir_all("../../web/dist")
}
