//! Makes simulated holds with their truth, to measure the judge by. Its wall, heat, noise and leak are its own code; of the
//! product it uses only the equations of state of water and gas. Invented data.

pub mod bound;
pub mod defects;
pub mod family;
pub mod files;
pub mod instruments;
pub mod plant;
pub mod random;
pub mod simulate;
pub mod weather;

mod make;

pub use make::{Made, in_blocks, make, make_lowered, make_read};
pub use simulate::Lowered;
