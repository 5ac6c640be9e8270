//! The dimensionless Helmholtz energy of a fluid and its derivatives: the forms of term that reference equations are made of.

/// φ and its derivatives with respect to δ = ρ/ρc (d) and τ = Tc/T (t).
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Derivatives {
    /// φ
    pub value: f64,
    /// ∂φ/∂δ
    pub d: f64,
    /// ∂²φ/∂δ²
    pub dd: f64,
    /// ∂φ/∂τ
    pub t: f64,
    /// ∂²φ/∂τ²
    pub tt: f64,
    /// ∂²φ/∂δ∂τ
    pub dt: f64,
}

/// A term n·δ^d·τ^t·exp(−δ^c); c = 0 means no exponential.
pub(crate) struct Power {
    pub n: f64,
    pub d: i32,
    pub t: f64,
    pub c: i32,
}

/// A bell n·δ^d·τ^t·exp(−α(δ−ε)² − β(τ−γ)²).
pub(crate) struct Gaussian {
    pub n: f64,
    pub d: i32,
    pub t: i32,
    pub alpha: f64,
    pub beta: f64,
    pub gamma: f64,
    pub epsilon: f64,
}

impl Derivatives {
    /// ln δ + a₁ + a₂τ + a₃ ln τ, the beginning of every ideal-gas part.
    pub(crate) fn ideal_lead(delta: f64, tau: f64, a1: f64, a2: f64, a3: f64) -> Self {
        Self {
            value: delta.ln() + a1 + a2 * tau + a3 * tau.ln(),
            d: 1.0 / delta,
            dd: -1.0 / (delta * delta),
            t: a2 + a3 / tau,
            tt: -a3 / (tau * tau),
            dt: 0.0,
        }
    }

    /// n·ln(1 − exp(−gτ)): a vibration by Planck and Einstein.
    pub(crate) fn add_vibration(&mut self, tau: f64, n: f64, g: f64) {
        let e = (-g * tau).exp();
        self.value += n * (1.0 - e).ln();
        self.t += n * g * (1.0 / (1.0 - e) - 1.0);
        self.tt -= n * g * g * e / ((1.0 - e) * (1.0 - e));
    }

    /// n·τ^t, a term of an ideal-gas part.
    pub(crate) fn add_ideal_power(&mut self, tau: f64, n: f64, t: f64) {
        let base = n * tau.powf(t);
        self.value += base;
        self.t += base * t / tau;
        self.tt += base * t * (t - 1.0) / (tau * tau);
    }

    pub(crate) fn add_power(&mut self, delta: f64, tau: f64, terms: &[Power]) {
        let log_tau = tau.ln();
        for term in terms {
            let d = f64::from(term.d);
            let c = f64::from(term.c);
            let dc = if term.c > 0 { delta.powi(term.c) } else { 0.0 };
            let base = term.n * delta.powi(term.d) * (term.t * log_tau - dc).exp();
            let first = d - c * dc;
            self.value += base;
            self.d += base * first / delta;
            self.dd += base * (first * (first - 1.0) - c * c * dc) / (delta * delta);
            self.t += base * term.t / tau;
            self.tt += base * term.t * (term.t - 1.0) / (tau * tau);
            self.dt += base * first * term.t / (delta * tau);
        }
    }

    pub(crate) fn add_gaussian(&mut self, delta: f64, tau: f64, terms: &[Gaussian]) {
        for term in terms {
            let (from_epsilon, from_gamma) = (delta - term.epsilon, tau - term.gamma);
            let bell = (-term.alpha * from_epsilon * from_epsilon - term.beta * from_gamma * from_gamma).exp();
            let base = term.n * delta.powi(term.d) * tau.powi(term.t) * bell;
            let (d, t) = (f64::from(term.d), f64::from(term.t));
            let in_d = d / delta - 2.0 * term.alpha * from_epsilon;
            let in_t = t / tau - 2.0 * term.beta * from_gamma;
            self.value += base;
            self.d += base * in_d;
            self.dd += base * (in_d * in_d - d / (delta * delta) - 2.0 * term.alpha);
            self.t += base * in_t;
            self.tt += base * (in_t * in_t - t / (tau * tau) - 2.0 * term.beta);
            self.dt += base * in_d * in_t;
        }
    }
}
