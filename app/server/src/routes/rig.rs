//! The hand of a person on the practice rig: pump and bleed. Only tests whose gauge is on this installation's own rig have one.

use super::{Body, attempts::of_person};
use crate::access::Action;
use crate::problem::{Problem, ProblemBody};
use crate::state::App;
use crate::views::practice::on_the_rig;
use crate::who::Who;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use serde::Deserialize;
use std::time::Duration;
use tokio_modbus::client::tcp;
use tokio_modbus::prelude::{Slave, Writer};

/// Unit of the rig itself, and its holding registers from 0 on: pump, tenths of a stroke a minute, thousandths of the bleed valve.
const RIG_UNIT: u8 = 1;

/// What the hand does.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RigHand {
    /// Pump runs.
    pub pump: bool,
    /// Strokes a minute, 1 to 600.
    pub strokes_per_min: f64,
    /// Bleed valve, 0 shut to 1 open.
    pub bleed: f64,
}

/// Sets pump and bleed valve of the practice rig.
#[utoipa::path(put, path = "/api/v1/attempts/{attempt}/rig", tag = "run", params(("attempt" = String, Path)), request_body = RigHand,
    responses((status = 204), (status = 403, body = ProblemBody), (status = 404, body = ProblemBody), (status = 409, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn put(State(app): State<App>, who: Who, Path(id): Path<String>, Body(body): Body<RigHand>) -> Result<StatusCode, Problem> {
    let (_, attempt) = of_person(&app, &who, &id, Action::Book).await?;
    let its = if attempt.frozen.plan.run == pack::plan::RunKind::Practice {
        let port = crate::store::lease::rig_port(&app.db, &id).await?;
        port.map(|p| std::net::SocketAddr::from(([127, 0, 0, 1], p)))
    } else {
        app.rig
    };
    let Some(address) = its.filter(|_| on_the_rig(&app, &attempt)) else {
        return Err(Problem::Conflict(
            "The gauge of this test is not on the practice rig: a real pump is worked by hand, never from here.".to_owned(),
        ));
    };
    if !(1.0..=600.0).contains(&body.strokes_per_min) {
        return Err(Problem::invalid("strokes_per_min", format!("{} strokes a minute are not inside 1 to 600", body.strokes_per_min)));
    }
    if !(0.0..=1.0).contains(&body.bleed) {
        return Err(Problem::invalid("bleed", format!("a bleed valve is open from 0 to 1, not {}", body.bleed)));
    }
    let words = [u16::from(body.pump), (body.strokes_per_min * 10.0).round() as u16, (body.bleed * 1000.0).round() as u16];
    let set = async {
        let mut hand = tcp::connect_slave(address, Slave(RIG_UNIT)).await?;
        hand.write_multiple_registers(0, &words).await
    };
    match tokio::time::timeout(Duration::from_secs(2), set).await {
        Ok(Ok(Ok(()))) => Ok(StatusCode::NO_CONTENT),
        _ => Err(Problem::Conflict("The practice rig does not answer: start it again, then try again.".to_owned())),
    }
}
