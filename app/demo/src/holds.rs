//! Readings of a made-up hold: a straight model with the server's own bar per kelvin, a little noise from a fixed seed.

use crate::client::id;
use serde_json::{Value, json};
use time::OffsetDateTime;
use time::format_description::well_known::Rfc3339;

/// What a made-up hold does.
#[derive(Debug, Clone, Copy)]
pub struct MadeHold {
    /// Pressure at its start, bar.
    pub start_bar: f64,
    /// Change of pressure per kelvin, bar/K.
    pub bar_per_k: f64,
    /// Water temperature at its start, °C.
    pub start_c: f64,
    /// Cooling over the whole hold, K.
    pub cooling_k: f64,
    /// Fall by a leak over the whole hold, bar.
    pub leak_bar: f64,
    /// Fall by creep of its wall over the whole hold, bar, and how many minutes it has crept before; below nil where it draws back.
    pub creeps: (f64, u32),
    /// Minutes.
    pub minutes: u32,
    /// Minutes between readings.
    pub every: u32,
    /// Decimals of the gauge.
    pub decimals: usize,
    /// Standard deviation of the gauge's noise, bar.
    pub noise_bar: f64,
    /// True when temperatures are read too.
    pub with_temperature: bool,
    /// True when somebody typed one reading wrong and left out a quarter of an hour.
    pub careless: bool,
    /// Seed of the noise.
    pub seed: u64,
}

/// Minutes between which a careless reader read nothing, and the reading that was typed wrong.
const UNREAD: std::ops::Range<u32> = 81..97;
const MISTYPED: u32 = 44;

/// A small generator: the same seed gives the same demo.
struct Noise(u64);

impl Noise {
    fn next(&mut self) -> f64 {
        let mut sum = 0.0;
        for _ in 0..12 {
            self.0 ^= self.0 << 13;
            self.0 ^= self.0 >> 7;
            self.0 ^= self.0 << 17;
            sum += (self.0 >> 11) as f64 / (1u64 << 53) as f64;
        }
        sum - 6.0
    }
}

/// An instant as the API takes it.
pub fn rfc3339(at: OffsetDateTime) -> String {
    at.format(&Rfc3339).unwrap_or_default()
}

impl MadeHold {
    fn at(&self, minute: u32, noise: &mut Noise) -> (f64, f64) {
        let share = f64::from(minute) / f64::from(self.minutes.max(1));
        // water and wall cool evenly, the wall ahead of the water by the same all along
        let cooled = self.cooling_k * share;
        let t = self.start_c - cooled;
        let (creep_bar, before) = self.creeps;
        let over = |minutes: u32| (f64::from(minutes) / f64::from(before.max(1))).ln_1p();
        let crept = creep_bar * over(minute) / over(self.minutes.max(1));
        let p = self.start_bar - self.bar_per_k * cooled - self.leak_bar * share - crept;
        (p + self.noise_bar * noise.next(), t + 0.004 * noise.next())
    }

    /// Typed readings from `start` on.
    pub fn typed(&self, start: OffsetDateTime) -> Vec<Value> {
        let mut noise = Noise(self.seed | 1);
        let mut out = Vec::new();
        for minute in (0..=self.minutes).step_by(self.every as usize) {
            let (p, t) = self.at(minute, &mut noise);
            if self.careless && UNREAD.contains(&minute) {
                continue;
            }
            let p = if self.careless && minute == MISTYPED { p + 1.0 } else { p };
            let at = rfc3339(start + time::Duration::minutes(i64::from(minute)));
            out.push(json!({ "id": id(), "at": at, "channel": "pressure", "text": format!("{p:.*}", self.decimals), "unit": "bar" }));
            if self.with_temperature {
                out.push(json!({ "id": id(), "at": at, "channel": "temperature", "text": format!("{t:.2}") }));
            }
        }
        out
    }

    /// The same as a logger's file: semicolons, decimal commas, psi, Latin-1.
    pub fn logger_file(&self, start: OffsetDateTime) -> Vec<u8> {
        let mut noise = Noise(self.seed | 1);
        let mut out = b"Zeit;Druck [psi];Temperatur \xb0C\r\n".to_vec();
        for second in (0..=self.minutes * 60).step_by(30) {
            let (p, t) = self.at(second / 60, &mut noise);
            let at = start + time::Duration::seconds(i64::from(second));
            let row = format!(
                "{:02}.{:02}.{:04} {:02}:{:02}:{:02};{:.1};{t:.2}\r\n",
                at.day(),
                u8::from(at.month()),
                at.year(),
                at.hour(),
                at.minute(),
                at.second(),
                p * 14.503_773_773
            );
            out.extend(row.replace('.', ",").replacen(',', ".", 2).bytes());
        }
        out
    }
}
