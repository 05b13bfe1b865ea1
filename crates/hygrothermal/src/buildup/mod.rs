//! Build-ups: walls, roofs, floors and skins in layers, with heat and vapor going through them.

mod framing;
mod gap;
mod layer;
mod leak;
mod plane;
mod profile;
mod retarder;
mod taut;
mod year;

pub use framing::{Combined, Framed};
pub use gap::HeatFlow;
pub use layer::{BuildUp, BuildUpError, Layer, Sides};
pub use leak::leakage_condensate;
pub use plane::{PipeCover, insulation_beyond, least_outer_share};
pub use profile::{Condensation, Drying, Interface, Profile};
pub use retarder::RetarderClass;
pub use year::{Gain, Month, MonthResult, Year};

/// Surface films, m²K/W (ISO 6946; mold checks ISO 13788:2012).
pub mod film {
    use crate::quantity::ThermalResistance;

    /// Inside, heat flowing sideways.
    pub const WALL: ThermalResistance = ThermalResistance::const_checked(0.13);
    /// Inside, heat flowing up.
    pub const UP: ThermalResistance = ThermalResistance::const_checked(0.10);
    /// Inside, heat flowing down.
    pub const DOWN: ThermalResistance = ThermalResistance::const_checked(0.17);
    /// Outside, exposed to wind.
    pub const OUTSIDE: ThermalResistance = ThermalResistance::const_checked(0.04);
    /// Inside in corners and behind furniture: for mold checks.
    pub const MOLD: ThermalResistance = ThermalResistance::const_checked(0.25);
}
