//! The worker that keeps the lines of lists: makes the line of each pack that is due. Several servers share the work; what one claims another leaves alone.

use crate::problem::Problem;
use crate::state::App;
use crate::store::line::{self as store, Claim, Line, Of};
use crate::store::pack::{self, Unreadable};
use crate::store::project;
use crate::views::line::{line, unreadable};
use std::sync::OnceLock;
use std::time::Duration;

/// How often it looks for what others have marked.
const EVERY: Duration = Duration::from_millis(250);
/// How often it looks whether the day has changed.
const DAY_EVERY: Duration = Duration::from_secs(20);
/// Claimed at once.
const AT_ONCE: u32 = 8;
/// After a failure of the database.
const AFTER_FAILURE: Duration = Duration::from_secs(2);

/// The build of this program: its rules and tables are those of its file.
pub fn build() -> &'static str {
    static BUILD: OnceLock<String> = OnceLock::new();
    BUILD.get_or_init(|| {
        let file = std::env::current_exe().and_then(std::fs::metadata);
        let made = file.and_then(|f| Ok((f.len(), f.modified()?))).ok();
        record::canonical::sha256_hex(format!("{} {} {made:?}", env!("CARGO_PKG_VERSION"), judge::judgement::RULES_VERSION).as_bytes())
    })
}

/// The line of a pack as it is now, and the day on which that is.
///
/// # Errors
/// When the database fails.
pub async fn made(app: &App, pack: &str) -> Result<(Line, String), Problem> {
    let known = pack::known(&app.db, pack).await?;
    let zone = project::get(&app.db, &known.project).await?.zone;
    let day = app.today(&zone).0;
    let row = match pack::get(&app.db, pack).await {
        Ok(row) => row,
        Err(Problem::Internal(_)) => return Ok((unreadable(&known), day)),
        Err(other) => return Err(other),
    };
    match line(app, &row).await {
        Ok(line) => Ok((line, day)),
        // an attempt, a reading or a signature of it
        Err(Problem::Internal(_)) => Ok((unreadable(&known), day)),
        Err(other) => Err(other),
    }
}

async fn renew(app: &App, claim: &Claim) -> Result<bool, Problem> {
    // a rule that panics on one pack keeps no other from its line
    let (of, id) = (app.clone(), claim.pack_id.clone());
    let made = tokio::spawn(async move { made(&of, &id).await }).await;
    let (line, day) = match made {
        Ok(made) => made?,
        Err(e) => {
            tracing::error!(pack = claim.pack_id, error = %e, "the line of a pack cannot be made");
            let known: Unreadable = pack::known(&app.db, &claim.pack_id).await?;
            let zone = project::get(&app.db, &known.project).await?.zone;
            (unreadable(&known), app.today(&zone).0)
        }
    };
    store::write(&app.db, claim, &line, Of { day: &day, build: build() }).await
}

/// Marks what is of another day, at the start also what is of another build.
async fn mark(app: &App, builds_too: bool) -> Result<(), Problem> {
    for project in project::all(&app.db).await? {
        let day = app.today(&project.zone).0;
        store::mark_other(&app.db, &project.id, Of { day: &day, build: build() }, builds_too).await?;
    }
    Ok(())
}

/// Works until the server stops.
pub async fn run(app: App) {
    let mut started = false;
    let mut looked = tokio::time::Instant::now();
    while !app.stopping.is_cancelled() {
        if !started || looked.elapsed() >= DAY_EVERY {
            looked = tokio::time::Instant::now();
            if mark(&app, !started).await.is_err() {
                tokio::time::sleep(AFTER_FAILURE).await;
                continue;
            }
            started = true;
        }
        match store::claim(&app.db, AT_ONCE).await {
            Ok(claims) if claims.is_empty() => {
                tokio::select! {
                    () = app.lines.notified() => {}
                    () = tokio::time::sleep(EVERY) => {}
                    () = app.stopping.cancelled() => return,
                }
            }
            Ok(claims) => {
                for claim in &claims {
                    if let Err(e) = renew(&app, claim).await {
                        tracing::warn!(pack = claim.pack_id, error = %e, "the line of a pack could not be kept");
                        let _ = store::give_back(&app.db, claim).await;
                        tokio::time::sleep(AFTER_FAILURE).await;
                    }
                }
            }
            Err(_) => tokio::time::sleep(AFTER_FAILURE).await,
        }
    }
}

/// How often those who follow the lists hear of a change.
const NEWS_EVERY: Duration = Duration::from_millis(400);

/// Tells those who follow the lists where they stand, while anybody does: one question for all of them.
pub async fn tell(app: App) {
    while !app.stopping.is_cancelled() {
        tokio::select! {
            () = tokio::time::sleep(NEWS_EVERY) => {}
            () = app.stopping.cancelled() => return,
        }
        if app.news.receiver_count() == 0 {
            continue;
        }
        if let Ok(now) = crate::store::standing::stand(&app.db).await {
            app.news.send_if_modified(|had| {
                let changed = *had != Some(now);
                *had = Some(now);
                changed
            });
        }
    }
}

/// What stands in a list otherwise than it is derived, a sentence each. Packs that are due are left out: lists say of them that they are being renewed.
///
/// # Errors
/// When the database fails.
pub async fn compared(app: &App) -> Result<Compared, Problem> {
    let mut compared = Compared::default();
    let (mut all, mut whole) = (Vec::new(), true);
    for id in pack::ids(&app.db).await? {
        let kept = store::kept(&app.db, &id).await?;
        let (line, _) = made(app, &id).await?;
        let known = pack::known(&app.db, &id).await?;
        if kept.due {
            compared.due += 1;
            whole = false;
            continue;
        }
        compared.packs += 1;
        if kept.line != line {
            compared.differences.push(format!("{}: kept {:?}, derived {line:?}", known.number, kept.line));
        }
        all.push((known.project, line));
    }
    if whole {
        let counted = store::counted(all.iter().map(|(p, l)| (p.as_str(), l)));
        let kept = store::kept_counts(&app.db).await?;
        if kept != counted {
            compared.differences.push(format!("counts: kept {kept:?}, counted {counted:?}"));
        }
    }
    Ok(compared)
}

/// What a comparison found.
#[derive(Debug, Default)]
pub struct Compared {
    /// Packs that were compared.
    pub packs: usize,
    /// Packs that are being renewed just now.
    pub due: usize,
    /// What differs.
    pub differences: Vec<String>,
}
