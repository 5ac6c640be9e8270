//! The look at every joint that counts: within the hold, or after it where the basis has it taken at a lower pressure.

use crate::case::HoldCase;
use terms::EventKind;

/// How old a reading may be to say what the pressure was at the look, s.
const READ_WITHIN: f64 = 1800.0;

/// Where a look was taken.
pub(super) enum Look {
    /// Within the hold.
    Within,
    /// After it, at this pressure, Pa.
    After(f64),
    /// After it, at less than is asked, Pa.
    TooLow(f64),
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
    let let_out = case.events.iter().find(|e| e.kind == EventKind::Released).map_or(f64::INFINITY, |e| e.t_s);
    let at = |t: f64| {
        let read = case.readings.iter().rfind(|r| r.pressure_pa.is_some() && r.t_s <= t && t - r.t_s <= READ_WITHIN)?;
        read.pressure_pa.map(|p| p.pa())
    };
    let best = looks().filter(|t| *t <= let_out).filter_map(at).fold(f64::NAN, f64::max);
    // as near as this gauge reads
    match best {
        p if p >= asked.pa() - case.gauge.division_pa.pa() => Look::After(p),
        p if p.is_finite() => Look::TooLow(p),
        _ => Look::None,
    }
}
