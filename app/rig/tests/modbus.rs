//! The rig over its own protocol, with the client that the recorder uses.

use rig::scenario::Scenario;
use rig::serve::Rig;
use rig::simulation::Simulation;
use std::time::Duration;
use tokio_modbus::prelude::*;

fn scenario() -> Scenario {
    Scenario::read(include_str!("../../../docs/formats/examples/pump-house.rig.json")).unwrap()
}

#[tokio::test]
async fn a_client_pumps_and_reads_what_it_pumped() {
    let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await.unwrap();
    let address = listener.local_addr().unwrap();
    let rig = Rig::new(Simulation::new(scenario()).unwrap());
    let (run, answer) = (rig.clone(), rig.clone());
    tokio::spawn(async move { run.run(400.0).await });
    tokio::spawn(async move { answer.answer(listener).await });
    let mut hand = tcp::connect_slave(address, Slave(1)).await.unwrap();
    let pressure = |w: &[u16]| f32::from_bits((u32::from(w[0]) << 16) | u32::from(w[1]));
    let before = pressure(&hand.read_input_registers(2, 2).await.unwrap().unwrap());
    hand.write_single_register(0, 1).await.unwrap().unwrap();
    let mut now = before;
    for _ in 0..500 {
        now = pressure(&hand.read_input_registers(2, 2).await.unwrap().unwrap());
        if now > before + 10e5 {
            break;
        }
        tokio::time::sleep(Duration::from_millis(10)).await;
    }
    assert!(now > before + 10e5, "from {before} to {now} Pa");
    hand.write_single_register(0, 0).await.unwrap().unwrap();
    assert_eq!(hand.read_holding_registers(0, 1).await.unwrap().unwrap(), vec![0]);
    // what is not there is said with the protocol's own exceptions
    assert_eq!(hand.read_input_registers(100, 2).await.unwrap(), Err(ExceptionCode::IllegalDataAddress));
    assert_eq!(hand.write_single_register(9, 1).await.unwrap(), Err(ExceptionCode::IllegalDataAddress));
    let mut nobody = tcp::connect_slave(address, Slave(99)).await.unwrap();
    assert_eq!(nobody.read_input_registers(0, 2).await.unwrap(), Err(ExceptionCode::GatewayPathUnavailable));
}
