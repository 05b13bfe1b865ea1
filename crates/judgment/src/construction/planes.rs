//! The planes between layers, month by month.

use building::construction::Construction;
use hygrothermal::buildup::Month;
use hygrothermal::mold::{Decline, MonthAt, Sensitivity, steady_year};

/// Years over which a mold index is run: what grows in one winter goes on from there in the next.
const YEARS: u32 = 3;

/// A plane over the year.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PlaneYear {
    /// Which: 0 is the inner surface.
    pub interface: usize,
    /// Relative humidity there in each month, %.
    pub rh: [f64; 12],
    /// Temperature there in each month, °C.
    pub celsius: [f64; 12],
    /// Mold index at the end of each month of the third year.
    pub index: [f64; 12],
    /// The class of the more sensitive of the two faces that meet there.
    pub class: Sensitivity,
}

impl PlaneYear {
    /// Highest index.
    #[must_use]
    pub fn peak(&self) -> f64 {
        self.index.iter().copied().fold(0.0, f64::max)
    }
}

/// Every plane from the inner to the outer surface.
#[must_use]
pub fn planes(of: &Construction, months: &[Month; 12]) -> Vec<PlaneYear> {
    let profiles = months.each_ref().map(|m| of.between.profile(&m.sides));
    let one = |interface: usize| {
        let at = |m: usize| &profiles[m].interfaces[interface];
        let celsius: [f64; 12] = std::array::from_fn(|m| at(m).temperature.get());
        let rh: [f64; 12] = std::array::from_fn(|m| 100.0 * at(m).vapor / at(m).sat);
        let state = std::array::from_fn(|m| MonthAt { celsius: celsius[m], rh: rh[m], days: months[m].days.get() });
        let beside = [interface.checked_sub(1), Some(interface)];
        let faces = beside.into_iter().flatten().filter_map(|i| of.plies.get(i)).map(|p| p.class);
        let most = |a: Sensitivity, b: Sensitivity| if rank(a) <= rank(b) { a } else { b };
        let class = faces.reduce(most).unwrap_or(Sensitivity::Medium);
        PlaneYear { interface, rh, celsius, index: steady_year(&state, class, Decline::ASHRAE_160, YEARS), class }
    };
    (0..of.between.interfaces()).map(one).collect()
}

/// Place among the classes, most sensitive first.
fn rank(class: Sensitivity) -> usize {
    Sensitivity::ALL.iter().position(|c| *c == class).unwrap_or(0)
}
