//! Channels, gauges at heights, and when to stop the pump.

use proptest::prelude::*;
use quantity::{Density, GaugePressure, Length, PressureDifference, Span};
use watch::agreement::{GaugeReading, compare};
use watch::channel::{ChannelFacts, ChannelState, Sample, look};
use watch::forecast::{Lines, Loudness, forecast, rate};

fn facts() -> ChannelFacts {
    ChannelFacts { tag: "PT-2".to_owned(), every_s: 1.0, division: 1e3, full_scale: Some(40e5) }
}

/// Readings a second apart, in bar; `-` is no answer.
fn samples(text: &str) -> Vec<Sample> {
    text.split_whitespace().enumerate().map(|(i, w)| Sample { t_s: i as f64, value: w.parse::<f64>().ok().map(|b| b * 1e5) }).collect()
}

#[track_caller]
fn check(own: &str, other: &str, state: ChannelState, word: &str) {
    let (own, other) = (samples(own), samples(other));
    let companions: Vec<&[Sample]> = if other.is_empty() { vec![] } else { vec![&other] };
    let says = look(&facts(), &own, &companions, own.len() as f64 - 1.0);
    assert_eq!(says.state, state, "{}", says.sentence);
    assert!(says.sentence.contains(word), "{}", says.sentence);
}

#[test]
fn each_fault_is_said_at_once() {
    check("10 10.1 10.2 - - - -", "10 10.1 10.2 10.3 10.4 10.5 10.6", ChannelState::Silent, "has not answered for 4\u{a0}s");
    check("- - - -", "", ChannelState::Silent, "since the start");
    check("10 10 10 10 10 10", "10 10.02 10.05 10.1 10.15 10.2", ChannelState::Stuck, "stuck or shut off");
    check("39.9 40.0 40.0", "", ChannelState::Saturated, "quarantined");
    check("10 10 10.01 13 13.01 13", "10 10.01 10 10.01 10.02 10.01", ChannelState::Jumped, "leapt");
}

#[test]
fn what_is_sound_is_left_alone() {
    check("10 10.1 10.2 10.3 10.4 10.5", "9 9.1 9.2 9.3 9.4 9.5", ChannelState::Good, "");
    // both stand still: a hold, not a stuck gauge
    check("10 10 10 10 10 10", "9 9 9 9 9 9", ChannelState::Good, "");
    // one missed answer is not silence; a leap that all share is a stroke
    check("10 10.1 - 10.3", "9 9.1 9.2 9.3", ChannelState::Good, "");
    check("10 10 13 13 13", "9 9 12 12 12", ChannelState::Good, "");
    // alone, a still gauge cannot be contradicted
    check("10 10 10 10 10 10", "", ChannelState::Good, "");
}

fn gauge(tag: &str, m: f64, bar: f64) -> GaugeReading {
    GaugeReading {
        tag: tag.to_owned(),
        elevation: Length::from_m(m),
        pressure: GaugePressure::from_bar(bar),
        error_95: PressureDifference::from_bar(0.06),
        division: PressureDifference::from_bar(0.02),
    }
}

#[test]
fn gauges_agree_once_the_column_is_taken_off() {
    // 15 m of water at 999.1 kg/m³: 1.4696 bar (ρ·g·h by hand)
    let found = compare(&gauge("PG-1", 0.0, 26.0), &[gauge("PG-2", 15.0, 24.53), gauge("PG-3", 15.0, 26.0)], Density::from_kg_m3(999.1));
    assert!((found[0].at_first_pa.bar() - 25.9996).abs() < 1e-3 && found[0].agrees);
    assert!(!found[1].agrees && (found[1].difference_pa.bar() - 1.4696).abs() < 1e-3);
    assert!((found[0].allowed_pa.bar() - (0.06 * 2f64.sqrt() + 0.02)).abs() < 1e-9);
}

const fn bar(b: f64) -> GaugePressure {
    GaugePressure::from_bar(b)
}

fn lines() -> Lines {
    Lines { target: Some(bar(26.0)), alarm: bar(26.6), stop_line: bar(27.0), upper: bar(27.2) }
}

#[test]
fn the_pump_is_stopped_before_the_limit_not_at_it() {
    let stroke = Some(PressureDifference::from_bar(0.6));
    let at = |now, rate_bar| forecast(bar(now), rate_bar * 1e5, stroke, 100.0, lines(), Span::from_s(3.0));
    let far = at(18.8, 0.15);
    assert_eq!((far.loudness, far.strokes_to_go.unwrap().round(), far.seconds_to_go.unwrap().round()), (Loudness::Quiet, 12.0, 48.0));
    assert_eq!(at(25.6, 0.15).loudness, Loudness::StopSoon);
    // fast pump: still below the alarm, but it would pass the stop line before it stands
    assert_eq!(at(25.0, 0.8).loudness, Loudness::StopNow);
    assert_eq!(at(26.6, 0.0).loudness, Loudness::StopNow);
    assert_eq!((at(27.3, 0.0).loudness, at(27.3, 0.0).word.as_str()), (Loudness::Above, "ABOVE THE LIMIT: BLEED"));
    // at rest just under the target there is nothing to shout
    assert_eq!(at(25.9, 0.0).loudness, Loudness::Quiet);
}

proptest! {
    #[test]
    fn louder_never_turns_quieter_as_the_needle_rises(p in 0.0..27.0f64, more in 0.0..2.0f64, r in 0.0..1.0f64) {
        let loud = |p| forecast(bar(p), r * 1e5, None, 100.0, lines(), Span::from_s(3.0)).loudness;
        prop_assert!(loud(p + more) >= loud(p));
    }

    #[test]
    fn the_rate_of_a_steady_raise_is_its_slope(slope in -1.0..1.0f64, start in 0.0..40.0f64, every in 0.2..2.0f64) {
        let recent: Vec<_> = (0..30).map(|i| { let t = f64::from(i) * every; (t, bar(start + slope * t)) }).collect();
        prop_assert!((rate(&recent) - slope * 1e5).abs() < 1e-3);
    }
}
