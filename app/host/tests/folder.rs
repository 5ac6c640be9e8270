//! What an installation keeps to itself.

use anyhow::Result;
use host::folder::{Folder, write_private};
use std::os::unix::fs::PermissionsExt;
use std::path::Path;

fn mode(path: &Path) -> Result<u32> {
    Ok(std::fs::metadata(path)?.permissions().mode() & 0o777)
}

#[test]
fn a_secret_is_made_once_kept_and_for_its_owner_only() -> Result<()> {
    let scratch = tempfile::tempdir()?;
    let folder = Folder::open(scratch.path())?;
    let first = folder.secret("database-owner-password")?;
    assert!(first.len() >= 32, "{} characters are few for a secret", first.len());
    assert_eq!(Folder::open(scratch.path())?.secret("database-owner-password")?, first, "the same the next time");
    assert_ne!(folder.secret("database-server-password")?, first);
    let kept: Vec<_> = std::fs::read_dir(scratch.path())?.filter_map(Result::ok).filter(|e| e.path().is_file()).collect();
    assert!(kept.len() >= 2);
    for file in kept {
        assert_eq!(mode(&file.path())?, 0o600, "{}", file.path().display());
    }
    Ok(())
}

#[test]
fn secrets_of_two_installations_differ() -> Result<()> {
    let (a, b) = (tempfile::tempdir()?, tempfile::tempdir()?);
    assert_ne!(Folder::open(a.path())?.secret("x")?, Folder::open(b.path())?.secret("x")?);
    Ok(())
}

#[test]
fn a_private_file_is_never_readable_by_others_even_when_it_was_before() -> Result<()> {
    let scratch = tempfile::tempdir()?;
    let file = scratch.path().join("people.json");
    std::fs::write(&file, "old")?;
    std::fs::set_permissions(&file, std::fs::Permissions::from_mode(0o644))?;
    write_private(&file, "new")?;
    assert_eq!((std::fs::read_to_string(&file)?.as_str(), mode(&file)?), ("new", 0o600));
    Ok(())
}

#[test]
fn a_free_port_can_be_bound() -> Result<()> {
    let port = host::ports::free()?;
    std::net::TcpListener::bind(("127.0.0.1", port))?;
    Ok(())
}
