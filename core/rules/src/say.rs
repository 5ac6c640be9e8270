//! How a figure is said in a sentence: in the units of whoever reads it, by the rules of [`quantity::show`].

use quantity::show::{self, Figures, Toward};
use quantity::{
    Dimension, GaugePressure, Length, PressureDifference, PressureUnit, Temperature, TemperatureDifference, Units, Volume, VolumeFlow,
};
use serde::Deserialize;

/// Says figures in a person's units.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Say(pub Units);

impl From<PressureUnit> for Say {
    fn from(unit: PressureUnit) -> Self {
        Self(unit.into())
    }
}

impl Say {
    /// The person's unit of pressures.
    pub const fn unit(self) -> PressureUnit {
        self.0.pressure
    }

    /// A pressure of a part or a code, to the nearest.
    pub fn p(self, p: GaugePressure) -> String {
        show::pressure(p.pa(), self.unit(), Toward::Nearest)
    }

    /// Rounded up: what is needed.
    pub fn up(self, p: GaugePressure) -> String {
        show::pressure(p.pa(), self.unit(), Toward::Up)
    }

    /// Rounded down: what is allowed.
    pub fn down(self, p: GaugePressure) -> String {
        show::pressure(p.pa(), self.unit(), Toward::Down)
    }

    /// As a scale is named, to three figures.
    pub fn named(self, p: GaugePressure) -> String {
        format!("{}\u{a0}{}", show::significant(p.pa() / self.unit().pa(), 3, Toward::Nearest), self.unit().symbol())
    }

    /// A difference.
    pub fn change(self, p: PressureDifference) -> String {
        show::pressure(p.pa(), self.unit(), Toward::Nearest)
    }

    fn said(self, value: f64, dimension: Dimension, toward: Toward) -> String {
        show::amount(value, dimension, &self.0, Figures::Said, toward)
    }

    /// Any amount, to the nearest.
    pub fn amount(self, value: f64, dimension: Dimension) -> String {
        self.said(value, dimension, Toward::Nearest)
    }

    /// A length or a size, to the digits in which it was given.
    pub fn length(self, l: Length) -> String {
        show::amount(l.m(), Dimension::LengthM, &self.0, Figures::Exact, Toward::Nearest)
    }

    /// A height, in the unit of lengths however small it is.
    pub fn height(self, l: Length) -> String {
        let scales = quantity::dimension::scales(Dimension::LengthM, &self.0);
        scales.last().map_or_else(String::new, |s| show::in_scale(l.m(), s, Figures::Exact, Toward::Nearest))
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
        marked(text, |inner| self.published_figure(inner))
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

/// Says pressures that are read at one gauge.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct AtGauge(show::AtGauge);

impl AtGauge {
    /// For a reader of `say`'s unit. A gauge of which no division is known is read to the digits of any sentence.
    pub fn new(say: Say, dial: PressureUnit, division: Option<PressureDifference>) -> Self {
        let step = say.unit().pa() * 10f64.powi(-(show::free_decimals(say.unit()) as i32));
        let known = division.filter(|d| d.pa() > 0.0);
        let dial = if known.is_some() { dial } else { say.unit() };
        Self(show::AtGauge { dial, division: known.unwrap_or(PressureDifference::from_pa(step)), unit: say.unit() })
    }

    /// To the nearest.
    pub fn p(self, p: GaugePressure) -> String {
        self.0.text(p, Toward::Nearest)
    }

    /// Rounded up: what is needed.
    pub fn up(self, p: GaugePressure) -> String {
        self.0.text(p, Toward::Up)
    }

    /// Rounded down: what is allowed.
    pub fn down(self, p: GaugePressure) -> String {
        self.0.text(p, Toward::Down)
    }

    /// A difference.
    pub fn change(self, p: PressureDifference) -> String {
        self.0.text(GaugePressure::from_pa(p.pa()), Toward::Nearest)
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
