//! What to do about it, in the right order, and what each step still waits for.
//!
//! The tables (`data/fixes.toml`, `data/gates.toml`, `data/schools.toml`) say when a fix belongs into a plan, what must be
//! measured before it may be done, and where practitioners disagree. Nothing here can be ticked open: a gate opens when what
//! is known satisfies it.

mod condition;
mod follow_up;
mod price;
mod school;
mod size;
mod steps;
mod table;

pub use condition::{Condition, Limit, figure_name};
pub use follow_up::{Day, FollowUp, follow_up, follow_ups};
pub use price::{Cost, CostLine, Item, Prices, Total, item, items};
pub use school::{Choices, Question, School, default, question, questions};
pub use size::{
    BothSides, FigureOrigin, Found, Given, Measure, Need as Material, Pick, SameSum, SideOf, Site, Sizing, both_sides,
    size,
};
pub use steps::{Plan, Refused, Situation, Step, Unmet, plan};
pub use table::{Applies, Fix, Forbidden, Gate, Need, Phase, Stage, Worker, fix, fixes, forbidden, gate, gates};
