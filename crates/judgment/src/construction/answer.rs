//! The answer for a construction, and how far it holds.

use super::levers::{Levers, levers};
use super::months::{Around, Outdoors};
use super::planes::{PlaneYear, planes};
use building::construction::Construction;
use hygrothermal::buildup::{BuildUp, Month, Year, film};
use hygrothermal::mold::CRITERION;
use hygrothermal::quantity::DiffusionThickness;
use hygrothermal::surface::{Target, least_factor};

/// Water that may be held at a plane, g/m²: more runs off what cannot take it up (ISO 13788:2012, from memory).
pub const MOST_HELD: f64 = 200.0;
/// What is tried to see whether the answer holds: outdoors colder by so many kelvin, rooms wetter by this share, the tightest
/// layer half and twice as tight (ours).
const COLDER: f64 = 2.0;
const WETTER: f64 = 1.25;
const TIGHTER: f64 = 2.0;

/// What becomes of the water in a year.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Water {
    /// None collects.
    None,
    /// What collects is gone again by the end of this month, 0 for January.
    DriesBy(usize),
    /// Some is carried over.
    Stays,
}

building::kinds! {
    /// The answer, best first.
    Answer {
        /// Nothing collects, nothing grows.
        Safe = "safe", "safe";
        /// It gets wet and dries.
        Dries = "dries", "gets wet and dries";
        /// It dries, and yet mold may grow inside, or more collects than a plane can hold.
        Doubtful = "doubtful", "doubtful";
        /// It gathers water from year to year.
        Accumulates = "accumulates", "accumulates";
    }
}

/// What was tried and gave another answer.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Turn {
    /// Outdoors colder.
    Colder,
    /// Rooms wetter.
    Wetter,
    /// The tightest layer half as tight.
    Looser,
    /// The tightest layer twice as tight.
    Tighter,
}

/// How far the answer holds.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Sureness {
    /// Cases tried, the answer's own among them.
    pub tried: usize,
    /// With the same answer.
    pub same: usize,
    /// The first single change that gave another.
    pub turns: Option<Turn>,
}

/// Everything said of a variant.
#[derive(Debug, Clone, PartialEq)]
pub struct Said {
    /// The answer.
    pub answer: Answer,
    /// What becomes of the water.
    pub water: Water,
    /// The year behind it.
    pub year: Year,
    /// Left after the year, g/m².
    pub left: f64,
    /// The planes.
    pub planes: Vec<PlaneYear>,
    /// The plane inside with the highest mold index.
    pub moldiest: Option<PlaneYear>,
    /// Temperature factor the inner surface has between the framing and must have in the worst month (ISO 13788).
    pub factor: (f64, Option<f64>),
    /// How far it holds.
    pub sure: Sureness,
    /// What would change it.
    pub levers: Levers,
}

/// The answer alone, with what it rests on.
struct Judged {
    answer: Answer,
    water: Water,
    year: Year,
    left: f64,
    planes: Vec<PlaneYear>,
    moldiest: Option<PlaneYear>,
    factor: (f64, Option<f64>),
}

fn judge(of: &Construction, months: &[Month; 12], room: bool) -> Judged {
    let year = of.between.year(months, None);
    let (water, left) = water_of(&year);
    let planes = planes(of, months);
    let inner = planes.get(1..planes.len().saturating_sub(1)).unwrap_or_default();
    let moldiest = inner.iter().copied().max_by(|a, b| a.peak().total_cmp(&b.peak()));
    // Corners and furniture are a room's.
    let factor = (corner_factor(of), needed_factor(months).filter(|_| room));
    let grows = moldiest.is_some_and(|p| p.peak() >= CRITERION) || factor.1.is_some_and(|needed| factor.0 < needed);
    let answer = match water {
        Water::Stays => Answer::Accumulates,
        Water::DriesBy(_) if grows || year.peak > MOST_HELD => Answer::Doubtful,
        Water::DriesBy(_) => Answer::Dries,
        Water::None if grows => Answer::Doubtful,
        Water::None => Answer::Safe,
    };
    Judged { answer, water, year, left, planes, moldiest, factor }
}

/// What becomes of the water, and what is left of it after the year, g/m².
pub(super) fn water_of(year: &Year) -> (Water, f64) {
    /// Less than this is nothing anybody would find, g/m².
    const NOTHING: f64 = 1.0;
    let held = |i: usize| year.months[(year.start + i) % 12].held;
    let left = held(11);
    let water = if year.peak < NOTHING {
        Water::None
    } else if left >= NOTHING {
        Water::Stays
    } else {
        let last = (0..12).rfind(|&i| held(i) >= NOTHING).unwrap_or(0);
        Water::DriesBy((year.start + last + 1) % 12)
    };
    (water, left)
}

/// Temperature factor of the inner surface where furniture or a corner keeps it cooler: R_si 0.25 (ISO 13788:2012).
#[must_use]
pub fn corner_factor(of: &Construction) -> f64 {
    let corner = film::MOLD.get();
    let rest = of.between.resistance() - of.films[0].get();
    1.0 - corner / (rest + corner)
}

/// The factor the inner surface must have in the month that asks most; `None` where no month asks.
fn needed_factor(months: &[Month; 12]) -> Option<f64> {
    let one = |m: &Month| {
        let (inside, outside) = (&m.sides.inside, &m.sides.outside);
        if inside.temperature() <= outside.temperature() {
            return None;
        }
        let excess = inside.vapor_pressure() - outside.vapor_pressure();
        least_factor(inside.temperature(), outside, excess, Target::NoMold)
    };
    months.iter().filter_map(one).reduce(f64::max)
}

/// The answer alone; `None` where the outdoor air is none.
#[must_use]
pub fn quick(of: &Construction, around: &Around, outdoors: &Outdoors) -> Option<Answer> {
    Some(judge(of, &around.months(outdoors)?, around.is_room()).answer)
}

/// Everything said of a variant of a boundary; `None` where the outdoor air is none.
#[must_use]
pub fn answer(of: &Construction, around: &Around, outdoors: &Outdoors) -> Option<Said> {
    let months = around.months(outdoors)?;
    let judged = judge(of, &months, around.is_room());
    let levers = levers(of, &months, &judged.year, &judged.planes);
    let sure = sureness(of, around, outdoors, judged.answer, levers.plane);
    let Judged { answer, water, year, left, planes, moldiest, factor } = judged;
    Some(Said { answer, water, year, left, planes, moldiest, factor, sure, levers })
}

/// Tries the answer on what may be otherwise than assumed, one by one and together.
fn sureness(of: &Construction, around: &Around, outdoors: &Outdoors, own: Answer, plane: usize) -> Sureness {
    let wetter = around.damper(WETTER);
    let colder = outdoors.shifted(-COLDER);
    let tightness = [1.0, 1.0 / TIGHTER, TIGHTER].map(|by| scaled(of, plane, by));
    let mut sure = Sureness { tried: 0, same: 0, turns: None };
    for (is_colder, outdoors) in [(false, outdoors), (true, &colder)] {
        for (is_wetter, around) in [(false, around), (true, &wetter)] {
            let Some(months) = around.months(outdoors) else { continue };
            for (turn, built) in [None, Some(Turn::Looser), Some(Turn::Tighter)].into_iter().zip(&tightness) {
                let Some(built) = built else { continue };
                sure.tried += 1;
                if judge(built, &months, around.is_room()).answer == own {
                    sure.same += 1;
                    continue;
                }
                let single = match (is_colder, is_wetter, turn) {
                    (true, false, None) => Some(Turn::Colder),
                    (false, true, None) => Some(Turn::Wetter),
                    (false, false, turn) => turn,
                    _ => None,
                };
                sure.turns = sure.turns.or(single);
            }
        }
    }
    sure
}

/// The construction with its tightest layer inside of a plane so many times as tight; `None` where that is no construction.
fn scaled(of: &Construction, plane: usize, by: f64) -> Option<Construction> {
    let within = if plane == 0 { of.plies.len() } else { plane };
    let tightest = (0..within).max_by(|a, b| {
        let sd = |i: usize| of.plies[i].layer.diffusion.get();
        sd(*a).total_cmp(&sd(*b))
    })?;
    let mut out = of.clone();
    let ply = &mut out.plies[tightest];
    ply.layer.diffusion = DiffusionThickness::new(ply.layer.diffusion.get() * by).ok()?;
    let layers: Vec<_> = out.plies.iter().map(|p| p.layer).collect();
    out.between = BuildUp::new(&layers, out.films[0], out.films[1]).ok()?;
    Some(out)
}
