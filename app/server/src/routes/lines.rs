//! Lists of packs: pages that are filtered, sorted and searched in the database. Nothing is derived for them.

use super::Query;
use crate::access::sees_in_lists;
use crate::problem::{Problem, ProblemBody};
use crate::state::App;
use crate::store::line::{Blind, Blocker, StateKind};
use crate::store::listing::{self, Filter, Listed, Page, Sees, Sort};
use crate::store::owed;
use crate::store::standing::{self, Stand};
use crate::views::line::{looked_for, words as index};
use crate::who::{Reader, Who};
use axum::Json;
use axum::extract::State;
use axum::http::{HeaderMap, HeaderValue, StatusCode, header};
use axum::response::{IntoResponse, Response};
use pack::signing::Form;
use rules::say::fill;
use serde::{Deserialize, Serialize};
use terms::Term;

/// A line of a list.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct PackLine {
    /// Id.
    pub id: String,
    /// Id of its project.
    pub project: String,
    /// Name of its project.
    pub project_name: String,
    /// Number.
    pub number: String,
    /// Title.
    pub title: String,
    /// Size.
    pub form: Form,
    /// Basis, in words.
    pub basis: String,
    /// State in a few words.
    pub state: String,
    /// Kind of state.
    pub state_kind: StateKind,
    /// True while the line is not of the moment: something that it rests on has changed and is being worked in. It is then never releasable.
    pub renewing: bool,
    /// Planned pressure, Pa; absent where none is derived, or it is being renewed.
    pub planned_pa: Option<f64>,
    /// What stops it: sentence and step, where anything does.
    pub blockers: Vec<Blocker>,
    /// Blinds that are in.
    pub blinds: Vec<Blind>,
    /// Step of the spine where it goes on.
    pub step: String,
}

/// A line for somebody who reads these units, on the day that it is in its project.
pub(super) fn shown(app: &App, reads: Reader, l: Listed) -> Result<PackLine, Problem> {
    let today = app.today(&l.zone).0;
    let renewing = l.due || (l.day != today && l.state_kind != StateKind::Signed);
    let open = renewing && matches!(l.state_kind, StateKind::Ready | StateKind::Blocked);
    let units = reads.usually(l.units).units(l.gauge_unit);
    Ok(PackLine {
        form: Form::from_key(&l.form).ok_or_else(|| crate::problem::internal(&"unknown form of a line"))?,
        state_kind: if open { StateKind::Blocked } else { l.state_kind },
        state: if open { "being renewed".to_owned() } else { l.state },
        planned_pa: l.planned_pa.filter(|_| !open),
        blockers: if renewing {
            Vec::new()
        } else {
            l.body.blockers.into_iter().map(|b| Blocker { sentence: fill(&b.sentence, units), ..b }).collect()
        },
        blinds: l.body.blinds,
        step: if l.body.step.is_empty() { "derive".to_owned() } else { l.body.step },
        id: l.pack_id,
        project: l.project_id,
        project_name: l.project,
        number: l.number,
        title: l.title,
        basis: l.basis,
        renewing,
    })
}

/// What a list is of, and in which order.
#[derive(Debug, Deserialize, utoipa::IntoParams)]
#[serde(deny_unknown_fields)]
pub struct LinesQuery {
    /// Of one project: its id.
    #[serde(default)]
    project: Option<String>,
    /// In one state: `blocked`, `ready`, `running`, `judged` or `signed`.
    #[serde(default)]
    state: Option<String>,
    /// That owe this: the id of a gate, or `release`, `run`, `read`, `restore`, `sign`.
    #[serde(default)]
    owes: Option<String>,
    /// That owe something to whoever asks, by name or role.
    #[serde(default)]
    mine: bool,
    /// With blinds in.
    #[serde(default)]
    blinds: bool,
    /// Words of number, title, basis, parts, blinds or instruments; each may be cut short.
    #[serde(default)]
    q: Option<String>,
    /// `number`, `title`, `planned`, `state` or `moved`.
    #[serde(default)]
    sort: Option<String>,
    /// Turned round.
    #[serde(default)]
    down: bool,
    /// Behind the line with which a page before ended, as that page says.
    #[serde(default)]
    after: Option<String>,
    /// Most lines, 50 where nobody says; 200 are the most.
    #[serde(default)]
    most: Option<u32>,
}

/// Lines of a page where nobody says how many.
const USUAL: u32 = 50;
/// And the most.
const MOST: u32 = 200;
/// Words that are looked for; more are not needed to find anything.
const MOST_WORDS: usize = 6;

/// Empty is not asked.
fn asked(text: Option<&String>) -> Option<&str> {
    text.map(|t| t.trim()).filter(|t| !t.is_empty())
}

impl LinesQuery {
    fn page(&self) -> Result<Page, Problem> {
        let state = asked(self.state.as_ref())
            .map(|s| {
                StateKind::from_key(s)
                    .ok_or_else(|| Problem::invalid("state", format!("\"{s}\" is no state: use blocked, ready, running, judged or signed")))
            })
            .transpose()?;
        let sort = match asked(self.sort.as_ref()).unwrap_or("number") {
            "number" => Sort::Number,
            "title" => Sort::Title,
            "planned" => Sort::Planned,
            "state" => Sort::State,
            "moved" => Sort::Moved,
            other => return Err(Problem::invalid("sort", format!("\"{other}\" is no order: use number, title, planned, state or moved"))),
        };
        let unreadable = || Problem::invalid("after", "this place in the list cannot be read: begin at its top");
        Ok(Page {
            filter: Filter {
                project: asked(self.project.as_ref()).map(str::to_owned),
                state,
                owes: asked(self.owes.as_ref()).map(str::to_owned),
                mine: self.mine,
                blinds: self.blinds,
                words: looked_for(asked(self.q.as_ref()).unwrap_or_default()).into_iter().take(MOST_WORDS).collect(),
            },
            sort,
            descending: self.down,
            after: asked(self.after.as_ref()).map(|a| serde_json::from_str(a).map_err(|_| unreadable())).transpose()?,
            most: self.most.unwrap_or(USUAL).clamp(1, MOST),
        })
    }

    /// How many lines there are, where that is kept: of a state, or of what is owed.
    fn total(&self, counts: &std::collections::BTreeMap<(String, String), i64>) -> Option<i64> {
        let n = |of: &str, name: &str| counts.get(&(of.to_owned(), name.to_owned())).copied().unwrap_or(0);
        if self.mine || asked(self.q.as_ref()).is_some() {
            return None;
        }
        match (asked(self.state.as_ref()), asked(self.owes.as_ref()), self.blinds) {
            (None, None, false) => Some(counts.iter().filter(|((of, _), _)| of == "state").map(|(_, n)| n).sum()),
            (Some(state), None, false) => Some(n("state", state)),
            (None, Some(what), false) => Some(n("owes", what)),
            (None, None, true) => Some(n("blinds", "in")),
            _ => None,
        }
    }
}

/// A page of a list.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct Lines {
    /// Lines.
    pub lines: Vec<PackLine>,
    /// Behind what the next page begins; absent where this is the last.
    pub next: Option<String>,
    /// How many lines there are in all; absent where that is not counted.
    pub total: Option<i64>,
}

/// Names the answer to a question that somebody asks, so that it is not sent again while it is the same.
pub(super) fn tag(app: &App, who: &Who, stand: &Stand, question: &str, units: &str) -> String {
    // the day moves a line as a change does; zones differ by a day at most, so the hour stands for all of them
    let hour = app.clock.now().us() / 3_600_000_000;
    let parts = format!("{stand:?} {:?} {hour} {question} {units} {}", who.roles, who.sign_in);
    format!("\"{}\"", &record::canonical::sha256_hex(parts.as_bytes())[..32])
}

/// The answer, or that nothing has changed since the one that whoever asks has.
pub(super) fn unless_same<T: Serialize>(headers: &HeaderMap, tag: &str, answer: Option<T>) -> Response {
    let mut response = match answer {
        Some(body) => Json(body).into_response(),
        None => StatusCode::NOT_MODIFIED.into_response(),
    };
    debug_assert!(response.status() == StatusCode::OK || has(headers, tag));
    let own = response.headers_mut();
    if let Ok(value) = HeaderValue::from_str(tag) {
        own.insert(header::ETAG, value);
    }
    own.insert(header::VARY, HeaderValue::from_static("cookie, x-units"));
    own.insert(header::CACHE_CONTROL, HeaderValue::from_static("private, no-cache"));
    response
}

/// True where whoever asks has the answer of this name.
pub(super) fn has(headers: &HeaderMap, tag: &str) -> bool {
    headers
        .get(header::IF_NONE_MATCH)
        .and_then(|v| v.to_str().ok())
        .is_some_and(|t| t.split(',').any(|t| t.trim().trim_start_matches("W/") == tag))
}

/// Units in which a request is answered, in words.
pub(super) fn unit_words(headers: &HeaderMap) -> String {
    ["x-units", "x-pressure-unit"].iter().filter_map(|h| headers.get(*h)?.to_str().ok()).collect::<Vec<_>>().join(" ")
}

/// One page of what somebody sees.
pub(super) async fn page(app: &App, who: &Who, sees: &Sees, page: &Page) -> Result<(Vec<PackLine>, Option<String>), Problem> {
    // one more than is shown says whether there is another page
    let mut rows = listing::page(&app.db, sees, &Page { most: page.most + 1, ..page.clone() }).await?;
    let more = rows.len() > page.most as usize;
    rows.truncate(page.most as usize);
    let next = rows.last().filter(|_| more).map(|l| serde_json::to_string(&l.at)).transpose()?;
    let lines = rows.into_iter().map(|l| shown(app, who.reads, l)).collect::<Result<_, _>>()?;
    Ok((lines, next))
}

/// A page of the packs that are this person's to see.
#[utoipa::path(get, path = "/api/v1/packs", tag = "packs", params(LinesQuery),
    responses((status = 200, body = Lines), (status = 304, description = "as it was"), (status = 401, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn list(State(app): State<App>, who: Who, headers: HeaderMap, Query(query): Query<LinesQuery>) -> Result<Response, Problem> {
    let asked_page = query.page()?;
    let tag = tag(&app, &who, &standing::stand(&app.db).await?, &format!("{query:?}"), &unit_words(&headers));
    if has(&headers, &tag) {
        return Ok(unless_same::<Lines>(&headers, &tag, None));
    }
    let sees = sees_in_lists(&who);
    let counts = owed::counts(&app.db, &sees, asked_page.filter.project.as_deref()).await?;
    let (lines, next) = page(&app, &who, &sees, &asked_page).await?;
    Ok(unless_same(&headers, &tag, Some(Lines { lines, next, total: query.total(&counts) })))
}

/// What is looked for.
#[derive(Debug, Deserialize, utoipa::IntoParams)]
#[serde(deny_unknown_fields)]
pub struct FindQuery {
    /// Words, each of which may be cut short.
    #[serde(default)]
    q: String,
}

/// Something that was found.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct FoundItem {
    /// `pack`, `blind` or `instrument`.
    pub kind: String,
    /// Number or tag.
    pub name: String,
    /// What it is, or on which pack.
    pub words: String,
    /// Where it is in the application.
    pub path: String,
}

/// Most packs, and most other things, that are found at once.
const FOUND: u32 = 12;

/// Finds packs by number, title, basis, part, blind or instrument, and blinds and instruments by their tag.
#[utoipa::path(get, path = "/api/v1/find", tag = "packs", params(FindQuery),
    responses((status = 200, body = Vec<FoundItem>), (status = 401, body = ProblemBody)))]
pub async fn find(State(app): State<App>, who: Who, Query(query): Query<FindQuery>) -> Result<Json<Vec<FoundItem>>, Problem> {
    let words: Vec<String> = looked_for(&query.q).into_iter().take(MOST_WORDS).collect();
    if words.is_empty() {
        return Ok(Json(Vec::new()));
    }
    let sees = sees_in_lists(&who);
    let asked = Page { filter: Filter { words: words.clone(), ..Filter::default() }, most: FOUND, ..Page::default() };
    let of_store = async { listing::instruments(&app.db, &sees, query.q.trim(), FOUND).await.map_err(Problem::from) };
    let ((lines, _), instruments) = tokio::try_join!(page(&app, &who, &sees, &asked), of_store)?;
    let fits = |texts: &[&str]| {
        let of = index(texts.iter().copied());
        words.iter().all(|w| of.iter().any(|o| o.starts_with(w.as_str())))
    };
    // of a pack that is called so nobody looks for its blinds
    let by_more = lines.iter().filter(|l| !fits(&[&l.number, &l.title, &l.basis]));
    let packs: Vec<String> = by_more.map(|l| l.id.clone()).collect();
    let tags = listing::boundary_tags(&app.db, &packs, &words).await?;
    let several = who.roles.len() > 1;
    let mut found: Vec<FoundItem> = lines
        .iter()
        .map(|l| FoundItem {
            kind: "pack".to_owned(),
            name: l.number.clone(),
            words: if several { format!("{}, {}: {}", l.title, l.project_name, l.state) } else { format!("{}: {}", l.title, l.state) },
            path: format!("/tests/{}/{}", l.id, l.step),
        })
        .collect();
    let blinds = tags.into_iter().filter(|(_, tag)| fits(&[tag])).take(FOUND as usize);
    found.extend(blinds.filter_map(|(pack, tag)| {
        let line = lines.iter().find(|l| l.id == pack)?;
        Some(FoundItem {
            kind: "blind".to_owned(),
            name: tag,
            words: format!("at the boundary of {} {}", line.number, line.title),
            path: format!("/tests/{pack}/bound"),
        })
    }));
    found.extend(instruments.into_iter().map(|tag| FoundItem {
        kind: "instrument".to_owned(),
        words: "instrument of the store".to_owned(),
        path: "/instruments".to_owned(),
        name: tag,
    }));
    Ok(Json(found))
}
