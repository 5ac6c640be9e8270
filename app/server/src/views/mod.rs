//! What screens and records say, put together from what is stored: never a query of its own beside a store, never a request.

pub mod afterwards;
pub mod against;
pub mod attempt;
pub mod freeze;
pub mod hold;
pub mod judged;
pub mod line;
pub mod live;
pub mod pack;
pub mod practice;
pub mod sealing;
