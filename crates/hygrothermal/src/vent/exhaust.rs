//! Fans for wet rooms and the friction of their ducts.

use super::{AIR_VISCOSITY, LAMINAR};
use crate::air::MoistAir;
use crate::quantity::{AirFlow, Diameter, Length};
use std::f64::consts::PI;

/// Airflow a bathroom needs (ASHRAE 62.2, from memory).
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum BathExhaust {
    /// Switched on while the room is used: 50 cfm.
    OnDemand,
    /// Running all the time: 20 cfm.
    Continuous,
}

/// The airflow, m³/s.
#[must_use]
pub const fn bath_exhaust(kind: BathExhaust) -> AirFlow {
    match kind {
        BathExhaust::OnDemand => AirFlow::const_checked(0.023_597),
        BathExhaust::Continuous => AirFlow::const_checked(0.009_439),
    }
}

/// The inside of a duct and its roughness.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Lining {
    /// Rigid sheet metal, 0.09 mm (typical value, from memory).
    SmoothMetal,
    /// Flexible duct pulled straight, 0.9 mm (typical value, from memory).
    FlexStretched,
    /// Flexible duct left slack, 4 mm (typical value, from memory).
    FlexSlack,
}

impl Lining {
    const fn roughness(self) -> f64 {
        match self {
            Self::SmoothMetal => 0.09e-3,
            Self::FlexStretched => 0.9e-3,
            Self::FlexSlack => 4.0e-3,
        }
    }
}

/// Bends and ends, by how many velocity pressures they cost (typical values, from memory).
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Fitting {
    /// Right-angle bend.
    Bend90,
    /// Half of that.
    Bend45,
    /// Roof or wall terminal with a flap.
    TerminalWithFlap,
}

impl Fitting {
    const fn loss(self) -> f64 {
        match self {
            Self::Bend90 => 0.75,
            Self::Bend45 => 0.35,
            Self::TerminalWithFlap => 2.5,
        }
    }
}

/// A run of duct with its fittings.
#[derive(Debug, Clone, PartialEq)]
pub struct DuctRun {
    /// Inside diameter.
    pub diameter: Diameter,
    /// Straight length.
    pub length: Length,
    /// What it is made of.
    pub lining: Lining,
    /// Bends and terminal.
    pub fittings: Vec<Fitting>,
}

impl DuctRun {
    fn speed(&self, flow: AirFlow) -> f64 {
        let d = self.diameter.get();
        flow.get() / (PI / 4.0 * d * d)
    }

    /// Darcy friction factor: 64/Re when smooth, else Haaland 1983 (from memory).
    fn friction(&self, flow: AirFlow) -> f64 {
        let d = self.diameter.get();
        let re = self.speed(flow) * d / AIR_VISCOSITY;
        if re < LAMINAR {
            return 64.0 / re.max(1.0);
        }
        let inner = (self.lining.roughness() / d / 3.7).powf(1.11) + 6.9 / re;
        (-1.8 * inner.log10()).powi(-2)
    }

    /// Straight length that would cost as much as the run with its fittings, m: L + Σζ D/f.
    #[must_use]
    pub fn equivalent_length(&self, flow: AirFlow) -> f64 {
        let losses: f64 = self.fittings.iter().map(|f| f.loss()).sum();
        self.length.get() + losses * self.diameter.get() / self.friction(flow)
    }

    /// Pressure the fan must give, Pa: f L_eq/D · ρ v²/2 (Darcy–Weisbach).
    #[must_use]
    pub fn pressure_drop(&self, flow: AirFlow, air: &MoistAir) -> f64 {
        let v = self.speed(flow);
        self.friction(flow) * self.equivalent_length(flow) / self.diameter.get() * air.density() * v * v / 2.0
    }
}
