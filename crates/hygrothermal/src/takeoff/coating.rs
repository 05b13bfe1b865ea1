//! Coatings and repellents.

use crate::quantity::{Area, Factor, SpreadRate};

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
