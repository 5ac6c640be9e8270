//! The rig behind Modbus TCP.

use crate::registers::{RIG_UNIT, hand, truth};
use crate::scenario::Encoding;
use crate::simulation::{STEP_S, Simulation};
use std::future::{Ready, ready};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{Duration, Instant};
use tokio::net::TcpListener;
use tokio_modbus::prelude::*;
use tokio_modbus::server::tcp::{Server, accept_tcp_connection};

/// A rig that several connections share.
#[derive(Debug, Clone)]
pub struct Rig(Arc<Mutex<Simulation>>);

impl Rig {
    /// From a simulation.
    pub fn new(simulation: Simulation) -> Self {
        Self(Arc::new(Mutex::new(simulation)))
    }

    fn with<T>(&self, f: impl FnOnce(&mut Simulation) -> T) -> T {
        f(&mut self.0.lock().unwrap_or_else(PoisonError::into_inner))
    }

    /// Keeps the run `speed` times as fast as the clock until the program ends.
    ///
    /// # Errors
    /// When the water leaves the range of the equation.
    pub async fn run(&self, speed: f64) -> anyhow::Result<()> {
        let (begun, at) = (Instant::now(), self.with(|s| s.t_s()));
        loop {
            let due = at + begun.elapsed().as_secs_f64() * speed;
            // at most a tenth of a second of arithmetic at a time, so that reads are answered in between
            while self.with(|s| if s.t_s() + STEP_S <= due { s.step().map(|()| true) } else { Ok(false) })? {
                tokio::task::yield_now().await;
            }
            tokio::time::sleep(Duration::from_secs_f64((STEP_S / speed).clamp(0.002, 0.1))).await;
        }
    }

    /// Answers Modbus on a listener until the program ends.
    ///
    /// # Errors
    /// When the listener fails.
    pub async fn answer(&self, listener: TcpListener) -> anyhow::Result<()> {
        let server = Server::new(listener);
        let rig = self.clone();
        let service = move |_| Ok(Some(rig.clone()));
        let connected = |stream, address| {
            let service = &service;
            async move { accept_tcp_connection(stream, address, service) }
        };
        server.serve(&connected, |_| {}).await?;
        Ok(())
    }

    /// Pressure at the high point now, Pa gauge.
    pub fn pressure_pa(&self) -> f64 {
        self.with(|s| s.plant.pressure_pa)
    }

    /// Input and holding registers alike: instruments put their value in both.
    fn read(&self, unit: u8, address: u16, count: u16, holding: bool) -> Result<Vec<u16>, ExceptionCode> {
        self.with(|s| {
            if unit == RIG_UNIT {
                let all = if holding { of_hand(s) } else { of_truth(s) };
                return window(&all, 0, address, count);
            }
            let mine: Vec<_> = s.instruments.iter().filter(|i| i.facts.unit == unit).collect();
            if mine.is_empty() {
                return Err(ExceptionCode::GatewayPathUnavailable);
            }
            let found = mine.into_iter().find(|i| {
                let first = i.facts.register;
                address >= first && address + count <= first + i.facts.encoding.words()
            });
            let shown = found.ok_or(ExceptionCode::IllegalDataAddress)?;
            let value = shown.value.ok_or(ExceptionCode::GatewayTargetDevice)?;
            window(&shown.facts.encoding.encode(value / shown.facts.si_per_count), shown.facts.register, address, count)
        })
    }

    fn write(&self, unit: u8, address: u16, values: &[u16]) -> Result<(), ExceptionCode> {
        if unit != RIG_UNIT {
            return Err(ExceptionCode::IllegalFunction);
        }
        if values.is_empty() || usize::from(address) + values.len() > usize::from(hand::COUNT) {
            return Err(ExceptionCode::IllegalDataAddress);
        }
        self.with(|s| {
            for (register, value) in (address..).zip(values) {
                match register {
                    hand::PUMP => s.hand.pump = *value != 0,
                    hand::RATE => s.hand.strokes_per_min = f64::from(*value) / 10.0,
                    _ => s.hand.bleed = f64::from(*value) / 1000.0,
                }
            }
        });
        Ok(())
    }
}

fn of_hand(s: &Simulation) -> Vec<u16> {
    vec![
        u16::from(s.hand.pump),
        (s.hand.strokes_per_min * 10.0).round().clamp(0.0, 65535.0) as u16,
        (s.hand.bleed * 1000.0).round().clamp(0.0, 1000.0) as u16,
    ]
}

fn of_truth(s: &Simulation) -> Vec<u16> {
    let leak_l_h = s.leaking_m3_per_s * 3.6e6;
    let all: Vec<u16> =
        [s.t_s(), s.plant.pressure_pa, s.temperatures.water_c, leak_l_h].iter().flat_map(|v| Encoding::F32.encode(*v)).collect();
    debug_assert_eq!(all.len(), usize::from(truth::COUNT));
    all
}

fn window(all: &[u16], first: u16, address: u16, count: u16) -> Result<Vec<u16>, ExceptionCode> {
    let from = usize::from(address - first);
    all.get(from..from + usize::from(count)).map(<[u16]>::to_vec).ok_or(ExceptionCode::IllegalDataAddress)
}

impl tokio_modbus::server::Service for Rig {
    type Request = SlaveRequest<'static>;
    type Response = Response;
    type Exception = ExceptionCode;
    type Future = Ready<Result<Self::Response, Self::Exception>>;

    fn call(&self, request: Self::Request) -> Self::Future {
        let unit = request.slave;
        ready(match request.request {
            Request::ReadInputRegisters(a, n) => self.read(unit, a, n, false).map(Response::ReadInputRegisters),
            Request::ReadHoldingRegisters(a, n) => self.read(unit, a, n, true).map(Response::ReadHoldingRegisters),
            Request::WriteSingleRegister(a, v) => self.write(unit, a, &[v]).map(|()| Response::WriteSingleRegister(a, v)),
            Request::WriteMultipleRegisters(a, v) => {
                self.write(unit, a, &v).map(|()| Response::WriteMultipleRegisters(a, u16::try_from(v.len()).unwrap_or(0)))
            }
            _ => Err(ExceptionCode::IllegalFunction),
        })
    }
}
