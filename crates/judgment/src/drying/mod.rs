//! Drying after wetting: when each point is done and why one is not, what the machines do, and whether a cavity may be closed in.

mod air;
mod close;
mod cost;
mod point;

pub use air::{
    Better, DRIER, MachineCase, MachineSaid, NoAiring, TentSaid, Turn, Units, WORKS, Ways, capacity, machine, tent,
    units, ways,
};
pub use close::{Lack, PointClose, lacks};
pub use cost::{Cost, so_far, to_go};
pub use point::{Holds, PointCase, PointRead, PointSaid, Reason, State, Surround, point};

use building::drying::DryScale;
use serde::Deserialize;
use std::sync::LazyLock;

/// A material that is dried in place.
#[derive(Debug, Clone, PartialEq, Eq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct DryMaterial {
    /// Stable id.
    pub id: String,
    /// What it is.
    pub name: String,
    /// What its meter shows.
    pub scale: DryScale,
    /// Whether it settles with the humidity of the air as wood does.
    #[serde(default)]
    pub wood: bool,
    /// Id of the wood pins are usually read in.
    #[serde(default)]
    pub species: String,
    /// Whether salts or metal in it are known to fool meters.
    #[serde(default)]
    pub salts: bool,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    material: Vec<DryMaterial>,
}

#[allow(clippy::expect_used, reason = "the table is compiled in and read by a test")]
static TABLE: LazyLock<Vec<DryMaterial>> = LazyLock::new(|| {
    toml::from_str::<File>(include_str!("../../data/drying.toml")).expect("drying.toml is well formed").material
});

/// Every material, in the order offered.
#[must_use]
pub fn materials() -> &'static [DryMaterial] {
    &TABLE
}

/// The material with this id.
#[must_use]
pub fn material(id: &str) -> Option<&'static DryMaterial> {
    TABLE.iter().find(|m| m.id == id)
}
