//! What the quick test knows: objects that a person brings alone, each with its own questions, and what the answers make of a plan. The objects stand in
//! `data/quick.toml`; nothing of them is written down anywhere else.

mod answered;

pub use answered::{Answered, Missing, answered};

use rules::say::Say;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::sync::LazyLock;

/// Which of the five answers a question belongs to.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum AskStep {
    /// which occasion, which pressure
    Pressure,
    /// how big
    Size,
    /// what wall, what was measured
    Wall,
}

/// What is answered.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum AskIs {
    /// one of a few
    Choice,
    /// a gauge pressure with its unit
    Pressure,
    /// a temperature with its unit
    Temperature,
    /// a time, minutes where no unit stands
    Time,
    /// a material of the library, by its id
    Material,
    /// how the seam was looked at, as the grid has it
    Seam,
    /// words, or a figure with its unit as the grid of parts reads it
    Text,
}

/// One of a few answers.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AskOption {
    /// Its key.
    pub key: String,
    /// In the owner's words.
    pub words: String,
    /// What it means for the pressure; empty where nothing follows.
    #[serde(default)]
    pub means: String,
    /// Why the test ends here; empty where it goes on.
    #[serde(default)]
    pub stops: String,
    /// Of the materials that are offered only these, with this answer: a plate of one code goes with the materials of that code. Empty for all of them.
    #[serde(default)]
    pub materials: Vec<String>,
    /// What it writes into the plan, by JSON pointer.
    #[serde(default)]
    pub sets: BTreeMap<String, String>,
}

/// A question to the owner.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Ask {
    /// Its key.
    pub key: String,
    /// Which of the five answers it belongs to.
    pub step: AskStep,
    /// What is answered.
    pub is: AskIs,
    /// The question in the owner's words.
    pub words: String,
    /// Where the answer is found, or how it is measured.
    #[serde(default)]
    pub hint: String,
    /// What somebody might answer, metric.
    #[serde(default)]
    pub like: String,
    /// The same in feet and gallons.
    #[serde(default)]
    pub like_us: String,
    /// What is said where it is not answered; empty where it may be left.
    #[serde(default)]
    pub needed: String,
    /// Answers that are none.
    #[serde(default)]
    pub not: Vec<String>,
    /// What is said to them.
    #[serde(default)]
    pub not_says: String,
    /// Where the answer goes: `plan:` and a JSON pointer, `choice:` and a question of the basis, `part:` with its place and the name of a column.
    #[serde(default)]
    pub into: Vec<String>,
    /// Answers of a choice, the first one taken where nobody answers and nothing starts it otherwise.
    #[serde(default)]
    pub options: Vec<AskOption>,
    /// Materials that such an object is made of.
    #[serde(default)]
    pub materials: Vec<String>,
    /// The option with which it begins; empty for the first.
    #[serde(default)]
    pub starts: String,
}

impl Ask {
    /// The option that an answer takes: the one with its key, or the one with which it begins where nobody answers.
    pub fn chosen(&self, answer: &str) -> Option<&AskOption> {
        let wanted = if answer.is_empty() { self.starts.as_str() } else { answer };
        match wanted {
            "" => self.options.first(),
            key => self.options.iter().find(|o| o.key == key),
        }
    }
}

/// An object of the quick test.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct QuickObject {
    /// Its key.
    pub key: String,
    /// What it is, in the owner's words.
    pub words: String,
    /// What is said beside it.
    pub more: String,
    /// What a sentence calls it.
    pub thing: String,
    /// Water and metal at the test, where nobody says otherwise.
    #[serde(default = "usual")]
    pub at_test: String,
    /// What every plan of such an object has.
    #[schema(value_type = Object)]
    pub plan: serde_json::Value,
    /// Its parts, with the cells that every such object has.
    pub part: Vec<BTreeMap<String, String>>,
    /// Its questions, in the order in which the owner thinks.
    pub ask: Vec<Ask>,
}

fn usual() -> String {
    "15\u{a0}°C".to_owned()
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    object: Vec<QuickObject>,
}

static OBJECTS: LazyLock<Vec<QuickObject>> = LazyLock::new(|| {
    // the file is the crate's own, and a test opens it
    let read = toml::from_str::<File>(include_str!("../../data/quick.toml"));
    read.map(|f| f.object).unwrap_or_else(|e| unreachable!("the objects of the quick test are readable (tested): {e}"))
});

impl QuickObject {
    /// Materials that go with these answers.
    pub fn materials(&self, ask: &Ask, answers: &BTreeMap<String, String>) -> Vec<String> {
        let chosen: Vec<&AskOption> = self.ask.iter().filter_map(|a| a.chosen(answers.get(&a.key).map_or("", |t| t.trim()))).collect();
        let goes = |m: &String| chosen.iter().all(|o| o.materials.is_empty() || o.materials.contains(m));
        ask.materials.iter().filter(|m| goes(m)).cloned().collect()
    }

    /// The object as it is offered to somebody: figures of the books in their units.
    pub fn told(&self, say: Say) -> Self {
        let mut told = self.clone();
        for option in told.ask.iter_mut().flat_map(|a| &mut a.options) {
            option.means = say.published(&option.means);
        }
        told
    }
}

/// Every object of the quick test, in the order in which they are offered.
pub fn objects() -> &'static [QuickObject] {
    &OBJECTS
}

/// An object by its key.
pub fn object(key: &str) -> Option<&'static QuickObject> {
    OBJECTS.iter().find(|o| o.key == key)
}
