//! Generic building materials.

mod catalogue;

pub use catalogue::{Material, Resists, material, materials};
