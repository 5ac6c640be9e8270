//! `zero-leak rig`: a simulated system behind Modbus TCP.

use anyhow::{Context, Result};
use clap::Args;
use rig::scenario::Scenario;
use rig::serve::Rig;
use rig::simulation::Simulation;
use std::fmt::Write;
use std::path::{Path, PathBuf};
use std::time::Duration;

/// Options of `rig`.
#[derive(Debug, Args)]
pub struct RigOptions {
    /// Scenario in the format of docs/formats/rig-scenario.schema.json.
    scenario: PathBuf,
    /// Port on loopback; 0 for any that is free.
    #[arg(long, default_value_t = 5020)]
    port: u16,
    /// How many times faster than the clock.
    #[arg(long, default_value_t = 1.0)]
    speed: f64,
    /// Keep the pressure in this file, and start from it when it is there.
    #[arg(long)]
    keep: Option<PathBuf>,
    /// Do not serve: run this many seconds at once and print what the instruments show, as CSV.
    #[arg(long)]
    trace: Option<f64>,
    /// Seconds between the rows of a trace.
    #[arg(long, default_value_t = 1.0)]
    every: f64,
}

/// Runs a rig.
pub fn rig(options: &RigOptions) -> Result<()> {
    let text = std::fs::read_to_string(&options.scenario).with_context(|| format!("{} cannot be read", options.scenario.display()))?;
    let mut scenario = Scenario::read(&text)?;
    let kept = options.keep.as_ref().and_then(|f| std::fs::read_to_string(f).ok()).and_then(|t| t.trim().parse::<f64>().ok());
    if let Some(pressure_pa) = kept.filter(|p| p.is_finite() && *p >= 0.0) {
        scenario.start_pressure_pa = pressure_pa;
    }
    anyhow::ensure!((0.01..=1000.0).contains(&options.speed), "--speed is {}: it must be inside 0.01 to 1000", options.speed);
    anyhow::ensure!(options.every >= 0.1, "--every is {}: the rig steps every 0.1 s", options.every);
    let simulation = Simulation::new(scenario)?;
    match options.trace {
        Some(seconds) => {
            print!("{}", trace(simulation, seconds, options.every)?);
            Ok(())
        }
        None => serve(simulation, options),
    }
}

fn trace(mut simulation: Simulation, seconds: f64, every: f64) -> Result<String> {
    let mut out = String::from("seconds");
    for i in &simulation.instruments {
        let unit = match i.facts.shows {
            rig::scenario::Shows::Pressure => "bar",
            rig::scenario::Shows::Strokes => "strokes",
            _ => "°C",
        };
        write!(out, ",{} [{unit}]", i.facts.tag)?;
    }
    out.push('\n');
    let mut t = 0.0;
    while t <= seconds {
        simulation.run_to(t)?;
        write!(out, "{t:.1}")?;
        for i in &simulation.instruments {
            let scale = if i.facts.shows == rig::scenario::Shows::Pressure { 1e5 } else { 1.0 };
            match i.value {
                Some(v) => write!(out, ",{:.4}", v / scale)?,
                None => out.push(','),
            }
        }
        out.push('\n');
        t += every;
    }
    Ok(out)
}

/// Writes the pressure down every two seconds.
async fn keep(rig: &Rig, file: Option<&Path>) -> Result<()> {
    loop {
        tokio::time::sleep(Duration::from_secs(2)).await;
        if let Some(file) = file {
            std::fs::write(file, rig.pressure_pa().to_string()).with_context(|| format!("{} cannot be written", file.display()))?;
        }
    }
}

fn serve(simulation: Simulation, options: &RigOptions) -> Result<()> {
    let title = simulation.scenario.title.clone();
    tokio::runtime::Builder::new_multi_thread().worker_threads(1).enable_all().build()?.block_on(async {
        let listener = tokio::net::TcpListener::bind(("127.0.0.1", options.port))
            .await
            .with_context(|| format!("port {} on loopback is taken: choose another with --port", options.port))?;
        println!("Rig on 127.0.0.1:{}: {title}", listener.local_addr()?.port());
        let rig = Rig::new(simulation);
        tokio::select! {
            run = rig.run(options.speed) => run,
            answer = rig.answer(listener) => answer,
            kept = keep(&rig, options.keep.as_deref()) => kept,
            () = crate::serve::stop() => Ok(()),
        }
    })
}
