//! A construction cut through to scale: temperature and dew point in it, vapor under saturation, and its year.

use crate::Px;
use crate::log::{Tick, nice};
use building::construction::Construction;
use hygrothermal::air::{dew_point, saturation_pressure};
use hygrothermal::buildup::{Profile, Sides};
use hygrothermal::quantity::Temperature;
use judgment::construction::Said;
use language::say;
use notation::unit::{GAIN, GAIN_RATE, PRESSURE, TEMPERATURE};
use notation::{Show, months};

/// Room for figures at the left, and for the air on either side.
const LEFT: f64 = 62.0;
const AIR: f64 = 58.0;
/// Narrowest a layer is drawn.
const THINNEST: f64 = 3.0;
/// Numbers of layers nearer to each other than this stand in two rows.
const APART: f64 = 15.0;
/// Height of the drawing and of its two fields.
const HEIGHT: f64 = 418.0;
const HEAT: [f64; 2] = [26.0, 206.0];
const VAPOR: [f64; 2] = [246.0, 374.0];

/// What a cut is drawn from.
pub struct CutOf<'a> {
    /// Width of the sheet.
    pub width: f64,
    /// What is cut.
    pub construction: &'a Construction,
    /// The air on both sides.
    pub sides: &'a Sides,
    /// How figures are shown.
    pub show: &'a Show,
}

/// A layer as it is placed.
pub struct CutLayer {
    /// Left, top, width and height.
    pub at: [Px; 4],
    /// Family of its material.
    pub family: &'static str,
    /// Whether it counts, or only lies beyond a vented cavity.
    pub counts: bool,
}

/// A field with its own upright scale.
pub struct CutField {
    /// Figures.
    pub ticks: Vec<Tick>,
    /// Their unit, and where it stands.
    pub unit: (&'static str, Px),
    /// Top and foot.
    pub span: [Px; 2],
}

/// A plane in which water collects.
pub struct CutPlane {
    /// Where.
    pub x: Px,
    /// How much.
    pub words: String,
    /// Whether the words end there.
    pub ends: bool,
}

/// The cut.
pub struct Cut {
    /// Size of the drawing.
    pub size: [Px; 2],
    /// Left and right end of the fields.
    pub ends: [Px; 2],
    /// Layers.
    pub layers: Vec<CutLayer>,
    /// Numbers under the layers.
    pub numbers: Vec<([Px; 2], usize)>,
    /// Temperatures, and pressures.
    pub fields: [CutField; 2],
    /// Temperature through it.
    pub temperature: String,
    /// Dew point of the vapor in it.
    pub dew: String,
    /// Saturation pressure in it.
    pub saturation: String,
    /// Vapor pressure in it.
    pub vapor: String,
    /// Where it freezes, if it does.
    pub frost: Option<Px>,
    /// Planes in which water collects.
    pub planes: Vec<CutPlane>,
    /// What stands in the air inside and outside, and where.
    pub airs: [([Px; 2], String); 2],
}

/// Where the faces of layers lie from left to right: to scale, the thinnest still to be seen.
fn faces(thickness: &[f64], left: f64, right: f64) -> Vec<f64> {
    let whole: f64 = thickness.iter().sum::<f64>().max(1e-9);
    let room = right - left;
    let thin = |d: &f64| d / whole * room < THINNEST;
    let spare = room - THINNEST * thickness.iter().filter(|d| thin(d)).count() as f64;
    let rest: f64 = thickness.iter().filter(|d| !thin(d)).sum::<f64>().max(1e-9);
    let mut x = left;
    let widths = thickness.iter().map(|d| if thin(d) { THINNEST } else { d / rest * spare });
    std::iter::once(left)
        .chain(widths.map(|w| {
            x += w;
            x
        }))
        .collect()
}

fn way(points: impl IntoIterator<Item = (f64, f64)>) -> String {
    let point = |(i, (x, y)): (usize, (f64, f64))| format!("{}{} {}", if i == 0 { "M" } else { "L" }, Px(x), Px(y));
    points.into_iter().enumerate().map(point).collect()
}

/// A scale from the lowest to the highest of some figures, with some room.
struct Scale {
    low: f64,
    high: f64,
    span: [f64; 2],
}

impl Scale {
    fn of(figures: impl Iterator<Item = f64>, span: [f64; 2]) -> Self {
        let (low, high) = figures.fold((f64::INFINITY, f64::NEG_INFINITY), |(l, h), v| (l.min(v), h.max(v)));
        let room = 0.06 * (high - low).max(1.0);
        Self { low: low - room, high: high + room, span }
    }

    fn y(&self, figure: f64) -> f64 {
        self.span[1] - (figure - self.low) / (self.high - self.low) * (self.span[1] - self.span[0])
    }
}

/// Cuts a construction.
#[must_use]
pub fn cut(of: &CutOf) -> Cut {
    let right = of.width - 8.0;
    let plies = &of.construction.plies;
    let thickness: Vec<f64> =
        plies.iter().map(|p| p.thickness_m).chain(of.construction.beyond.iter().map(|b| b.thickness_m)).collect();
    let xs = faces(&thickness, LEFT + AIR, right - AIR);
    let profile = of.construction.between.profile(of.sides);
    let counted = &xs[..=plies.len()];
    let (inside, outside) = (&of.sides.inside, &of.sides.outside);
    let temps: Vec<f64> = profile.interfaces.iter().map(|i| i.temperature.get()).collect();
    let dews: Vec<Option<f64>> = profile.interfaces.iter().map(|i| dew_point(i.vapor).map(Temperature::get)).collect();
    let airs = [inside.temperature().get(), outside.temperature().get()];
    let figures = temps.iter().copied().chain(airs).chain(dews.iter().flatten().copied());
    let heat = Scale::of(figures, HEAT);
    let most = profile.interfaces.iter().flat_map(|i| [i.sat, i.vapor]).fold(1.0, f64::max);
    let vapor = Scale { low: 0.0, high: 1.08 * most, span: VAPOR };
    let through = counted.iter().zip(&temps).map(|(&x, &t)| (x, heat.y(t)));
    let outer = right - AIR;
    let ends = [(LEFT, heat.y(airs[0])), (LEFT + AIR * 0.6, heat.y(airs[0]))];
    let out = [(outer + AIR * 0.4, heat.y(airs[1])), (right, heat.y(airs[1]))];
    let known = counted.iter().zip(&dews).filter_map(|(&x, d)| Some((x, heat.y((*d)?))));
    let dew_of = |air: &hygrothermal::air::MoistAir| air.dew_point().map(|d| heat.y(d.get()));
    let first = dew_of(inside).map(|y| (LEFT, y));
    let last = dew_of(outside).map(|y| (right, y));
    let frost = (heat.low..heat.high).contains(&0.0).then(|| Px(heat.y(0.0)));
    Cut {
        size: [Px(of.width), Px(HEIGHT)],
        ends: [Px(LEFT), Px(right)],
        layers: layers(of.construction, &xs),
        numbers: numbers(&xs),
        temperature: way(ends.into_iter().chain(through).chain(out)),
        dew: way(first.into_iter().chain(known).chain(last)),
        saturation: way(saturation(counted, &temps).map(|(x, p)| (x, vapor.y(p)))),
        vapor: way(counted.iter().zip(&profile.interfaces).map(|(&x, i)| (x, vapor.y(i.vapor)))),
        frost,
        planes: planes(&profile, counted, of.show),
        airs: [
            ([Px(LEFT + 6.0), Px(HEAT[0] - 10.0)], format!("inside {}", of.show.temperature(airs[0]))),
            ([Px(right - 2.0), Px(HEAT[0] - 10.0)], format!("outside {}", of.show.temperature(airs[1]))),
        ],
        fields: [field(&heat, &TEMPERATURE, of.show), field(&vapor, &PRESSURE, of.show)],
    }
}

fn field(scale: &Scale, kind: &'static notation::unit::Kind, show: &Show) -> CutField {
    let [low, high] = [scale.low, scale.high].map(|v| kind.shown(v, show.units));
    let ticks = nice(low, high, 4);
    let tick = |(figure, words): (f64, String)| Tick { at: Px(scale.y(kind.si(figure, show.units))), words };
    CutField {
        ticks: ticks.into_iter().map(tick).collect(),
        unit: (kind.unit(show.units).name(), Px(scale.span[0] - 10.0)),
        span: scale.span.map(Px),
    }
}

fn layers(of: &Construction, xs: &[f64]) -> Vec<CutLayer> {
    let families = of.plies.iter().map(|p| (p.family, true)).chain(of.beyond.iter().map(|b| (b.family, false)));
    let placed = xs.windows(2).zip(families);
    let layer = |(w, (family, counts)): (&[f64], (&'static str, bool))| CutLayer {
        at: [Px(w[0]), Px(HEAT[0]), Px(w[1] - w[0]), Px(VAPOR[1] - HEAT[0])],
        family,
        counts,
    };
    placed.map(layer).collect()
}

/// Numbers in the middle of their layers, in a second row where the last one stands too near.
fn numbers(xs: &[f64]) -> Vec<([Px; 2], usize)> {
    let (mut before, mut low) = (f64::NEG_INFINITY, false);
    let number = |(i, w): (usize, &[f64])| {
        let x = f64::midpoint(w[0], w[1]);
        low = x - before < APART && !low;
        before = x;
        ([Px(x), Px(VAPOR[1] + if low { 32.0 } else { 17.0 })], i + 1)
    };
    xs.windows(2).enumerate().map(number).collect()
}

/// Temperature is straight within a layer, so saturation pressure is not.
fn saturation<'a>(xs: &'a [f64], temps: &'a [f64]) -> impl Iterator<Item = (f64, f64)> + 'a {
    const STEPS: u32 = 8;
    xs.windows(2).zip(temps.windows(2)).flat_map(|(x, t)| {
        (0..=STEPS).filter_map(move |i| {
            let part = f64::from(i) / f64::from(STEPS);
            let at = Temperature::new(t[0] + part * (t[1] - t[0])).ok()?;
            Some((x[0] + part * (x[1] - x[0]), saturation_pressure(at)))
        })
    })
}

fn planes(profile: &Profile, xs: &[f64], show: &Show) -> Vec<CutPlane> {
    let middle = f64::midpoint(LEFT, xs[xs.len() - 1]);
    let plane = |c: &hygrothermal::buildup::Condensation| {
        let x = *xs.get(c.interface)?;
        let words = c.rate.map_or_else(|| say!("surface wet").to_owned(), |r| GAIN_RATE.text(r, show.units));
        Some(CutPlane { x: Px(x), words, ends: x > middle })
    };
    profile.condensation.iter().filter_map(plane).collect()
}

/// A month of a year.
pub struct YearMonth {
    /// Middle of its column.
    pub x: Px,
    /// Left, top, width and height of what is held at its end.
    pub bar: [Px; 4],
    /// Whether what it gained is frost.
    pub frozen: bool,
    /// How much is held, where any is.
    pub held: String,
    /// Its letter.
    pub letter: &'static str,
    /// Its name.
    pub name: &'static str,
}

/// The year of a construction.
pub struct YearStrip {
    /// Size of the drawing.
    pub size: [Px; 2],
    /// Where its months stand.
    pub foot: Px,
    /// Months from January.
    pub months: Vec<YearMonth>,
}

/// Draws the water held at the end of each month, on the scale of the most held by any of those set side by side.
#[must_use]
pub fn year(said: &Said, most: f64, [width, height]: [f64; 2], show: &Show) -> YearStrip {
    let foot = height - 16.0;
    let each = width / 12.0;
    let month = |(i, m): (usize, &hygrothermal::buildup::MonthResult)| {
        let top = foot - (foot - 14.0) * (m.held / most.max(1.0)).clamp(0.0, 1.0);
        YearMonth {
            x: Px(each * (i as f64 + 0.5)),
            bar: [Px(each * i as f64 + 1.5), Px(top), Px(each - 3.0), Px(foot - top)],
            frozen: m.gains.iter().any(|g| g.frozen && g.grams > 0.0),
            held: if m.held >= 1.0 { GAIN.figure(m.held, show.units) } else { String::new() },
            letter: &months()[i][..1],
            name: months()[i],
        }
    };
    let months = said.year.months.iter().enumerate().map(month).collect();
    YearStrip { size: [Px(width), Px(height)], foot: Px(foot), months }
}
