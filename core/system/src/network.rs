//! Points at their heights, and what joins them.

use quantity::{Length, Volume};

/// What goes through a run, in this phase of the test.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Way {
    /// Both ways: a pipe, an open valve, a check valve whose flapper is out.
    Open,
    /// Only from its first point to its second: a check valve.
    Onward,
    /// Nothing: a shut valve, a blind.
    Shut,
}

/// What joins two points. Its bore is the same all along, so that its volume is shared out evenly over its height.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Run {
    /// Point where it begins.
    pub from: usize,
    /// Point where it ends.
    pub to: usize,
    /// Room inside; none in a valve that lets only one way or nothing through.
    pub volume: Volume,
    /// What goes through.
    pub way: Way,
}

/// Points and runs.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Network {
    /// Height of each point, m.
    pub points: Vec<Length>,
    /// What joins them.
    pub runs: Vec<Run>,
}

/// Why a network cannot be worked with.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Flaw {
    /// A run ends at a point that is none.
    NoPoint(usize),
    /// A height or a volume is no figure.
    NoFigure(usize),
    /// A run that lets one way or nothing through has room inside.
    RoomInValve(usize),
}

impl Network {
    /// Room inside all that is joined.
    pub fn volume(&self) -> Volume {
        Volume::from_m3(self.runs.iter().map(|r| r.volume.m3()).sum())
    }

    /// What keeps it from being worked with; the number is that of the run or the point.
    ///
    /// # Errors
    /// The first flaw.
    pub fn sound(&self) -> Result<(), Flaw> {
        if let Some(i) = self.points.iter().position(|z| !z.m().is_finite()) {
            return Err(Flaw::NoFigure(i));
        }
        for (i, r) in self.runs.iter().enumerate() {
            if r.from >= self.points.len() || r.to >= self.points.len() {
                return Err(Flaw::NoPoint(i));
            }
            if !r.volume.m3().is_finite() || r.volume.m3() < 0.0 {
                return Err(Flaw::NoFigure(i));
            }
            if r.way != Way::Open && r.volume.m3() > 0.0 {
                return Err(Flaw::RoomInValve(i));
            }
        }
        Ok(())
    }

    /// Runs at each point.
    pub(crate) fn at_points(&self) -> Vec<Vec<usize>> {
        let mut at = vec![Vec::new(); self.points.len()];
        for (i, r) in self.runs.iter().enumerate() {
            at[r.from].push(i);
            if r.to != r.from {
                at[r.to].push(i);
            }
        }
        at
    }
}
