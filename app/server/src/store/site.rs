//! Table `site`: what the site is called, its zone and units.

use moment::Zone;
use quantity::Units;
use sqlx::MySqlPool;

/// The site.
#[derive(Debug, Clone)]
pub struct Site {
    /// Its name; empty until somebody gave it one.
    pub name: String,
    /// Its zone: "today" where no project is in hand.
    pub zone: Zone,
    /// Its units, for whoever chose none and where no project is in hand.
    pub units: Units,
}

/// The site as it is.
///
/// # Errors
/// When the database fails.
pub async fn get(db: &MySqlPool) -> Result<Site, sqlx::Error> {
    let row = sqlx::query!("SELECT name, zone, units FROM site WHERE id = 1").fetch_one(db).await?;
    Ok(Site { name: row.name, zone: Zone::named(&row.zone).unwrap_or_else(Zone::utc), units: Units::default().read(&row.units) })
}

/// Says what the site is called, where nobody did yet.
///
/// # Errors
/// When the database fails.
pub async fn begin(db: &MySqlPool, name: &str, zone: &Zone, units: Units) -> Result<(), sqlx::Error> {
    sqlx::query!("UPDATE site SET name = ?, zone = ?, units = ? WHERE id = 1 AND name = ''", name, zone.name(), units.words())
        .execute(db)
        .await
        .map(|_| ())
}

/// Says what the site is called.
///
/// # Errors
/// When the database fails.
pub async fn set(db: &MySqlPool, name: &str, zone: &Zone, units: Units) -> Result<(), sqlx::Error> {
    sqlx::query!("UPDATE site SET name = ?, zone = ?, units = ? WHERE id = 1", name, zone.name(), units.words())
        .execute(db)
        .await
        .map(|_| ())
}

/// Of whom a second factor is asked: `offered`, `administrators` or `everybody`.
///
/// # Errors
/// When the database fails.
pub async fn second_factor(db: &MySqlPool) -> Result<String, sqlx::Error> {
    sqlx::query_scalar!("SELECT second_factor FROM site WHERE id = 1").fetch_one(db).await
}

/// Asks for a second factor, or only offers it.
///
/// # Errors
/// When the database fails.
pub async fn ask_factor(db: &MySqlPool, of: &str) -> Result<(), sqlx::Error> {
    sqlx::query!("UPDATE site SET second_factor = ? WHERE id = 1", of).execute(db).await.map(|_| ())
}
