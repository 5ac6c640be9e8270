//! How a figure is said in a sentence: in the units of whoever reads it, by the rules of [`quantity::show`]. A sentence that is made before anybody reads
//! it ([`Units::later`]) holds its figures as they are, and [`fill`] says them.

use quantity::show::{self, Figures, Toward};
use quantity::{
    Dimension, GaugePressure, Length, PressureDifference, PressureUnit, Temperature, TemperatureDifference, Units, Volume, VolumeFlow,
};
use serde::{Deserialize, Serialize};

/// Says figures in a person's units.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Say(pub Units);

impl From<PressureUnit> for Say {
    fn from(unit: PressureUnit) -> Self {
        Self(unit.into())
    }
}

/// A figure as a sentence holds it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
enum Figure {
    /// a pressure that no gauge shows, Pa
    Free(f64, Toward),
    /// a pressure as a scale is named, Pa
    Named(f64),
    /// a pressure to which something is derated, Pa
    Derated(f64),
    /// any amount
    Amount(f64, Dimension, Figures, Toward),
    /// a height, m
    Height(f64),
    /// a pressure that is read at a gauge, Pa, with its dial and division, Pa
    AtGauge(f64, Toward, PressureUnit, Option<f64>),
    /// a figure as a code prints it
    Published(String),
}

/// Around a figure that is said later; both are of the range that Unicode leaves to private use, which nobody types.
const OPEN: char = '\u{e000}';
const CLOSE: char = '\u{e001}';

impl Figure {
    fn said(&self, say: Say) -> String {
        match self {
            Self::Free(pa, toward) => show::pressure(*pa, say.unit(), *toward),
            Self::Named(pa) => format!("{}\u{a0}{}", show::significant(pa / say.unit().pa(), 3, Toward::Nearest), say.unit().symbol()),
            Self::Derated(pa) => show::pressure(crate::used::derate_to(GaugePressure::from_pa(*pa), say).pa(), say.unit(), Toward::Nearest),
            Self::Amount(value, dimension, figures, toward) => show::amount(*value, *dimension, &say.0, *figures, *toward),
            Self::Height(m) => {
                let scales = quantity::dimension::scales(Dimension::LengthM, &say.0);
                scales.last().map_or_else(String::new, |s| show::in_scale(*m, s, Figures::Exact, Toward::Nearest))
            }
            Self::AtGauge(pa, toward, dial, division) => {
                shown_at(say, *dial, division.map(PressureDifference::from_pa)).text(GaugePressure::from_pa(*pa), *toward)
            }
            Self::Published(inner) => say.published_figure(inner),
        }
    }
}

/// Says the figures of a sentence that was made in [`Units::later`].
pub fn fill(text: &str, units: Units) -> String {
    let mut out = String::with_capacity(text.len());
    let mut rest = text;
    while let Some((before, after)) = rest.split_once(OPEN) {
        let Some((inner, behind)) = after.split_once(CLOSE) else { break };
        out.push_str(before);
        out.push_str(
            &serde_json::from_str::<Figure>(inner).map_or_else(|_| "a figure that cannot be read".to_owned(), |f| f.said(Say(units))),
        );
        rest = behind;
    }
    out + rest
}

impl Say {
    /// The person's unit of pressures.
    pub const fn unit(self) -> PressureUnit {
        self.0.pressure
    }

    /// Said now, or as it is for whoever reads it later.
    fn figure(self, figure: &Figure) -> String {
        if self.0.is_later() {
            return format!("{OPEN}{}{CLOSE}", serde_json::to_string(figure).unwrap_or_default());
        }
        figure.said(self)
    }

    /// A pressure of a part or a code, to the nearest.
    pub fn p(self, p: GaugePressure) -> String {
        self.figure(&Figure::Free(p.pa(), Toward::Nearest))
    }

    /// Rounded up: what is needed.
    pub fn up(self, p: GaugePressure) -> String {
        self.figure(&Figure::Free(p.pa(), Toward::Up))
    }

    /// Rounded down: what is allowed.
    pub fn down(self, p: GaugePressure) -> String {
        self.figure(&Figure::Free(p.pa(), Toward::Down))
    }

    /// As a scale is named, to three figures.
    pub fn named(self, p: GaugePressure) -> String {
        self.figure(&Figure::Named(p.pa()))
    }

    /// What a pressure that is borne is derated to.
    pub fn derated(self, bears: GaugePressure) -> String {
        self.figure(&Figure::Derated(bears.pa()))
    }

    /// A difference.
    pub fn change(self, p: PressureDifference) -> String {
        self.figure(&Figure::Free(p.pa(), Toward::Nearest))
    }

    fn said(self, value: f64, dimension: Dimension, toward: Toward) -> String {
        self.figure(&Figure::Amount(value, dimension, Figures::Said, toward))
    }

    /// Any amount, to the nearest.
    pub fn amount(self, value: f64, dimension: Dimension) -> String {
        self.said(value, dimension, Toward::Nearest)
    }

    /// A length or a size, to the digits in which it was given.
    pub fn length(self, l: Length) -> String {
        self.figure(&Figure::Amount(l.m(), Dimension::LengthM, Figures::Exact, Toward::Nearest))
    }

    /// A height, in the unit of lengths however small it is.
    pub fn height(self, l: Length) -> String {
        self.figure(&Figure::Height(l.m()))
    }

    /// A size that is needed at least: a wall, a bore.
    pub fn size_up(self, l: Length) -> String {
        self.said(l.m(), Dimension::LengthM, Toward::Up)
    }

    /// A size that is allowed at most, or that was measured.
    pub fn size_down(self, l: Length) -> String {
        self.said(l.m(), Dimension::LengthM, Toward::Down)
    }

    /// A temperature.
    pub fn temperature(self, t: Temperature) -> String {
        self.said(t.c(), Dimension::TemperatureC, Toward::Nearest)
    }

    /// A change of temperature.
    pub fn warming(self, dt: TemperatureDifference) -> String {
        self.said(dt.k(), Dimension::TemperatureDifferenceK, Toward::Nearest)
    }

    /// A volume.
    pub fn volume(self, v: Volume) -> String {
        self.said(v.m3(), Dimension::VolumeM3, Toward::Nearest)
    }

    /// What a pump or a source gives.
    pub fn flow(self, q: VolumeFlow) -> String {
        self.said(q.m3_per_s(), Dimension::VolumeFlowM3PerS, Toward::Nearest)
    }

    /// A leak.
    pub fn leak(self, q: VolumeFlow, of_gas: bool) -> String {
        let dimension = if of_gas { Dimension::NormalLeakM3PerS } else { Dimension::LeakM3PerS };
        self.said(q.m3_per_s(), dimension, Toward::Nearest)
    }
}

/// A figure as a code prints it, in braces within a text: `{5 psi}`, or `{170 kPa|25 psi}` where it prints both.
fn marked(text: &str, figure: impl Fn(&str) -> String) -> String {
    let mut out = String::with_capacity(text.len());
    let mut rest = text;
    while let Some((before, after)) = rest.split_once('{') {
        let Some((inner, behind)) = after.split_once('}') else { break };
        out.push_str(before);
        out.push_str(&figure(inner));
        rest = behind;
    }
    out + rest
}

/// A text of the books, in which a code's own figures stand in braces; read as text it is as it is published.
#[derive(Debug, Clone, PartialEq, Eq, Default, Deserialize)]
#[serde(from = "String")]
pub struct Published {
    marked: String,
    plain: String,
}

impl From<String> for Published {
    fn from(marked: String) -> Self {
        Self { plain: as_published(&marked), marked }
    }
}

impl std::ops::Deref for Published {
    type Target = str;

    fn deref(&self) -> &str {
        &self.plain
    }
}

impl std::fmt::Display for Published {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(&self.plain)
    }
}

impl Published {
    /// With its figures in a person's units.
    pub fn said(&self, say: Say) -> String {
        say.published(&self.marked)
    }
}

/// A text of the books as it is published.
pub fn as_published(text: &str) -> String {
    marked(text, |inner| match inner.split_once('|') {
        Some((first, second)) => format!("{first} ({second})"),
        None => inner.to_owned(),
    })
}

impl Say {
    /// A text of the books with its published figures in the person's units; one that is published in them stays as it is.
    pub fn published(self, text: &str) -> String {
        marked(text, |inner| self.figure(&Figure::Published(inner.to_owned())))
    }

    fn published_figure(self, inner: &str) -> String {
        let read = |figure| quantity::parse::published(figure, &self.0);
        if let Some(same) = inner.split('|').find(|f| read(f).is_some_and(|(_, _, own)| own)) {
            return same.replace(' ', "\u{a0}");
        }
        let first = inner.split('|').next().unwrap_or_default();
        match read(first) {
            Some((value, Dimension::GaugePressurePa, _)) => {
                let figure = show::significant(value / self.unit().pa(), 3, Toward::Nearest);
                format!("{figure}\u{a0}{}", self.unit().symbol())
            }
            Some((value, dimension, _)) => self.amount(value, dimension),
            None => first.to_owned(),
        }
    }
}

/// How a pressure is read at a gauge. One of which no division is known is read to the digits of any sentence.
fn shown_at(say: Say, dial: PressureUnit, division: Option<PressureDifference>) -> show::AtGauge {
    let step = say.unit().pa() * 10f64.powi(-(show::free_decimals(say.unit()) as i32));
    let known = division.filter(|d| d.pa() > 0.0);
    let dial = if known.is_some() { dial } else { say.unit() };
    show::AtGauge { dial, division: known.unwrap_or(PressureDifference::from_pa(step)), unit: say.unit() }
}

/// Says pressures that are read at one gauge.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct AtGauge {
    say: Say,
    dial: PressureUnit,
    division: Option<PressureDifference>,
}

impl AtGauge {
    /// For a reader of `say`'s unit.
    pub fn new(say: Say, dial: PressureUnit, division: Option<PressureDifference>) -> Self {
        Self { say, dial, division }
    }

    fn text(self, pa: f64, toward: Toward) -> String {
        self.say.figure(&Figure::AtGauge(pa, toward, self.dial, self.division.map(PressureDifference::pa)))
    }

    /// To the nearest.
    pub fn p(self, p: GaugePressure) -> String {
        self.text(p.pa(), Toward::Nearest)
    }

    /// Rounded up: what is needed.
    pub fn up(self, p: GaugePressure) -> String {
        self.text(p.pa(), Toward::Up)
    }

    /// Rounded down: what is allowed.
    pub fn down(self, p: GaugePressure) -> String {
        self.text(p.pa(), Toward::Down)
    }

    /// A difference.
    pub fn change(self, p: PressureDifference) -> String {
        self.text(p.pa(), Toward::Nearest)
    }
}

/// Text as a sentence: with its full stop, and with a capital where it does not begin with the name of a part.
pub fn sentence(text: &str, begins_with_a_name: bool) -> String {
    let text = text.trim_end_matches('.');
    let mut letters = text.chars();
    match letters.next() {
        Some(first) if !begins_with_a_name => format!("{}{}.", first.to_uppercase(), letters.as_str()),
        _ => format!("{text}."),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// A sentence that is filled later says what it would have said at once, in whatever units.
        #[test]
        fn what_is_said_later_is_what_would_have_been_said(
            pa in 1e3..5e7, c in -20.0..400.0, m in 1e-4..900.0, m3 in 1e-6..1e3, division in prop::option::of(1e2..1e5),
            words in prop::sample::select(vec!["bar", "psi,fahrenheit,foot,us_gallon", "kPa,imperial_gallon", "kg_cm2,foot", "mpa,fahrenheit"]),
        ) {
            let units = Units::default().read(words);
            let sentence = |say: Say| {
                let at = AtGauge::new(say, PressureUnit::Bar, division.map(PressureDifference::from_pa));
                let p = GaugePressure::from_pa(pa);
                format!(
                    "{} {} {} {} {} {} {} {} {} {} {}",
                    at.up(p), at.down(p), say.p(p), say.named(p), say.derated(p), say.temperature(Temperature::from_c(c)),
                    say.length(Length::from_m(m)), say.height(Length::from_m(m)), say.volume(Volume::from_m3(m3)),
                    say.published("at {170 kPa|25 psi} or {5 K}"), say.change(PressureDifference::from_pa(pa)),
                )
            };
            let later = sentence(Say(Units::later()));
            prop_assert!(later.contains(OPEN));
            prop_assert_eq!(fill(&later, units), sentence(Say(units)));
        }
    }
}
