//! What lists add up to for one person: how many of what, what is theirs to do, which instruments run out.

use super::listing::{Sees, one_of, owed_to};
use crate::problem::Problem;
use quantity::{PressureUnit, Units};
use sqlx::{MySql, MySqlPool, QueryBuilder, Row};
use std::collections::BTreeMap;

/// How many lines of what somebody sees count for what: of which kind, name, how many. Exact for projects that they see as a whole, and looked up for the
/// few packs that name them.
///
/// # Errors
/// When the database fails.
pub async fn counts(db: &MySqlPool, sees: &Sees, project: Option<&str>) -> Result<BTreeMap<(String, String), i64>, Problem> {
    let asked = |id: &&String| project.is_none_or(|p| p == id.as_str());
    let mut q = QueryBuilder::<MySql>::new("SELECT c.of_what, c.name, CAST(SUM(c.n) AS SIGNED) AS n FROM line_count c WHERE ");
    one_of(&mut q, "c.project_id", sees.whole.keys().filter(asked).cloned());
    q.push(" GROUP BY c.of_what, c.name");
    if sees.named.iter().any(|id| asked(&id)) {
        for (of, column, from) in
            [("state", "l.state_kind", ""), ("owes", "o.what", " JOIN pack_owed o ON o.pack_id = l.pack_id"), ("blinds", "'in'", "")]
        {
            q.push(format!(" UNION ALL SELECT '{of}', {column}, COUNT(DISTINCT l.pack_id) FROM pack_person n JOIN pack_line l ON l.pack_id = n.pack_id{from} WHERE n.person = "));
            q.push_bind(sees.person.clone()).push(" AND ");
            one_of(&mut q, "l.project_id", sees.named.iter().filter(asked).cloned());
            if of == "blinds" {
                q.push(" AND l.has_blinds = 1");
            }
            q.push(format!(" GROUP BY {column}"));
        }
    }
    let mut all = BTreeMap::new();
    for r in q.build().fetch_all(db).await? {
        *all.entry((r.try_get("of_what")?, r.try_get("name")?)).or_default() += r.try_get::<i64, _>("n")?;
    }
    Ok(all)
}

/// What somebody is to do on a pack.
#[derive(Debug, Clone)]
pub struct Task {
    /// Pack.
    pub pack_id: String,
    /// Number.
    pub number: String,
    /// Title.
    pub title: String,
    /// Name of its project.
    pub project: String,
    /// What, see [`super::line::Owed::what`].
    pub what: String,
    /// Step of the spine.
    pub step: String,
    /// In a sentence.
    pub sentence: String,
    /// Units of its project in words, and of its gauge.
    pub units: (Units, PressureUnit),
}

/// What is owed to somebody by name or role, what is theirs by name first; only of packs whose line is of the moment.
///
/// # Errors
/// When the database fails.
pub async fn tasks(db: &MySqlPool, sees: &Sees, whats: &[&str], most: u32) -> Result<Vec<Task>, Problem> {
    let mut q = QueryBuilder::<MySql>::new(
        "SELECT o.pack_id, l.number, l.title, p.name AS project, o.what, o.step, o.sentence, COALESCE(p.units, s.units) AS units, l.gauge_unit
           FROM pack_owed o JOIN pack_line l ON l.pack_id = o.pack_id JOIN project p ON p.id = l.project_id JOIN site s ON s.id = 1
           LEFT JOIN pack_due d ON d.pack_id = l.pack_id WHERE d.pack_id IS NULL AND ",
    );
    owed_to(&mut q, sees);
    q.push(" AND o.what IN (''");
    for what in whats {
        q.push(", ").push_bind(*what);
    }
    q.push(") AND ");
    one_of(&mut q, "l.project_id", sees.whole.keys().chain(&sees.named).cloned());
    q.push(" ORDER BY o.person IS NULL, l.moved_at DESC LIMIT ").push_bind(most);
    let rows = q.build().fetch_all(db).await?;
    rows.iter()
        .map(|r| {
            let (unit, units): (String, String) = (r.try_get("gauge_unit")?, r.try_get("units")?);
            Ok(Task {
                pack_id: r.try_get("pack_id")?,
                number: r.try_get("number")?,
                title: r.try_get("title")?,
                project: r.try_get("project")?,
                what: r.try_get("what")?,
                step: r.try_get("step")?,
                sentence: r.try_get("sentence")?,
                units: (Units::default().read(&units), PressureUnit::from_text(&unit).unwrap_or_default()),
            })
        })
        .collect()
}

/// An instrument whose certificate runs out.
#[derive(Debug, Clone)]
pub struct RunsOut {
    /// Tag.
    pub tag: String,
    /// The last day on which it holds.
    pub valid_until: String,
}

/// Instruments lent to projects in which somebody has a part, whose certificates run out by a day; those that ran out first come first.
///
/// # Errors
/// When the database fails.
pub async fn run_out(db: &MySqlPool, sees: &Sees, by: &str, most: u32) -> Result<Vec<RunsOut>, Problem> {
    let mut q = QueryBuilder::<MySql>::new("SELECT i.tag, i.valid_until FROM instrument i WHERE i.valid_until <= ");
    q.push_bind(by).push(" AND EXISTS (SELECT 1 FROM instrument_loan b WHERE b.tag = i.tag AND ");
    one_of(&mut q, "b.project_id", sees.whole.keys().chain(&sees.named).cloned());
    q.push(") ORDER BY i.valid_until, i.tag LIMIT ").push_bind(most);
    let rows = q.build().fetch_all(db).await?;
    rows.iter().map(|r| Ok(RunsOut { tag: r.try_get("tag")?, valid_until: r.try_get("valid_until")? })).collect()
}
