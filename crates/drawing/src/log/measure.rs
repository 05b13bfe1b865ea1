//! What a log is drawn in: the figure along its side.

use super::axis::Tick;
use crate::Px;
use notation::Show;
use notation::unit::{ABSOLUTE, Kind, RATIO};

building::kinds! {
    /// The figure along the side of a log.
    Measure {
        /// Dew point against surfaces, °C.
        Dew = "dew", "dew point";
        /// Relative humidity of air and at surfaces, %.
        Rh = "rh", "humidity";
        /// Humidity ratio, g/kg.
        Ratio = "ratio", "humidity ratio";
        /// What the air holds more than the outdoor air, g/m³.
        Excess = "excess", "moisture excess";
        /// Mold index, 0–6.
        Mold = "mold", "mold index";
    }
}

impl Measure {
    /// A figure in the reader's unit.
    #[must_use]
    pub fn shown(self, figure: f64, show: &Show) -> f64 {
        let of = |kind: &Kind| kind.shown(figure, show.units);
        match self {
            Self::Dew => show.scale(figure),
            Self::Ratio => of(&RATIO),
            Self::Excess => of(&ABSOLUTE),
            Self::Rh | Self::Mold => figure,
        }
    }

    /// The reader's unit.
    #[must_use]
    pub fn unit(self, show: &Show) -> &'static str {
        match self {
            Self::Dew => show.temperature_unit(),
            Self::Ratio => RATIO.unit(show.units).name(),
            Self::Excess => ABSOLUTE.unit(show.units).name(),
            Self::Rh => "%",
            Self::Mold => "0–6",
        }
    }

    /// Least room above and below what is drawn.
    pub(super) const fn room(self) -> f64 {
        match self {
            Self::Dew => 0.6,
            Self::Rh => 3.0,
            Self::Ratio | Self::Excess => 0.4,
            Self::Mold => 0.15,
        }
    }
}

/// Places a limit that lies in the field.
pub(super) fn limit(figure: Option<(f64, String)>, [low, high]: [f64; 2], y: impl Fn(f64) -> f64) -> Option<Tick> {
    let (figure, words) = figure?;
    (low..=high).contains(&figure).then(|| Tick { at: Px(y(figure)), words })
}
