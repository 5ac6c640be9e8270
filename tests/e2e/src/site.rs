//! An installation of its own for one test, with people but nothing else.

use crate::fixtures::ZONE;
use anyhow::{Context, Result};
use demo::client::Person;
use demo::people::{DemoPerson, PEOPLE};
use host::installation::{Installation, Options};
use std::path::PathBuf;

/// An installation with its people.
pub struct Site {
    /// The installation.
    pub installation: Installation,
    /// Its people.
    pub people: Vec<DemoPerson>,
    _folder: tempfile::TempDir,
}

/// The workspace's folder.
pub fn root() -> PathBuf {
    let here = PathBuf::from(env!("CARGO_MANIFEST_DIR"));
    here.ancestors().nth(2).map_or_else(|| here.clone(), PathBuf::from)
}

/// The binary that this build made.
///
/// # Errors
/// When it is not there.
pub fn binary() -> Result<PathBuf> {
    let path = root().join("target/debug/zero-leak");
    anyhow::ensure!(path.is_file(), "{} is not there: run `cargo xtask test`, or `cargo build -p cli` first", path.display());
    Ok(path)
}

impl Site {
    /// Starts one on free ports.
    ///
    /// # Errors
    /// When database or server do not come up.
    pub async fn start() -> Result<Self> {
        Self::with_sign_in_burst(500).await
    }

    /// Starts one that allows so many sign-ins in a row.
    ///
    /// # Errors
    /// When database or server do not come up.
    pub async fn with_sign_in_burst(sign_in_burst: u32) -> Result<Self> {
        Self::with(sign_in_burst, None, None, None, ZONE, false).await
    }

    /// Starts one with the practice rig; with a rate, on a training clock that begins now and runs so many times as fast.
    ///
    /// # Errors
    /// When anything does not come up.
    pub async fn with_rig(rate: Option<f64>) -> Result<Self> {
        let scenario = root().join("docs/formats/examples/pump-house.rig.json");
        let now = crate::fixtures::at(time::OffsetDateTime::now_utc());
        Self::with(200, Some(scenario), rate.map(|r| (now, r)), None, ZONE, false).await
    }

    /// Starts one with the practice rig whose servers' clock is ahead by the seconds in a file, which a test sets as it likes.
    ///
    /// # Errors
    /// When anything does not come up.
    pub async fn with_clock_set_by(file: &std::path::Path) -> Result<Self> {
        let scenario = root().join("docs/formats/examples/pump-house.rig.json");
        Self::with(200, Some(scenario), None, Some(file.to_owned()), ZONE, false).await
    }

    /// Starts one with a rig of a scenario of one's own.
    ///
    /// # Errors
    /// When anything does not come up.
    pub async fn with_scenario(scenario: &std::path::Path) -> Result<Self> {
        Self::with(200, Some(scenario.to_owned()), None, None, ZONE, false).await
    }

    /// Starts one with a rig of a scenario, that also answers what figures are held against.
    ///
    /// # Errors
    /// When anything does not come up.
    pub async fn for_bench(scenario: &std::path::Path) -> Result<Self> {
        Self::with(500, Some(scenario.to_owned()), None, None, ZONE, true).await
    }

    /// Starts one in a zone, whose servers' clock is ahead by the seconds in a file.
    ///
    /// # Errors
    /// When database or server do not come up.
    pub async fn in_zone(zone: &str, ahead: &std::path::Path) -> Result<Self> {
        Self::with(500, None, None, Some(ahead.to_owned()), zone, false).await
    }

    async fn with(
        sign_in_burst: u32,
        rig: Option<PathBuf>,
        training_clock: Option<(String, f64)>,
        clock_set: Option<PathBuf>,
        zone: &str,
        bench: bool,
    ) -> Result<Self> {
        Self::of(sign_in_burst, rig, training_clock, clock_set, zone, bench, true).await
    }

    /// Starts one in which nobody has an account, as whoever sets it up finds it.
    ///
    /// # Errors
    /// When anything does not come up.
    pub async fn empty() -> Result<Self> {
        Self::of(50, None, None, None, "", false, false).await
    }

    async fn of(
        sign_in_burst: u32,
        rig: Option<PathBuf>,
        training_clock: Option<(String, f64)>,
        clock_set: Option<PathBuf>,
        zone: &str,
        bench: bool,
        with_people: bool,
    ) -> Result<Self> {
        let folder = tempfile::tempdir()?;
        let options = Options {
            binary: binary()?,
            site: if with_people { "Merrowick Works".to_owned() } else { String::new() },
            zone: zone.to_owned(),
            port: None,
            sign_in_burst,
            rig,
            training_clock,
            clock_set,
            bench,
        };
        let installation = Installation::start(folder.path(), options).await?;
        let people: Vec<DemoPerson> = PEOPLE
            .iter()
            .map(|(sign_in, role, does)| DemoPerson {
                sign_in: (*sign_in).to_owned(),
                role: (*role).to_owned(),
                password: format!("test-password-of-{sign_in}"),
                does: (*does).to_owned(),
            })
            .collect();
        if with_people {
            for p in &people {
                installation.person(&p.sign_in, &p.role, &p.password).await?;
            }
        }
        Ok(Self { installation, people, _folder: folder })
    }

    /// Password of a person.
    pub fn password(&self, name: &str) -> &str {
        self.people.iter().find(|p| p.sign_in == name).map_or("", |p| &p.password)
    }

    /// A person at the API.
    ///
    /// # Errors
    /// When they cannot sign in.
    pub async fn person(&self, name: &str) -> Result<Person> {
        Person::sign_in(&self.installation.base(), name, self.password(name)).await.with_context(|| name.to_owned())
    }

    /// Loads the demo's data.
    ///
    /// # Errors
    /// When the server refuses something.
    pub async fn load_demo(&self) -> Result<()> {
        let finished = root().join("docs/formats/examples/boiler-feed.rig.json");
        let rig = match &self.installation.rig {
            Some(rig) => {
                let out =
                    std::process::Command::new(binary()?).arg("rig").arg(finished).args(["--trace", "6600", "--every", "5"]).output()?;
                Some(demo::merrowick::RigSite { port: rig.port, finished: out.stdout })
            }
            None => None,
        };
        demo::merrowick::load(&self.installation.base(), &self.people, rig.as_ref(), &|_| ()).await
    }

    /// Stops it.
    ///
    /// # Errors
    /// When it cannot be stopped.
    pub async fn stop(self) -> Result<()> {
        self.installation.stop().await
    }
}
