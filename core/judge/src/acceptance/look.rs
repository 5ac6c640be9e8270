//! The look at every joint that counts: within the hold, or after it where the basis has it taken at a lower pressure.

use crate::case::HoldCase;
use crate::read;
use quantity::{GaugePressure, RunTime, Span};
use terms::EventKind;

/// How old a reading may be to say what the pressure was at the look, s.
const READ_WITHIN: Span = Span::from_s(1800.0);

/// Where a look was taken.
pub(super) enum Look {
    /// Within the hold.
    Within,
    /// After it, at this pressure, Pa.
    After(GaugePressure),
    /// After it, at less than is asked, Pa.
    TooLow(GaugePressure),
    /// Nowhere that counts.
    None,
}

impl Look {
    /// True where it counts.
    pub(super) const fn is_done(&self) -> bool {
        matches!(self, Self::Within | Self::After(_))
    }
}

/// The best look of a test.
pub(super) fn look(case: &HoldCase) -> Look {
    let looks = || case.events.iter().filter(|e| e.kind == EventKind::LookDone && e.t_s >= case.hold_start_s).map(|e| e.t_s);
    if looks().any(|t| t <= case.hold_end_s) {
        return Look::Within;
    }
    let Some(asked) = case.acceptance.look_pa else { return Look::None };
    let let_out = case.events.iter().find(|e| e.kind == EventKind::Released).map(|e| e.t_s);
    let at = |t: RunTime| case.pressures().rfind(|r| r.t <= t && t - r.t <= READ_WITHIN).map(|r| r.p);
    // as near as this gauge reads
    match read::most(looks().filter(|t| let_out.is_none_or(|out| *t <= out)).filter_map(at)) {
        Some(p) if p >= asked - case.gauge.division_pa => Look::After(p),
        Some(p) => Look::TooLow(p),
        None => Look::None,
    }
}
