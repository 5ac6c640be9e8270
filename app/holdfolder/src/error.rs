//! What is wrong with a folder of a hold.

use thiserror::Error;

/// Why a folder cannot be read.
#[derive(Debug, Error)]
pub enum FolderError {
    /// a file is missing
    #[error("{file} cannot be read: {source}")]
    File {
        /// Which.
        file: String,
        /// Why.
        source: std::io::Error,
    },
    /// a file does not say what it should
    #[error("{file} does not describe a hold: {source}")]
    Content {
        /// Which.
        file: String,
        /// Why.
        source: ContentError,
    },
}

/// Why a case with its readings is no hold.
#[derive(Debug, Error)]
pub enum ContentError {
    /// the case is no JSON of its form
    #[error(transparent)]
    Case(#[from] serde_json::Error),
    /// the readings are no table
    #[error(transparent)]
    Readings(#[from] csv::Error),
    /// nothing to judge, or nothing to judge it by
    #[error("it needs at least one segment and one gauge")]
    Empty,
    /// a thermometer on nothing
    #[error("{thermometer} sits on \"{segment}\", which is none of its segments")]
    NoSegment {
        /// The thermometer.
        thermometer: String,
        /// Where it is said to sit.
        segment: String,
    },
    /// the readings lack the time
    #[error("readings.csv has no column time_s")]
    NoTime,
    /// the readings lack a column that the case names
    #[error("readings.csv has no column {column}, which case.json names")]
    NoColumn {
        /// Which.
        column: String,
    },
    /// a cell is no number
    #[error("readings.csv row {row}, column {column}: \"{text}\" is not a number")]
    NotANumber {
        /// Its row; the head is the first.
        row: usize,
        /// Its column.
        column: String,
        /// What stands there.
        text: String,
    },
}
