//! The recorder: polls the instruments of every attempt that is under way, under a lease.

mod poll;

use crate::state::App;
use crate::store::{attempt, lease, tick};
use ::pack::plan::RunKind;
use poll::Poller;
use run::own_time::{Moment, OwnTime};
use std::collections::{HashMap, VecDeque};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;
use tokio::time::{Instant, MissedTickBehavior, interval};

/// Most instants that are kept while the database does not answer: an hour at one a second.
const KEPT: usize = 3600;
/// Attempts that this server polls now.
type Running = Arc<Mutex<HashMap<String, tokio::task::AbortHandle>>>;

/// How often it is looked for tests that nobody records: a server that was killed is missed for its lease and this.
const LOOK_EVERY: Duration = Duration::from_millis(250);

/// Looks for attempts to poll, until the program ends.
pub async fn run(app: App) {
    let holder: Arc<str> = uuid::Uuid::now_v7().to_string().into();
    let running: Running = Arc::default();
    let mut look = interval(LOOK_EVERY);
    look.set_missed_tick_behavior(MissedTickBehavior::Delay);
    loop {
        look.tick().await;
        if let Err(e) = take_up(&app, &holder, &running).await {
            tracing::warn!(error = %e, "the recorder cannot look for tests to record");
        }
    }
}

fn locked(running: &Running) -> std::sync::MutexGuard<'_, HashMap<String, tokio::task::AbortHandle>> {
    running.lock().unwrap_or_else(PoisonError::into_inner)
}

/// Starts to poll what is open and not polled by anybody; stops what is over.
async fn take_up(app: &App, holder: &Arc<str>, running: &Running) -> anyhow::Result<()> {
    let open = lease::open_attempts(&app.db).await?;
    locked(running).retain(|id, task| {
        let keep = open.iter().any(|o| o.id == *id);
        if !keep {
            task.abort();
            app.practice.end(id);
        }
        keep
    });
    for o in open {
        if locked(running).contains_key(&o.id) {
            continue;
        }
        // what one test cannot be recorded for keeps no other from being recorded
        let row = match attempt::get(&app.db, &o.id).await {
            Ok(row) => row,
            Err(e) => {
                tracing::error!(attempt = o.id, error = %e, "this test cannot be read, and is not recorded");
                continue;
            }
        };
        if Poller::new(&row.frozen.instruments, &app.reach, None).is_none() || !lease::take(&app.db, &o.id, holder).await? {
            continue;
        }
        let practice = row.frozen.plan.run == RunKind::Practice;
        let rig = match if practice { own_rig(app, &o.id).await.map(Some) } else { Ok(None) } {
            Ok(rig) => rig,
            Err(e) => {
                tracing::warn!(attempt = o.id, error = %e, "this practice run has no rig, and is not recorded");
                continue;
            }
        };
        let Some(poller) = Poller::new(&row.frozen.instruments, &app.reach, rig) else { continue };
        let (app, holder, id, all) = (app.clone(), holder.clone(), o.id.clone(), running.clone());
        let task = tokio::spawn(async move {
            record(&app, &holder, &id, poller).await;
            app.practice.end(&id);
            locked(&all).remove(&id);
        });
        locked(running).insert(o.id, task.abort_handle());
    }
    Ok(())
}

/// The rig of a practice run, known to every server: what is practised reaches no other test.
async fn own_rig(app: &App, id: &str) -> anyhow::Result<std::net::SocketAddr> {
    let address = app.practice.of(id)?;
    lease::set_rig_port(&app.db, id, address.port()).await?;
    Ok(address)
}

/// How long storing takes; said in the log once in so many instants, so that a slow disk shows before it hurts.
#[derive(Debug, Default)]
struct Took(Vec<Duration>);

/// Instants between two lines of the log.
const SAID_EVERY: usize = 30;

impl Took {
    fn add(&mut self, attempt: &str, one: Duration) {
        self.0.push(one);
        if self.0.len() < SAID_EVERY {
            return;
        }
        self.0.sort_unstable();
        let ms: Vec<String> = self.0.iter().map(|d| format!("{:.1}", d.as_secs_f64() * 1e3)).collect();
        tracing::info!(attempt, stored_ms = ms.join(" "), "readings stored");
        self.0.clear();
    }
}

/// Polls one attempt until it is signed or another server has taken it over. What cannot be stored is kept in order and tried again.
async fn record(app: &App, holder: &str, id: &str, mut poller: Poller) {
    tracing::info!(attempt = id, channels = poller.channels(), "recording");
    let mut every = interval(Duration::from_secs_f64(app.clock.every_s() / app.clock.rate()));
    every.set_missed_tick_behavior(MissedTickBehavior::Delay);
    let mut own: Option<OwnTime> = None;
    let mut kept: VecDeque<(Moment, Vec<run::rows::Sampled>)> = VecDeque::new();
    let mut said_failing = false;
    let mut took = Took::default();
    loop {
        every.tick().await;
        let (at_us, steady_us) = (app.clock.now().us(), app.clock.steady_us());
        // without knowing how far the one before had come, no reading has its place in time
        let Some(own) = resumed(app, id, &mut own, at_us, steady_us).await else { continue };
        kept.push_back((own.moment(at_us, steady_us), poller.read().await));
        if kept.len() > KEPT {
            kept.pop_front();
        }
        let until = Instant::now() + Duration::from_millis(800);
        let by = tick::Recorder { attempt: id, holder, boot: own.boot() };
        while let Some((moment, values)) = kept.front() {
            let asked = Instant::now();
            match tokio::time::timeout_at(until, tick::insert(&app.db, by, *moment, values)).await {
                Ok(Ok(tick::Stored::Yes)) => {
                    kept.pop_front();
                    said_failing = false;
                    took.add(id, asked.elapsed());
                }
                Ok(Ok(tick::Stored::LeaseLost | tick::Stored::Signed)) => {
                    tracing::info!(attempt = id, "recording handed over or ended");
                    return;
                }
                Ok(Err(_)) | Err(_) => {
                    if !said_failing {
                        tracing::warn!(attempt = id, "the database does not take readings: they are kept here until it does");
                        said_failing = true;
                    }
                    break;
                }
            }
        }
    }
}

/// The run's own time, taken up from what was stored of it last; none while the database does not say.
async fn resumed<'a>(app: &App, id: &str, own: &'a mut Option<OwnTime>, at_us: i64, steady_us: i64) -> Option<&'a mut OwnTime> {
    if own.is_none() {
        let kept = tick::kept(&app.db, id).await.ok()?;
        let every_us = (app.clock.every_s() * 1e6) as i64;
        *own = Some(OwnTime::resume(kept, &crate::clock::boot(), at_us, steady_us, every_us, app.clock.rate()));
    }
    own.as_mut()
}
