//! Coatings and repellents.

use crate::air::MoistAir;
use crate::quantity::{Area, Factor, SpreadRate, Temperature};

/// Coldest surface most masonry coatings take, °C (common practice: 50 °F).
const COLDEST: f64 = 10.0;

/// Concentrate and water in parts.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Dilution {
    /// Parts of concentrate.
    pub concentrate: Factor,
    /// Parts of water.
    pub water: Factor,
}

/// A surface to be coated.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Coating {
    /// Its area.
    pub area: Area,
    /// How many coats.
    pub coats: u32,
    /// What one liter covers once.
    pub spread: SpreadRate,
    /// Where it is mixed from a concentrate.
    pub dilution: Option<Dilution>,
}

/// What to buy and mix, L.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct CoatingNeed {
    /// Ready to use.
    pub liters: f64,
    /// Concentrate and water in it, where it is mixed.
    pub parts: Option<(f64, f64)>,
}

impl Coating {
    /// Area × coats / spread rate, split by parts; `parts` is `None` too when both parts are 0.
    #[must_use]
    pub fn need(&self) -> CoatingNeed {
        let liters = self.area.get() * f64::from(self.coats) / self.spread.get();
        let parts = self.dilution.and_then(|d| {
            let (c, w) = (d.concentrate.get(), d.water.get());
            (c + w > 0.0).then(|| (liters * c / (c + w), liters * w / (c + w)))
        });
        CoatingNeed { liters, parts }
    }
}

/// Whether a surface can be coated now.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum CoatingWindow {
    /// Warm enough and above the dew point.
    Open,
    /// Colder than 10 °C.
    TooCold,
    /// At or below the dew point of the air: there is water on it.
    Wet,
}

/// Looks at surface and air (common practice: surface 10 °C or more, clean and dry).
#[must_use]
pub fn coating_window(surface: Temperature, air: &MoistAir) -> CoatingWindow {
    if air.dew_point().is_some_and(|dew| surface <= dew) {
        CoatingWindow::Wet
    } else if surface.get() < COLDEST {
        CoatingWindow::TooCold
    } else {
        CoatingWindow::Open
    }
}
