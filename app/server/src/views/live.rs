//! What everybody who watches a test sees: one room for each run that somebody watches, fed from the database, so that it does not matter which
//! server records.

use crate::kept::Held;
use crate::rooms::{News, Room};
use crate::runs;
use crate::state::App;
use crate::store::attempt::AttemptRow;
use crate::store::project::Project;
use crate::views::practice::on_the_rig;
use crate::who::Reader;
use run::Now;
use run::live::LiveView;
use std::sync::{Arc, Weak};
use std::time::Duration;

/// How often the database is asked for what is new.
const EVERY: Duration = Duration::from_millis(200);
/// It is said at least this often that time goes on, so that silence shows.
const AT_LEAST: Duration = Duration::from_secs(1);

/// Enters the room of an attempt.
///
/// # Errors
/// When the database fails.
pub async fn enter(app: &App, attempt: &AttemptRow) -> Result<(Arc<Room>, Arc<Held>), crate::problem::Problem> {
    let held = runs::current(app, attempt).await?;
    let (room, opened) = app.hub.enter(&attempt.id);
    if opened {
        tokio::spawn(follow(app.clone(), attempt.clone(), Arc::clone(&held), Arc::downgrade(&room)));
    }
    Ok((room, held))
}

/// The moment now, for somebody who reads these units.
pub fn view(app: &App, project: &Project, attempt: &AttemptRow, held: &Held, news: &News, reads: Reader) -> LiveView {
    let run = held.read();
    let heard_s = news.came.map(|at| at.elapsed().as_secs_f64());
    let now = Now::by_recorder(&run, app.clock.now(), app.clock.rate(), app.clock.every_s(), heard_s);
    run.live(&now, &app.tell(project, reads.units(run.dial())), on_the_rig(app, attempt))
}

/// Feeds a room until nobody is in it. What fails is tried again: the database may be away for a while.
async fn follow(app: App, attempt: AttemptRow, held: Arc<Held>, room: Weak<Room>) {
    let mut made = tokio::time::Instant::now() - AT_LEAST;
    // when the last instant came; not that of the first look, which may be hours old
    let mut came = None::<tokio::time::Instant>;
    let mut seen = held.read().last_seq();
    let mut last = String::new();
    loop {
        let Some(here) = room.upgrade() else { return };
        if let Ok(revision) = runs::brought_up(&app, &attempt, &held).await {
            let seq = held.read().last_seq();
            let any = seq != std::mem::replace(&mut seen, seq);
            if any {
                came = Some(tokio::time::Instant::now());
            }
            if any || revision != last || made.elapsed() >= AT_LEAST {
                made = tokio::time::Instant::now();
                last.clone_from(&revision);
                here.news.send_replace(Some(News { revision, came }));
            }
        }
        drop(here);
        tokio::time::sleep(EVERY).await;
    }
}
