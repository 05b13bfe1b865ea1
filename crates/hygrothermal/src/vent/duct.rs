//! A duct through a cold space: how long it sweats, and how much.

use super::{AIR_VISCOSITY, LAMINAR};
use crate::air::{HEAT_CAPACITY_DRY_AIR, HEAT_CAPACITY_VAPOR, MoistAir};
use crate::quantity::{
    AirFlow, ArealMass, Diameter, HeatCapacity, Length, Minutes, Pressure, Temperature, ThermalResistance,
};
use std::f64::consts::PI;
use std::fmt;

/// Conductivity (W/(m·K)) and Prandtl number of air near room temperature.
const AIR_CONDUCTIVITY: f64 = 0.0257;
const AIR_PRANDTL: f64 = 0.71;
/// Film outside the duct or its cover, W/(m²K) (common practice).
const OUTER_FILM: f64 = 10.0;
/// Nusselt number of smooth flow.
const LAMINAR_NUSSELT: f64 = 3.66;
/// The run is cut into this many slices.
const SLICES: usize = 200;
/// Steps in one time constant of the wall, at most in the time asked for, and before they are made twice as long.
const STEPS_PER_TAU: f64 = 100.0;
const MOST_STEPS: f64 = 40_000.0;
const DOUBLE_AFTER: u32 = 20_000;
/// A wall that has not cleared after this time (s) is said never to.
const GIVE_UP: f64 = 86_400.0;

/// The shell of a duct.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct DuctWall {
    /// Mass per area.
    pub mass: ArealMass,
    /// Specific heat capacity.
    pub heat: HeatCapacity,
    /// Insulation around it.
    pub insulation: ThermalResistance,
}

/// A duct.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Duct {
    /// Inside diameter.
    pub diameter: Diameter,
    /// Length of the run.
    pub length: Length,
    /// Its shell.
    pub wall: DuctWall,
}

/// Damp air blown through a duct that lies in the cold and starts as cold as its surroundings.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Exhaust {
    air: MoistAir,
    around: Temperature,
    flow: AirFlow,
    duct: Duct,
}

/// Why nothing flows.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ExhaustError {
    /// No airflow.
    NoFlow,
    /// No length.
    NoLength,
}

impl fmt::Display for ExhaustError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            Self::NoFlow => "airflow must be above 0 m³/s, got 0",
            Self::NoLength => "length must be above 0 m, got 0",
        })
    }
}

impl std::error::Error for ExhaustError {}

/// What happens in a duct from the moment the fan starts.
#[derive(Debug, Clone, PartialEq)]
pub struct DuctCourse {
    /// Temperature of the wall at the outlet in the end, °C.
    pub steady_end: f64,
    /// Minutes until the outlet wall is above the air's dew point; `None` if it never is.
    pub minutes_to_clear: Option<f64>,
    /// Water left on the wall within the time asked for, mL.
    pub condensate_ml: f64,
    /// Wall temperatures along the run at the end of that time, °C, inlet first, equally spaced.
    pub wall: Vec<f64>,
}

impl Exhaust {
    /// Damp `air` at `flow` (measured at its own state) through `duct` lying in air at `around`.
    ///
    /// # Errors
    /// [`ExhaustError`] without flow or length.
    pub fn new(air: MoistAir, around: Temperature, flow: AirFlow, duct: Duct) -> Result<Self, ExhaustError> {
        if flow.get() <= 0.0 {
            return Err(ExhaustError::NoFlow);
        }
        if duct.length.get() <= 0.0 {
            return Err(ExhaustError::NoLength);
        }
        Ok(Self { air, around, flow, duct })
    }

    /// Dry air carried, kg/s.
    fn dry_flow(&self) -> f64 {
        self.flow.get() / self.air.specific_volume()
    }

    /// Heat capacity of the air with its vapor, J/(K·kg of dry air).
    fn capacity(&self) -> f64 {
        HEAT_CAPACITY_DRY_AIR + HEAT_CAPACITY_VAPOR * self.air.humidity_ratio()
    }

    /// Film inside the duct, W/(m²K).
    ///
    /// # Formula
    /// Gnielinski: Nu = (f/8)(Re − 1000) Pr/(1 + 12.7 √(f/8) (Pr^(2/3) − 1)), f = (0.79 ln Re − 1.64)⁻²; 3.66 under
    /// Re 2300. Source: Gnielinski 1976, Petukhov friction, from memory.
    #[must_use]
    pub fn inner_film(&self) -> f64 {
        let d = self.duct.diameter.get();
        let speed = self.flow.get() / (PI / 4.0 * d * d);
        let re = speed * d / AIR_VISCOSITY;
        let nusselt = if re < LAMINAR {
            LAMINAR_NUSSELT
        } else {
            let f8 = (0.79 * re.ln() - 1.64).powi(-2) / 8.0;
            f8 * (re - 1000.0) * AIR_PRANDTL / (1.0 + 12.7 * f8.sqrt() * (AIR_PRANDTL.powf(2.0 / 3.0) - 1.0))
        };
        nusselt * AIR_CONDUCTIVITY / d
    }

    /// From wall to surroundings, W/(m²K).
    fn outer(&self) -> f64 {
        1.0 / (self.duct.wall.insulation.get() + 1.0 / OUTER_FILM)
    }

    /// Transfer units of a film (W/(m²K)) over a length (m) of the run.
    fn transfer_units(&self, film: f64, length: f64) -> f64 {
        film * PI * self.duct.diameter.get() * length / (self.dry_flow() * self.capacity())
    }

    /// Wall temperature (°C) a share (0 to 1) of the way along the run once nothing changes any more.
    ///
    /// # Formula
    /// T_air(x) = T_a + (T_0 − T_a) e^(−NTU x/L) with 1/U = 1/h_i + R + 1/h_e; the wall divides the drop as U/U_outer.
    #[must_use]
    pub fn steady_wall(&self, share: f64) -> f64 {
        let (inner, outer) = (self.inner_film(), self.outer());
        let through = 1.0 / (1.0 / inner + 1.0 / outer);
        let span = self.air.temperature().above(self.around).get();
        let units = self.transfer_units(through, self.duct.length.get() * share);
        self.around.get() + span * (-units).exp() * through / outer
    }

    /// Runs the fan for `minutes`.
    ///
    /// # Method
    /// The run is cut into slices, each with a lumped wall that starts at the surroundings' temperature; the air passes
    /// them quasi-steadily. Vapor settles by the Lewis relation (Le = 1: mass transfer units equal heat transfer
    /// units) and is taken out of the air; latent heat does not warm the wall and nothing evaporates again. The wall's
    /// own equation is solved exactly in each step, so that no step is too long to be stable.
    #[must_use]
    pub fn run(&self, minutes: Minutes) -> DuctCourse {
        let asked = minutes.get() * 60.0;
        let steady_end = self.steady_wall(1.0);
        let clears = self.air.dew_point().is_none_or(|dew| steady_end > dew.get());
        let mut march = March::new(self, asked);
        march.until(asked);
        let wall = march.wall.clone();
        let condensate_ml = march.condensate * 1000.0;
        if clears && march.cleared.is_none() {
            march.until(GIVE_UP.max(asked));
        }
        DuctCourse { steady_end, minutes_to_clear: march.cleared.map(|s| s / 60.0), condensate_ml, wall }
    }
}

/// The state of the run as time goes on.
struct March {
    /// Humidity ratio of saturated air from the surroundings to the dew point.
    saturated: Saturated,
    dew: f64,
    inlet: f64,
    inlet_ratio: f64,
    around: f64,
    /// Part of the way to the wall's temperature (and vapor) that the air goes in one slice.
    reach: f64,
    /// Share of the inlet side in the wall's balance.
    pull: f64,
    tau: f64,
    step: f64,
    steps: u32,
    dry_flow: f64,
    wall: Vec<f64>,
    time: f64,
    condensate: f64,
    /// When the outlet passed the dew point, s.
    cleared: Option<f64>,
}

impl March {
    fn new(exhaust: &Exhaust, asked: f64) -> Self {
        let slice = exhaust.duct.length.get() / SLICES as f64;
        let (inner, outer) = (exhaust.inner_film(), exhaust.outer());
        let units = exhaust.transfer_units(inner, slice);
        let reach = -(-units).exp_m1();
        // What the wall takes per kelvin against the slice's inlet, from the air's own balance.
        let taken = inner * reach / units;
        let storage = exhaust.duct.wall.mass.get() * exhaust.duct.wall.heat.get();
        let tau = storage / (taken + outer);
        let around = exhaust.around.get();
        let dew = exhaust.air.dew_point().map_or(f64::NEG_INFINITY, Temperature::get);
        Self {
            saturated: Saturated::between(around, dew),
            dew,
            inlet: exhaust.air.temperature().get(),
            inlet_ratio: exhaust.air.humidity_ratio(),
            around,
            reach,
            pull: taken / (taken + outer),
            tau,
            step: (tau / STEPS_PER_TAU).max(asked.max(60.0) / MOST_STEPS),
            steps: 0,
            dry_flow: exhaust.dry_flow(),
            wall: vec![around; SLICES],
            time: 0.0,
            condensate: 0.0,
            cleared: (around > dew).then_some(0.0),
        }
    }

    /// Goes on to a time (s), or past it as soon as the outlet has cleared when that time was asked for already.
    fn until(&mut self, end: f64) {
        while self.time < end {
            // A long run with hardly any flow settles slowly: its steps grow, so that no request takes forever.
            self.steps += 1;
            if self.steps.is_multiple_of(DOUBLE_AFTER) {
                self.step *= 2.0;
            }
            let step = self.step.min(end - self.time);
            let before = self.wall[SLICES - 1];
            let (moved, settled) = self.advance(step);
            self.time += step;
            self.condensate += settled * step;
            self.note_clearing(before, step);
            if moved < 1e-9 {
                // Nothing changes any more: the rest of the time is one long step.
                self.condensate += settled * (end - self.time);
                self.time = end;
            }
        }
    }

    /// One step; answers the largest change of a wall (K) and the water settling (kg/s).
    fn advance(&mut self, step: f64) -> (f64, f64) {
        let keep = if self.tau > 0.0 { (-step / self.tau).exp() } else { 0.0 };
        let (mut air, mut ratio, mut moved, mut settled) = (self.inlet, self.inlet_ratio, 0.0_f64, 0.0);
        for wall in &mut self.wall {
            if *wall < self.dew {
                let at_wall = self.saturated.at(*wall);
                let loss = (ratio - at_wall).max(0.0) * self.reach;
                ratio -= loss;
                settled += loss * self.dry_flow;
            }
            let goal = self.around + self.pull * (air - self.around);
            air += (*wall - air) * self.reach;
            let next = goal + (*wall - goal) * keep;
            moved = moved.max((next - *wall).abs());
            *wall = next;
        }
        (moved, settled)
    }

    fn note_clearing(&mut self, before: f64, step: f64) {
        let now = self.wall[SLICES - 1];
        if self.cleared.is_none() && now > self.dew {
            let part = if now > before { (self.dew - before) / (now - before) } else { 0.0 };
            self.cleared = Some(self.time - step * (1.0 - part.clamp(0.0, 1.0)));
        }
    }
}

/// Saturated air between two temperatures, read off a table: a march asks for it in every slice of every step, and straight lines
/// over steps of a twentieth of a kelvin are right to a millionth.
struct Saturated {
    from: f64,
    nodes: Vec<f64>,
}

/// Step of the table, K.
const NODE: f64 = 0.05;

impl Saturated {
    fn between(from: f64, to: f64) -> Self {
        let steps = if to > from { ((to - from) / NODE).ceil() as usize + 1 } else { 0 };
        Self { from, nodes: (0..=steps).map(|i| saturated_ratio(from + NODE * i as f64)).collect() }
    }

    /// Humidity ratio at a temperature; that at the nearer end outside of the table.
    fn at(&self, celsius: f64) -> f64 {
        let place = ((celsius - self.from) / NODE).max(0.0);
        let node = (place as usize).min(self.nodes.len() - 1);
        let next = (node + 1).min(self.nodes.len() - 1);
        self.nodes[node] + (self.nodes[next] - self.nodes[node]) * (place - node as f64).min(1.0)
    }
}

fn saturated_ratio(celsius: f64) -> f64 {
    Temperature::new(celsius)
        .ok()
        .and_then(|t| MoistAir::saturated(t, Pressure::STANDARD).ok())
        .map_or(f64::INFINITY, |air| air.humidity_ratio())
}
