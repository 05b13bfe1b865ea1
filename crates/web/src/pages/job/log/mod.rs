//! The log: what loggers read between visits, and the files it was brought in from.

pub mod air;
pub mod airing;
pub mod alerts;
pub mod budget;
pub mod file;
pub mod files;
pub mod live;
pub mod marks;
pub mod readings;
pub mod reported;
mod sight;
pub mod view;
