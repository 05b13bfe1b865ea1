//! A coating or sealing job: what is coated with what, when the product's sheet lets it, and what was read before and after.

use crate::kinds;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// Most coatings of a job, and most places read before and after.
pub const MOST_COATINGS: usize = 30;
/// Most places.
pub const MOST_PLACES: usize = 40;

kinds! {
    /// What is coated.
    Substrate {
        /// Concrete block.
        Block = "block", "concrete block";
        /// Brick.
        Brick = "brick", "brick";
        /// Poured concrete.
        Concrete = "concrete", "concrete";
        /// Stucco or render.
        Stucco = "stucco", "stucco or plaster";
        /// Wood.
        Wood = "wood", "wood";
        /// Joints, not a face.
        Joint = "joint", "joints and cracks";
    }
}

impl Substrate {
    /// What a liter covers once, m² (block: common practice for a 1:4 repellent; the others from memory): the label goes before it.
    #[must_use]
    pub const fn usual_spread(self) -> f64 {
        match self {
            Self::Block => 7.9,
            Self::Brick => 6.0,
            Self::Concrete | Self::Wood => 10.0,
            Self::Stucco => 5.0,
            Self::Joint => 20.0,
        }
    }

    /// How much more the first coat drinks than the others (ours: block walls drink more on the first coat, common practice).
    #[must_use]
    pub const fn usual_first(self) -> f64 {
        match self {
            Self::Block | Self::Stucco => 1.3,
            Self::Brick => 1.15,
            Self::Concrete | Self::Wood | Self::Joint => 1.0,
        }
    }
}

/// What a product's sheet asks for.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ProductLimits {
    /// Least and highest temperature of the surface, °C.
    pub surface: [f64; 2],
    /// Highest relative humidity, %.
    pub rh: f64,
    /// Least distance above the dew point, K.
    pub above_dew: f64,
    /// Hours dry before, of work, dry after.
    pub hours: [u16; 3],
    /// Highest figure of the substrate on its meter; none where the sheet has none.
    pub moisture: Option<f64>,
    /// Wet on wet: the second coat from and until so many minutes after the first.
    pub again: [u16; 2],
}

impl Default for ProductLimits {
    /// Common practice.
    fn default() -> Self {
        Self { surface: [10.0, 35.0], rh: 85.0, above_dew: 3.0, hours: [24, 4, 24], moisture: None, again: [5, 30] }
    }
}

/// A place read before and after with the same meter.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct PairedPlace {
    /// Where.
    pub name: String,
    /// What the meter showed before.
    pub before: f64,
    /// And after.
    pub after: Option<f64>,
}

/// A coating.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct CoatingJob {
    /// Identity.
    pub id: Uuid,
    /// What it is called.
    pub name: String,
    /// The boundary.
    pub boundary_id: Option<Uuid>,
    /// Whether it is done from outdoors, in the weather.
    pub outdoors: bool,
    /// What it is of.
    pub substrate: Substrate,
    /// What is put on.
    pub product: String,
    /// Area, m², where it is not the boundary's.
    pub area_m2: Option<f64>,
    /// Coats.
    pub coats: u8,
    /// What a liter covers once, m².
    pub spread: f64,
    /// How much more the first coat drinks.
    pub first: f64,
    /// Parts of concentrate and water; none where it is ready to use.
    pub parts: Option<[f64; 2]>,
    /// What it is mixed in, L.
    pub jar_l: f64,
    /// What it is sold in, L.
    pub pack_l: Option<f64>,
    /// What its sheet asks for.
    pub limits: ProductLimits,
    /// How much warmer than the air the surface is, K.
    pub warmer: f64,
    /// Dry since, milliseconds since 1970: rain before the forecast begins.
    pub dry_since: Option<i64>,
    /// The first coat went on, milliseconds since 1970.
    pub first_coat: Option<i64>,
    /// What the substrate's meter shows now.
    pub moisture: Option<f64>,
    /// Places read before and after.
    pub places: Vec<PairedPlace>,
    /// Liters a day of the dehumidifier before and after.
    pub liters: [Option<f64>; 2],
    /// What it takes out for a kWh, L.
    pub efficiency: f64,
    /// Days a year it runs.
    pub days: u16,
}
