//! The whole site over a real database, mostly through a real browser: one program, so that it is built once.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, missing_docs, reason = "tests")]

mod api;
mod budget;
mod build_ups;
mod coating;
mod command;
mod drying;
mod edge;
mod exchange;
mod harness;
mod hostile;
mod hours;
mod journey;
mod languages;
mod log;
mod offline;
mod passkeys;
mod people;
mod photos;
mod plan;
mod proof;
mod reports;
mod statements;
mod tenants;
mod thermal;
mod unfolded;
mod why;
