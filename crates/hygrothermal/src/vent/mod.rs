//! Openings, fans and ducts.

mod area;
mod balance;
mod duct;
mod exhaust;
mod stack;

/// Kinematic viscosity of air near room temperature, m²/s.
const AIR_VISCOSITY: f64 = 15.2e-6;
/// Reynolds number under which the flow in a duct is smooth.
const LAMINAR: f64 = 2300.0;

pub use area::{
    AtticRatio, AtticVents, Balance, CrawlVents, VentCover, attic_vents, crawl_vents, net_free_area, sealed_crawl,
    suspended_floor_area, vent_cover, vent_covers,
};
pub use balance::{CrossFlow, HighVent, Openings, high_vents_compete};
pub use duct::{Duct, DuctCourse, DuctWall, Exhaust, ExhaustError};
pub use exhaust::{BathExhaust, DuctRun, Fitting, Lining, bath_exhaust};
pub use stack::{opening_flow, stack_pressure};
