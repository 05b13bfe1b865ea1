//! The drawn cut through a building: geometry computed here, drawn by the template.

mod draw;
mod ladder;
mod layout;

pub use draw::{Drawing, draw};
