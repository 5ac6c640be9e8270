//! What stands against a test, one line for each thing to mend, as its screens show it.

use rules::objection::Objection;
use serde::Serialize;

/// Something that must be mended before the test may be released.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct Against {
    /// Id of the rule that asks for it; absent where it follows from the pressure.
    pub rule: Option<String>,
    /// Tag of the part, where it is about one.
    pub part: Option<String>,
    /// The field of the plan, or the column of the parts, with the group that it stands in.
    pub field: String,
    /// The field or column by itself.
    pub name: String,
    /// Key of the step where it is mended.
    pub step: String,
    /// What, why, and what to do.
    pub sentence: String,
    /// The same beside the part's name.
    pub says: String,
}

fn against(o: &Objection) -> Against {
    let says = match &o.part {
        Some(tag) => o.sentence.strip_prefix(tag.as_str()).and_then(|s| s.strip_prefix(": ")).unwrap_or(&o.sentence),
        None => &o.sentence,
    };
    Against {
        rule: (!o.rule.starts_with("line:")).then(|| o.rule.clone()),
        part: o.part.clone(),
        name: o.field.rsplit('.').next().unwrap_or(&o.field).to_owned(),
        field: o.field.clone(),
        step: o.step.clone(),
        says: says.to_owned(),
        sentence: o.sentence.clone(),
    }
}

/// Why nothing can be derived, in lines; and what stands against what was.
pub fn all(refusals: &[Objection], objections: &[Objection]) -> Vec<Against> {
    refusals.iter().chain(objections).map(against).collect()
}
