//! What would change the answer: insulation outside, a retarder inside, an open layer outside, tightness to air.

use super::answer::{MOST_HELD, Water, water_of};
use super::planes::PlaneYear;
use building::construction::Construction;
use hygrothermal::buildup::{BuildUp, Layer, Month, Year, insulation_beyond, leakage_condensate};
use hygrothermal::quantity::{AirFlow, DiffusionThickness, Temperature, ThermalResistance};

/// A leak to set diffusion against, m³/s for each m² (common practice: a tenth of a liter per second is an ordinary wall).
pub const LEAK: f64 = 1e-4;
/// A retarder that is looked for, m of still air: from hardly any to a metal sheet.
const RETARDERS: [f64; 2] = [0.05, 1500.0];
/// How open a layer can be made, m of still air: a housewrap.
const OPENEST: f64 = 0.05;

/// Water brought to a plane in the month in view, g/(m²·day).
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Leak {
    /// By room air leaking to it.
    pub air: f64,
    /// By diffusion.
    pub diffusion: f64,
}

/// What would change the answer. `None` where it could not, 0 where nothing is needed.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Levers {
    /// The plane that is spoken of: where most collects, else where it is most humid.
    pub plane: usize,
    /// The month in which it is worst, 0 for January.
    pub month: usize,
    /// Insulation to add outside of the plane, so that it stays above the room's dew point in that month, m²K/W.
    pub outside_r: Option<f64>,
    /// Retarder to add on the inside so that nothing stays, m of still air.
    pub retarder: Option<f64>,
    /// The tightest layer outside of the plane, and how tight it may at most be so that nothing stays, m of still air.
    pub open: Option<(usize, f64)>,
    /// Air against diffusion.
    pub leak: Leak,
}

/// Whether nothing stays and not too much is held.
fn passes(layers: &[Layer], of: &Construction, months: &[Month; 12]) -> bool {
    BuildUp::new(layers, of.films[0], of.films[1]).is_ok_and(|b| {
        let year = b.year(months, None);
        water_of(&year).0 != Water::Stays && year.peak <= MOST_HELD
    })
}

pub(super) fn levers(of: &Construction, months: &[Month; 12], year: &Year, planes: &[PlaneYear]) -> Levers {
    let (plane, month) = worst(year, planes);
    let layers: Vec<Layer> = of.plies.iter().map(|p| p.layer).collect();
    let sides = &months[month].sides;
    let warm: f64 = of.films[0].get() + layers[..plane].iter().map(|l| l.resistance.get()).sum::<f64>();
    let cold = of.between.resistance() - warm;
    let r = |x: f64| ThermalResistance::new(x.max(0.0)).ok();
    let outside_r = r(warm).zip(r(cold)).zip(sides.inside.dew_point()).and_then(|((warm, cold), dew)| {
        insulation_beyond((sides.inside.temperature(), warm), (sides.outside.temperature(), cold), dew)
    });
    let at = planes.get(plane).and_then(|p| Temperature::new(p.celsius[month]).ok());
    let flow = AirFlow::new(LEAK).ok();
    let profile = of.between.profile(sides);
    let by_diffusion = profile.condensation.iter().find(|c| c.interface == plane).and_then(|c| c.rate);
    let leak = Leak {
        air: at.zip(flow).map_or(0.0, |(t, flow)| leakage_condensate(&sides.inside, t, flow)),
        diffusion: by_diffusion.unwrap_or(0.0),
    };
    let met = passes(&layers, of, months);
    Levers {
        plane,
        month,
        outside_r,
        retarder: if met { Some(0.0) } else { retarder(&layers, of, months) },
        open: if met { None } else { opened(&layers, plane, of, months) },
        leak,
    }
}

/// The plane in which most collects in a month, and that month; else the most humid plane inside.
fn worst(year: &Year, planes: &[PlaneYear]) -> (usize, usize) {
    let gains =
        year.months.iter().enumerate().flat_map(|(m, r)| r.gains.iter().map(move |g| (g.interface, m, g.grams)));
    let most = gains.filter(|g| g.2 > 0.0).max_by(|a, b| a.2.total_cmp(&b.2));
    let inner = planes.get(1..planes.len().saturating_sub(1)).unwrap_or_default();
    let humid = || inner.iter().flat_map(|p| (0..12).map(move |m| (p.interface, m, p.rh[m])));
    let most = most.or_else(|| humid().max_by(|a, b| a.2.total_cmp(&b.2)));
    most.map_or((0, 0), |(plane, month, _)| (plane, month))
}

fn retarder(layers: &[Layer], of: &Construction, months: &[Month; 12]) -> Option<f64> {
    let with = |sd: f64| {
        let added =
            Layer { resistance: ThermalResistance::new(0.0).ok()?, diffusion: DiffusionThickness::new(sd).ok()? };
        let all: Vec<Layer> = std::iter::once(added).chain(layers.iter().copied()).collect();
        Some(passes(&all, of, months))
    };
    let [low, high] = RETARDERS;
    least(low, high, |sd| with(sd) == Some(true))
}

fn opened(layers: &[Layer], plane: usize, of: &Construction, months: &[Month; 12]) -> Option<(usize, f64)> {
    let sd = |i: usize| layers[i].diffusion.get();
    let tightest = (plane..layers.len()).max_by(|a, b| sd(*a).total_cmp(&sd(*b)))?;
    if sd(tightest) <= OPENEST {
        return None;
    }
    let with = |as_tight: f64| {
        let mut all = layers.to_vec();
        all[tightest].diffusion = DiffusionThickness::new(as_tight).ok()?;
        Some(passes(&all, of, months))
    };
    // The largest that passes is the least of what is left of it, seen from the other end.
    let most = least(1.0 / sd(tightest), 1.0 / OPENEST, |inverse| with(1.0 / inverse) == Some(true))?;
    Some((tightest, 1.0 / most))
}

/// The least figure between two that satisfies something which, once satisfied, stays so; to a hundredth. `None` if the highest
/// does not.
fn least(mut low: f64, mut high: f64, holds: impl Fn(f64) -> bool) -> Option<f64> {
    if !holds(high) {
        return None;
    }
    while high > 1.01 * low {
        let middle = (low * high).sqrt();
        if holds(middle) {
            high = middle;
        } else {
            low = middle;
        }
    }
    Some(high)
}
