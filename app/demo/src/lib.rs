//! The invented site Merrowick Works, loaded through the public API as its people would enter it. Everything on it is made up.

mod boiler_feed;
pub mod client;
pub mod holds;
mod joined;
mod judged;
pub mod merrowick;
pub mod people;
mod pump_house;
mod rows;
mod site;
