//! What the quick test knows: objects that a person brings alone, each with what its five answers make of a plan.

use crate::plan::ObjectKind;
use crate::schedule::ScheduleName;
use rules::basis::entry::Asked;
use rules::part::PartKind;
use serde::Serialize;

/// What an answer means for the pressure.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct Means {
    /// Key of the answer.
    pub answer: &'static str,
    /// In words.
    pub words: &'static str,
}

/// An object of the quick test.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct QuickObject {
    /// What it is.
    pub object: ObjectKind,
    /// In words.
    pub words: &'static str,
    /// What is said beside it.
    pub more: &'static str,
    /// Id of the basis by which it is tested.
    pub basis: &'static str,
    /// The pressure that is asked.
    pub pressure: Asked,
    /// What else the basis is given, where it is known.
    pub also: &'static [Asked],
    /// Key of the question of the basis that is asked; none where its first answer is taken.
    pub question: Option<&'static str>,
    /// What its answers mean for the pressure.
    pub means: &'static [Means],
    /// True for a body of which the volume and the seam are asked; else a pipe of which the length is.
    pub body: bool,
    /// Tag of its one part.
    pub tag: &'static str,
    /// Kind of its one part.
    pub kind: PartKind,
    /// How it is raised.
    pub schedule: ScheduleName,
}

/// Every object of the quick test.
pub const OBJECTS: [QuickObject; 3] = [
    QuickObject {
        object: ObjectKind::MiniatureBoiler,
        words: "Miniature boiler",
        more: "club practice",
        basis: "boiler_model",
        pressure: Asked::WorkingPressure,
        also: &[],
        question: Some("occasion"),
        means: &[Means { answer: "first", words: "twice the working pressure" }, Means { answer: "later", words: "1.5 times it" }],
        body: true,
        tag: "Boiler shell",
        kind: PartKind::Boiler,
        schedule: ScheduleName::SmallBoiler,
    },
    QuickObject {
        object: ObjectKind::AirReceiver,
        words: "Air receiver",
        more: "second-hand, with water",
        basis: "air_receiver",
        pressure: Asked::WorkingPressure,
        also: &[Asked::PlatePressure],
        question: Some("code_year"),
        means: &[],
        body: true,
        tag: "Receiver",
        kind: PartKind::Vessel,
        schedule: ScheduleName::SmallBoiler,
    },
    QuickObject {
        object: ObjectKind::ProcessPiping,
        words: "Process piping",
        more: "ASME B31.3, water",
        basis: "b31_3",
        pressure: Asked::DesignPressure,
        also: &[Asked::DesignTemperature],
        question: None,
        means: &[],
        body: false,
        tag: "Pipe",
        kind: PartKind::Pipe,
        schedule: ScheduleName::Quarters,
    },
];

#[cfg(test)]
mod tests {
    use super::OBJECTS;
    use crate::plan::ObjectKind;
    use rules::basis::book;

    #[test]
    fn every_object_has_a_basis_that_knows_its_question_asks_its_pressure_and_is_for_such_objects() {
        for o in OBJECTS {
            let (entry, _) = book::shipped().all().find(|(e, _)| e.id == o.basis).unwrap_or_else(|| panic!("no basis {}", o.basis));
            assert!(entry.asks.contains(&o.pressure), "{o:?}");
            assert!(o.also.iter().all(|a| entry.asks.contains(a)), "{o:?}");
            assert!(entry.asks.iter().all(|a| *a == o.pressure || o.also.contains(a)), "{} asks more", o.basis);
            assert!(o.question.is_none_or(|q| entry.choices.iter().any(|c| c.key == q)), "{o:?}");
            let choice = entry.choices.iter().find(|c| o.question == Some(c.key.as_str()));
            assert!(o.means.iter().all(|m| choice.is_some_and(|c| c.options.iter().any(|a| a.key == m.answer))), "{o:?}");
            assert_eq!(ObjectKind::of_basis(&entry.id, entry.duty), o.object);
        }
    }
}
