//! Pages of lines, filtered, sorted and searched in the database. A page costs the same however many packs there are.

use super::line::{Body, StateKind};
use crate::problem::Problem;
use moment::Zone;
use quantity::{PressureUnit, Units};
use sqlx::{MySql, MySqlPool, QueryBuilder, Row};
use std::collections::BTreeMap;
use terms::Term;

/// What a person may see: all of some projects, and of others what names them.
#[derive(Debug, Clone, Default)]
pub struct Sees {
    /// Sign-in name.
    pub person: String,
    /// Projects of which they see everything, with their role.
    pub whole: BTreeMap<String, &'static str>,
    /// Projects of which they see what they made and what names them.
    pub named: Vec<String>,
}

/// Which lines are asked for.
#[derive(Debug, Clone, Default)]
pub struct Filter {
    /// Of one project.
    pub project: Option<String>,
    /// In one state.
    pub state: Option<StateKind>,
    /// That owe this, see [`super::line::Owed::what`].
    pub owes: Option<String>,
    /// That owe it to this person or their role.
    pub mine: bool,
    /// With blinds in.
    pub blinds: bool,
    /// With words that begin so.
    pub words: Vec<String>,
}

/// In which order.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Sort {
    /// by number
    #[default]
    Number,
    /// by title
    Title,
    /// by planned pressure
    Planned,
    /// by state, then number
    State,
    /// by when they were last changed
    Moved,
}

impl Sort {
    /// The index in whose order it is, of all projects; that of one has `project_` before its name.
    const fn index(self) -> &'static str {
        match self {
            Self::Number => "by_number",
            Self::Title => "by_title",
            Self::Planned => "by_planned",
            Self::State => "by_state",
            Self::Moved => "by_moved",
        }
    }

    const fn columns(self) -> &'static [&'static str] {
        match self {
            Self::Number => &["l.number_key", "l.pack_id"],
            Self::Title => &["l.title", "l.pack_id"],
            Self::Planned => &["l.planned_pa", "l.pack_id"],
            Self::State => &["l.state_kind", "l.number_key", "l.pack_id"],
            Self::Moved => &["l.moved_at", "l.pack_id"],
        }
    }
}

/// A page of a list.
#[derive(Debug, Clone, Default)]
pub struct Page {
    /// Which lines.
    pub filter: Filter,
    /// In which order.
    pub sort: Sort,
    /// Turned round.
    pub descending: bool,
    /// Behind the line whose values in the columns of the order are these.
    pub after: Option<Vec<String>>,
    /// Most lines.
    pub most: u32,
}

/// A line as lists show it.
#[derive(Debug, Clone)]
pub struct Listed {
    /// Pack.
    pub pack_id: String,
    /// Project.
    pub project_id: String,
    /// Its name.
    pub project: String,
    /// Its zone.
    pub zone: Zone,
    /// Its units.
    pub units: Units,
    /// Number.
    pub number: String,
    /// Title.
    pub title: String,
    /// Size.
    pub form: String,
    /// Basis.
    pub basis: String,
    /// Kind of state.
    pub state_kind: StateKind,
    /// State in words.
    pub state: String,
    /// Planned pressure, Pa.
    pub planned_pa: Option<f64>,
    /// Unit of its gauge.
    pub gauge_unit: PressureUnit,
    /// Blockers and blinds.
    pub body: Body,
    /// The day of which it is.
    pub day: String,
    /// True while its pack is due, or it was never made.
    pub due: bool,
    /// Its values in the columns of the order.
    pub at: Vec<String>,
}

/// A project that nobody has stands for none, so that a list is never empty of members.
pub(super) fn one_of(q: &mut QueryBuilder<MySql>, column: &str, all: impl Iterator<Item = String>) {
    q.push(column).push(" IN (''");
    for id in all {
        q.push(", ").push_bind(id);
    }
    q.push(")");
}

/// Lines of `l` that somebody sees.
fn seen(q: &mut QueryBuilder<MySql>, sees: &Sees, project: Option<&str>) {
    let asked = |id: &&String| project.is_none_or(|p| p == id.as_str());
    q.push("(");
    one_of(q, "l.project_id", sees.whole.keys().filter(asked).cloned());
    if sees.named.iter().any(|id| asked(&id)) {
        q.push(" OR (");
        one_of(q, "l.project_id", sees.named.iter().filter(asked).cloned());
        q.push(" AND ");
        Condition::Named.holds(q, sees);
        q.push(")");
    }
    q.push(")");
}

/// What is owed in `o` to somebody: to their name, or to their role in a project.
pub fn owed_to(q: &mut QueryBuilder<MySql>, sees: &Sees) {
    q.push("(o.person = ").push_bind(sees.person.clone());
    for (project, role) in &sees.whole {
        q.push(" OR (o.project_id = ").push_bind(project.clone()).push(" AND o.role = ").push_bind(*role).push(")");
    }
    q.push(")");
}

/// Something that a line must be so. Few lines are so, or many: where few are, they are taken by their ids and put in order; where many are, the order is
/// gone through until a page is full.
enum Condition<'a> {
    /// in a state
    State(StateKind),
    /// with blinds in
    Blinds,
    /// that owe something, to whoever asks or to anybody
    Owes(Option<&'a str>, bool),
    /// with a word that begins so
    Word(&'a str),
    /// that name whoever asks, or are theirs
    Named,
}

/// So many are few.
const FEW: usize = 400;
/// Packs with a word, among which those with another are still sooner found than by going through a list in its order.
const SOME: i64 = 2500;

/// The words by which a list is entered: one that few packs have, or the two that the fewest have; none where a page is sooner full in the order of the list.
async fn entered_by<'a>(db: &MySqlPool, words: &[&'a str]) -> Result<Vec<&'a str>, sqlx::Error> {
    if words.is_empty() {
        return Ok(Vec::new());
    }
    // as many words as there are, told in one answer; none is counted further than it matters
    let mut q = QueryBuilder::<MySql>::new("SELECT CAST(JSON_ARRAY(");
    for (i, word) in words.iter().enumerate() {
        q.push(if i == 0 { "(" } else { ", (" }).push("SELECT COUNT(*) FROM (SELECT 1 FROM pack_word WHERE word LIKE ");
        q.push_bind(begins(word)).push(" LIMIT ").push_bind(SOME).push(") of_word)");
    }
    q.push(") AS CHAR)");
    let counted: String = q.build_query_scalar().fetch_one(db).await?;
    let counts: Vec<i64> = serde_json::from_str(&counted).map_err(|e| sqlx::Error::Decode(Box::new(e)))?;
    let mut by_count: Vec<(i64, &str)> = counts.into_iter().zip(words.iter().copied()).filter(|(n, _)| *n < SOME).collect();
    by_count.sort_unstable();
    let few = by_count.first().is_some_and(|(n, _)| *n < FEW as i64);
    Ok(match by_count.as_slice() {
        [(_, only), ..] if few => vec![*only],
        [(_, first), (_, second), ..] => vec![*first, *second],
        _ => Vec::new(),
    })
}

impl Condition<'_> {
    fn owes(q: &mut QueryBuilder<MySql>, what: Option<&str>, mine: bool, sees: &Sees) {
        match what {
            Some(what) => drop(q.push("o.what = ").push_bind(what.to_owned())),
            None => drop(q.push("TRUE")),
        }
        if mine {
            q.push(" AND ");
            owed_to(q, sees);
        }
    }

    /// That a line `l` is so: looked up for this line, never for all.
    fn holds(&self, q: &mut QueryBuilder<MySql>, sees: &Sees) {
        match self {
            Self::State(state) => drop(q.push("l.state_kind = ").push_bind(state.key())),
            Self::Blinds => drop(q.push("l.has_blinds = 1")),
            Self::Owes(what, mine) => {
                q.push("(SELECT 1 FROM pack_owed o WHERE o.pack_id = l.pack_id AND ");
                Self::owes(q, *what, *mine, sees);
                q.push(" LIMIT 1) IS NOT NULL");
            }
            Self::Word(word) => {
                q.push("(SELECT 1 FROM pack_word w WHERE w.pack_id = l.pack_id AND w.word LIKE ")
                    .push_bind(begins(word))
                    .push(" LIMIT 1) IS NOT NULL");
            }
            Self::Named => {
                q.push("(SELECT 1 FROM pack_person n WHERE n.pack_id = l.pack_id AND n.person = ")
                    .push_bind(sees.person.clone())
                    .push(" LIMIT 1) IS NOT NULL");
            }
        }
    }

    /// The packs that are so, where they are few.
    async fn few(&self, db: &MySqlPool, sees: &Sees) -> Result<Option<Vec<String>>, sqlx::Error> {
        let mut q = QueryBuilder::<MySql>::new("");
        match self {
            Self::State(state) => drop(q.push("SELECT pack_id FROM pack_line WHERE state_kind = ").push_bind(state.key())),
            Self::Blinds => drop(q.push("SELECT pack_id FROM pack_line WHERE has_blinds = 1")),
            Self::Owes(what, mine) => {
                q.push("SELECT DISTINCT o.pack_id FROM pack_owed o WHERE ");
                Self::owes(&mut q, *what, *mine, sees);
            }
            // a list is entered by its words before it comes to this
            Self::Word(_) => return Ok(None),
            Self::Named => drop(q.push("SELECT pack_id FROM pack_person WHERE person = ").push_bind(sees.person.clone())),
        }
        q.push(" LIMIT ").push_bind(FEW as u32);
        let ids: Vec<String> = q.build_query_scalar().fetch_all(db).await?;
        Ok((ids.len() < FEW).then_some(ids))
    }
}

impl Filter {
    fn conditions(&self, sees: &Sees) -> Vec<Condition<'_>> {
        let mut all: Vec<Condition> = self.words.iter().map(|w| Condition::Word(w)).collect();
        if self.owes.is_some() || self.mine {
            all.push(Condition::Owes(self.owes.as_deref(), self.mine));
        }
        if self.blinds {
            all.push(Condition::Blinds);
        }
        all.extend(self.state.map(Condition::State));
        if sees.whole.is_empty() {
            all.push(Condition::Named);
        }
        all
    }
}

/// One page.
///
/// # Errors
/// When the database fails, or the place behind which it begins cannot be read.
pub async fn page(db: &MySqlPool, sees: &Sees, page: &Page) -> Result<Vec<Listed>, Problem> {
    let columns = page.sort.columns();
    let words: Vec<&str> = page.filter.words.iter().map(String::as_str).collect();
    let by = entered_by(db, &words).await?;
    let mut conditions = page.filter.conditions(sees);
    conditions.retain(|c| !matches!(c, Condition::Word(w) if by.contains(w)));
    let mut few: Option<Vec<String>> = None;
    for condition in conditions.iter().filter(|_| by.is_empty()) {
        if let Some(ids) = condition.few(db, sees).await? {
            few = Some(ids);
            break;
        }
    }
    let projects = sees.whole.len() + sees.named.len();
    let of_one = page.filter.project.is_some() || projects == 1;
    let mut q = QueryBuilder::<MySql>::new(
        "SELECT l.pack_id, l.project_id, p.name AS project, COALESCE(p.zone, s.zone) AS zone, COALESCE(p.units, s.units) AS units, l.number, l.title, l.form,
                l.basis, l.state_kind, l.state, l.planned_pa, l.gauge_unit, l.body, l.day, (d.pack_id IS NOT NULL OR l.rev = 0) AS due",
    );
    for (i, column) in columns.iter().enumerate() {
        q.push(format!(", CAST({column} AS CHAR) AS at{i}"));
    }
    q.push(" FROM ");
    for (i, word) in by.iter().enumerate() {
        q.push("(SELECT DISTINCT pack_id FROM pack_word WHERE word LIKE ").push_bind(begins(word)).push(format!(") w{i} "));
        if i > 0 {
            q.push(format!("ON w{i}.pack_id = w0.pack_id "));
        }
        q.push("STRAIGHT_JOIN ");
    }
    q.push("pack_line l ");
    if !by.is_empty() {
        q.push("ON l.pack_id = w0.pack_id");
    } else if few.is_none() {
        q.push(format!("FORCE INDEX ({}{})", if of_one { "project_" } else { "" }, page.sort.index()));
    }
    q.push(" JOIN project p ON p.id = l.project_id JOIN site s ON s.id = 1 LEFT JOIN pack_due d ON d.pack_id = l.pack_id WHERE ");
    if of_one {
        // said as one, so that the index of the project is entered there
        let only = page.filter.project.as_ref().or(sees.whole.keys().chain(&sees.named).next()).cloned().unwrap_or_default();
        q.push("l.project_id = ").push_bind(only).push(" AND ");
    }
    seen(&mut q, sees, page.filter.project.as_deref());
    for condition in &conditions {
        q.push(" AND ");
        condition.holds(&mut q, sees);
    }
    if let Some(ids) = few {
        q.push(" AND ");
        one_of(&mut q, "l.pack_id", ids.into_iter());
    }
    if let Some(after) = &page.after {
        behind(&mut q, columns, after, page.descending)?;
    }
    let way = if page.descending { " DESC" } else { "" };
    q.push(" ORDER BY ").push(columns.iter().map(|c| format!("{c}{way}")).collect::<Vec<_>>().join(", "));
    q.push(" LIMIT ").push_bind(page.most);
    let rows = q.build().fetch_all(db).await?;
    rows.iter().map(|r| listed(r, columns.len())).collect()
}

/// A pattern for what begins so; nothing in it stands for anything else.
pub(super) fn begins(word: &str) -> String {
    format!("{}%", word.replace('\\', "\\\\").replace('%', "\\%").replace('_', "\\_"))
}

/// What stands behind a line in an order: the first column is said once more by itself, so that the index of the order is entered there.
fn behind(q: &mut QueryBuilder<MySql>, columns: &[&str], after: &[String], descending: bool) -> Result<(), Problem> {
    if after.len() != columns.len() {
        return Err(Problem::invalid("after", "this place in the list belongs to another order: begin at its top"));
    }
    let (beyond, or_at) = if descending { (" < ", " <= ") } else { (" > ", " >= ") };
    let bind = |q: &mut QueryBuilder<MySql>, column: &str, value: &String| {
        if column == "l.planned_pa" {
            q.push_bind(value.parse::<f64>().unwrap_or(-1.0));
        } else {
            q.push_bind(value.clone());
        }
    };
    if let (Some(column), Some(value)) = (columns.first(), after.first()) {
        q.push(" AND ").push(*column).push(or_at);
        bind(q, column, value);
    }
    q.push(" AND (");
    for i in 0..columns.len() {
        q.push(if i == 0 { "(" } else { " OR (" });
        for (column, value) in columns.iter().zip(after).take(i) {
            q.push(*column).push(" = ");
            bind(q, column, value);
            q.push(" AND ");
        }
        q.push(columns[i]).push(beyond);
        bind(q, columns[i], &after[i]);
        q.push(")");
    }
    q.push(")");
    Ok(())
}

fn listed(r: &sqlx::mysql::MySqlRow, columns: usize) -> Result<Listed, Problem> {
    let (kind, unit): (String, String) = (r.try_get("state_kind")?, r.try_get("gauge_unit")?);
    let (zone, planned): (String, f64) = (r.try_get("zone")?, r.try_get("planned_pa")?);
    let units: String = r.try_get("units")?;
    Ok(Listed {
        pack_id: r.try_get("pack_id")?,
        project_id: r.try_get("project_id")?,
        project: r.try_get("project")?,
        zone: Zone::named(&zone).unwrap_or_else(Zone::utc),
        units: Units::default().read(&units),
        number: r.try_get("number")?,
        title: r.try_get("title")?,
        form: r.try_get("form")?,
        basis: r.try_get("basis")?,
        state_kind: StateKind::from_key(&kind).ok_or_else(|| crate::problem::internal(&"unknown state of a line"))?,
        state: r.try_get("state")?,
        planned_pa: (planned >= 0.0).then_some(planned),
        gauge_unit: PressureUnit::from_text(&unit).unwrap_or_default(),
        body: serde_json::from_str(r.try_get::<&str, _>("body")?)?,
        day: r.try_get("day")?,
        due: r.try_get::<i64, _>("due")? != 0,
        at: (0..columns).map(|i| r.try_get(format!("at{i}").as_str())).collect::<Result<_, _>>()?,
    })
}

/// Blinds and removed items of some packs, pack and tag.
///
/// # Errors
/// When the database fails.
pub async fn boundary_tags(db: &MySqlPool, packs: &[String], words: &[String]) -> Result<Vec<(String, String)>, sqlx::Error> {
    if packs.is_empty() {
        return Ok(Vec::new());
    }
    let mut q =
        QueryBuilder::<MySql>::new("SELECT b.pack_id, b.tag FROM register_item b WHERE b.register = 'boundary' AND b.stands = 1 AND ");
    one_of(&mut q, "b.pack_id", packs.iter().cloned());
    for word in words {
        // as words are kept: without what joins their pieces
        q.push(" AND REGEXP_REPLACE(LOWER(b.tag), '[^[:alnum:]]', '') LIKE ").push_bind(format!("%{}", begins(word)));
    }
    q.push(" ORDER BY b.tag LIMIT 5000");
    q.build_query_as().fetch_all(db).await
}

/// Instruments lent to somebody's projects whose tag begins so.
///
/// # Errors
/// When the database fails.
pub async fn instruments(db: &MySqlPool, sees: &Sees, tag: &str, most: u32) -> Result<Vec<String>, sqlx::Error> {
    let mut q = QueryBuilder::<MySql>::new("SELECT DISTINCT b.tag FROM instrument_loan b WHERE LOWER(b.tag) LIKE LOWER(");
    q.push_bind(begins(tag)).push(") AND ");
    one_of(&mut q, "b.project_id", sees.whole.keys().chain(&sees.named).cloned());
    q.push(" ORDER BY b.tag LIMIT ").push_bind(most);
    q.build_query_scalar().fetch_all(db).await
}
