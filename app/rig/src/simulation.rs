//! The run: a fixed step, orders, and everything that happens in one step.

use crate::instruments::{Shown, normal};
use crate::plant::{OutOfRange, Plant};
use crate::scenario::{Order, Scenario, Shows};
use crate::weather::{Heat, Temperatures};
use rand::SeedableRng;
use rand_chacha::ChaCha8Rng;

/// Length of a step, s.
pub const STEP_S: f64 = 0.1;
/// Hole of the fully open bleed valve, m.
const BLEED_HOLE_M: f64 = 0.002;

/// What a person sets on the rig.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Hand {
    /// Pump runs.
    pub pump: bool,
    /// Strokes a minute.
    pub strokes_per_min: f64,
    /// Bleed valve, 0 shut to 1 open.
    pub bleed: f64,
}

/// A running rig.
#[derive(Debug, Clone)]
pub struct Simulation {
    /// Its scenario.
    pub scenario: Scenario,
    /// Water.
    pub plant: Plant,
    /// Heat.
    heat: Heat,
    /// Temperatures now.
    pub temperatures: Temperatures,
    /// What a person set.
    pub hand: Hand,
    /// Instruments.
    pub instruments: Vec<Shown>,
    /// Leaks out, m³/s.
    pub leaking_m3_per_s: f64,
    open: Vec<bool>,
    relief_open: bool,
    steps: u64,
    strokes: f64,
    stroke_now: f64,
    order: usize,
    order_since_s: f64,
    random: ChaCha8Rng,
}

impl Simulation {
    /// Before the first step, instruments read once.
    ///
    /// # Errors
    /// When the start is outside liquid water.
    pub fn new(scenario: Scenario) -> Result<Self, OutOfRange> {
        let plant = Plant::new(&scenario)?;
        let heat = Heat::new(&scenario.weather, &scenario.segments);
        let temperatures = Temperatures { air_c: heat.air_c(0.0), skin_c: scenario.start_c, water_c: scenario.start_c };
        let mut simulation = Self {
            plant,
            heat,
            temperatures,
            hand: Hand { pump: false, strokes_per_min: scenario.pump.strokes_per_min, bleed: 0.0 },
            instruments: scenario.instruments.iter().cloned().map(Shown::new).collect(),
            leaking_m3_per_s: 0.0,
            open: vec![false; scenario.leaks.len()],
            relief_open: false,
            steps: 0,
            strokes: 0.0,
            stroke_now: scenario.pump.stroke_m3,
            order: 0,
            order_since_s: 0.0,
            random: ChaCha8Rng::seed_from_u64(scenario.seed),
            scenario,
        };
        simulation.show();
        Ok(simulation)
    }

    /// Time of the run, s.
    pub fn t_s(&self) -> f64 {
        self.steps as f64 * STEP_S
    }

    /// Whole strokes so far.
    pub fn strokes(&self) -> f64 {
        self.strokes.floor()
    }

    /// One step of [`STEP_S`].
    ///
    /// # Errors
    /// When the water leaves the range of the equation.
    pub fn step(&mut self) -> Result<(), OutOfRange> {
        self.follow_script();
        let into = self.pump();
        let out = self.flows_out() * STEP_S;
        self.temperatures = self.heat.step(self.temperatures, self.t_s(), STEP_S);
        self.plant.step(into, self.scenario.pump.water_c, out, self.temperatures.water_c)?;
        self.steps += 1;
        self.show();
        Ok(())
    }

    /// Runs to a time.
    ///
    /// # Errors
    /// As [`Self::step`].
    pub fn run_to(&mut self, t_s: f64) -> Result<(), OutOfRange> {
        while self.t_s() < t_s - 0.5 * STEP_S {
            self.step()?;
        }
        Ok(())
    }

    fn pump(&mut self) -> f64 {
        if !self.hand.pump {
            return 0.0;
        }
        let part = self.hand.strokes_per_min / 60.0 * STEP_S;
        let before = self.strokes.floor();
        self.strokes += part;
        if self.strokes.floor() > before {
            self.stroke_now = self.scenario.pump.stroke_m3 * (1.0 + self.scenario.pump.stroke_scatter * normal(&mut self.random));
        }
        part * self.stroke_now
    }

    /// Leaks, relief valve and bleed, m³/s.
    fn flows_out(&mut self) -> f64 {
        let (t, p) = (self.t_s(), self.plant.pressure_pa);
        self.leaking_m3_per_s = 0.0;
        for (leak, open) in self.scenario.leaks.iter().zip(&mut self.open) {
            *open |= t >= leak.from_s && p >= leak.opens_at_pa;
            if *open {
                self.leaking_m3_per_s += self.plant.leak_flow(leak.hole_m, leak.elevation_m);
            }
        }
        let relief = self.scenario.relief.map_or(0.0, |r| {
            self.relief_open = if self.relief_open { p > r.set_pa * (1.0 - r.blowdown) } else { p >= r.set_pa };
            let lift = if self.relief_open { ((p / r.set_pa - 1.0) / r.accumulation.max(1e-3)).clamp(0.1, 1.0) } else { 0.0 };
            lift * r.full_flow_m3_per_s
        });
        let bleed = self.hand.bleed.clamp(0.0, 1.0) * self.plant.leak_flow(BLEED_HOLE_M, self.scenario.high_point_m);
        self.leaking_m3_per_s + relief + bleed
    }

    /// Works off the scenario's orders one after the other.
    fn follow_script(&mut self) {
        let Some(order) = self.scenario.script.get(self.order).copied() else { return };
        let (t, p) = (self.t_s(), self.plant.pressure_pa);
        let done = match order {
            Order::PumpTo { pressure_pa, strokes_per_min } => {
                self.hand.pump = p < pressure_pa;
                self.hand.strokes_per_min = if strokes_per_min > 0.0 { strokes_per_min } else { self.scenario.pump.strokes_per_min };
                !self.hand.pump
            }
            Order::BleedTo { pressure_pa } => {
                self.hand.bleed = if p > pressure_pa { 0.3 } else { 0.0 };
                self.hand.bleed == 0.0
            }
            Order::Wait { seconds } => t - self.order_since_s >= seconds,
        };
        if done {
            self.order += 1;
            self.order_since_s = t;
        }
    }

    fn show(&mut self) {
        let t = self.t_s();
        let strokes = self.strokes();
        for shown in &mut self.instruments {
            let truth = match shown.facts.shows {
                Shows::Pressure => self.plant.pressure_at(shown.facts.elevation_m),
                Shows::WaterTemperature => self.temperatures.water_c,
                Shows::SkinTemperature => self.temperatures.skin_c,
                Shows::AirTemperature => self.temperatures.air_c,
                Shows::Strokes => strokes,
            };
            shown.show(truth, t, &mut self.random);
        }
    }
}
