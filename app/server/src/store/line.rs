//! Tables `pack_line`, `pack_due` and what belongs to a line: what lists show of a pack, made beside the requests. Triggers mark a pack as due in the
//! transaction that changes anything its line rests on.

use crate::clock::{instant, stored};
use crate::problem::Problem;
use moment::Instant;
use pack::people::Role;
use quantity::PressureUnit;
use serde::{Deserialize, Serialize};
use sqlx::{MySqlConnection, MySqlPool};
use std::collections::{BTreeMap, BTreeSet};
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};
use terms::Term;

/// Kind of a test's state, in the order in which a test goes through them.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[derive(VariantArray, EnumMessage, EnumProperty, EnumString, IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub enum StateKind {
    /// something stops it
    #[strum(message = "stopped")]
    Blocked,
    /// may be released
    #[strum(message = "ready")]
    Ready,
    /// under pressure or about to be
    #[strum(message = "under test")]
    Running,
    /// over, not yet signed
    #[strum(message = "tested")]
    Judged,
    /// every signature is there
    #[strum(message = "signed")]
    Signed,
}

/// Something that stops a test, with the place where it is cleared.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Blocker {
    /// Id of the rule that stops it.
    pub rule: String,
    /// What is missing and what to do.
    pub sentence: String,
    /// Who clears it.
    pub who: String,
    /// Step of the spine.
    pub step: String,
}

/// A blind that is in.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Blind {
    /// Tag.
    pub tag: String,
    /// Where.
    pub place: String,
}

/// What a line holds besides what lists sort and filter by.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(default)]
pub struct Body {
    /// What stops it.
    pub blockers: Vec<Blocker>,
    /// Blinds that are in.
    pub blinds: Vec<Blind>,
    /// Step of the spine where it goes on.
    pub step: String,
}

/// By whom something is owed.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum To {
    /// whoever has this role in the project
    Role(Role),
    /// one person
    Person(String),
}

/// Something that is owed on a pack.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Owed {
    /// By whom.
    pub to: To,
    /// What: the id of a gate, or `release`, `run`, `restore`, `sign`.
    pub what: String,
    /// Step of the spine where it is done.
    pub step: String,
    /// What is to be done.
    pub sentence: String,
}

/// The line of a pack.
#[derive(Debug, Clone, PartialEq)]
pub struct Line {
    /// Basis, in words.
    pub basis: String,
    /// Kind of state.
    pub state_kind: StateKind,
    /// State in a few words.
    pub state: String,
    /// Planned pressure, Pa; none where nothing is derived.
    pub planned_pa: Option<f64>,
    /// Unit of its gauge.
    pub gauge_unit: PressureUnit,
    /// Blockers and blinds.
    pub body: Body,
    /// What is owed.
    pub owed: Vec<Owed>,
    /// Instruments that it names.
    pub uses: BTreeSet<String>,
    /// Words under which it is found.
    pub words: BTreeSet<String>,
    /// When anything of it was last changed or booked.
    pub moved_at: Instant,
}

/// What a line counts for: `state` and its key, `owes` and what, `role` with what it owes, `blinds` and `in`.
fn counts(state_kind: &str, owes: &BTreeSet<(String, Option<String>)>, blinds: usize) -> BTreeSet<(&'static str, String)> {
    let mut all = BTreeSet::from([("state", state_kind.to_owned())]);
    all.extend(owes.iter().map(|(what, _)| ("owes", what.clone())));
    all.extend(owes.iter().filter_map(|(what, role)| Some(("role", format!("{} {what}", role.as_ref()?)))));
    if blinds > 0 {
        all.insert(("blinds", "in".to_owned()));
    }
    all
}

impl Line {
    fn counts(&self) -> BTreeSet<(&'static str, String)> {
        let role = |o: &Owed| if let To::Role(role) = &o.to { Some(role.key().to_owned()) } else { None };
        counts(self.state_kind.key(), &self.owed.iter().map(|o| (o.what.clone(), role(o))).collect(), self.body.blinds.len())
    }
}

/// A number with its figures padded, so that 2 stands before 10.
pub fn number_key(number: &str) -> String {
    let (mut key, mut digits) = (String::new(), String::new());
    for c in number.chars().chain(['\0']) {
        if c.is_ascii_digit() {
            digits.push(c);
            continue;
        }
        if !digits.is_empty() {
            key.push_str(&format!("{digits:0>8}"));
            digits.clear();
        }
        if c != '\0' {
            key.push(c);
        }
    }
    key.chars().take(120).collect()
}

/// A pack that is due, claimed by this server for a while.
#[derive(Debug, Clone)]
pub struct Claim {
    /// Pack.
    pub pack_id: String,
    /// How often it was marked.
    pub seq: u64,
}

/// Claims packs that are due, those first that have waited longest.
///
/// # Errors
/// When the database fails.
pub async fn claim(db: &MySqlPool, most: u32) -> Result<Vec<Claim>, sqlx::Error> {
    let mut tx = db.begin().await?;
    let rows = sqlx::query!(
        "SELECT pack_id, seq FROM pack_due WHERE claimed_until IS NULL OR claimed_until < CURRENT_TIMESTAMP(6) ORDER BY since LIMIT ? FOR UPDATE SKIP LOCKED",
        most
    )
    .fetch_all(&mut *tx)
    .await?;
    for r in &rows {
        sqlx::query!("UPDATE pack_due SET claimed_until = TIMESTAMPADD(SECOND, 60, CURRENT_TIMESTAMP(6)) WHERE pack_id = ?", r.pack_id)
            .execute(&mut *tx)
            .await?;
    }
    tx.commit().await?;
    Ok(rows.into_iter().map(|r| Claim { pack_id: r.pack_id, seq: r.seq }).collect())
}

/// Gives a claim back, so that it is made again: by whom and when the line is kept does not matter.
///
/// # Errors
/// When the database fails.
pub async fn give_back(db: &MySqlPool, claim: &Claim) -> Result<(), sqlx::Error> {
    sqlx::query!("UPDATE pack_due SET claimed_until = NULL WHERE pack_id = ?", claim.pack_id).execute(db).await.map(|_| ())
}

/// Of what moment a line is.
#[derive(Debug, Clone, Copy)]
pub struct Of<'a> {
    /// The project's day.
    pub day: &'a str,
    /// The build of the program that made it.
    pub build: &'a str,
}

/// Writes a line in the place of the one before; what is counted follows. False where the pack was marked again meanwhile: the line is then not of the
/// moment, and the pack stays due.
///
/// # Errors
/// When the database fails.
pub async fn write(db: &MySqlPool, claim: &Claim, line: &Line, of: Of<'_>) -> Result<bool, Problem> {
    let mut tx = db.begin().await?;
    // in the order in which whoever changes a pack takes what they need: the pack first, its mark last
    let pack = sqlx::query!(
        "SELECT project_id, number, title, away_at IS NOT NULL AS `away!: bool` FROM pack WHERE id = ? LOCK IN SHARE MODE",
        claim.pack_id
    )
    .fetch_one(&mut *tx)
    .await?;
    sqlx::query!("UPDATE line_head SET rev = rev + 1 WHERE id = 1").execute(&mut *tx).await?;
    let rev = sqlx::query_scalar!("SELECT rev FROM line_head WHERE id = 1").fetch_one(&mut *tx).await?;
    count(&mut tx, &claim.pack_id, &pack.project_id, (!pack.away).then_some(line)).await?;
    if pack.away {
        take_out(&mut tx, &claim.pack_id).await?;
        return done(tx, db, claim).await;
    }
    sqlx::query!(
        "UPDATE pack_line SET project_id = ?, number = ?, number_key = ?, title = ?, basis = ?, state_kind = ?, state = ?, planned_pa = ?, gauge_unit = ?,
                blinds_in = ?, body = ?, day = ?, build = ?, rev = ?, moved_at = ? WHERE pack_id = ?",
        pack.project_id,
        pack.number,
        number_key(&pack.number),
        pack.title,
        line.basis.chars().take(200).collect::<String>(),
        line.state_kind.key(),
        line.state.chars().take(200).collect::<String>(),
        line.planned_pa.unwrap_or(-1.0),
        line.gauge_unit.symbol(),
        u32::try_from(line.body.blinds.len()).unwrap_or(u32::MAX),
        serde_json::to_string(&line.body)?,
        of.day,
        of.build,
        rev,
        stored(line.moved_at),
        claim.pack_id
    )
    .execute(&mut *tx)
    .await?;
    belongings(&mut tx, &claim.pack_id, &pack.project_id, line).await?;
    done(tx, db, claim).await
}

/// Clears the mark, where nobody marked the pack again meanwhile; otherwise nothing was written.
async fn done(mut tx: sqlx::MySqlTransaction<'_>, db: &MySqlPool, claim: &Claim) -> Result<bool, Problem> {
    let cleared = sqlx::query!("DELETE FROM pack_due WHERE pack_id = ? AND seq = ?", claim.pack_id, claim.seq).execute(&mut *tx).await?;
    if cleared.rows_affected() == 0 {
        drop(tx);
        give_back(db, claim).await?;
        return Ok(false);
    }
    tx.commit().await?;
    Ok(true)
}

/// Takes the line before out of what is counted, and puts this one in.
async fn count(tx: &mut MySqlConnection, pack: &str, project: &str, line: Option<&Line>) -> Result<(), sqlx::Error> {
    let before = sqlx::query!("SELECT project_id, state_kind, blinds_in, rev FROM pack_line WHERE pack_id = ? FOR UPDATE", pack)
        .fetch_optional(&mut *tx)
        .await?;
    let mut delta: BTreeMap<(String, &'static str, String), i32> = BTreeMap::new();
    if let Some(before) = before.filter(|b| b.rev > 0) {
        let owes = sqlx::query!("SELECT what, role FROM pack_owed WHERE pack_id = ?", pack).fetch_all(&mut *tx).await?;
        let owes = owes.into_iter().map(|o| (o.what, o.role)).collect();
        for (of, name) in counts(&before.state_kind, &owes, before.blinds_in as usize) {
            *delta.entry((before.project_id.clone(), of, name)).or_default() -= 1;
        }
    }
    for (of, name) in line.map(Line::counts).unwrap_or_default() {
        *delta.entry((project.to_owned(), of, name)).or_default() += 1;
    }
    for ((project, of, name), n) in delta.into_iter().filter(|d| d.1 != 0) {
        sqlx::query!(
            "INSERT INTO line_count (project_id, of_what, name, n) VALUES (?, ?, ?, ?) ON DUPLICATE KEY UPDATE n = n + VALUES(n)",
            project,
            of,
            name,
            n
        )
        .execute(&mut *tx)
        .await?;
    }
    Ok(())
}

/// Takes a pack that was put away out of every list.
async fn take_out(tx: &mut MySqlConnection, pack: &str) -> Result<(), sqlx::Error> {
    sqlx::query!("DELETE FROM pack_owed WHERE pack_id = ?", pack).execute(&mut *tx).await?;
    sqlx::query!("DELETE FROM pack_word WHERE pack_id = ?", pack).execute(&mut *tx).await?;
    sqlx::query!("DELETE FROM pack_line WHERE pack_id = ?", pack).execute(&mut *tx).await.map(|_| ())
}

/// What stands in tables of its own: what is owed, the instruments and the words.
async fn belongings(tx: &mut MySqlConnection, pack: &str, project: &str, line: &Line) -> Result<(), sqlx::Error> {
    sqlx::query!("DELETE FROM pack_owed WHERE pack_id = ?", pack).execute(&mut *tx).await?;
    for (n, owed) in (0u32..).zip(&line.owed) {
        let (role, person) = match &owed.to {
            To::Role(role) => (Some(role.key()), None),
            To::Person(person) => (None, Some(person.chars().take(64).collect::<String>())),
        };
        sqlx::query!(
            "INSERT INTO pack_owed (pack_id, n, project_id, role, person, what, step, sentence) VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
            pack,
            n,
            project,
            role,
            person,
            owed.what,
            owed.step,
            owed.sentence.chars().take(4000).collect::<String>()
        )
        .execute(&mut *tx)
        .await?;
    }
    let uses: BTreeSet<String> =
        sqlx::query_scalar!("SELECT tag FROM pack_uses WHERE pack_id = ?", pack).fetch_all(&mut *tx).await?.into_iter().collect();
    if uses != line.uses {
        sqlx::query!("DELETE FROM pack_uses WHERE pack_id = ?", pack).execute(&mut *tx).await?;
        for tag in &line.uses {
            sqlx::query!("INSERT INTO pack_uses (pack_id, tag) VALUES (?, ?)", pack, tag.chars().take(64).collect::<String>())
                .execute(&mut *tx)
                .await?;
        }
    }
    let words: BTreeSet<String> =
        sqlx::query_scalar!("SELECT word FROM pack_word WHERE pack_id = ?", pack).fetch_all(&mut *tx).await?.into_iter().collect();
    if words != line.words {
        sqlx::query!("DELETE FROM pack_word WHERE pack_id = ?", pack).execute(&mut *tx).await?;
        let all: Vec<&String> = line.words.iter().collect();
        for some in all.chunks(200) {
            let mut add = sqlx::QueryBuilder::new("INSERT INTO pack_word (pack_id, word) ");
            add.push_values(some, |mut row, word| {
                row.push_bind(pack).push_bind(word.as_str());
            });
            add.build().execute(&mut *tx).await?;
        }
    }
    Ok(())
}

/// Marks lines of another day or another build as due; gives back how many.
///
/// # Errors
/// When the database fails.
pub async fn mark_other(db: &MySqlPool, project: &str, of: Of<'_>, builds_too: bool) -> Result<u64, sqlx::Error> {
    // what is signed does not change with the day
    let done = sqlx::query!(
        "INSERT INTO pack_due (pack_id, project_id) SELECT pack_id, project_id FROM pack_line
          WHERE project_id = ? AND rev > 0 AND ((day <> ? AND state_kind <> 'signed') OR (? AND build <> ?))
         ON DUPLICATE KEY UPDATE seq = seq + 1",
        project,
        of.day,
        builds_too,
        of.build
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected())
}

/// A line as it is kept, with whether its pack is due.
#[derive(Debug)]
pub struct KeptLine {
    /// Pack.
    pub pack_id: String,
    /// The line; its words and what it uses are in.
    pub line: Line,
    /// True while it is not of the moment.
    pub due: bool,
}

/// A line with all that belongs to it, for holding it against the derivation.
///
/// # Errors
/// When the database fails, or holds what cannot be read.
pub async fn kept(db: &MySqlPool, pack: &str) -> Result<KeptLine, Problem> {
    let r = sqlx::query!(
        "SELECT l.basis, l.state_kind, l.state, l.planned_pa, l.gauge_unit, l.body, l.moved_at, d.pack_id IS NOT NULL AS `due!: bool`
           FROM pack_line l LEFT JOIN pack_due d ON d.pack_id = l.pack_id WHERE l.pack_id = ?",
        pack
    )
    .fetch_one(db)
    .await?;
    let owed =
        sqlx::query!("SELECT role, person, what, step, sentence FROM pack_owed WHERE pack_id = ? ORDER BY n", pack).fetch_all(db).await?;
    let unknown = |what: &str| crate::problem::internal(&format!("unknown {what} of a line"));
    let owed = owed.into_iter().map(|o| {
        let to = match (o.role.as_deref().map(Role::from_key), o.person) {
            (Some(Some(role)), _) => To::Role(role),
            (_, Some(person)) => To::Person(person),
            _ => return Err(unknown("role")),
        };
        Ok(Owed { to, what: o.what, step: o.step, sentence: o.sentence })
    });
    let line = Line {
        owed: owed.collect::<Result<_, Problem>>()?,
        uses: sqlx::query_scalar!("SELECT tag FROM pack_uses WHERE pack_id = ?", pack).fetch_all(db).await?.into_iter().collect(),
        words: sqlx::query_scalar!("SELECT word FROM pack_word WHERE pack_id = ?", pack).fetch_all(db).await?.into_iter().collect(),
        state_kind: StateKind::from_key(&r.state_kind).ok_or_else(|| unknown("state"))?,
        gauge_unit: PressureUnit::from_text(&r.gauge_unit).ok_or_else(|| unknown("unit"))?,
        planned_pa: (r.planned_pa >= 0.0).then_some(r.planned_pa),
        body: serde_json::from_str(&r.body)?,
        basis: r.basis,
        state: r.state,
        moved_at: instant(r.moved_at),
    };
    Ok(KeptLine { pack_id: pack.to_owned(), line, due: r.due })
}

/// Counts as they are kept, without those that are zero: project, of what, name, how many.
///
/// # Errors
/// When the database fails.
pub async fn kept_counts(db: &MySqlPool) -> Result<BTreeMap<(String, String, String), i64>, sqlx::Error> {
    let rows = sqlx::query!("SELECT project_id, of_what, name, n FROM line_count WHERE n <> 0").fetch_all(db).await?;
    Ok(rows.into_iter().map(|r| ((r.project_id, r.of_what, r.name), i64::from(r.n))).collect())
}

/// What lines count for, as [`kept_counts`] keeps it.
pub fn counted<'a>(lines: impl Iterator<Item = (&'a str, &'a Line)>) -> BTreeMap<(String, String, String), i64> {
    let mut all = BTreeMap::new();
    for (project, line) in lines {
        for (of, name) in line.counts() {
            *all.entry((project.to_owned(), of.to_owned(), name)).or_default() += 1;
        }
    }
    all
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_stand_in_the_order_in_which_people_count() {
        let mut numbers = ["TP-10", "TP-2", "TP-2B", "TP-010-3", "QT-1", "TP-2A"];
        numbers.sort_by_key(|n| number_key(n));
        assert_eq!(numbers, ["QT-1", "TP-2", "TP-2A", "TP-2B", "TP-10", "TP-010-3"]);
    }
}
