//! What this product calls things: the words of each term, from where the term is defined.

use super::lines::{has, unless_same};
use crate::problem::ProblemBody;
use crate::store::security::What;
use crate::views::pack::StateKind;
use crate::who::Who;
use axum::http::HeaderMap;
use axum::response::Response;
use judge::acceptance::{Counts, Verdict};
use judge::defect::DefectKind;
use judge::found::Finding;
use judge::lines::{Choice, LeakSaid};
use judge::segments::StretchKind;
use pack::instrument::{InstrumentKind, RegisterForm};
use pack::people::Role;
use pack::plan::{GasSupply, RunKind, WhyNow};
use pack::registers::{BoundaryKind, LookFound, LookKind, OwedKind, PunchCategory, Remedy};
use pack::schedule::ScheduleName;
use pack::signing::{Act, Signers};
use pack::spine::StepName;
use physics::exposure::Exposure;
use rules::basis::Medium;
use rules::basis::entry::{Asked, Duty};
use rules::part::Seam;
use rules::rule::Standing;
use serde::Serialize;
use std::sync::LazyLock;
use terms::{Claim, EventKind, LeakPlace, Outcome, Term, ThermometerPlace, VariantArray as _, Worded};

/// Every term with its words, in the order in which a form offers them.
#[derive(Debug, Clone, Serialize, utoipa::ToSchema)]
pub struct Words {
    /// What a test claims.
    pub claim: Vec<Worded>,
    /// Why it is made now.
    pub why_now: Vec<Worded>,
    /// Rehearsal or record.
    pub run_kind: Vec<Worded>,
    /// What surrounds what is tested.
    pub exposure: Vec<Worded>,
    /// How liquid is raised.
    pub schedule: Vec<Worded>,
    /// How gas is raised.
    pub gas_schedule: Vec<Worded>,
    /// Where the gas comes from.
    pub gas_supply: Vec<Worded>,
    /// Where a thermometer sits.
    pub thermometer_place: Vec<Worded>,
    /// What can happen in a run.
    pub event: Vec<Worded>,
    /// What is booked by hand, and what each asks for.
    pub by_hand: Vec<ByHand>,
    /// What is often noted on a site.
    pub note: Vec<String>,
    /// Where a leak is seen.
    pub leak_place: Vec<Worded>,
    /// What can be wrong with a record.
    pub defect: Vec<Worded>,
    /// Stretches of a run.
    pub stretch: Vec<Worded>,
    /// What statistics find.
    pub finding: Vec<Worded>,
    /// What the basis makes of a test.
    pub outcome: Vec<Worded>,
    /// What the record says about a leak.
    pub leak_said: Vec<Worded>,
    /// What can be decided about a leak that nobody accounted for.
    pub choice: Vec<Worded>,
    /// Whether a rule counts, and who asks it.
    pub counts: Vec<Worded>,
    /// What a rule or a claim comes to.
    pub verdict: Vec<Worded>,
    /// What a person is on the site.
    pub role: Vec<Worded>,
    /// What a signature does.
    pub act: Vec<Worded>,
    /// Who signs a quick test.
    pub signers: Vec<Worded>,
    /// Categories of punch items.
    pub punch_category: Vec<Worded>,
    /// What an item at the boundary is.
    pub boundary_kind: Vec<Worded>,
    /// What a place to look at is to the test.
    pub look_kind: Vec<Worded>,
    /// What was found there.
    pub look_found: Vec<Worded>,
    /// What can be owed after a test.
    pub promise_kind: Vec<Worded>,
    /// What can be decided after a test that stopped.
    pub way: Vec<Worded>,
    /// Steps of the work.
    pub step: Vec<Worded>,
    /// How far a test is.
    pub state: Vec<Worded>,
    /// What the security log notes.
    pub security: Vec<Worded>,
    /// What kind of thing a basis is for.
    pub duty: Vec<Worded>,
    /// What a system is filled with.
    pub medium: Vec<Worded>,
    /// What a basis asks to be given.
    pub asked: Vec<Worded>,
    /// How far a rule may be trusted.
    pub standing: Vec<Worded>,
    /// The seam of a shell.
    pub seam: Vec<Worded>,
    /// What an instrument measures.
    pub instrument_kind: Vec<Worded>,
    /// How a figure stands in the registers of an instrument.
    pub register_form: Vec<Worded>,
    /// Figures that the project's answers touch.
    pub figure: Vec<Worded>,
}

/// What is booked by hand, as a form asks for it.
#[derive(Debug, Clone, Serialize, utoipa::ToSchema)]
pub struct ByHand {
    /// What.
    pub kind: EventKind,
    /// What stands on its button.
    pub label: String,
    /// Dimension of its figure, as amounts are named; absent where it has none.
    pub figure: Option<String>,
    /// What its figure is called.
    pub asks: String,
    /// What is asked of the thing, place or person that it is about; absent where it is about the whole.
    pub of: Option<String>,
    /// What whoever books it must mind; absent where there is nothing to mind.
    pub caution: Option<String>,
}

impl ByHand {
    fn of(kind: EventKind) -> Self {
        Self {
            kind,
            label: kind.more().to_owned(),
            figure: kind.figure().map(str::to_owned),
            asks: kind.asks().unwrap_or_default().to_owned(),
            of: kind.of().map(str::to_owned),
            caution: kind.caution().map(str::to_owned),
        }
    }
}

/// What is often noted on a site (common practice); it goes into the record as it stands here.
const NOTES: [&str; 8] = [
    "sun came out",
    "cloud or rain",
    "wind rose",
    "noise from the line",
    "support moved",
    "somebody near the barrier",
    "gauge knocked",
    "hose moved",
];

static WORDS: LazyLock<Words> = LazyLock::new(|| {
    let schedules = |of_gas| ScheduleName::VARIANTS.iter().filter(|s| s.of_gas() == of_gas).map(|s| s.said()).collect();
    Words {
        claim: Claim::all_said(),
        why_now: WhyNow::all_said(),
        run_kind: RunKind::all_said(),
        exposure: Exposure::all_said(),
        schedule: schedules(false),
        gas_schedule: schedules(true),
        gas_supply: GasSupply::all_said(),
        thermometer_place: ThermometerPlace::all_said(),
        event: EventKind::all_said(),
        by_hand: EventKind::VARIANTS.iter().copied().filter(|k| k.by_hand()).map(ByHand::of).collect(),
        note: NOTES.map(str::to_owned).to_vec(),
        leak_place: LeakPlace::all_said(),
        defect: DefectKind::all_said(),
        stretch: StretchKind::all_said(),
        finding: Finding::all_said(),
        outcome: Outcome::all_said(),
        leak_said: LeakSaid::all_said(),
        choice: Choice::all_said(),
        counts: Counts::all_said(),
        verdict: Verdict::all_said(),
        role: Role::all_said(),
        act: Act::all_said(),
        signers: Signers::all_said(),
        punch_category: PunchCategory::all_said(),
        boundary_kind: BoundaryKind::all_said(),
        look_kind: LookKind::all_said(),
        look_found: LookFound::all_said(),
        promise_kind: OwedKind::all_said(),
        way: Remedy::all_said(),
        step: StepName::all_said(),
        state: StateKind::all_said(),
        security: What::all_said(),
        duty: Duty::all_said(),
        medium: Medium::all_said(),
        asked: Asked::all_said(),
        standing: Standing::all_said(),
        seam: Seam::all_said(),
        instrument_kind: InstrumentKind::all_said(),
        register_form: RegisterForm::all_said(),
        figure: rules::why::TOUCHED
            .map(|(key, words)| Worded { key: key.into(), words: words.into(), short: words.into(), more: String::new() })
            .to_vec(),
    }
});

static TAG: LazyLock<String> = LazyLock::new(|| {
    let text = serde_json::to_vec(&*WORDS).unwrap_or_default();
    format!("\"{}\"", &record::canonical::sha256_hex(&text)[..32])
});

/// What this product calls things; the same for everybody and for as long as this server runs.
#[utoipa::path(get, path = "/api/v1/words", tag = "library",
    responses((status = 200, body = Words), (status = 304), (status = 401, body = ProblemBody)))]
pub async fn get(_: Who, headers: HeaderMap) -> Response {
    unless_same(&headers, &TAG, (!has(&headers, &TAG)).then_some(&*WORDS))
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::BTreeSet;

    /// What is stored by its key is sent by it.
    fn is_stored_as_sent<T: Term + Serialize>() {
        for term in T::VARIANTS {
            assert_eq!(serde_json::to_value(term).ok(), Some(term.key().into()));
        }
    }

    #[test]
    fn no_two_terms_of_a_kind_have_the_same_key_or_words_and_none_shows_its_key() {
        let all = serde_json::to_value(&*WORDS).unwrap_or_default();
        let lists: Vec<_> =
            all.as_object().into_iter().flatten().filter(|(kind, _)| !["note", "by_hand"].contains(&kind.as_str())).collect();
        assert_eq!(lists.len(), 38);
        for (kind, list) in lists {
            let list: Vec<Worded> = serde_json::from_value(list.clone()).unwrap_or_default();
            assert!(list.len() > 1, "{kind}");
            for of in [|s: &Worded| s.key.clone(), |s: &Worded| s.words.clone(), |s: &Worded| s.short.clone()] {
                assert_eq!(list.iter().map(of).collect::<BTreeSet<_>>().len(), list.len(), "{kind}");
            }
            assert!(list.iter().all(|s| !s.words.is_empty() && !s.words.contains('_')), "{kind}");
        }
    }

    #[test]
    fn every_term_is_stored_by_the_key_by_which_it_is_sent() {
        is_stored_as_sent::<WhyNow>();
        is_stored_as_sent::<RunKind>();
        is_stored_as_sent::<Exposure>();
        is_stored_as_sent::<ScheduleName>();
        is_stored_as_sent::<GasSupply>();
        is_stored_as_sent::<DefectKind>();
        is_stored_as_sent::<StretchKind>();
        is_stored_as_sent::<Finding>();
        is_stored_as_sent::<Verdict>();
        is_stored_as_sent::<Role>();
        is_stored_as_sent::<Act>();
        is_stored_as_sent::<Signers>();
        is_stored_as_sent::<PunchCategory>();
        is_stored_as_sent::<BoundaryKind>();
        is_stored_as_sent::<StepName>();
        is_stored_as_sent::<StateKind>();
        is_stored_as_sent::<Duty>();
        is_stored_as_sent::<Medium>();
        is_stored_as_sent::<Asked>();
        is_stored_as_sent::<Standing>();
        is_stored_as_sent::<Seam>();
        is_stored_as_sent::<RegisterForm>();
        is_stored_as_sent::<InstrumentKind>();
    }
}
