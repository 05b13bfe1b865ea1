//! One module a page: thin handlers that parse, ask the store and the core, and render.

pub mod job;
pub mod office;
mod parcels;
pub mod shared;
