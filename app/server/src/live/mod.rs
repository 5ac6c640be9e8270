//! What everybody who watches a test sees: one room for each attempt that somebody watches, fed from the database, so that it does not
//! matter which server records.

mod figures;
mod pumping;
mod view;

pub use figures::elevation;
pub use pumping::pumping;
pub use view::LiveView;

use crate::judging::Run;
use crate::problem::Problem;
use crate::state::App;
use crate::store::attempt::AttemptRow;
use crate::store::tick::{self, Tick};
use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError, RwLock, Weak};
use std::time::Duration;
use tokio::sync::watch;

/// How often the database is asked for what is new.
const EVERY: Duration = Duration::from_millis(200);
/// The view is made anew at least this often, so that silence shows.
const AT_LEAST: Duration = Duration::from_secs(1);

/// What has changed.
#[derive(Debug, Clone)]
pub struct Snapshot {
    /// Last instant of the recorder.
    pub last_seq: u64,
    /// Changes whenever an event, a typed reading, a file or a signature was added.
    pub revision: String,
    /// What the screens show.
    pub view: Arc<LiveView>,
}

/// One attempt that somebody watches.
#[derive(Debug)]
pub struct Room {
    ticks: RwLock<Vec<Tick>>,
    state: watch::Sender<Option<Snapshot>>,
}

impl Room {
    /// Follows changes.
    pub fn subscribe(&self) -> watch::Receiver<Option<Snapshot>> {
        self.state.subscribe()
    }

    /// Instants after a number of the sequence.
    pub fn after(&self, seq: u64) -> Vec<Tick> {
        let ticks = self.ticks.read().unwrap_or_else(PoisonError::into_inner);
        let from = ticks.partition_point(|t| t.seq <= seq);
        ticks[from..].to_vec()
    }
}

/// All rooms of this server.
#[derive(Debug, Default)]
pub struct Hub {
    rooms: Mutex<HashMap<String, Weak<Room>>>,
}

impl Hub {
    /// The room of an attempt; opened for the first who comes, closed after the last has gone.
    pub fn enter(&self, app: &App, attempt: AttemptRow) -> Arc<Room> {
        let mut rooms = self.rooms.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(room) = rooms.get(&attempt.id).and_then(Weak::upgrade) {
            return room;
        }
        rooms.retain(|_, room| room.strong_count() > 0);
        let room = Arc::new(Room { ticks: RwLock::default(), state: watch::Sender::new(None) });
        rooms.insert(attempt.id.clone(), Arc::downgrade(&room));
        tokio::spawn(follow(app.clone(), attempt, Arc::downgrade(&room)));
        room
    }
}

/// Feeds a room until nobody is in it. What fails is tried again: the database may be away for a while.
async fn follow(app: App, attempt: AttemptRow, room: Weak<Room>) {
    let mut run: Option<Run> = None;
    let mut revision = String::new();
    let mut made = tokio::time::Instant::now() - AT_LEAST;
    // when the last instant came; not that of the first look, which may be hours old
    let (mut came, mut first) = (None::<tokio::time::Instant>, true);
    loop {
        let Some(here) = room.upgrade() else { return };
        let seen = here.ticks.read().unwrap_or_else(PoisonError::into_inner).last().map_or(0, |t| t.seq);
        let news = async {
            let now = crate::store::attempt::revision(&app.db, &attempt.id).await?;
            if now != revision || run.is_none() {
                run = Some(Run::load_booked(&app, attempt.clone()).await?);
                revision = now;
                made -= AT_LEAST;
            }
            tick::after(&app.db, &attempt.id, seen).await
        };
        let news: Result<Vec<Tick>, Problem> = news.await;
        if let (Ok(new), Some(run)) = (news, run.as_ref()) {
            let any = !new.is_empty();
            if any && !std::mem::take(&mut first) {
                came = Some(tokio::time::Instant::now());
            }
            first = false;
            if any {
                here.ticks.write().unwrap_or_else(PoisonError::into_inner).extend(new);
            }
            if any || made.elapsed() >= AT_LEAST {
                made = tokio::time::Instant::now();
                let ticks = here.ticks.read().unwrap_or_else(PoisonError::into_inner);
                let view = Arc::new(view::live_view(&app, run, &ticks, came.map(|at| at.elapsed())));
                let last_seq = ticks.last().map_or(0, |t| t.seq);
                drop(ticks);
                here.state.send_replace(Some(Snapshot { last_seq, revision: revision.clone(), view }));
            }
        }
        drop(here);
        tokio::time::sleep(EVERY).await;
    }
}
