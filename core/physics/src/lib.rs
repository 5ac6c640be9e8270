//! Physics of a shut-in system: water, test gases, the stretch of pipe and vessel, trapped air, heat, stored energy, leaks.
//!
//! SI throughout; every public function states formula, units, range, uncertainty and source.

pub mod elastic;
pub mod energy;
pub mod exposure;
pub mod gas;
pub mod head;
pub mod heat;
pub mod helmholtz;
pub mod orifice;
pub mod system;
pub mod water;
