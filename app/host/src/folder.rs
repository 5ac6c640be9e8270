//! The folder of an installation: database files, credentials, key. Nothing secret is readable by others.

use anyhow::{Context, Result};
use rand::RngExt;
use std::path::{Path, PathBuf};

/// Paths in an installation's folder.
#[derive(Debug, Clone)]
pub struct Folder(PathBuf);

impl Folder {
    /// Opens or makes the folder.
    ///
    /// # Errors
    /// When it cannot be made.
    pub fn open(path: &Path) -> Result<Self> {
        std::fs::create_dir_all(path).with_context(|| format!("the folder {} cannot be made", path.display()))?;
        Ok(Self(std::fs::canonicalize(path)?))
    }
    /// The folder itself.
    pub fn path(&self) -> &Path {
        &self.0
    }
    /// Folder of the database.
    pub fn database(&self) -> PathBuf {
        self.0.join("database")
    }
    /// File of the sealing key.
    pub fn key_file(&self) -> PathBuf {
        self.0.join("sealing-key")
    }

    /// A secret of this installation: read from its file, or made up and kept.
    ///
    /// # Errors
    /// When the file cannot be read or written.
    pub fn secret(&self, name: &str) -> Result<String> {
        let file = self.0.join(name);
        if let Ok(text) = std::fs::read_to_string(&file) {
            return Ok(text.trim().to_owned());
        }
        let mut rng = rand::rng();
        let secret: String = (0..32).map(|_| format!("{:02x}", rng.random_range(0..=255u8))).collect();
        write_private(&file, &secret)?;
        Ok(secret)
    }
}

/// Opens a file at its end, so that only its owner can read it.
///
/// # Errors
/// When it cannot be opened.
pub fn append_private(file: &Path) -> Result<std::fs::File> {
    use std::os::unix::fs::{OpenOptionsExt, PermissionsExt};
    let f = std::fs::OpenOptions::new()
        .create(true)
        .append(true)
        .mode(0o600)
        .open(file)
        .with_context(|| format!("{} cannot be written", file.display()))?;
    f.set_permissions(std::fs::Permissions::from_mode(0o600))?;
    Ok(f)
}

/// Writes a file that only its owner can read.
///
/// # Errors
/// When it cannot be written.
pub fn write_private(file: &Path, text: &str) -> Result<()> {
    use std::io::Write;
    use std::os::unix::fs::{OpenOptionsExt, PermissionsExt};
    let mut f = std::fs::OpenOptions::new()
        .write(true)
        .create(true)
        .truncate(true)
        .mode(0o600)
        .open(file)
        .with_context(|| format!("{} cannot be written", file.display()))?;
    // the mode above counts for a new file only
    f.set_permissions(std::fs::Permissions::from_mode(0o600))?;
    f.write_all(text.as_bytes())?;
    Ok(())
}
