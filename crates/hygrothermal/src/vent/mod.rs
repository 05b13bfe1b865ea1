//! Openings, fans and ducts.

mod area;
mod balance;
mod duct;
mod exhaust;
mod stack;

pub use area::{
    AtticRatio, AtticVents, Balance, CrawlVents, VentCover, attic_vents, crawl_vents, net_free_area, sealed_crawl,
    suspended_floor_area, vent_cover, vent_covers,
};
pub use balance::{CrossFlow, HighVent, Openings, high_vents_compete};
pub use duct::{Duct, DuctCourse, DuctWall, Exhaust, ExhaustError};
pub use exhaust::{BathExhaust, DuctRun, Fitting, Lining, bath_exhaust};
pub use stack::{opening_flow, stack_pressure};
