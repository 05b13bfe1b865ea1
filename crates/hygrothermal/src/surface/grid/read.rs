//! What a picture says of the room it was taken in.

use super::ThermalGrid;
use super::patch::Patch;
use crate::air::{MoistAir, dew_point};
use crate::quantity::{Measured, Temperature};
use crate::surface::{MOLD_RH, TemperatureFactor, temperature_factor};

/// Inside and outside must differ by this much for a picture to show a construction, K (common practice).
const CONTRAST: f64 = 10.0;
/// A picture whose cells differ by less shows nothing, K.
const ALIKE: f64 = 0.3;
/// A wet patch cannot be colder than the room's wet bulb by more than the instruments' error, K.
pub const BELOW_WET_BULB: f64 = 0.5;
/// A cell beyond both airs by more is no construction between them, K.
const BEYOND: f64 = 2.0;

/// The air a picture was taken in.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Room {
    /// The room's air.
    pub air: MoistAir,
    /// Outdoor temperature at the time.
    pub outdoor: Option<Temperature>,
    /// Outdoor temperature of the coldest night.
    pub design: Option<Temperature>,
}

/// A cell of a picture.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Spot {
    /// Row, counted from 0 at the top.
    pub row: usize,
    /// Column, counted from 0 at the left.
    pub column: usize,
    /// Temperature there, °C.
    pub celsius: f64,
}

/// What makes a picture say less than it seems to.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum GridWarning {
    /// The outdoor temperature is not known.
    NoOutdoor,
    /// Inside and outside are within 10 K.
    LowContrast,
    /// All cells within 0.3 K.
    AllCellsAlike,
    /// The coldest cell lies over 0.5 K under the room's wet bulb: evaporation alone cannot cool so far.
    NotEvaporation,
    /// Cells over 2 K colder or warmer than both airs: a reflection, the sun, a device.
    OutsideBoth,
}

impl GridWarning {
    /// Stable id.
    #[must_use]
    pub const fn id(self) -> &'static str {
        match self {
            Self::NoOutdoor => "no_outdoor",
            Self::LowContrast => "low_contrast",
            Self::AllCellsAlike => "all_cells_alike",
            Self::NotEvaporation => "not_evaporation",
            Self::OutsideBoth => "outside_both",
        }
    }
}

/// A picture read against air. Figures are `None` where no cell was read.
#[derive(Debug, Clone, PartialEq)]
pub struct GridReading {
    /// Cells that were read.
    pub read: usize,
    /// Mean of the cells, °C.
    pub mean: Option<f64>,
    /// The coldest cell; the first of equals.
    pub coldest: Option<Spot>,
    /// The warmest cell; the first of equals.
    pub warmest: Option<Spot>,
    /// The room's dew point; `None` for air without vapor.
    pub dew: Option<Temperature>,
    /// Surface temperature at which its own RH is 80 %.
    pub mold: Option<Temperature>,
    /// Share of the read cells at or under the dew point, 0 to 1.
    pub wet_share: Option<f64>,
    /// Share of the read cells at or under the 80 % line, the wet ones among them, 0 to 1.
    pub mold_share: Option<f64>,
    /// Connected patches at or under the 80 % line, largest first, then by their first cell.
    pub patches: Vec<Patch>,
    /// Temperature factor of the coldest cell; `None` under 5 K between inside and outside.
    pub factor: Option<TemperatureFactor>,
    /// The coldest cell on the coldest night, °C.
    pub design: Option<f64>,
    /// What to mind.
    pub warnings: Vec<GridWarning>,
}

impl ThermalGrid {
    /// Reads the picture against the room's air: surface RH = p_v / p_sat(T) in each cell (ISO 13788:2012 criterion).
    ///
    /// # Examples
    /// ```
    /// # use hygrothermal::air::{MoistAir, Over};
    /// # use hygrothermal::quantity::{Pressure, RelativeHumidity, Temperature};
    /// # use hygrothermal::surface::{Room, ThermalGrid};
    /// # let (t, rh) = (Temperature::new(20.0)?, RelativeHumidity::new(50.0)?);
    /// # let air = MoistAir::from_rh(t, rh, Over::Water, Pressure::STANDARD)?;
    /// let picture = ThermalGrid::from_rows([[Some(18.0), Some(8.0)], [Some(17.0), Some(11.0)]])?;
    /// let said = picture.read(&Room { air, outdoor: None, design: None });
    /// assert_eq!((said.wet_share, said.mold_share), (Some(0.25), Some(0.5)));
    /// assert_eq!(said.patches.len(), 1);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn read(&self, room: &Room) -> GridReading {
        let dew = room.air.dew_point();
        let mold = dew_point(100.0 * room.air.vapor_pressure() / MOLD_RH);
        let (mut read, mut sum, mut wet, mut damp) = (0_usize, 0.0, 0_usize, 0_usize);
        let line = |t: Option<Temperature>| t.map_or(f64::NEG_INFINITY, Temperature::get);
        let (wet_line, mold_line) = (line(dew), line(mold));
        let (mut coldest, mut warmest) = (0, 0);
        for (i, &cell) in self.cells.iter().enumerate().filter(|(_, c)| !c.is_nan()) {
            if read == 0 {
                (coldest, warmest) = (i, i);
            }
            read += 1;
            sum += cell;
            wet += usize::from(cell <= wet_line);
            damp += usize::from(cell <= mold_line);
            coldest = if cell < self.cells[coldest] { i } else { coldest };
            warmest = if cell > self.cells[warmest] { i } else { warmest };
        }
        let any = read > 0;
        let share = |cells: usize| any.then(|| cells as f64 / read as f64);
        let coldest = any.then(|| self.spot(coldest));
        let warmest = any.then(|| self.spot(warmest));
        let factor = coldest.zip(room.outdoor).and_then(|(spot, outdoor)| {
            let exact = Measured::exact;
            temperature_factor(exact(spot.celsius), exact(room.air.temperature().get()), exact(outdoor.get()))
        });
        GridReading {
            read,
            mean: any.then(|| sum / read as f64),
            coldest,
            warmest,
            dew,
            mold,
            wet_share: share(wet),
            mold_share: share(damp),
            patches: self.patches(mold_line),
            factor,
            design: factor.zip(room.design).map(|(f, night)| f.surface_at(room.air.temperature(), night)),
            warnings: room.warnings(coldest.zip(warmest).map(|(low, high)| (low.celsius, high.celsius))),
        }
    }

    pub(super) fn spot(&self, index: usize) -> Spot {
        Spot { row: index / self.columns, column: index % self.columns, celsius: self.cells[index] }
    }
}

impl Room {
    /// What to mind of a picture whose cells lie between two temperatures.
    fn warnings(&self, span: Option<(f64, f64)>) -> Vec<GridWarning> {
        let inside = self.air.temperature().get();
        let outdoor = self.outdoor.map(Temperature::get);
        let wet_bulb = self.air.wet_bulb().map(Temperature::get);
        let beyond = |(low, high): (f64, f64)| {
            outdoor.is_some_and(|out| low < inside.min(out) - BEYOND || high > inside.max(out) + BEYOND)
        };
        let all = [
            (GridWarning::NoOutdoor, outdoor.is_none()),
            (GridWarning::LowContrast, outdoor.is_some_and(|out| (inside - out).abs() < CONTRAST)),
            (GridWarning::AllCellsAlike, span.is_some_and(|(low, high)| high - low < ALIKE)),
            (GridWarning::NotEvaporation, span.zip(wet_bulb).is_some_and(|((low, _), wet)| low < wet - BELOW_WET_BULB)),
            (GridWarning::OutsideBoth, span.is_some_and(beyond)),
        ];
        all.into_iter().filter_map(|(warning, holds)| holds.then_some(warning)).collect()
    }
}
