//! Is a channel alive: silent, stuck, at its end, or jumping.

use serde::{Deserialize, Serialize};

/// One sample of a channel; `value` none where the instrument did not answer.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Sample {
    /// Time, s.
    pub t_s: f64,
    /// Value in SI.
    pub value: Option<f64>,
}

/// What is known of a channel.
#[derive(Debug, Clone, PartialEq)]
pub struct ChannelFacts {
    /// Tag of the instrument.
    pub tag: String,
    /// Time between samples, s.
    pub every_s: f64,
    /// Readable division, SI.
    pub division: f64,
    /// End of its range, SI; none where it is not known.
    pub full_scale: Option<f64>,
}

/// State of a channel.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ChannelState {
    /// answers, moves as the others do
    Good,
    /// does not answer
    Silent,
    /// gives one value while the others move
    Stuck,
    /// stands at the end of its range
    Saturated,
    /// leapt while the others did not
    Jumped,
}

/// A state with its sentence; empty when all is well.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ChannelSays {
    /// State.
    pub state: ChannelState,
    /// What, and what to do.
    pub sentence: String,
}

/// Silent after this many samples without an answer, and never before `SILENT_S`.
const SILENT_SAMPLES: f64 = 3.0;
const SILENT_S: f64 = 2.0;
/// A gauge is stuck when another of the same system moved by this many divisions and it by none.
const STUCK_DIVISIONS: f64 = 6.0;
/// A leap between two samples of this many divisions that the others do not share.
const JUMP_DIVISIONS: f64 = 12.0;

/// Looks at the last samples of a channel, in time order, at `now_s`. `companions` are other gauges of the same system over the same time:
/// without any, only silence and the end of the range are told, since one gauge alone cannot be contradicted.
pub fn look(facts: &ChannelFacts, samples: &[Sample], companions: &[&[Sample]], now_s: f64) -> ChannelSays {
    let tag = &facts.tag;
    let say = |state, sentence| ChannelSays { state, sentence };
    let patience = (SILENT_SAMPLES * facts.every_s).max(SILENT_S);
    let answered = samples.iter().rev().find(|s| s.value.is_some());
    let silent_for = answered.map_or(f64::INFINITY, |s| now_s - s.t_s);
    if silent_for > patience {
        let since = if silent_for.is_finite() { format!("for {silent_for:.0}\u{a0}s") } else { "since the start".to_owned() };
        return say(
            ChannelState::Silent,
            format!("{tag} has not answered {since}. Check its cable and its power; until it is back, read another gauge and type it in."),
        );
    }
    let (Some(last), Some(full_scale)) = (answered.and_then(|s| s.value), facts.full_scale.or(Some(f64::INFINITY))) else {
        return say(ChannelState::Good, String::new());
    };
    if last >= full_scale - 0.5 * facts.division {
        return say(
            ChannelState::Saturated,
            format!(
                "{tag} stands at the end of its scale: the true pressure may be higher. Stop the pump. The gauge is quarantined until it is checked."
            ),
        );
    }
    let spread = |of: &[Sample]| {
        let values = || of.iter().filter_map(|s| s.value);
        values().fold(f64::NEG_INFINITY, f64::max) - values().fold(f64::INFINITY, f64::min)
    };
    let moved = companions.iter().map(|c| spread(c)).fold(0.0, f64::max);
    let long = samples.iter().filter(|s| s.value.is_some()).count() >= 5;
    if long && spread(samples) == 0.0 && moved > STUCK_DIVISIONS * facts.division {
        return say(
            ChannelState::Stuck,
            format!(
                "{tag} gives the same figure while another gauge moves: it is stuck or shut off. Its readings prove nothing until it moves."
            ),
        );
    }
    let leap = |of: &[Sample]| {
        let known: Vec<f64> = of.iter().filter_map(|s| s.value).collect();
        known.windows(2).map(|w| (w[1] - w[0]).abs()).fold(0.0, f64::max)
    };
    let own = leap(samples);
    if !companions.is_empty() && own > JUMP_DIVISIONS * facts.division && companions.iter().all(|c| leap(c) < 0.3 * own) {
        return say(
            ChannelState::Jumped,
            format!("{tag} leapt while the other gauges did not: a loose contact, or a knock. Compare it by eye before relying on it."),
        );
    }
    say(ChannelState::Good, String::new())
}
