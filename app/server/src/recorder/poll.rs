//! Reads every channel of an attempt over Modbus TCP, each network address by a connection of its own.

use crate::reach::Reach;
use pack::instrument::{Connection, Instrument};
use run::rows::{Answer, Sampled};
use std::net::SocketAddr;
use std::time::Duration;
use tokio::task::JoinSet;
use tokio_modbus::client::{Context, tcp};
use tokio_modbus::prelude::{Client, ExceptionCode, Reader, Slave, SlaveContext};

/// How long an instrument may take.
const PATIENCE: Duration = Duration::from_millis(400);

/// A channel to read.
#[derive(Debug, Clone)]
struct Channel {
    number: u8,
    at: Connection,
    instrument: Instrument,
}

/// Everything behind one network address.
struct Endpoint {
    address: SocketAddr,
    channels: Vec<Channel>,
    context: Option<Context>,
}

/// Reads an attempt's channels.
pub struct Poller {
    endpoints: Vec<Endpoint>,
}

impl Poller {
    /// From the instruments of an attempt in their order; none when not one of them has a connection. With a rig of its own, they are that
    /// rig's, wherever the store says that they answer.
    pub fn new(instruments: &[Instrument], reach: &Reach, rig: Option<SocketAddr>) -> Option<Self> {
        let mut endpoints: Vec<Endpoint> = Vec::new();
        for (number, instrument) in instruments.iter().enumerate() {
            let Some((at, address)) = instrument.connection.as_ref().and_then(|c| Some((c.clone(), rig.or_else(|| reach.address(c))?)))
            else {
                continue;
            };
            let Ok(number) = u8::try_from(number) else { break };
            let channel = Channel { number, at, instrument: instrument.clone() };
            match endpoints.iter_mut().find(|e| e.address == address) {
                Some(e) => e.channels.push(channel),
                None => endpoints.push(Endpoint { address, channels: vec![channel], context: None }),
            }
        }
        (!endpoints.is_empty()).then_some(Self { endpoints })
    }

    /// How many channels there are.
    pub fn channels(&self) -> usize {
        self.endpoints.iter().map(|e| e.channels.len()).sum()
    }

    /// Reads every channel once, all addresses at the same time.
    pub async fn read(&mut self) -> Vec<Sampled> {
        let mut reading = JoinSet::new();
        for mut endpoint in std::mem::take(&mut self.endpoints) {
            reading.spawn(async move {
                let values = endpoint.read().await;
                (endpoint, values)
            });
        }
        let mut all = Vec::new();
        while let Some(Ok((endpoint, values))) = reading.join_next().await {
            self.endpoints.push(endpoint);
            all.extend(values);
        }
        all.sort_by_key(|v| v.channel);
        all
    }
}

impl Endpoint {
    async fn read(&mut self) -> Vec<Sampled> {
        if self.context.is_none() {
            self.context = tokio::time::timeout(PATIENCE, tcp::connect(self.address)).await.ok().and_then(Result::ok);
        }
        let mut values = Vec::with_capacity(self.channels.len());
        let mut lost = self.context.is_none();
        for channel in &self.channels {
            let mut answer = None;
            if let Some(context) = self.context.as_mut().filter(|_| !lost) {
                context.set_slave(Slave(channel.at.unit));
                let (first, count) = (channel.at.register, channel.at.form.registers());
                let asked = async {
                    if channel.at.holding {
                        context.read_holding_registers(first, count).await
                    } else {
                        context.read_input_registers(first, count).await
                    }
                };
                match tokio::time::timeout(PATIENCE, asked).await {
                    Ok(Ok(Ok(words))) => answer = Some(Ok(words)),
                    Ok(Ok(Err(exception))) => answer = Some(Err(exception)),
                    // the connection is gone, or its answers no longer belong to its questions: a new one next time
                    Ok(Err(_)) | Err(_) => lost = true,
                }
            }
            values.push(value(channel, answer));
        }
        if lost && let Some(mut context) = self.context.take() {
            let _ = context.disconnect().await;
        }
        values
    }
}

fn value(channel: &Channel, answer: Option<Result<Vec<u16>, ExceptionCode>>) -> Sampled {
    let none = |answer| Sampled { channel: channel.number, answer, value: None };
    match answer {
        None | Some(Err(ExceptionCode::GatewayTargetDevice | ExceptionCode::GatewayPathUnavailable)) => none(Answer::None),
        Some(Err(_)) => none(Answer::Unreadable),
        Some(Ok(words)) => match channel.at.form.read(&words) {
            Some(figure) => {
                Sampled { channel: channel.number, answer: Answer::Read, value: Some(channel.instrument.in_si(figure * channel.at.scale)) }
            }
            None => none(Answer::Unreadable),
        },
    }
}
