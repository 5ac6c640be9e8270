//! Channels of a run as the recorder reads them: last figures, state, agreement of gauges.

use crate::now::Now;
use crate::run::Run;
use pack::instrument::{Instrument, InstrumentKind};
use quantity::{Density, GaugePressure, Length, PressureDifference};
use serde::Serialize;
use watch::agreement::{Agreement, GaugeReading, compare};
use watch::channel::{ChannelFacts, ChannelSays, Sample, look};

/// Time over which a channel is looked at, s.
const LOOK_OVER_S: f64 = 30.0;

/// A channel as shown.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct ChannelView {
    /// Place in the list of instruments, as the ticks name it.
    pub channel: usize,
    /// Tag.
    pub tag: String,
    /// What it measures.
    pub kind: InstrumentKind,
    /// Height, m; gauges only.
    pub elevation_m: Option<f64>,
    /// Last figure, Pa, °C or strokes.
    pub value: Option<f64>,
    /// When, s from the release.
    pub t_s: Option<f64>,
    /// State, with a sentence when it is not well.
    pub says: ChannelSays,
}

fn facts(i: &Instrument, every_s: f64) -> ChannelFacts {
    ChannelFacts {
        tag: i.tag.clone(),
        every_s,
        division: i.division_pa.map(PressureDifference::pa).or(i.division_k).unwrap_or(1.0),
        full_scale: i.full_scale_pa.map(GaugePressure::pa),
    }
}

impl Run {
    /// Samples of a channel from a time on, in time order.
    fn samples(&self, channel: usize, from_s: f64) -> Vec<Sample> {
        let ticks = self.ticks();
        let first = ticks.partition_point(|t| self.seconds_us(t.run_us) < from_s);
        let sampled = |t: &crate::rows::Tick| {
            let v = t.values.iter().find(|v| usize::from(v.channel) == channel)?;
            Some(Sample { t_s: self.seconds_us(t.run_us), value: v.value })
        };
        ticks[first..].iter().filter_map(sampled).collect()
    }

    /// Every connected channel.
    pub fn channels(&self, now: &Now) -> Vec<ChannelView> {
        let instruments = &self.frozen().instruments;
        let from_s = now.s - LOOK_OVER_S.max(10.0 * now.every_s);
        let recent: Vec<Vec<Sample>> = (0..instruments.len()).map(|i| self.samples(i, from_s)).collect();
        let connected = || instruments.iter().enumerate().filter(|(_, i)| i.connection.is_some());
        connected()
            .map(|(n, i)| {
                let companions: Vec<&[Sample]> = connected()
                    .filter(|(m, other)| *m != n && i.kind == InstrumentKind::Gauge && other.kind == InstrumentKind::Gauge)
                    .map(|(m, _)| recent[m].as_slice())
                    .collect();
                let last = recent[n].iter().rev().find(|s| s.value.is_some());
                ChannelView {
                    channel: n,
                    tag: i.tag.clone(),
                    kind: i.kind,
                    elevation_m: (i.kind == InstrumentKind::Gauge).then(|| self.frozen().elevation_m(&i.tag)).flatten(),
                    value: last.and_then(|s| s.value),
                    t_s: last.map(|s| s.t_s),
                    says: look(&facts(i, now.every_s), &recent[n], &companions, now.s),
                }
            })
            .collect()
    }

    /// The other gauges against the one that the test is read from.
    pub fn agreements(&self, channels: &[ChannelView], density: Density) -> Vec<Agreement> {
        let reading = |c: &ChannelView| {
            let i = self.frozen().instruments.get(c.channel)?;
            Some(GaugeReading {
                tag: c.tag.clone(),
                elevation: Length::from_m(c.elevation_m?),
                pressure: GaugePressure::from_pa(c.value?),
                error_95: PressureDifference::from_pa(i.full_scale_pa?.pa() * i.error_of_scale?),
                division: i.division_pa?,
            })
        };
        let main = &self.frozen().plan.gauge_tag;
        let first = channels.iter().find(|c| c.tag == *main).and_then(&reading);
        let others: Vec<GaugeReading> = channels.iter().filter(|c| c.tag != *main).filter_map(reading).collect();
        first.map(|f| compare(&f, &others, density)).unwrap_or_default()
    }
}
