//! The tables, one file each. Queries are checked against the schema when the server is compiled.

pub mod account;
pub mod attempt;
pub mod correction;
pub mod event;
pub mod history;
pub mod instrument;
pub mod lease;
pub mod line;
pub mod listing;
pub mod logger_mapping;
pub mod owed;
pub mod pack;
pub mod person;
pub mod project;
pub mod reading;
pub mod recording;
pub mod register;
pub mod security;
pub mod signature;
pub mod site;
pub mod specification;
pub mod standing;
pub mod tick;
