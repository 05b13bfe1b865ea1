//! Net free areas of vents: how much is needed, how much is there, and whether it is balanced.

use crate::quantity::{AirFlow, Area, DailyWater, Length};
use crate::table::rows;
use serde::Deserialize;
use std::sync::LazyLock;

/// What floor area is divided by to give an attic's net free area (IRC R806, from memory).
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum AtticRatio {
    /// 1/150 of the floor.
    R150,
    /// 1/300, with 40 to 50 % of it high and, in cold zones, a retarder on the warm side.
    R300,
}

impl AtticRatio {
    /// The divisor.
    #[must_use]
    pub const fn divisor(self) -> f64 {
        match self {
            Self::R150 => 150.0,
            Self::R300 => 300.0,
        }
    }
}

/// How the high vents compare with the low ones.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Balance {
    /// 40 to 50 % high.
    Balanced,
    /// More than half high: the ridge draws from the house instead of the eaves.
    TopHeavy,
    /// Less than 40 % high: air is let in but not out.
    BottomHeavy,
}

/// An attic's vents against what is required.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct AtticVents {
    /// Net free area required, m².
    pub required: f64,
    /// Part of the area given that is high, 0 to 1; `None` unless both are known and not both nothing.
    pub high_share: Option<f64>,
    /// Whether the requirement is met; `None` unless both areas are known.
    pub met: Option<bool>,
    /// How they are balanced, where known.
    pub balance: Option<Balance>,
}

/// Compares an attic's net free area with the requirement (IRC R806, from memory).
#[must_use]
pub fn attic_vents(floor: Area, ratio: AtticRatio, high: Option<Area>, low: Option<Area>) -> AtticVents {
    let required = floor.get() / ratio.divisor();
    let Some((high, low)) = high.zip(low).map(|(h, l)| (h.get(), l.get())) else {
        return AtticVents { required, high_share: None, met: None, balance: None };
    };
    let total = high + low;
    let high_share = (total > 0.0).then(|| high / total);
    let balance = high_share.map(|share| match share {
        s if s > 0.5 + 1e-9 => Balance::TopHeavy,
        s if s < 0.4 - 1e-9 => Balance::BottomHeavy,
        _ => Balance::Balanced,
    });
    let split = ratio == AtticRatio::R150 || balance == Some(Balance::Balanced);
    let enough = total >= required * (1.0 - 1e-9);
    AtticVents { required, high_share, met: Some(enough && split), balance }
}

/// Vents of a vented crawl space.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct CrawlVents {
    /// Net free area required, m².
    pub required: f64,
    /// Farthest a vent may be from each corner, m.
    pub corner_distance: f64,
}

/// Crawl space net free area: floor/150, or /1500 over a class I ground cover; a vent within 0.9 m of each corner (IRC
/// R408, from memory).
#[must_use]
pub fn crawl_vents(floor: Area, covered_ground: bool) -> CrawlVents {
    let divisor = if covered_ground { 1500.0 } else { 150.0 };
    CrawlVents { required: floor.get() / divisor, corner_distance: 0.9 }
}

/// Air bricks of a suspended timber floor, m² net: 1500 mm² per m of wall or 500 mm² per m² of floor, the larger (UK
/// guidance, from memory).
#[must_use]
pub fn suspended_floor_area(wall: Length, floor: Area) -> f64 {
    (1500e-6 * wall.get()).max(500e-6 * floor.get())
}

/// What keeps a sealed crawl space dry, any one of the three (IRC R408.3, from memory): conditioned air or continuous
/// exhaust of 1 cfm per 50 ft², or a dehumidifier of 70 pint/day per 1000 ft².
#[must_use]
pub fn sealed_crawl(floor: Area) -> (Option<AirFlow>, Option<DailyWater>) {
    const CFM_PER_50_FT2: f64 = 0.000_471_947_443_2 / (50.0 * 0.092_903_04);
    const PINTS_PER_1000_FT2: f64 = 70.0 * 0.473_176_473 / (1000.0 * 0.092_903_04);
    (AirFlow::new(floor.get() * CFM_PER_50_FT2).ok(), DailyWater::new(floor.get() * PINTS_PER_1000_FT2).ok())
}

/// What covers an opening and takes away from it.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct VentCover {
    /// Stable id.
    pub id: String,
    /// What it is.
    pub name: String,
    /// Net free part of the gross opening, 0 to 1.
    pub free: f64,
    /// Where the figure comes from.
    pub source: String,
}

static COVERS: LazyLock<Vec<VentCover>> = LazyLock::new(|| rows(include_str!("../../data/vent_covers.toml")));

/// All covers of the library.
#[must_use]
pub fn vent_covers() -> &'static [VentCover] {
    &COVERS
}

/// A cover by its id.
#[must_use]
pub fn vent_cover(id: &str) -> Option<&'static VentCover> {
    COVERS.iter().find(|c| c.id == id)
}

/// Net free area (m²) of a gross opening behind its covers, one after the other.
#[must_use]
pub fn net_free_area(gross: Area, covers: &[&VentCover]) -> f64 {
    covers.iter().fold(gross.get(), |area, cover| area * cover.free)
}
