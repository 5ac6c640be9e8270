//! A system looked at as a whole: joined as it stands in each phase, filled, put under pressure, drained.

use crate::draining::{Draining, draining};
use crate::filling::{Filling, filling};
use crate::joined::{Joined, joined_in, with_points};
use crate::lineup::way;
use crate::network::Flaw;
use crate::pockets::{AirPocket, pockets};
use crate::pressure;
use quantity::{GaugePressure, Length, PressureDifference, STANDARD_GRAVITY};
use rules::basis::book;
use rules::basis::entry::Duty;
use rules::part::{Part, PartKind, Phase, Position};
use rules::say::Say;
use rules::system::{Derived, System};
use std::borrow::Cow;
use std::cell::OnceCell;
use std::collections::{HashMap, HashSet};
use std::rc::Rc;

/// Tags of what was signed on the register, each by what it was signed as: another signature does not count.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Signed {
    /// Valves that are shut, tagged and watched.
    pub shut: HashSet<String>,
    /// Joints that may stay covered.
    pub exempt: HashSet<String>,
}

/// What is looked at.
#[derive(Debug, Clone, Copy)]
pub struct Facts<'a> {
    /// The system as entered; sentences are said in its units.
    pub system: &'a System,
    /// What follows from it, where something does.
    pub derived: Option<&'a Derived>,
    /// What somebody signed on the register of the boundary, and stands.
    pub signed: &'a Signed,
    /// True for a single body whose owner tests it alone: its openings are asked for elsewhere.
    pub simple: bool,
}

/// A system that was looked at.
pub struct Survey<'a> {
    /// What was looked at.
    pub facts: Facts<'a>,
    /// Its parts, each with the points that it joins.
    pub parts: Cow<'a, [Part]>,
    /// Joined as it stands while it is filled.
    pub fill: Rc<Joined>,
    /// Joined as it stands under pressure.
    pub test: Rc<Joined>,
    /// Joined as it stands while it is drained.
    pub drain: Rc<Joined>,
    /// Where water comes in.
    pub fills: Vec<usize>,
    /// True where somebody named that place.
    pub fill_named: bool,
    /// Vents that are open while it is filled.
    pub vents: Vec<usize>,
    /// Drains that are open while it is drained.
    pub drains: Vec<usize>,
    /// What becomes of it when it is filled.
    pub filling: Filling,
    /// What becomes of it when it is drained.
    pub draining: Draining,
    /// Where the pressure comes from.
    pub sources: Vec<usize>,
    /// Points that see the pressure.
    pub pressed: Vec<bool>,
    /// Points that rise and fall with where the pressure comes from.
    pub one: Vec<bool>,
    /// What each part bears at its height, where a window follows.
    pub limits: HashMap<&'a str, GaugePressure>,
    /// Parts at each point.
    pub at: Vec<Vec<usize>>,
    /// Part that stands for each run of the joined system as it is filled.
    pub of_run: Vec<Option<usize>>,
    /// True at the ends of a riser that nobody measured.
    pub unmeasured: Vec<bool>,
    /// Air that stays: told once, for each cure that is looked for costs a filling.
    pockets: OnceCell<Vec<AirPocket>>,
}

/// Lowest of some points; the first of several.
fn lowest(joined: &Joined, of: impl Iterator<Item = usize>) -> Option<usize> {
    of.min_by(|a, b| joined.network.points[*a].m().total_cmp(&joined.network.points[*b].m()))
}

impl<'a> Survey<'a> {
    /// Looks at a system. Without a fill it is filled from its lowest point; without a pump the pressure comes from where it is filled.
    ///
    /// # Errors
    /// Where a figure of the list is none.
    pub fn of(facts: Facts<'a>) -> Result<Self, Flaw> {
        let parts = with_points(&facts.system.parts, &facts.system.joints);
        let fill = Rc::new(joined_in(&parts, Phase::Fill));
        // where nothing stands otherwise it is joined as before
        let in_phase = |phase, before: &Rc<Joined>, was| {
            let same = parts.iter().all(|p| way(p, phase) == way(p, was));
            if same { Rc::clone(before) } else { Rc::new(joined_in(&parts, phase)) }
        };
        let test = in_phase(Phase::Test, &fill, Phase::Fill);
        let mut drain = in_phase(Phase::Drain, &test, Phase::Test);
        let named = fill.open_points_of(&parts, PartKind::Fill, Phase::Fill);
        let fill_named = !named.is_empty();
        let tested = |i: &usize| !parts[*i].beyond();
        let places = parts.iter().enumerate().filter(|(i, _)| tested(i)).filter_map(|(i, _)| fill.places[i]).flat_map(|p| [p.from, p.to]);
        let fills = if fill_named { named } else { lowest(&fill, places).into_iter().collect() };
        let vents = fill.open_points_of(&parts, PartKind::Vent, Phase::Fill);
        let mut drains = drain.open_points_of(&parts, PartKind::Drain, Phase::Drain);
        if drains.is_empty() {
            // what fills it lets it off
            drains = fills.iter().copied().filter(|_| fill_named).collect();
        }
        let filling = filling(&fill.network, &fills, &vents)?;
        // what no water came to has none to let off
        let mut dry = vec![false; fill.network.runs.len()];
        filling.not_reached.iter().for_each(|r| dry[*r] = true);
        for i in 0..parts.len() {
            if let (Some(before), Some(now)) = (fill.places[i].and_then(|p| p.run), drain.places[i].and_then(|p| p.run))
                && dry[before]
            {
                Rc::make_mut(&mut drain).network.runs[now].volume = quantity::Volume::from_m3(0.0);
            }
        }
        let air: Vec<usize> = drain.open_points_of(&parts, PartKind::Vent, Phase::Drain);
        let draining = draining(&drain.network, &drains, &air)?;
        let pumps = test.open_points_of(&parts, PartKind::PumpPoint, Phase::Test);
        let gauges = test.open_points_of(&parts, PartKind::GaugePoint, Phase::Test);
        let sources = [pumps, if fill_named { fills.clone() } else { vec![] }, gauges, fills.clone()]
            .into_iter()
            .find(|s| !s.is_empty())
            .unwrap_or_default();
        let (pressed, one) = (pressure::reached(&test.network, &sources), pressure::one_with(&test.network, &sources));
        let mut at = vec![Vec::new(); test.network.points.len()];
        for (i, place) in test.places.iter().enumerate() {
            for p in place.iter().flat_map(|p| [p.from, p.to]) {
                if at[p].last() != Some(&i) {
                    at[p].push(i);
                }
            }
        }
        let mut of_run = vec![None; fill.network.runs.len()];
        for (i, place) in fill.places.iter().enumerate() {
            if let Some(run) = place.and_then(|p| p.run) {
                of_run[run] = Some(i);
            }
        }
        let limits = facts.derived.map(|d| d.parts.iter().map(|w| (w.tag.as_str(), w.limit_pa)).collect()).unwrap_or_default();
        let mut unmeasured = vec![false; test.network.points.len()];
        fill.not_measured().into_iter().for_each(|p| unmeasured[p] = true);
        Ok(Self {
            facts,
            parts,
            fill,
            test,
            drain,
            fills,
            fill_named,
            vents,
            drains,
            filling,
            draining,
            sources,
            pressed,
            one,
            limits,
            at,
            of_run,
            unmeasured,
            pockets: OnceCell::new(),
        })
    }

    /// The pockets that are left, the largest first.
    pub fn pockets(&self) -> &[AirPocket] {
        self.pockets.get_or_init(|| pockets(self))
    }

    /// How figures are said to the person who asks.
    pub fn say(&self) -> Say {
        self.facts.system.say()
    }

    /// True for a gas test.
    pub fn gas(&self) -> bool {
        self.facts.system.basis.medium.gas().is_some()
    }

    /// What the basis is for; none where it is not known.
    pub fn duty(&self) -> Option<Duty> {
        self.facts.system.basis.entry(book::shipped()).ok().map(|e| e.0.duty)
    }

    /// Height of a point.
    pub fn height(&self, point: usize) -> Length {
        self.test.network.points[point]
    }

    /// Where a point is, as a person would say it: by its name, or by the parts that meet there.
    pub fn place(&self, point: usize) -> String {
        if let Some(name) = self.test.names.get(point).filter(|n| !n.is_empty() && !n.starts_with("joint ")) {
            return name.clone();
        }
        let tag = |i: &usize| self.parts[*i].tag.as_str();
        let mut runs = self.at.get(point).into_iter().flatten().filter(|i| self.test.places[**i].is_some_and(|p| p.run.is_some()));
        match (runs.next(), runs.next()) {
            (Some(a), Some(b)) => format!("between {} and {}", tag(a), tag(b)),
            (Some(a), None) => format!("the end of {}", tag(a)),
            _ => self.at.get(point).and_then(|all| all.first()).map_or_else(|| "a place without a name".to_owned(), |i| tag(i).to_owned()),
        }
    }

    /// The same with its height.
    pub fn place_at(&self, point: usize) -> String {
        format!("{} (height {})", self.place(point), self.say().height(self.height(point)))
    }

    /// True where the inside of a part sees the pressure, a shut valve or a blind on one side at least.
    pub fn sees(&self, part: usize) -> bool {
        self.test.places[part].is_some_and(|p| self.pressed[p.from] || self.pressed[p.to])
    }

    /// Parts that see the pressure, each with its number.
    pub fn pressed_parts(&self) -> impl Iterator<Item = (usize, &Part)> {
        self.parts.iter().enumerate().filter(|(i, p)| self.sees(*i) && !p.beyond())
    }

    /// What part stands for a run; none for the body of a check valve and for a riser that nobody measured.
    pub fn part_of_run(&self, run: usize) -> Option<usize> {
        self.of_run.get(run).copied().flatten()
    }

    /// The planned test pressure at a height, where one follows.
    pub fn pressure_at(&self, height: Length) -> Option<GaugePressure> {
        let derived = self.facts.derived?;
        let gauge = derived.day.as_ref().map_or(derived.lower_pa, |d| d.planned_pa);
        let head = derived.density_kg_m3.kg_m3() * STANDARD_GRAVITY * (self.facts.system.gauge.elevation_m - height).m();
        Some(gauge + PressureDifference::from_pa(head))
    }

    /// True where a part is said to stand so under pressure.
    pub fn stands(&self, part: &Part, position: Position) -> bool {
        part.positions.test == Some(position)
    }
}
