//! One line for a judged hold, in the case's own units.

use crate::FolderHold;
use hold::Judged;
use serde::Serialize;
use terms::Term;

/// What was found of a hold.
#[derive(Debug, Clone, Serialize)]
pub struct Line {
    /// Its name.
    pub case: String,
    /// `pass`, `fail` or `not_shown`.
    pub verdict: &'static str,
    /// Mean loss over the hold, L/h (normal L/h of gas); signed; none where nothing could be fitted.
    pub leak_l_per_h: Option<f64>,
    /// Lower end of its 95 % interval.
    pub lo: Option<f64>,
    /// Upper end of its 95 % interval.
    pub hi: Option<f64>,
    /// One-sided 99.9 % upper limit.
    pub upper_limit_999_l_per_h: Option<f64>,
    /// Least loss that this record could have shown.
    pub detection_limit_l_per_h: Option<f64>,
    /// Least loss that the plan could have promised to show.
    pub planned_detection_limit_l_per_h: Option<f64>,
    /// Rate at the end of the hold.
    pub leak_at_end_l_per_h: Option<f64>,
    /// Mean square of the standardised residuals; far above 1 the model does not fit.
    pub misfit: Option<f64>,
    /// What was found wrong with the record, on the recorded clock.
    pub defects_found: Vec<FoundDefect>,
    /// Why nothing is shown, where nothing could be fitted.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub reason: Option<String>,
}

/// A defect of a record.
#[derive(Debug, Clone, Serialize)]
pub struct FoundDefect {
    /// Kind.
    pub kind: &'static str,
    /// Column; none for the whole row.
    pub channel: Option<String>,
    /// From, s.
    pub start_s: f64,
    /// To, s.
    pub end_s: f64,
    /// By how much a clock jumped, s.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub jump_s: Option<f64>,
}

const L_PER_H: f64 = 3.6e6;

impl Line {
    /// Of a judged hold.
    pub fn new(folder: &FolderHold, judged: &Judged) -> Self {
        let columns: Vec<&str> = folder.case.columns().collect();
        let fitted = judged.fitted.as_ref().ok();
        let rate = |v: f64| v.is_finite().then_some(v * L_PER_H);
        Self {
            case: folder.case.case.clone(),
            verdict: judged.outcome.word(),
            leak_l_per_h: fitted.and_then(|f| rate(f.mean)),
            lo: fitted.and_then(|f| rate(f.lo)),
            hi: fitted.and_then(|f| rate(f.hi)),
            upper_limit_999_l_per_h: fitted.and_then(|f| rate(f.upper_999)),
            detection_limit_l_per_h: fitted.and_then(|f| rate(f.detection_limit)),
            planned_detection_limit_l_per_h: hold::model::planned_detection_limit(&folder.hold).ok().and_then(rate),
            leak_at_end_l_per_h: fitted.and_then(|f| rate(f.end_rate.0)),
            misfit: fitted.map(|f| f.misfit),
            defects_found: judged
                .read
                .defects
                .iter()
                .map(|d| FoundDefect {
                    kind: d.kind.key(),
                    channel: d.channel.and_then(|c| columns.get(c)).map(|c| (*c).to_owned()),
                    start_s: d.start_s,
                    end_s: d.end_s,
                    jump_s: d.jump_s,
                })
                .collect(),
            reason: judged.fitted.as_ref().err().map(ToString::to_string),
        }
    }
}

/// Judges a hold of a folder against the leak that its case asks to rule out.
pub fn judge(folder: &FolderHold) -> Line {
    let required = folder.case.required_sensitivity_l_per_h.map(|r| r / L_PER_H);
    Line::new(folder, &hold::judge(&folder.hold, &folder.record, required))
}
