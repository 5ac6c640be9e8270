//! Today: what waits for whoever asks, what is under test, what can be tested, what stops the rest.

use super::Query;
use super::lines::{PackLine, has, page, tag, unit_words, unless_same};
use crate::access::sees_in_lists;
use crate::problem::{Problem, ProblemBody};
use crate::state::App;
use crate::store::line::StateKind;
use crate::store::listing::{Filter, Page, Sort};
use crate::store::owed::{self, RunsOut, Task};
use crate::store::standing;
use crate::who::{Reader, Who};
use axum::extract::State;
use axum::http::HeaderMap;
use axum::response::Response;
use pack::instrument::IsoDate;
use rules::say::fill;
use serde::{Deserialize, Serialize};
use terms::Term;

/// Lines of a group; the rest is a page of its own.
const MOST: u32 = 8;
/// Days ahead for which is said what runs out.
const DAYS: i64 = 7;

/// Of which project.
#[derive(Debug, Deserialize, utoipa::IntoParams)]
#[serde(deny_unknown_fields)]
pub struct TodayQuery {
    /// Id of one project; all where it is absent.
    #[serde(default)]
    project: Option<String>,
}

/// Something that waits for whoever asks.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct WaitsForMe {
    /// Id of the pack.
    pub pack_id: String,
    /// Its number.
    pub number: String,
    /// Its title.
    pub title: String,
    /// Name of its project.
    pub project_name: String,
    /// `release`, `run`, `read`, `restore` or `sign`.
    pub what: String,
    /// What is to be done.
    pub sentence: String,
    /// Step of the spine where it is done.
    pub step: String,
}

/// Packs that one thing stops.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct StoppedBy {
    /// Id of the gate.
    pub rule: String,
    /// How many.
    pub tests: i64,
    /// In words: "9 tests wait for a permit to work".
    pub words: String,
    /// How many of them wait for whoever asks.
    pub mine: i64,
}

/// Packs in one state: the first, and how many in all.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct Group {
    /// The first.
    pub lines: Vec<PackLine>,
    /// How many there are.
    pub total: i64,
}

/// A certificate that runs out, or has.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct Ends {
    /// Tag of the instrument.
    pub tag: String,
    /// In a sentence.
    pub sentence: String,
    /// True once it has run out.
    pub over: bool,
}

/// The day board.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct Today {
    /// The day, in the project's zone, or the site's for all projects.
    pub date: String,
    /// The zone.
    pub zone: String,
    /// What waits for whoever asks.
    pub waiting: Vec<WaitsForMe>,
    /// Under test now.
    pub running: Group,
    /// Can be released.
    pub ready: Group,
    /// Over, waiting for repair, retest or signatures.
    pub judged: Group,
    /// What stops tests, what stops most first.
    pub stopped: Vec<StoppedBy>,
    /// How many are stopped.
    pub blocked: i64,
    /// How many are signed.
    pub signed: i64,
    /// Packs with blinds in.
    pub blinds: Group,
    /// Certificates that run out within a week, or have run out.
    pub ends: Vec<Ends>,
    /// Packs whose line is being renewed.
    pub renewing: i64,
    /// For how long the one that waits longest has waited, s.
    pub lag_s: f64,
}

fn waits(reads: Reader, t: Task) -> WaitsForMe {
    WaitsForMe {
        sentence: fill(&t.sentence, reads.usually(t.units.0).units(t.units.1)),
        pack_id: t.pack_id,
        number: t.number,
        title: t.title,
        project_name: t.project,
        what: t.what,
        step: t.step,
    }
}

fn ends(r: RunsOut, today: &IsoDate) -> Ends {
    let left = today.days_until(&IsoDate(r.valid_until.clone())).unwrap_or(-1);
    let sentence = match left {
        ..0 => format!("The certificate of {} ran out on {}.", r.tag, r.valid_until),
        0 => format!("The certificate of {} runs out today.", r.tag),
        1 => format!("The certificate of {} runs out tomorrow.", r.tag),
        _ => format!("The certificate of {} runs out on {}.", r.tag, r.valid_until),
    };
    Ends { sentence, over: left < 0, tag: r.tag }
}

/// The day board for this person.
#[utoipa::path(get, path = "/api/v1/today", tag = "packs", params(TodayQuery),
    responses((status = 200, body = Today), (status = 304, description = "as it was"), (status = 401, body = ProblemBody), (status = 404, body = ProblemBody)))]
pub async fn get(State(app): State<App>, who: Who, headers: HeaderMap, Query(query): Query<TodayQuery>) -> Result<Response, Problem> {
    let mut sees = sees_in_lists(&who);
    let project = query.project.as_deref().filter(|p| !p.is_empty());
    let zone = match project {
        Some(id) => {
            who.role_in(id).ok_or(Problem::NotFound("project"))?;
            sees.whole.retain(|p, _| p == id);
            sees.named.retain(|p| p == id);
            crate::store::project::get(&app.db, id).await?.zone
        }
        None => crate::store::site::get(&app.db).await?.zone,
    };
    let stand = standing::stand(&app.db).await?;
    let tag = tag(&app, &who, &stand, &format!("today {project:?}"), &unit_words(&headers));
    if has(&headers, &tag) {
        return Ok(unless_same::<Today>(&headers, &tag, None));
    }
    // asked before the figures: a line that is written in between is counted, or still said to be due
    let renewing = if stand.due > 0 { standing::due(&app.db, &sees).await? } else { 0 };
    let counts = owed::counts(&app.db, &sees, None).await?;
    let n = |of: &str, name: &str| counts.get(&(of.to_owned(), name.to_owned())).copied().unwrap_or(0);
    let group = async |filter: Filter, sort: Sort, total: i64| -> Result<Group, Problem> {
        let lines = if total > 0 {
            let asked = Page { filter, sort, descending: sort == Sort::Moved, most: MOST, ..Page::default() };
            page(&app, &who, &sees, &asked).await?.0
        } else {
            Vec::new()
        };
        Ok(Group { lines, total })
    };
    let in_state = |state: StateKind| Filter { state: Some(state), ..Filter::default() };
    let of = |state: StateKind| n("state", state.key());
    let today = app.today(&zone);
    let by = zone.day(app.clock.now().plus_s(DAYS as f64 * 86_400.0));
    let mut stopped: Vec<StoppedBy> = counts
        .iter()
        .filter(|((of, _), tests)| of == "owes" && **tests > 0)
        .filter_map(|((_, rule), tests)| {
            let mine = counts.iter().filter(|((of, name), _)| of == "role" && name.ends_with(&format!(" {rule}")));
            let mine =
                mine.filter(|((_, name), _)| sees.whole.values().any(|role| name.starts_with(&format!("{role} ")))).map(|(_, n)| n).sum();
            Some(StoppedBy { words: pack::gates::waiting(rule, *tests)?, rule: rule.clone(), tests: *tests, mine })
        })
        .collect();
    stopped.sort_by(|a, b| (b.mine > 0, b.tests, &a.rule).cmp(&(a.mine > 0, a.tests, &b.rule)));
    let board = Today {
        waiting: owed::tasks(&app.db, &sees, &["release", "run", "read", "restore", "sign"], MOST)
            .await?
            .into_iter()
            .map(|t| waits(who.reads, t))
            .collect(),
        running: group(in_state(StateKind::Running), Sort::State, of(StateKind::Running)).await?,
        ready: group(in_state(StateKind::Ready), Sort::State, of(StateKind::Ready)).await?,
        judged: group(in_state(StateKind::Judged), Sort::State, of(StateKind::Judged)).await?,
        blinds: group(Filter { blinds: true, ..Filter::default() }, Sort::Number, n("blinds", "in")).await?,
        blocked: of(StateKind::Blocked),
        signed: of(StateKind::Signed),
        ends: owed::run_out(&app.db, &sees, &by, 20).await?.into_iter().map(|r| ends(r, &today)).collect(),
        stopped,
        renewing,
        lag_s: if renewing > 0 { standing::lag_s(&app.db).await? } else { 0.0 },
        date: today.0,
        zone: zone.name().to_owned(),
    };
    Ok(unless_same(&headers, &tag, Some(board)))
}
