//! Test bases: what the adopted rule asks for. The book of bases stands in `data/bases`, one file a code family; here it is applied.

mod apply;
pub mod book;
pub mod bound;
pub mod entry;
mod error;
pub mod info;
pub mod line;
pub mod page;
mod ratio;
mod vessel;

use crate::accept::OwnersFall;
use crate::derivation::Derivation;
use crate::library::Library;
use crate::part::Part;
use crate::rule::{Rule, Standing};
use apply::Apply;
use bound::{Base, Bound};
use entry::{Asked, Entry, MostAt, Pressures};
use quantity::{GaugePressure, PressureUnit, Span, Temperature};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::ops::Deref;
use std::sync::Arc;
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};

pub use error::BasisError;

/// Rules of how a basis is applied.
pub const RULES: &[&Rule] = &[&MISSING, &MEDIUM, &OVER_TEST, &SENSE, &line::RULE, &ratio::RULE];

/// What a basis multiplies must be given.
pub const MISSING: Rule = Rule {
    id: "BASIS-MISSING",
    sentence: "What a basis multiplies must be given: an empty field is never nil and never allowed.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "hold_owner_basis_missing_an_empty_cell_asks_for_the_owners_figure",
};

/// A medium that the basis does not allow.
pub const MEDIUM: Rule = Rule {
    id: "BASIS-MEDIUM",
    sentence: "A test is made with the medium that its basis has a rule for; where it has none, or forbids it, nothing is derived.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "basis_medium_gas_is_refused_where_it_is_forbidden",
};

/// A test far above what is asked.
pub const OVER_TEST: Rule = Rule {
    id: "BASIS-OVER-TEST",
    sentence: "A test more than 5 % above what the basis asks needs a reason: furnaces and flues see it as external pressure.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "basis_over_test_more_than_five_per_cent_above_needs_a_reason",
};

/// A figure that cannot be.
pub const SENSE: Rule = Rule {
    id: "BASIS-SENSE",
    sentence: "A figure that cannot be, or an answer that the basis does not know, is refused.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "liquid_flash_point_system_entered_basis_sense_each_refusal_names_part_field_and_what_would_do",
};

/// What the system is filled with for the test.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[derive(VariantArray, EnumMessage, EnumProperty, EnumString, IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub enum Medium {
    /// water or another liquid
    #[default]
    #[strum(message = "water")]
    Liquid,
    /// nitrogen
    #[strum(message = "nitrogen")]
    Nitrogen,
    /// dry air
    #[strum(message = "dry air")]
    Air,
}

impl Medium {
    /// The gas, where it is one.
    pub const fn gas(self) -> Option<physics::gas::Gas> {
        match self {
            Self::Liquid => None,
            Self::Nitrogen => Some(physics::gas::Gas::Nitrogen),
            Self::Air => Some(physics::gas::Gas::Air),
        }
    }
}

/// The basis of a test with what it multiplies. What is not asked by the basis may be absent.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Basis {
    /// Id in the book of bases.
    pub id: String,
    /// What the system is filled with.
    #[serde(default)]
    pub medium: Medium,
    /// Internal design pressure, Pa gauge.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub design_pressure_pa: Option<GaugePressure>,
    /// Design temperature, °C.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub design_temperature_c: Option<Temperature>,
    /// Working or operating pressure, Pa gauge; of a main at its lowest point.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub working_pressure_pa: Option<GaugePressure>,
    /// Working pressure of a main at its highest point, Pa gauge.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub working_high_pa: Option<GaugePressure>,
    /// Maximum allowable (working) pressure, Pa gauge.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub allowable_pressure_pa: Option<GaugePressure>,
    /// Pressure on the plate, Pa gauge.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub plate_pressure_pa: Option<GaugePressure>,
    /// External differential pressure, Pa.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub external_difference_pa: Option<GaugePressure>,
    /// Figure that the owner, the inspector or the authority agrees to, Pa gauge.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub agreed_pressure_pa: Option<GaugePressure>,
    /// Least hold that the owner asks where the basis names none, s.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub agreed_hold_s: Option<Span>,
    /// Fall that the owner allows besides what the basis asks; the hold is at least as long.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub owners_fall: Option<OwnersFall>,
    /// Material of the bolting, where a ratio of stresses is taken over a vessel with bolted joints.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub bolting: Option<String>,
    /// Why the test is more than 5 % above what the basis asks.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub over_test_reason: Option<String>,
    /// The code on top of which an owner's standard stands.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub on_top_of: Option<String>,
    /// Answers to the questions of the basis, by key.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub choices: BTreeMap<String, String>,
}

/// A pressure with its derivation.
#[derive(Debug, Clone, PartialEq)]
pub struct Figure {
    /// The pressure.
    pub pressure: GaugePressure,
    /// Why.
    pub why: Derivation,
}

/// What limits of parts are held against: known as soon as the basis is, whatever else is missing.
#[derive(Debug, Clone, PartialEq)]
pub struct Ground {
    /// The entry with its choices made.
    pub entry: Entry,
    /// Each answer in words.
    pub answers: Vec<book::Answer>,
    /// True for a gas test.
    pub gas: bool,
    /// The library that its values come from.
    pub library: Arc<Library>,
    /// Unit that the system is worked in; a standard's own rounding follows it.
    pub worked_in: PressureUnit,
    /// The warmest that a plastic wall is taken to be.
    pub warmest: Temperature,
}

impl Ground {
    /// Share of yield that a wall may reach with the medium of this test.
    pub const fn yield_share(&self) -> f64 {
        if self.gas { self.entry.walls.gas_share } else { self.entry.walls.share }
    }

    /// True where a vessel is a guest in a test of piping: its own figure counts, not the yield of its shell.
    pub const fn of_piping(&self) -> bool {
        use entry::Duty as D;
        !matches!(self.entry.duty, D::Vessel | D::Boiler)
    }

    /// Pressures of the entry with the medium of this test.
    pub const fn pressures(&self) -> Option<&Pressures> {
        if self.gas { self.entry.gas.as_ref() } else { self.entry.liquid.as_ref() }
    }
}

/// What is asked of one line.
#[derive(Debug, Clone, PartialEq)]
pub struct LineDemand {
    /// Design pressure that it is tested for, where the basis multiplies one.
    pub design: Option<GaugePressure>,
    /// Least pressure.
    pub least: Figure,
    /// Greatest pressure by the code, where it has one.
    pub most: Option<Figure>,
    /// Pressure of the look.
    pub look: Figure,
}

/// What a basis asks of a system.
#[derive(Debug, Clone, PartialEq)]
pub struct Demand {
    /// What limits are held against.
    pub ground: Ground,
    /// Least pressure of the line that asks the most, where the basis applies it.
    pub least: Figure,
    /// Least pressure at the highest point, where the basis has one.
    pub highest: Option<Figure>,
    /// Greatest pressure by the code itself, where it has one, of that line.
    pub most: Option<Figure>,
    /// Pressure of the look of that line.
    pub look: Figure,
    /// The least hold.
    pub hold_floor: Span,
    /// Least pressure at parts other than the vessels, where piping and vessel are tested together at the vessel's test pressure.
    pub elsewhere: Option<GaugePressure>,
    /// Each line.
    pub lines: Vec<LineDemand>,
    /// Place of each part's line.
    pub line_of: Vec<usize>,
}

impl Deref for Demand {
    type Target = Ground;
    fn deref(&self) -> &Ground {
        &self.ground
    }
}

impl Demand {
    /// The line of a part, by its place in the system.
    pub fn line(&self, part: usize) -> Option<&LineDemand> {
        self.lines.get(*self.line_of.get(part)?)
    }

    /// The code's own limit of a part, where it holds there.
    pub fn code_limit(&self, part: usize, is_highest: bool) -> Option<&Figure> {
        let at = self.pressures().map_or(MostAt::EveryPart, |p| p.most_at);
        (at == MostAt::EveryPart || is_highest).then(|| self.line(part).map_or(self.most.as_ref(), |l| l.most.as_ref()))?
    }
}

/// What a basis is applied under, beside the basis itself.
#[derive(Debug, Clone, Copy, Default)]
pub struct Under {
    /// Unit that the system is worked in.
    pub worked_in: PressureUnit,
    /// The warmest that a plastic wall is taken to be; 20 °C where nothing says it.
    pub warmest: Option<Temperature>,
}

impl Basis {
    /// A basis of which only the id is known.
    pub fn new(id: &str) -> Self {
        Self { id: id.to_owned(), ..Self::default() }
    }

    /// The pressure that goes by a name, as entered.
    pub const fn given(&self, base: Base) -> Option<GaugePressure> {
        match base {
            Base::Design => self.design_pressure_pa,
            Base::Working => self.working_pressure_pa,
            Base::WorkingHigh => self.working_high_pa,
            Base::Allowable => self.allowable_pressure_pa,
            Base::Plate => self.plate_pressure_pa,
            Base::External => self.external_difference_pa,
            Base::Agreed => self.agreed_pressure_pa,
            Base::Test | Base::Code => None,
        }
    }

    /// Its entry in the book with the choices made; of an owner's standard, that of the code beneath it.
    ///
    /// # Errors
    /// When the basis, a question or an answer is not known.
    pub fn entry(&self, bases: &book::Bases) -> Result<(Entry, Vec<book::Answer>), BasisError> {
        let on_top = bases.plain(&self.id)?.on_top;
        if !on_top {
            return bases.resolved(&self.id, &self.choices);
        }
        let own = bases.plain(&self.id)?;
        let beneath = self.on_top_of.as_deref().ok_or_else(|| BasisError::Missing {
            field: "on_top_of",
            what: "the code whose floor holds".to_owned(),
            basis: own.name.clone(),
        })?;
        if bases.plain(beneath)?.on_top {
            return Err(BasisError::OnTopOfItself);
        }
        let (mut entry, answers) = bases.resolved(beneath, &self.choices)?;
        entry.name = format!("{}: {}", own.name, entry.name);
        if !entry.asks.contains(&Asked::AgreedPressure) {
            entry.asks.push(Asked::AgreedPressure);
        }
        if let (Some(liquid), Some(mine)) = (&mut entry.liquid, &own.liquid) {
            liquid.rule = mine.rule.clone();
        }
        Ok((entry, answers))
    }

    /// Name of the basis, as a heading and a report print it.
    pub fn name(&self) -> String {
        self.entry(book::shipped()).map_or_else(|_| self.id.clone(), |(e, _)| e.name)
    }

    /// The least hold that the basis and the owner allow; nil where neither names one.
    pub fn hold_floor(&self) -> Span {
        self.entry(book::shipped()).map_or(Span::from_s(0.0), |(e, _)| self.hold_of(&e).unwrap_or(Span::from_s(0.0)))
    }

    fn hold_of(&self, entry: &Entry) -> Option<Span> {
        [entry.hold_floor(self.medium.gas().is_some()), self.agreed_hold_s, self.owners_fall.map(|f| f.within_s)]
            .into_iter()
            .flatten()
            .reduce(Span::max)
    }

    /// Pressure that a schedule of the raise refers to: what the basis multiplies.
    pub fn base_pressure(&self) -> GaugePressure {
        [Base::Design, Base::Allowable, Base::Working, Base::Agreed, Base::External]
            .into_iter()
            .find_map(|b| self.given(b))
            .unwrap_or(GaugePressure::from_pa(0.0))
    }

    /// Checks the fall that the owner allows, where one is given.
    ///
    /// # Errors
    /// When it cannot be.
    pub fn check_owners_fall(&self) -> Result<(), BasisError> {
        match self.owners_fall.filter(|f| !f.can_be()) {
            Some(fall) => Err(BasisError::OwnersFall { percent: 100.0 * fall.share, minutes: fall.within_s.minutes() }),
            None => Ok(()),
        }
    }

    /// Everything that is wrong with what was entered for it.
    fn objections(&self, entry: &Entry, parts: &[Part]) -> Vec<BasisError> {
        let mut all = Vec::new();
        for base in Base::ALL {
            if let Some(p) = self.given(base).filter(|p| !(p.pa() > 0.0 && p.is_finite())) {
                all.push(BasisError::NotPositive { field: field_of(base), what: base.words().to_owned(), value: p });
            }
        }
        if let Some(hold) = self.agreed_hold_s.filter(|h| !(h.s() > 0.0 && h.is_finite())) {
            all.push(BasisError::NotPositiveHold { minutes: hold.minutes() });
        }
        all.extend(self.check_owners_fall().err());
        if let (Some(most), Some(given)) = (&entry.allowable_most, self.allowable_pressure_pa)
            && above(given, most.pressure)
        {
            let rule = entry.liquid.as_ref().map_or_else(|| entry.id.clone(), |l| l.rule.id.clone());
            let (field, basis) = ("allowable_pressure_pa", entry.name.clone());
            all.push(BasisError::TooHigh { field, rule, basis, most: most.pressure, given });
        }
        if let (Some(_), Some(plate), Some(working)) = (entry.used, self.plate_pressure_pa, self.working_pressure_pa)
            && above(working, plate)
        {
            all.push(BasisError::AbovePlate { working, plate });
        }
        all.extend(self.outside_service(entry, parts));
        all.extend(self.no_place_for_design(entry, parts));
        all.extend(line::objections(self, parts));
        all
    }

    /// What lies outside the service that the entry holds for.
    fn outside_service(&self, entry: &Entry, parts: &[Part]) -> Vec<BasisError> {
        let Some(s) = &entry.service else { return vec![] };
        let (rule, basis) = (s.rule.id.clone(), entry.name.clone());
        let Some(design) = line::highest_pressure(self, parts) else { return vec![self.missing_of(entry, Base::Design)] };
        let coldest =
            parts.iter().filter_map(|p| p.design_temperature_c).chain(self.design_temperature_c).reduce(|a, b| if b < a { b } else { a });
        let Some(coldest) = coldest else { return vec![BasisError::NoDesignTemperature] };
        let hottest = line::highest_temperature(self, parts).unwrap_or(coldest);
        let mut all = Vec::new();
        if above(design, s.most.pressure) {
            let field = "design_pressure_pa";
            all.push(BasisError::TooHigh { field, rule: rule.clone(), basis: basis.clone(), most: s.most.pressure, given: design });
        }
        for given in [coldest, hottest] {
            if !(s.least_c..=s.most_c).contains(&given.c()) {
                let (rule, basis) = (rule.clone(), basis.clone());
                all.push(BasisError::TemperatureOutside { rule, basis, least_c: s.least_c, most_c: s.most_c, given });
                break;
            }
        }
        all
    }

    /// Design pressures of parts where the basis multiplies another pressure.
    fn no_place_for_design(&self, entry: &Entry, parts: &[Part]) -> Vec<BasisError> {
        if line::multiplies_design(entry) {
            return vec![];
        }
        let multiplies = || {
            let bounds = entry.liquid.iter().chain(&entry.gas).flat_map(|p| [&p.least, &p.floor]).flatten();
            bounds.flat_map(Bound::bases).next().map_or("agreed pressure", Base::words).to_owned()
        };
        let stray = parts.iter().filter(|p| p.design_pressure_pa.is_some());
        stray.map(|p| BasisError::NotDesign { tag: p.tag.clone(), basis: entry.name.clone(), multiplies: multiplies() }).collect()
    }

    /// What limits of parts are held against.
    ///
    /// # Errors
    /// When the basis, a question or an answer is not known.
    pub fn ground(&self, bases: &book::Bases, library: &Arc<Library>, under: Under) -> Result<Ground, BasisError> {
        let (entry, answers) = self.entry(bases)?;
        let gas = self.medium.gas().is_some();
        let warmest = under.warmest.unwrap_or(Temperature::from_c(20.0));
        Ok(Ground { entry, answers, gas, library: Arc::clone(library), worked_in: under.worked_in, warmest })
    }

    /// Everything that keeps the basis from being applied to these parts.
    pub fn refusals(&self, ground: &Ground, parts: &[Part]) -> Vec<BasisError> {
        let mut all = self.objections(&ground.entry, parts);
        if all.is_empty() {
            all.extend(self.applied(ground.clone(), parts).err().unwrap_or_default());
        }
        all
    }

    /// What the basis asks of these parts, under the defaults.
    ///
    /// # Errors
    /// Names what is missing, wrong or refused, and what would be accepted.
    pub fn demand(&self, bases: &book::Bases, parts: &[Part], library: &Arc<Library>) -> Result<Demand, BasisError> {
        self.demand_under(bases, parts, library, Under::default())
    }

    /// What the basis asks of these parts.
    ///
    /// # Errors
    /// Names what is missing, wrong or refused, and what would be accepted.
    pub fn demand_under(&self, bases: &book::Bases, parts: &[Part], library: &Arc<Library>, under: Under) -> Result<Demand, BasisError> {
        let ground = self.ground(bases, library, under)?;
        match self.objections(&ground.entry, parts).into_iter().next() {
            Some(first) => Err(first),
            None => self.applied(ground, parts).map_err(|mut all| all.swap_remove(0)),
        }
    }

    /// The demand, or everything that keeps it from being known; never empty.
    fn applied(&self, ground: Ground, parts: &[Part]) -> Result<Demand, Vec<BasisError>> {
        let one = |e: BasisError| vec![e];
        let entry = &ground.entry;
        let gas = ground.gas;
        let mut wrong: Vec<BasisError> = Vec::new();
        let hold_floor = self.hold_of(entry);
        if hold_floor.is_none() {
            wrong.push(BasisError::Missing {
                field: "agreed_hold_s",
                what: "the hold: no rule for its length is known to this tool, so the owner's figure counts".to_owned(),
                basis: entry.name.clone(),
            });
        }
        let pressures = match self.pressures(entry, gas) {
            Ok(p) => p,
            Err(e) => {
                wrong.insert(0, e);
                return Err(wrong);
            }
        };
        let lines = line::lines(self, parts);
        let mut asked = Vec::with_capacity(lines.bases.len());
        for (k, basis) in lines.bases.iter().enumerate() {
            let own: Vec<&Part> = parts.iter().zip(&lines.of).filter(|(_, of)| **of == k).map(|(p, _)| p).collect();
            let by_ratio = pressures.least.as_ref().or(pressures.floor.as_ref()).is_some_and(Bound::has_ratio);
            let missing =
                if by_ratio && entry.ratio != entry::RatioOf::None { ratio::missing(basis, entry, &own, &ground.library) } else { vec![] };
            if !missing.is_empty() {
                wrong.extend(missing);
                continue;
            }
            let apply = Apply { basis, entry, parts: own, library: &ground.library };
            match apply.line(pressures, gas) {
                Ok(line) => asked.push(line),
                Err(e) => wrong.push(e),
            }
        }
        wrong.dedup();
        let (Some(hold_floor), true) = (hold_floor, wrong.is_empty()) else { return Err(wrong) };
        let governing = (0..asked.len()).reduce(|a, b| if asked[b].least.pressure > asked[a].least.pressure { b } else { a });
        let Some(LineDemand { least, most, look, .. }) = governing.map(|g| asked[g].clone()) else {
            return Err(one(self.missing_of(entry, Base::Design)));
        };
        let together = if gas { None } else { vessel::together(entry, parts, &least).map_err(one)? };
        let apply = Apply { basis: self, entry, parts: parts.iter().collect(), library: &ground.library };
        let highest =
            pressures.least_highest.as_ref().map(|b| apply.figure("least pressure at the highest point", &pressures.rule, b, None));
        let highest = highest.transpose().map_err(one)?;
        let (least, look, elsewhere) = match together {
            Some(t) => {
                let look = apply.look(pressures, t.least.pressure, gas).map_err(one)?;
                (t.least, look, Some(t.elsewhere))
            }
            None => (least, look, None),
        };
        Ok(Demand { least, highest, most, look, hold_floor, elsewhere, lines: asked, line_of: lines.of, ground })
    }

    fn missing_of(&self, entry: &Entry, base: Base) -> BasisError {
        let what = if base == Base::Agreed {
            "the agreed test pressure: no rule for it is known to this tool, so the owner's figure counts".to_owned()
        } else {
            base.words().to_owned()
        };
        BasisError::Missing { field: field_of(base), what, basis: entry.name.clone() }
    }

    fn pressures<'a>(&self, entry: &'a Entry, gas: bool) -> Result<&'a Pressures, BasisError> {
        let refused = |sentence: String| BasisError::Medium { rule: MEDIUM.id.to_owned(), sentence };
        if gas {
            if let Some(sentence) = entry.no_gas() {
                return Err(refused(sentence.to_owned()));
            }
            return entry.gas.as_ref().ok_or_else(|| {
                refused(format!("This tool knows no rule for a gas test by {}: fill it with liquid, or take another basis.", entry.name))
            });
        }
        if let Some(sentence) = &entry.gas_only {
            return Err(refused(sentence.clone()));
        }
        entry.liquid.as_ref().ok_or_else(|| refused(format!("This tool knows no rule for a liquid test by {}.", entry.name)))
    }
}

/// Name of the field of a pressure.
pub const fn field_of(base: Base) -> &'static str {
    match base {
        Base::Design => "design_pressure_pa",
        Base::Working => "working_pressure_pa",
        Base::WorkingHigh => "working_high_pa",
        Base::Allowable => "allowable_pressure_pa",
        Base::Plate => "plate_pressure_pa",
        Base::External => "external_difference_pa",
        Base::Agreed | Base::Test | Base::Code => "agreed_pressure_pa",
    }
}

/// True for a pressure that is above another by more than the arithmetic rounds.
pub(crate) fn above(p: GaugePressure, other: GaugePressure) -> bool {
    p.pa() > other.pa() * (1.0 + 1e-9)
}
