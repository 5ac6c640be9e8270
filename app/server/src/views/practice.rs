//! Which tests are on this installation's practice rig.

use crate::state::App;
use crate::store::attempt::AttemptRow;

/// True when the gauge of a plan answers at this installation's practice rig, and there are rigs to practise on.
pub fn can_practise(app: &App, gauge: Option<&pack::instrument::Instrument>) -> bool {
    app.practice.can() && on_a_rig(app, gauge)
}

/// True when the gauge of a plan answers at this installation's practice rig.
pub fn on_a_rig(app: &App, gauge: Option<&pack::instrument::Instrument>) -> bool {
    app.rig.is_some() && gauge.and_then(|g| g.connection.as_ref()).and_then(|c| app.reach.address(c)) == app.rig
}

/// True when the attempt's gauge answers at this installation's practice rig.
pub fn on_the_rig(app: &App, attempt: &AttemptRow) -> bool {
    on_a_rig(app, attempt.frozen.instruments.iter().find(|i| i.tag == attempt.frozen.plan.gauge_tag))
}
