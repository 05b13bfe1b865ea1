//! What the command is made of, so that tests can start the same parts.

pub mod cluster;
pub mod demo;
pub mod exchange;
pub mod outside;
pub mod press;
pub mod read_log;
pub mod settings;
pub mod stand_in;
mod teller;
