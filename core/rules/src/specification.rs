//! The project's specification: which school counts where practitioners differ, which answers the bases get, and which values of the library the
//! project puts in place of the shipped ones. Everything that differs from the default has a reason.

use crate::basis::Basis;
use crate::basis::book::Bases;
use crate::basis::bound::Constant;
use crate::library::{Library, Override, TableError};
use crate::say::Published;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::sync::{Arc, LazyLock};

/// The schools as their file has them.
pub const FILE: (&str, &str) = ("schools.toml", include_str!("../data/schools.toml"));

/// One answer of a school.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct SchoolOption {
    /// Its key.
    pub key: String,
    /// In words.
    pub words: Published,
    /// Factor on the test pressure.
    pub factor: Option<f64>,
    /// Added to it.
    pub plus: Option<Constant>,
    /// Least multiple of the test pressure.
    pub low: Option<f64>,
    /// Greatest multiple of the test pressure.
    pub high: Option<f64>,
    /// Parts per million.
    pub ppm: Option<f64>,
    /// Greatest pressure.
    pub cap: Option<Constant>,
    /// Days.
    pub days: Option<u32>,
    /// Minutes.
    pub minutes: Option<f64>,
    /// True for an offer for vessels alone.
    #[serde(default)]
    pub vessels_only: bool,
}

/// A question on which practitioners differ; the first answer is the default.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct School {
    /// Its key.
    pub key: String,
    /// The question.
    pub question: String,
    /// Step of the spine where it counts.
    pub step: String,
    /// Figures that it touches.
    pub touches: Vec<String>,
    /// True where the answer is a sentence for the step rather than a figure.
    #[serde(default)]
    pub sentence: bool,
    /// The answers.
    #[serde(rename = "option")]
    pub options: Vec<SchoolOption>,
}

#[derive(Deserialize)]
struct Schools {
    school: Vec<School>,
}

static SCHOOLS: LazyLock<Vec<School>> = LazyLock::new(|| {
    // the file is the crate's own, and a test opens it
    toml::from_str::<Schools>(FILE.1).map_or_else(|e| unreachable!("the shipped schools are readable (tested): {e}"), |s| s.school)
});

/// All schools.
pub fn schools() -> &'static [School] {
    &SCHOOLS
}

/// An answer that differs from the default.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Chosen {
    /// Key of the answer.
    pub answer: String,
    /// Why.
    pub reason: String,
}

/// What a project lays down for all its tests.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Specification {
    /// Answers of the schools, by key.
    pub schools: BTreeMap<String, Chosen>,
    /// Answers to the questions of the bases, by basis and question.
    pub bases: BTreeMap<String, BTreeMap<String, Chosen>>,
    /// Values of the library.
    pub library: Vec<Override>,
}

/// Why a specification cannot stand.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum SpecificationError {
    /// No such school.
    #[error("there is no school \"{asked}\": the schools are {known}")]
    UnknownSchool {
        /// what was answered
        asked: String,
        /// what there is
        known: String,
    },
    /// No such answer.
    #[error("\"{asked}\" is no answer to \"{question}\": use one of {known}")]
    UnknownAnswer {
        /// the question
        question: String,
        /// the answer
        asked: String,
        /// the answers
        known: String,
    },
    /// No reason.
    #[error("\"{question}\": the answer differs from the default and has no reason: say why")]
    NoReason {
        /// the question
        question: String,
    },
    /// No such basis or question.
    #[error("{0}")]
    Basis(#[from] crate::basis::BasisError),
    /// A value of the library.
    #[error(transparent)]
    Table(#[from] TableError),
}

/// Something of the specification that differs from the default, and the figures that it touches.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Touched {
    /// What the project says, in a sentence.
    pub sentence: String,
    /// Why.
    pub reason: String,
    /// Names of the figures.
    pub figures: Vec<String>,
}

impl Specification {
    /// True where nothing differs from the defaults.
    pub fn is_default(&self) -> bool {
        *self == Self::default()
    }

    /// Checks that every answer exists and has a reason.
    ///
    /// # Errors
    /// Names the school, the answer or the table's place, and what would be accepted.
    pub fn check(&self, bases: &Bases) -> Result<(), SpecificationError> {
        for (key, chosen) in &self.schools {
            let school = schools().iter().find(|s| s.key == *key).ok_or_else(|| SpecificationError::UnknownSchool {
                asked: key.clone(),
                known: schools().iter().map(|s| s.key.as_str()).collect::<Vec<_>>().join(", "),
            })?;
            let known: Vec<&str> = school.options.iter().map(|o| o.key.as_str()).collect();
            reasoned(&school.question, &known, chosen)?;
        }
        for (id, answers) in &self.bases {
            let entry = bases.plain(id)?;
            let asked: BTreeMap<String, String> = answers.iter().map(|(k, c)| (k.clone(), c.answer.clone())).collect();
            bases.resolved(id, &asked)?;
            for choice in &entry.choices {
                let known: Vec<&str> = choice.options.iter().map(|o| o.key.as_str()).collect();
                if let Some(chosen) = answers.get(&choice.key) {
                    reasoned(&choice.question, &known, chosen)?;
                }
            }
        }
        self.library().map(|_| ()).map_err(SpecificationError::from)
    }

    /// The library as the project has it.
    ///
    /// # Errors
    /// When a value has no place, no reason or is no figure.
    pub fn library(&self) -> Result<Arc<Library>, TableError> {
        let shipped = crate::library::shipped();
        if self.library.is_empty() { Ok(Arc::clone(shipped)) } else { shipped.with(&self.library).map(Arc::new) }
    }

    /// The answer that counts for a school: the project's, or the default.
    pub fn answer(&self, key: &str) -> &'static SchoolOption {
        let school = schools().iter().find(|s| s.key == key).unwrap_or_else(|| unreachable!("{key} is a school of the file (tested)"));
        let chosen = self.schools.get(key).and_then(|c| school.options.iter().find(|o| o.key == c.answer));
        chosen.or(school.options.first()).unwrap_or_else(|| unreachable!("every school has answers (tested)"))
    }

    /// Who says so: "default of this tool, common practice", or "the project's specification: reason".
    pub fn source(&self, key: &str) -> String {
        match self.schools.get(key) {
            Some(chosen) => format!("the project's specification: {}", chosen.reason),
            None => "default, common practice".to_owned(),
        }
    }

    /// A basis with the project's answers where the test itself answers nothing.
    pub fn applied(&self, basis: &Basis) -> Basis {
        let mut basis = basis.clone();
        let under = basis.on_top_of.clone().unwrap_or_else(|| basis.id.clone());
        for (key, chosen) in self.bases.get(&under).into_iter().flatten() {
            basis.choices.entry(key.clone()).or_insert_with(|| chosen.answer.clone());
        }
        if let Some(minutes) = self.answer("hold").minutes {
            let owners = quantity::Span::from_minutes(minutes);
            basis.agreed_hold_s = Some(basis.agreed_hold_s.map_or(owners, |own| own.max(owners)));
        }
        basis
    }

    /// Everything that differs from the defaults and counts for a basis and these materials.
    pub fn touched(&self, basis: &Basis, materials: &[&str]) -> Vec<Touched> {
        let by_school = schools().iter().filter_map(|s| {
            let chosen = self.schools.get(&s.key)?;
            Some(Touched {
                sentence: format!("{} {}", s.question, self.answer(&s.key).words),
                reason: chosen.reason.clone(),
                figures: s.touches.clone(),
            })
        });
        let under = basis.on_top_of.as_deref().unwrap_or(&basis.id);
        let by_basis = self.bases.get(under).into_iter().flatten().filter_map(|(key, chosen)| {
            let entry = crate::basis::book::shipped().plain(under).ok()?;
            let choice = entry.choices.iter().find(|c| c.key == *key)?;
            let words = &choice.options.iter().find(|o| o.key == chosen.answer)?.words;
            Some(Touched {
                sentence: format!("{} {words}", choice.question),
                reason: chosen.reason.clone(),
                figures: vec!["required".to_owned(), "lower".to_owned(), "hold".to_owned()],
            })
        });
        let by_library = self.library.iter().filter(|o| o.table != "materials" || materials.contains(&o.row.as_str())).map(|o| Touched {
            sentence: format!(
                "{} of {} in the {} table is {}",
                o.column,
                o.row,
                o.table,
                if o.value.is_empty() { "not known" } else { &o.value }
            ),
            reason: format!("{} ({})", o.reason, o.source),
            figures: vec!["required".to_owned(), "upper".to_owned()],
        });
        by_school.chain(by_basis).chain(by_library).collect()
    }
}

fn reasoned(question: &str, known: &[&str], chosen: &Chosen) -> Result<(), SpecificationError> {
    if !known.contains(&chosen.answer.as_str()) {
        return Err(SpecificationError::UnknownAnswer {
            question: question.to_owned(),
            asked: chosen.answer.clone(),
            known: known.join(", "),
        });
    }
    let differs = known.first() != Some(&chosen.answer.as_str());
    if differs && chosen.reason.trim().is_empty() {
        return Err(SpecificationError::NoReason { question: question.to_owned() });
    }
    Ok(())
}
