//! Files in and out. Every error says row and column, what was found, and what would be accepted.

pub mod columns;
mod dates;
pub mod delimited;
mod heights;
pub mod logger;
pub mod network;
pub mod network_parts;
pub mod parts;
mod size;
pub mod table;
pub mod workbook;
