//! How a filled and shut system answers to pumping and warming: water by its equation of state, another liquid by the figures given for it.

use crate::fluid::OtherLiquid;
use physics::system::ShutIn;
use physics::water::OutsideLiquidWater;
use quantity::{AbsolutePressure, STANDARD_ATMOSPHERE, Temperature, Volume};

/// A system filled with a liquid.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Filled<'a> {
    pub shut_in: &'a ShutIn,
    pub temperature: Temperature,
    /// The liquid, where it is not water.
    pub other: Option<&'a OtherLiquid>,
}

impl Filled<'_> {
    /// Compliance per volume at a pressure, 1/Pa; none where the liquid's is not known.
    pub fn compliance_per_pa(&self, p: AbsolutePressure) -> Result<Option<f64>, OutsideLiquidWater> {
        let s = self.shut_in;
        match self.other {
            None => s.compliance_per_pa(self.temperature, p).map(Some),
            Some(o) => Ok(o.compressibility_per_pa.map(|c| c + s.wall_compliance_per_pa() + s.air_compliance_per_pa(p))),
        }
    }

    /// Change of pressure per kelvin, Pa/K; none where the liquid's figures are not known.
    pub fn pressure_per_kelvin(&self, p: AbsolutePressure) -> Result<Option<f64>, OutsideLiquidWater> {
        let s = self.shut_in;
        match self.other {
            None => s.pressure_per_kelvin(self.temperature, p).map(Some),
            Some(o) => Ok(self.compliance_per_pa(p)?.zip(o.expansion_per_k).map(|(c, beta)| (beta - s.wall_expansion_per_k()) / c)),
        }
    }

    /// Volume to pump from the atmosphere to `to`, with a share of air at filling; none where the liquid's compressibility is not known.
    pub fn volume_to_raise(&self, to: AbsolutePressure, air_fraction: f64) -> Result<Option<Volume>, OutsideLiquidWater> {
        let s = ShutIn { air_fraction, ..self.shut_in.clone() };
        let from = STANDARD_ATMOSPHERE;
        match self.other {
            None => s.volume_to_raise(self.temperature, from, to).map(Some),
            Some(o) => Ok(o.compressibility_per_pa.map(|c| {
                let stretch = (c + s.wall_compliance_per_pa()) * (to - from).pa();
                s.volume() * (stretch + air_fraction * (1.0 - from.pa() / to.pa()))
            })),
        }
    }
}
