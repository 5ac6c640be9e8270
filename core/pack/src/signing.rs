//! SIGN: who signs, in which order, and what each signature states.

use crate::people::{People, Role};
use rules::rule::{Rule, Standing};
use serde::{Deserialize, Serialize};
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};
use terms::{Outcome, Term};

/// Rules of signing.
pub const RULES: &[&Rule] = &[&ORDER, &DIFFERENT, &QUICK];

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
    sentence: "A quick test may be signed by the one person who did it, and then is the owner's information, not a certificate.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "sign_quick_a_quick_test_needs_one_signature",
};

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
    pub const fn statement(self, form: Form, outcome: Outcome) -> &'static str {
        let held = matches!(outcome, Outcome::Meets);
        let open = matches!(outcome, Outcome::NotComplete);
        match (self, form) {
            (Self::Performed, Form::Quick) => "I carried out this test as recorded. This is the owner's information, not a certificate.",
            (Self::Performed, Form::Pack) => {
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
pub const fn acts(form: Form) -> &'static [Act] {
    match form {
        Form::Quick => &[Act::Performed],
        Form::Pack => Act::VARIANTS,
    }
}

/// The act that comes next, if any is left.
pub fn next(form: Form, signed: &[Act]) -> Option<Act> {
    acts(form).iter().copied().find(|a| !signed.contains(a))
}

/// Why `person` in `role` may not sign `act` now; none when they may.
pub fn objection(form: Form, people: &People, signed: &[(Act, String)], act: Act, person: &str, role: Role) -> Option<String> {
    let done: Vec<Act> = signed.iter().map(|s| s.0).collect();
    if done.contains(&act) {
        return Some(format!(
            "This test is already signed as {}; nothing signed is ever changed, only superseded with a reason.",
            act.key()
        ));
    }
    let Some(due) = next(form, &done) else {
        return Some("Every signature that this test needs is there.".to_owned());
    };
    if act != due {
        return Some(format!("It is not yet time to sign as {}: {} comes first.", act.key(), due.key()));
    }
    if form == Form::Quick {
        return (person != people.performs && !people.performs.is_empty())
            .then(|| format!("This quick test is signed by {}, who did it.", people.performs));
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
