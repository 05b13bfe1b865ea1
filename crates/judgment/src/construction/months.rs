//! The air on both sides of a boundary, month by month.

use crate::climate::{ClimateYear, DAYS};
use crate::hours::MoistureClass;
use building::{Boundary, Building, Side, SpaceKind, Weather};
use hygrothermal::air::{MoistAir, Over, saturation_pressure};
use hygrothermal::buildup::{Month, Sides};
use hygrothermal::quantity::{Days, Pressure, RelativeHumidity, Temperature};

/// Highest relative humidity a room is taken to reach, %.
const WETTEST_ROOM: f64 = 95.0;
/// Relative humidity over bare damp soil, % (common practice).
const OVER_SOIL: f64 = 90.0;

/// Outdoor air of each month.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Outdoors {
    /// Mean temperature, °C.
    pub celsius: [f64; 12],
    /// Mean vapor pressure, Pa.
    pub vapor: [f64; 12],
}

impl Outdoors {
    /// A climate's typical year.
    #[must_use]
    pub fn of(climate: &ClimateYear) -> Self {
        let vapor = |m: usize| climate.air(m).map_or(0.0, |a| a.vapor_pressure());
        Self { celsius: climate.t, vapor: std::array::from_fn(vapor) }
    }

    /// The months of a weather file.
    #[must_use]
    pub fn of_weather(weather: &Weather) -> Self {
        let [celsius, vapor] = weather.months();
        Self { celsius, vapor }
    }

    /// The same, all warmer or colder by some kelvin, at the same relative humidity.
    #[must_use]
    pub fn shifted(&self, kelvin: f64) -> Self {
        let sat = |t: f64| Temperature::new(t).map_or(f64::NAN, saturation_pressure);
        let celsius = self.celsius.map(|t| t + kelvin);
        let vapor = std::array::from_fn(|m| self.vapor[m] * sat(celsius[m]) / sat(self.celsius[m]));
        Self { celsius, vapor }
    }

    fn mean(&self) -> f64 {
        self.celsius.iter().sum::<f64>() / 12.0
    }

    /// Ground just below the surface, °C: half the air's swing, a month later (common practice).
    fn ground(&self, month: usize) -> f64 {
        self.mean() + 0.5 * (self.celsius[(month + 11) % 12] - self.mean())
    }
}

/// What stands around a boundary.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Around {
    /// What the space's air touches, and what lies beyond.
    sides: [Beside; 2],
    /// How much people and things add to the air of rooms.
    pub class: MoistureClass,
    /// That, times this: to see what a damper house would do.
    times: f64,
}

/// One side of a boundary.
#[derive(Debug, Clone, Copy, PartialEq)]
enum Beside {
    /// Air of a kind of space; whether damp soil lies bare in it.
    Space(SpaceKind, bool),
    /// The weather.
    Outdoors,
    /// Soil, as damp as can be.
    Ground,
}

/// What stands around a boundary of a building.
#[must_use]
pub fn around(building: &Building, boundary: &Boundary, class: MoistureClass) -> Around {
    let space = |id| {
        let soil = building.boundaries_of(id).any(|b| b.bare_soil);
        building.space(id).map_or(Beside::Outdoors, |s| Beside::Space(s.kind, soil))
    };
    let beyond = match boundary.beyond {
        Side::Space(id) => space(id),
        Side::Outdoors => Beside::Outdoors,
        Side::Ground => Beside::Ground,
    };
    Around { sides: [space(boundary.space_id), beyond], class, times: 1.0 }
}

impl Around {
    /// The same in a house so many times as damp.
    #[must_use]
    pub fn damper(&self, times: f64) -> Self {
        Self { times: self.times * times, ..*self }
    }

    /// Twelve months between these outdoors and the spaces; `None` where the outdoor air is none.
    #[must_use]
    pub fn months(&self, outdoors: &Outdoors) -> Option<[Month; 12]> {
        let month = |m: usize| {
            let [inside, outside] = self.sides;
            let sides = Sides { inside: self.air(inside, outdoors, m)?, outside: self.air(outside, outdoors, m)? };
            Some(Month { sides, days: Days::new(DAYS[m]).ok()? })
        };
        let months: Option<Vec<Month>> = (0..12).map(month).collect();
        months?.try_into().ok()
    }

    /// The same between outdoor air of one temperature at a month's humidity and the spaces.
    #[must_use]
    pub fn at(&self, outdoors: &Outdoors, month: usize, celsius: f64) -> Option<Sides> {
        let shifted = outdoors.shifted(celsius - outdoors.celsius[month]);
        Some(Sides {
            inside: self.air(self.sides[0], &shifted, month)?,
            outside: self.air(self.sides[1], &shifted, month)?,
        })
    }

    /// Whether the inside is a room that is kept warm.
    #[must_use]
    pub fn is_room(&self) -> bool {
        matches!(self.sides[0], Beside::Space(kind, _) if kind.kept_warm())
    }

    /// Whether rooms are kept warm on both sides, so that nothing is driven through.
    #[must_use]
    pub fn is_within(&self) -> bool {
        self.sides.iter().all(|s| matches!(s, Beside::Space(kind, _) if kind.kept_warm()))
    }

    fn air(&self, beside: Beside, out: &Outdoors, m: usize) -> Option<MoistAir> {
        let (t_e, p_e) = (out.celsius[m], out.vapor[m]);
        let room = room_temperature(t_e);
        let excess = self.times * self.class.design_excess(t_e);
        match beside {
            Beside::Outdoors => air(t_e, p_e, 100.0),
            Beside::Ground => air(out.ground(m), f64::INFINITY, 100.0),
            Beside::Space(kind, soil) => {
                let warm = warmth(kind);
                let base = if matches!(kind, SpaceKind::Crawl | SpaceKind::UnderFloor) {
                    f64::midpoint(out.ground(m), t_e)
                } else {
                    t_e
                };
                let t = base + warm * (room - base);
                let at_soil =
                    if soil { OVER_SOIL / 100.0 * saturation_pressure(Temperature::new(t).ok()?) } else { 0.0 };
                air(t, (p_e + warm * excess).max(at_soil), WETTEST_ROOM)
            }
        }
    }
}

/// Rooms by the outdoor temperature: 20 °C up to 10 °C outdoors, 25 °C from 20 °C on (EN 15026:2007, from memory).
fn room_temperature(outdoor: f64) -> f64 {
    20.0 + 0.5 * (outdoor - 10.0).clamp(0.0, 10.0)
}

/// How much of the way from outdoors (or ground) to the rooms a space stands, in warmth and in what people add (ours, rough, and
/// shown as an assumption).
const fn warmth(kind: SpaceKind) -> f64 {
    match kind {
        SpaceKind::Room | SpaceKind::VehicleCabin | SpaceKind::BoatCabin | SpaceKind::Tent | SpaceKind::Basement => 1.0,
        SpaceKind::Locker => 0.7,
        SpaceKind::Bilge | SpaceKind::Garage | SpaceKind::Crawl | SpaceKind::UnderFloor => 0.3,
        SpaceKind::Attic => 0.15,
    }
}

/// Air of a temperature and vapor pressure, no wetter than a relative humidity.
fn air(celsius: f64, vapor: f64, wettest: f64) -> Option<MoistAir> {
    let t = Temperature::new(celsius).ok()?;
    let rh = (100.0 * vapor / saturation_pressure(t)).clamp(0.0, wettest);
    MoistAir::from_rh(t, RelativeHumidity::new(rh).ok()?, Over::Ice, Pressure::STANDARD).ok()
}
