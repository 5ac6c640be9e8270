//! A run as a value: what a release froze and what came in since, and all that follows from them.
//!
//! [`Run`] is a fold: rows go in one by one, in any order, and what it says depends on which rows there are and on nothing else. It knows no clock:
//! the time is an argument of everything that depends on it, and so are unit and zone of every sentence.
//!
//! | in | out |
//! |---|---|
//! | [`Frozen`], [`rows`] | [`Run::case`]: the hold as the judge reads it; [`Run::stretches`] |
//! | and an [`Hour`](now::Hour) | [`moment::LiveView`](live::LiveView): instruction, barrier, countdown, needle, warnings |
//! | and an act | [`At`](situation::At): what the act is refused for |
//! | and a judgement | [`signing`]: what the next signature wants |

pub mod barrier;
pub mod before_water;
pub mod case;
pub mod changed;
pub mod channels;
pub mod countdown;
pub mod curve;
pub mod debrief;
pub mod facts;
pub mod file;
pub mod frozen;
pub mod hold_case;
pub mod instruction;
pub mod live;
pub mod merged;
pub mod needle;
pub mod now;
pub mod own_time;
pub mod packed;
pub mod proposed;
pub mod rows;
mod run;
pub mod signing;
pub mod situation;
pub mod tell;
pub mod warnings;
pub mod watch_over;

pub use frozen::Frozen;
pub use now::{Now, Tell};
pub use rows::Row;
pub use run::Run;
