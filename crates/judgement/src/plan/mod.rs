//! What to do about it, in the right order, and what each step still waits for.
//!
//! The tables (`data/fixes.toml`, `data/gates.toml`, `data/schools.toml`) say when a fix belongs into a plan, what must be
//! measured before it may be done, and where practitioners disagree. Nothing here can be ticked open: a gate opens when what
//! is known satisfies it.

mod condition;
mod school;
mod steps;
mod table;

pub use condition::{Condition, Limit};
pub use school::{Choices, Question, School, default, question, questions};
pub use steps::{Plan, Refused, Situation, Step, Unmet, plan};
pub use table::{Applies, Fix, Forbidden, Gate, Need, Phase, Stage, Worker, fix, fixes, forbidden, gate, gates};
