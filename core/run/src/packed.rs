//! The rows of a run as a sealed record carries them: what people booked as it is, what machines read in columns of bytes.
//!
//! A string of `ticks` is base64 (RFC 4648, with padding) of up to a thousand instants, one after the other: sequence (u64), clock and own time (i64,
//! µs since 1970), how many channels (u8), then for each its number (u8), how it answered (u8: 0 read, 1 not at all, 2 unreadable) and its figure (f64,
//! NaN where it gave none); all little-endian. A string of `recordings` is base64 of rows of time (i64, µs), pressure (f64, Pa) and temperature (f64,
//! °C), NaN where the cell is empty.

use crate::rows::{Answer, ClockSet, CorrectionRow, EventRow, LoggerRow, ReadingRow, Recording, Rows, Sampled, Tick};
use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use moment::Instant;
use serde::{Deserialize, Serialize};

/// Instants in one string.
const TOGETHER: usize = 1000;

/// A logger's file, its rows in bytes.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PackedRecording {
    /// Id made by whoever sent it.
    pub id: String,
    /// When it was stored.
    pub stored_at: Instant,
    /// Its rows.
    pub rows: String,
}

/// Rows of a run, packed.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PackedRows {
    /// Events in the order of the run's own time.
    pub events: Vec<EventRow>,
    /// Typed readings in the order of the run's own time.
    pub typed: Vec<ReadingRow>,
    /// Loggers' files in the order in which they came.
    pub recordings: Vec<PackedRecording>,
    /// Instants of the recorder in their sequence, up to when all was let out.
    pub ticks: Vec<String>,
    /// When the clock was set anew, in order.
    pub clock_sets: Vec<ClockSet>,
    /// Corrections in the order in which they were made.
    pub corrections: Vec<CorrectionRow>,
    /// When the pressure of the attempt before it was let out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub let_out_before: Option<Instant>,
}

/// What was packed is not what is unpacked.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
#[error("the readings that it carries are damaged: they end within a row")]
pub struct Damaged;

impl Rows {
    /// Packs them.
    pub fn packed(&self) -> PackedRows {
        PackedRows {
            events: self.events.clone(),
            typed: self.typed.clone(),
            recordings: self.recordings.iter().map(packed_recording).collect(),
            ticks: self.ticks.chunks(TOGETHER).map(packed_ticks).collect(),
            clock_sets: self.clock_sets.clone(),
            corrections: self.corrections.clone(),
            let_out_before: self.let_out_before,
        }
    }
}

impl PackedRows {
    /// Unpacks them.
    ///
    /// # Errors
    /// When bytes are damaged.
    pub fn unpacked(&self) -> Result<Rows, Damaged> {
        let mut ticks = Vec::new();
        for part in &self.ticks {
            let bytes = STANDARD.decode(part).map_err(|_| Damaged)?;
            let mut rest = Bytes(&bytes);
            while !rest.0.is_empty() {
                ticks.push(rest.tick().ok_or(Damaged)?);
            }
        }
        Ok(Rows {
            events: self.events.clone(),
            typed: self.typed.clone(),
            recordings: self.recordings.iter().map(unpacked_recording).collect::<Result<_, _>>()?,
            ticks,
            clock_sets: self.clock_sets.clone(),
            corrections: self.corrections.clone(),
            let_out_before: self.let_out_before,
        })
    }
}

fn packed_recording(r: &Recording) -> PackedRecording {
    let mut bytes = Vec::with_capacity(24 * r.rows.len());
    for row in &r.rows {
        bytes.extend_from_slice(&row.at_us.to_le_bytes());
        bytes.extend_from_slice(&row.pressure_pa.unwrap_or(f64::NAN).to_le_bytes());
        bytes.extend_from_slice(&row.temperature_c.unwrap_or(f64::NAN).to_le_bytes());
    }
    PackedRecording { id: r.id.clone(), stored_at: r.stored_at, rows: STANDARD.encode(bytes) }
}

fn unpacked_recording(r: &PackedRecording) -> Result<Recording, Damaged> {
    let bytes = STANDARD.decode(&r.rows).map_err(|_| Damaged)?;
    let mut rest = Bytes(&bytes);
    let mut rows = Vec::with_capacity(bytes.len() / 24);
    while !rest.0.is_empty() {
        let at_us = rest.i64().ok_or(Damaged)?;
        let (pressure_pa, temperature_c) = (rest.figure().ok_or(Damaged)?, rest.figure().ok_or(Damaged)?);
        rows.push(LoggerRow { at_us, pressure_pa, temperature_c });
    }
    Ok(Recording { id: r.id.clone(), stored_at: r.stored_at, rows })
}

fn packed_ticks(ticks: &[Tick]) -> String {
    let mut bytes = Vec::with_capacity(64 * ticks.len());
    for t in ticks {
        bytes.extend_from_slice(&t.seq.to_le_bytes());
        bytes.extend_from_slice(&t.at_us.to_le_bytes());
        bytes.extend_from_slice(&t.run_us.to_le_bytes());
        bytes.push(u8::try_from(t.values.len()).unwrap_or(u8::MAX));
        for v in &t.values {
            bytes.push(v.channel);
            bytes.push(match v.answer {
                Answer::Read => 0,
                Answer::None => 1,
                Answer::Unreadable => 2,
            });
            bytes.extend_from_slice(&v.value.unwrap_or(f64::NAN).to_le_bytes());
        }
    }
    STANDARD.encode(bytes)
}

/// Bytes that are read from the front.
struct Bytes<'a>(&'a [u8]);

impl Bytes<'_> {
    fn take<const N: usize>(&mut self) -> Option<[u8; N]> {
        let (front, rest) = self.0.split_first_chunk::<N>()?;
        self.0 = rest;
        Some(*front)
    }

    fn byte(&mut self) -> Option<u8> {
        self.take::<1>().map(|b| b[0])
    }

    fn i64(&mut self) -> Option<i64> {
        self.take().map(i64::from_le_bytes)
    }

    fn figure(&mut self) -> Option<Option<f64>> {
        self.take().map(f64::from_le_bytes).map(|v| Some(v).filter(|v| !v.is_nan()))
    }

    fn tick(&mut self) -> Option<Tick> {
        let (seq, at_us, run_us) = (self.take().map(u64::from_le_bytes)?, self.i64()?, self.i64()?);
        let channels = self.byte()?;
        let values = (0..channels).map(|_| self.sampled()).collect::<Option<Vec<_>>>()?;
        Some(Tick { seq, at_us, run_us, values })
    }

    fn sampled(&mut self) -> Option<Sampled> {
        let channel = self.byte()?;
        let answer = match self.byte()? {
            0 => Answer::Read,
            1 => Answer::None,
            2 => Answer::Unreadable,
            _ => return None,
        };
        Some(Sampled { channel, answer, value: self.figure()? })
    }
}
