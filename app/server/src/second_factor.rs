//! A second factor: six figures that change every half minute (TOTP, RFC 6238, SHA-1, as every application for it shows them). Its secret is made of the
//! sealing key and a salt, so that the database alone tells nobody a code.

use crate::problem::{Problem, internal};
use crate::state::App;
use crate::store::account;
use totp_rs::{Algorithm, TOTP};

/// Seconds that a code is shown.
const STEP_S: u64 = 30;
/// Steps before and after now that are taken: clocks of telephones differ.
const EITHER_WAY: u64 = 1;

/// A second factor that is to be set up.
#[derive(Debug)]
pub struct Setup {
    /// For an application that reads pictures.
    pub svg: String,
    /// The secret in letters, for one that does not.
    pub letters: String,
}

fn totp(app: &App, sign_in: &str, salt: &str, site: &str) -> Result<TOTP, Problem> {
    let secret = app.key.derived(&format!("second factor\0{sign_in}\0{salt}"))[..20].to_vec();
    // a colon parts issuer and account
    let plain = |text: &str| text.replace(':', " ");
    TOTP::new(Algorithm::SHA1, 6, 0, STEP_S, secret, Some(plain(site)), plain(sign_in)).map_err(|e| internal(&e))
}

/// Begins a second factor; nothing is asked of anybody before a code of it was typed.
///
/// # Errors
/// When one is in use.
pub async fn begin(app: &App, sign_in: &str) -> Result<Setup, Problem> {
    let salt: [u8; 16] = rand::random();
    account::begin_factor(&app.db, sign_in, &record::canonical::hex(&salt)).await?;
    let factor = account::factor(&app.db, sign_in).await?.ok_or(Problem::NotFound("second factor"))?;
    if factor.confirmed {
        return Err(Problem::Conflict("A second factor is in use: take it away first, then set up another.".to_owned()));
    }
    let site = crate::store::site::get(&app.db).await?.name;
    let totp = totp(app, sign_in, &factor.salt, &site)?;
    let code = qrcode::QrCode::new(totp.get_url()).map_err(|e| internal(&e))?;
    let svg = code.render::<qrcode::render::svg::Color>().min_dimensions(200, 200).build();
    Ok(Setup { svg, letters: totp.get_secret_base32() })
}

/// Takes a code, once; the first confirms the factor.
///
/// # Errors
/// When it does not fit, or was used.
pub async fn take(app: &App, sign_in: &str, typed: &str) -> Result<(), Problem> {
    let factor = account::factor(&app.db, sign_in).await?.ok_or(Problem::NotFound("second factor"))?;
    let totp = totp(app, sign_in, &factor.salt, "")?;
    let typed: String = typed.chars().filter(char::is_ascii_digit).collect();
    let now = u64::try_from(time::OffsetDateTime::now_utc().unix_timestamp()).unwrap_or(0) / STEP_S;
    for step in now.saturating_sub(EITHER_WAY)..=now + EITHER_WAY {
        if totp.generate(step * STEP_S) == typed && account::take_step(&app.db, sign_in, step).await? {
            return Ok(());
        }
    }
    Err(Problem::WrongCode)
}
