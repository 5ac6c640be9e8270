//! SIGN: who signs, in which order, and what each signature states.

use crate::people::{People, Role};
use rules::rule::{Rule, Standing};
use serde::{Deserialize, Serialize};
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};
use terms::{Outcome, Term};

/// Rules of signing.
pub const RULES: &[&Rule] = &[&ORDER, &DIFFERENT, &QUICK, &BY_HAND];

/// Order.
pub const ORDER: Rule = Rule {
    id: "SIGN-ORDER",
    sentence: "A test is signed as performed, inspected, witnessed and accepted, in this order.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "sign_order_signatures_come_in_order_from_the_people_named",
};

/// Different people.
pub const DIFFERENT: Rule = Rule {
    id: "SIGN-DIFFERENT",
    sentence: "In a pack each signature is a different person's.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "sign_different_nobody_signs_twice_in_a_pack",
};

/// Quick test.
pub const QUICK: Rule = Rule {
    id: "SIGN-QUICK",
    sentence: "A quick test may be signed by the one person who did it, and then is the owner's information, not a certificate. Who else signs is chosen before the release.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "sign_quick_a_quick_test_needs_one_signature",
};

/// Signatures of people without an account.
pub const BY_HAND: Rule = Rule {
    id: "SIGN-BY-HAND",
    sentence: "Whoever has no account signs a quick test with name, body and number, over a link that is good once and for this record alone, or by hand on the device of whoever tested. What is drawn there is proof of nobody: the seal says so, and an authority accepts nothing by it.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "sign_by_hand_is_never_the_testers_and_never_a_packs",
};

/// Who signs a quick test; a pack is always signed by four.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[derive(VariantArray, EnumMessage, EnumProperty, EnumString, IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub enum Signers {
    /// whoever did it
    #[default]
    #[strum(message = "one person, who does it all", detailed_message = "It is the owner's information then, no certificate.")]
    One,
    /// whoever tested, and the owner
    #[strum(message = "an appointed tester, and the owner", detailed_message = "The tester signs what was done, the owner accepts it.")]
    OwnerAndTester,
    /// the contractor, and the witness of an authority
    #[strum(
        message = "the contractor, and the authority's witness",
        detailed_message = "The witness signs on a device of their own, over a link."
    )]
    ContractorAndWitness,
    /// performs, inspects, witnesses, accepts
    #[strum(message = "four people, as on a pack", detailed_message = "Performed, inspected, witnessed, accepted.")]
    Four,
}

impl Signers {
    /// What is signed, in order.
    pub const fn acts(self) -> &'static [Act] {
        match self {
            Self::One => &[Act::Performed],
            Self::OwnerAndTester => &[Act::Performed, Act::Accepted],
            Self::ContractorAndWitness => &[Act::Performed, Act::Witnessed],
            Self::Four => Act::VARIANTS,
        }
    }

    /// True for what is taken where nobody chooses.
    #[allow(clippy::trivially_copy_pass_by_ref, reason = "what serde asks for")]
    pub(crate) const fn usual(&self) -> bool {
        matches!(self, Self::One)
    }
}

/// How a person without an account signs.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[derive(VariantArray, EnumMessage, EnumProperty, EnumString, IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub enum HandWay {
    /// over a link, on a device of their own
    #[strum(message = "on a device of their own, over a link that was made for them")]
    Link,
    /// on the device of whoever tested
    #[strum(message = "by hand on the device of whoever tested: nothing proves who drew it")]
    Here,
}

impl HandWay {
    /// True where the seal says more than that somebody drew something.
    pub const fn authenticated(self) -> bool {
        matches!(self, Self::Link)
    }

    /// What stands after the statement of such a signature.
    pub const fn proviso(self) -> &'static str {
        match self {
            Self::Link => " Signed over a link that was made for this person and this record, and is good once.",
            Self::Here => " Drawn on the device of whoever tested: nothing proves who drew it, and no authority accepts anything by it.",
        }
    }
}

/// Size of a test.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[derive(VariantArray, EnumMessage, EnumProperty, EnumString, IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub enum Form {
    /// one body, one page
    #[strum(message = "quick test")]
    Quick,
    /// many lines, gates, registers
    #[strum(message = "test pack")]
    Pack,
}

/// What a signature does.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[derive(VariantArray, EnumMessage, EnumProperty, EnumString, IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub enum Act {
    /// performed
    #[strum(message = "performed")]
    Performed,
    /// inspected
    #[strum(message = "inspected")]
    Inspected,
    /// witnessed
    #[strum(message = "witnessed")]
    Witnessed,
    /// accepted
    #[strum(message = "accepted")]
    Accepted,
}

impl Act {
    /// Role that signs it in a pack.
    pub const fn role(self) -> Role {
        match self {
            Self::Performed => Role::Supervisor,
            Self::Inspected => Role::Inspector,
            Self::Witnessed => Role::Witness,
            Self::Accepted => Role::Owner,
        }
    }
    /// What the signature states of a test that came out so; nobody states that it held where it did not, or where that is not in the record.
    pub const fn statement(self, form: Form, signers: Signers, outcome: Outcome) -> &'static str {
        let held = matches!(outcome, Outcome::Meets);
        let open = matches!(outcome, Outcome::NotComplete);
        match (self, form) {
            (Self::Performed, Form::Quick) if signers.usual() => {
                "I carried out this test as recorded. This is the owner's information, not a certificate."
            }
            (Self::Performed, _) => {
                "I carried out this test as recorded, with the instruments named, and every reading and event is as it happened."
            }
            (Self::Inspected, _) if held => "I inspected the parts in this test during the hold and found them as recorded.",
            (Self::Inspected, _) if open => {
                "I inspected the parts in this test as far as it went and found them as recorded. The test is not complete."
            }
            (Self::Inspected, _) => {
                "I inspected the parts in this test and found them as recorded. The test did not meet what was asked of it."
            }
            (Self::Witnessed, _) if held => "I saw this test hold. I state nothing else.",
            (Self::Witnessed, _) if open => "I saw this test as far as it is recorded. It is not complete. I state nothing else.",
            (Self::Witnessed, _) => "I saw this test. It did not meet what was asked of it. I state nothing else.",
            (Self::Accepted, _) => "I accept the result of this test for the use that is stated in it.",
        }
    }
    /// Person named for it.
    pub fn person(self, people: &People) -> &str {
        match self {
            Self::Performed => &people.performs,
            Self::Inspected => &people.inspects,
            Self::Witnessed => &people.witnesses,
            Self::Accepted => &people.accepts,
        }
    }
}

/// Acts that a test needs.
pub const fn acts(form: Form, signers: Signers) -> &'static [Act] {
    match form {
        Form::Quick => signers.acts(),
        Form::Pack => Act::VARIANTS,
    }
}

/// The act that comes next, if any is left.
pub fn next(form: Form, signers: Signers, signed: &[Act]) -> Option<Act> {
    acts(form, signers).iter().copied().find(|a| !signed.contains(a))
}

/// Why an act may not be signed now, whoever signs it; none where its turn has come.
fn out_of_turn(form: Form, signers: Signers, done: &[Act], act: Act) -> Option<String> {
    if done.contains(&act) {
        return Some(format!(
            "This test is already signed as {}; nothing signed is ever changed, only superseded with a reason.",
            act.key()
        ));
    }
    let Some(due) = next(form, signers, done) else {
        return Some("Every signature that this test needs is there.".to_owned());
    };
    (act != due).then(|| format!("It is not yet time to sign as {}: {} comes first.", act.key(), due.key()))
}

/// Why a person without an account may not sign `act` now; none when they may.
pub fn by_hand_objection(form: Form, signers: Signers, done: &[Act], act: Act) -> Option<String> {
    if form == Form::Pack {
        return Some("A test pack is signed by people who have an account: invite them into the project.".to_owned());
    }
    if act == Act::Performed {
        return Some("Whoever tested signs with their own account and password, nobody for them.".to_owned());
    }
    out_of_turn(form, signers, done, act)
}

/// Why `person` in `role` may not sign `act` now; none when they may.
pub fn objection(
    form: Form,
    signers: Signers,
    people: &People,
    signed: &[(Act, String)],
    act: Act,
    person: &str,
    role: Role,
) -> Option<String> {
    let done: Vec<Act> = signed.iter().map(|s| s.0).collect();
    if let Some(sentence) = out_of_turn(form, signers, &done, act) {
        return Some(sentence);
    }
    if form == Form::Quick {
        let twice = signed.iter().any(|s| s.1 == person);
        return match act {
            Act::Performed => (person != people.performs && !people.performs.is_empty())
                .then(|| format!("This quick test is signed by {}, who did it.", people.performs)),
            _ if twice => Some(format!(
                "{} is another person's signature: they sign with their own account, or over a link that you make for them here.",
                title(act)
            )),
            _ if !act.person(people).is_empty() => {
                (act.person(people) != person).then(|| format!("{} is signed by {}, who is named for it.", title(act), act.person(people)))
            }
            _ => (role != act.role())
                .then(|| format!("{} is signed by the {}, not by the {}.", title(act), act.role().words(), role.words())),
        };
    }
    if role != act.role() {
        return Some(format!("{} is signed by the {}, not by the {}.", title(act), act.role().words(), role.words()));
    }
    if act.person(people) != person {
        return Some(format!(
            "{} is signed by {}, who is named for it; change the name on the pack before the first signature if that is wrong.",
            title(act),
            act.person(people)
        ));
    }
    signed
        .iter()
        .find(|s| s.1 == person)
        .map(|s| format!("You have signed this pack as {}; each signature is a different person's.", s.0.key()))
}

fn title(act: Act) -> &'static str {
    match act {
        Act::Performed => "Performed",
        Act::Inspected => "Inspected",
        Act::Witnessed => "Witnessed",
        Act::Accepted => "Accepted",
    }
}
