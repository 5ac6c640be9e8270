//! What the stories need: an installation of their own, and the real interface in headless Chromium.

pub mod browser;
pub mod fixtures;
pub mod overlap;
pub mod site;
pub mod units;
