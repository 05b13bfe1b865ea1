//! One point: where it stands against its goal, when it will be there, and why it stopped.

use super::DryMaterial;
use crate::map::Showed;
use building::drying::DryPoint;
use hygrothermal::drying::{DryingFit, Forecast, drying_fit, forecast};
use hygrothermal::quantity::{Days, MoistureContent};
use uuid::Uuid;

/// Milliseconds of a day.
const DAY: f64 = 86_400_000.0;
/// Two readings so far apart are a day apart, ms: a round is not always at the same hour (ours).
const A_DAY_APART: i64 = 20 * 3_600_000;
/// What a pin meter scatters by, % (common practice), and any meter's own scale, share of what it shows (ours).
const SCATTER: f64 = 0.5;
const SCATTER_SHARE: f64 = 0.03;
/// Spans of last days looked at for whether it stands still, and the least they must hold (ours).
const LATELY: [f64; 4] = [3.5, 5.0, 7.0, 10.0];
const LEAST: f64 = 1.5;
/// So many times the scatter stands out of it, and under such a share of what was due it stands still (ours).
const PLAIN: f64 = 2.5;
const FELL: f64 = 0.35;
/// A forecast farther off than this is none, days (ours).
const FARTHEST: f64 = 400.0;
/// Air too humid to dry in, %, and too cold, °C (common practice).
const TOO_HUMID: f64 = 60.0;
const TOO_COLD: f64 = 15.0;

/// What was read at a point.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PointRead {
    /// When, milliseconds since 1970.
    pub at: i64,
    /// What stood there: wood corrected for kind and temperature.
    pub showed: Showed,
    /// By which meter.
    pub meter: Option<Uuid>,
    /// By whom.
    pub by: Uuid,
}

/// What lies around a point.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Surround {
    /// Whether the source is known to be stopped.
    pub stopped: bool,
    /// Air of its space: °C and %.
    pub air: Option<(f64, f64)>,
    /// Whether an air mover, tent or blower runs there.
    pub air_moves: bool,
}

/// A point with all that bears on it.
pub struct PointCase<'a> {
    /// The point.
    pub point: &'a DryPoint,
    /// Its material.
    pub material: &'static DryMaterial,
    /// What was read there, oldest first.
    pub reads: &'a [PointRead],
    /// Its goal; none on a meter's own scale without a dry standard.
    pub goal: Option<f64>,
    /// What it settles at in this air, and how far that may be off.
    pub equilibrium: Option<(f64, f64)>,
    /// What lies around it.
    pub around: Surround,
}

/// Why a point may have stopped, in the order to look.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Reason {
    /// Water still comes.
    StillFed,
    /// A vapor-tight layer lies over it.
    Covered,
    /// No air moves there.
    AirStill,
    /// The air is too humid or too cold.
    PoorAir,
    /// It settles above its goal in this air.
    GoalTooLow,
    /// Salts or metal fool the meter.
    MeterFooled,
}

/// How far a reason holds.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Holds {
    /// What is known says so.
    Likely,
    /// Not known: look.
    Open,
    /// What is known says no.
    No,
}

/// Where a point stands.
#[derive(Debug, Clone, PartialEq)]
pub enum State {
    /// Not read.
    Unread,
    /// Without a goal nothing is said.
    NoGoal,
    /// At its goal; confirmed by two readings a day apart.
    AtGoal {
        /// Whether two readings a day apart say so.
        confirmed: bool,
        /// The first of the readings that do, ms since 1970.
        since: i64,
    },
    /// Too few readings for a curve.
    Few,
    /// Drying; the day its curve passes the goal in ms since 1970 with the band, where that is near enough to be said.
    Drying(Option<[i64; 3]>),
    /// Stopped, with reasons in the order to look.
    Stalled(Vec<(Reason, Holds)>),
}

/// What is said of a point.
#[derive(Debug, Clone, PartialEq)]
pub struct PointSaid {
    /// Where it stands.
    pub state: State,
    /// Its goal.
    pub goal: Option<f64>,
    /// What it settles at in this air.
    pub equilibrium: Option<f64>,
    /// The latest reading.
    pub latest: Option<PointRead>,
    /// Whether that rose beyond what meters scatter.
    pub rose: bool,
    /// The curve, and the moment its day 0 stands for.
    pub fit: Option<(DryingFit, i64)>,
}

impl PointSaid {
    /// Whether it is still to be read.
    #[must_use]
    pub const fn is_wet(&self) -> bool {
        !matches!(self.state, State::AtGoal { confirmed: true, .. })
    }
}

/// Figures as the curve takes them.
fn curve(reads: &[PointRead], zero: i64) -> Vec<(Days, MoistureContent)> {
    let of = |r: &PointRead| match r.showed {
        Showed::Figure(x) => Some((r.at, x)),
        Showed::Over | Showed::Unread => None,
    };
    let all = reads.iter().filter_map(of);
    all.filter_map(|(at, x)| {
        Some((Days::new((at - zero) as f64 / DAY).ok()?, MoistureContent::new(x / scale(reads)).ok()?))
    })
    .collect()
}

/// A meter's own scale may pass what moisture content can: so much is one.
fn scale(reads: &[PointRead]) -> f64 {
    let most = reads.iter().filter_map(|r| if let Showed::Figure(x) = r.showed { Some(x) } else { None });
    (most.fold(0.0, f64::max) / 200.0).max(1.0)
}

/// What is said of a point.
#[must_use]
pub fn point(case: &PointCase<'_>) -> PointSaid {
    let from = case.reads.partition_point(|r| case.point.since.is_some_and(|s| r.at < s));
    let reads: Vec<PointRead> = case.reads[from..].iter().filter(|r| r.showed != Showed::Unread).copied().collect();
    let latest = reads.last().copied();
    let mut said = PointSaid {
        state: State::Unread,
        goal: case.goal,
        equilibrium: case.equilibrium.map(|e| e.0),
        latest,
        rose: false,
        fit: None,
    };
    let Some(last) = latest else { return said };
    let figure = |r: &PointRead| if let Showed::Figure(x) = r.showed { Some(x) } else { None };
    let scatter = |x: f64| if case.material.wood { SCATTER } else { SCATTER_SHARE * x.max(1.0) };
    let before = reads.iter().rev().nth(1).and_then(figure);
    said.rose = match (last.showed, before) {
        (Showed::Figure(x), Some(b)) => x - b > 2.0 * scatter(b),
        (Showed::Over, before) => before.is_some(),
        _ => false,
    };
    let Some(goal) = case.goal else {
        said.state = State::NoGoal;
        return said;
    };
    let unit = scale(&reads);
    let zero = reads[0].at;
    let points = curve(&reads, zero);
    let [goal_mc, eq_mc] =
        [Some(goal), case.equilibrium.map(|e| e.0)].map(|x| x.and_then(|x| MoistureContent::new(x / unit).ok()));
    let told = goal_mc
        .zip(eq_mc)
        .and_then(|(goal, eq)| forecast(&points, (eq, case.equilibrium.map_or(0.0, |e| e.1 / unit)), goal).ok());
    said.fit = told.map(|(fit, _)| (fit.scaled(unit), zero));
    if figure(&last).is_some_and(|x| x <= goal) {
        let run = reads.iter().rev().take_while(|r| figure(r).is_some_and(|x| x <= goal)).last();
        let since = run.map_or(last.at, |r| r.at);
        said.state = State::AtGoal { confirmed: last.at - since >= A_DAY_APART, since };
        return said;
    }
    // Under what it settles at nothing will bring it there, however few readings there are.
    let unreachable = case.equilibrium.is_some_and(|(eq, _)| eq >= goal);
    let (few, stopped) = match &told {
        None => (true, false),
        Some((fit, _)) => (false, fit.stalled() || stands_still(&points, eq_mc, fit, |x| scatter(x * unit) / unit)),
    };
    said.state = if unreachable || stopped {
        State::Stalled(reasons(case, unreachable, said.rose))
    } else if few {
        State::Few
    } else {
        let at = |day: f64| zero + (day * DAY) as i64;
        let near = |f: &Forecast| f.high.is_finite() && f.high - (last.at - zero) as f64 / DAY < FARTHEST;
        // What is above its goal now will not have passed it before.
        let now = (last.at - zero) as f64 / DAY;
        let day = told.and_then(|(_, f)| f).filter(near);
        State::Drying(day.map(|f| [f.day.max(now), f.low.max(now), f.high.max(now)].map(at)))
    };
    said
}

/// Whether the last days show little of what the curve before says they should: looked for over the shortest span in which it would
/// stand out of what a meter scatters.
fn stands_still(
    points: &[(Days, MoistureContent)],
    equilibrium: Option<MoistureContent>,
    whole: &DryingFit,
    scatter: impl Fn(f64) -> f64,
) -> bool {
    let (Some((last, _)), Some(equilibrium)) = (points.last(), equilibrium) else { return false };
    for span in LATELY {
        let from = points.partition_point(|(d, _)| last.get() - d.get() > span);
        let (earlier, lately) = points.split_at(from);
        let first = lately.first().map_or(last.get(), |p| p.0.get());
        if lately.len() < 3 || last.get() - first < LEAST {
            continue;
        }
        let before = if earlier.len() >= 3 { drying_fit(earlier, equilibrium).ok() } else { None };
        let before = before.unwrap_or(*whole);
        let now = lately.iter().map(|(_, m)| m.get()).sum::<f64>() / lately.len() as f64;
        // Had it gone on from where it stands at the rate before.
        let due = (now - equilibrium.get()) * (1.0 - (-before.k * (last.get() - first)).exp());
        if due > PLAIN * scatter(now) {
            let fell =
                drying_fit(lately, equilibrium).map_or(due, |f| f.moisture(0.0) - f.moisture(last.get() - first));
            return fell < FELL * due;
        }
    }
    false
}

/// Reasons in the order to look, each with how far it holds.
fn reasons(case: &PointCase<'_>, unreachable: bool, rose: bool) -> Vec<(Reason, Holds)> {
    let around = case.around;
    let of = |likely: bool, no: bool| {
        if likely {
            Holds::Likely
        } else if no {
            Holds::No
        } else {
            Holds::Open
        }
    };
    let poor = around.air.map(|(t, rh)| rh >= TOO_HUMID || t < TOO_COLD);
    vec![
        (Reason::StillFed, of(!around.stopped || rose, around.stopped && !rose)),
        (Reason::Covered, of(!case.point.cover.is_empty() && case.point.tent.is_none(), case.point.tent.is_some())),
        (Reason::AirStill, of(!around.air_moves, false)),
        (Reason::PoorAir, of(poor == Some(true), poor == Some(false))),
        (Reason::GoalTooLow, of(unreachable, case.equilibrium.is_some())),
        (Reason::MeterFooled, of(false, case.material.wood)),
    ]
}
