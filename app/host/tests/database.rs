//! The database of an installation keeps everybody else on the machine out, whoever installs it.

use anyhow::{Context, Result};
use host::database::Database;
use host::folder::Folder;
use std::process::Command;

/// Where this test runs as root it runs itself again as nobody: only then has the database's own root to have a password.
#[tokio::test]
async fn without_root_of_the_machine_the_databases_root_has_a_password() -> Result<()> {
    use std::os::unix::fs::MetadataExt;
    const AGAIN: &str = "ZERO_LEAK_TEST_AS_NOBODY";
    if std::fs::metadata("/proc/self")?.uid() == 0 {
        assert!(std::env::var(AGAIN).is_err(), "it still runs as root");
        // a copy that nobody may read, in a folder that nobody may enter
        let folder = tempfile::tempdir()?;
        let copy = folder.path().join("test");
        std::fs::copy(std::env::current_exe()?, &copy)?;
        let run = |program: &str, args: &[&str]| -> Result<std::process::Output> { Ok(Command::new(program).args(args).output()?) };
        let path = folder.path().display().to_string();
        anyhow::ensure!(run("chmod", &["-R", "a+rX", &path])?.status.success());
        let out = Command::new("setpriv")
            .args(["--reuid", "65534", "--regid", "65534", "--clear-groups"])
            .arg(&copy)
            .args(["--exact", "without_root_of_the_machine_the_databases_root_has_a_password", "--nocapture"])
            .env(AGAIN, "1")
            .env("TMPDIR", "/tmp")
            .env("HOME", "/tmp")
            .current_dir("/tmp")
            .output()
            .context("setpriv cannot be started: install util-linux")?;
        let said = String::from_utf8_lossy(&out.stdout).into_owned() + String::from_utf8_lossy(&out.stderr).as_ref();
        assert!(out.status.success() && said.contains("looked at as nobody"), "{said}");
        return Ok(());
    }
    let scratch = tempfile::tempdir()?;
    let folder = Folder::open(scratch.path())?;
    let database = Database::start(&folder).await?;
    let socket = format!("--socket={}", folder.database().join("run/m.sock").display());
    let ask = |who: &str, with: &[(&str, &str)]| -> Result<bool> {
        let out = Command::new("mariadb")
            .args(["--no-defaults", &socket, &format!("--user={who}"), "-e", "SELECT 1"])
            .env_remove("MYSQL_PWD")
            .envs(with.iter().copied())
            .output()?;
        Ok(out.status.success())
    };
    assert!(!ask("root", &[])?, "the database's root needs no password");
    assert!(!ask("root", &[("MYSQL_PWD", "guess")])?);
    assert!(!ask("", &[])? && !ask("nobody", &[])?);
    assert!(ask("root", &[("MYSQL_PWD", &folder.secret("database-root-password")?)])?, "whoever keeps the secret comes in");
    database.stop().await?;
    println!("looked at as nobody");
    Ok(())
}
