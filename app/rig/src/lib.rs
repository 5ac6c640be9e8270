//! A stand-in for a filled system on site: water in elastic walls with air, a pump, a relief valve, leaks, weather, and instruments that
//! answer over Modbus TCP. The same scenario with the same seed gives the same run.
//!
//! It knows nothing of rules or judging: what it does is physics, and what it says is what its instruments show.

pub mod instruments;
pub mod plant;
pub mod registers;
pub mod scenario;
pub mod serve;
pub mod simulation;
pub mod weather;
