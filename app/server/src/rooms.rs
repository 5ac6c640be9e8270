//! Rooms: one for each run that somebody watches on this server, opened for the first who comes, closed after the last has gone.

use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError, Weak};
use tokio::sync::watch;
use tokio::time::Instant;

/// What has changed.
#[derive(Debug, Clone)]
pub struct News {
    /// Changes whenever an event, a typed reading, a file, a correction or a signature was added.
    pub revision: String,
    /// When the recorder's last instant came; none where none has come since somebody watches.
    pub came: Option<Instant>,
}

/// One run that somebody watches.
#[derive(Debug)]
pub struct Room {
    /// What has changed; none before the first look.
    pub news: watch::Sender<Option<News>>,
}

/// All rooms of this server.
#[derive(Debug, Default)]
pub struct Hub {
    rooms: Mutex<HashMap<String, Weak<Room>>>,
}

impl Hub {
    /// The room of an attempt, and whether it was opened now and has to be fed.
    pub fn enter(&self, attempt: &str) -> (Arc<Room>, bool) {
        let mut rooms = self.rooms.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(room) = rooms.get(attempt).and_then(Weak::upgrade) {
            return (room, false);
        }
        rooms.retain(|_, room| room.strong_count() > 0);
        let room = Arc::new(Room { news: watch::Sender::new(None) });
        rooms.insert(attempt.to_owned(), Arc::downgrade(&room));
        (room, true)
    }
}
