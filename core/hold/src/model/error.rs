use thiserror::Error;

/// Why a hold cannot be fitted.
#[derive(Debug, Clone, PartialEq, Error)]
pub enum FitError {
    /// Too few readings apart in time, or no body.
    #[error(
        "The hold has {readings} usable pressure readings apart in time and {bodies} bodies; a fit needs {least} and one: read more often or longer."
    )]
    TooFew {
        /// blocks with a pressure
        readings: usize,
        /// bodies
        bodies: usize,
        /// what a fit needs
        least: usize,
    },
    /// Water beyond its equation.
    #[error(transparent)]
    Water(#[from] physics::water::OutsideLiquidWater),
    /// Gas beyond its equation.
    #[error(transparent)]
    Gas(#[from] physics::gas::OutsideGas),
    /// No cause was fitted.
    #[error("No cause was fitted.")]
    NoCause,
    /// A pivot of the normal equations shows that the arithmetic has run out of digits.
    #[error(
        "The readings ask more digits of the arithmetic than it has, so that no figure of the fit can be trusted: check the divisions and the noise that are entered for the instruments."
    )]
    OutOfDigits,
}
