//! A moisture map: what one meter showed on one material over a space, which of it is wet, how far it goes, whether a second
//! method agrees, and where a meter may not be trusted.

use crate::limits::{Limited, Limits};
use building::Material;
use building::unfold::{Facet, FalseWet, MapScale};
use serde::Deserialize;
use statrs::distribution::{ContinuousCDF, StudentsT};
use std::collections::HashMap;
use std::sync::LazyLock;

/// A second method this near to a wet point speaks of it, m: a hand's width and what a hand cannot aim.
pub const NEAR: f64 = 0.25;
/// Stops of a way this many spacings apart are still one patch: one between them may have been left out.
const JOINED: f64 = 2.1;
/// Heights a profile is judged from, at least.
const LEAST_HEIGHTS: usize = 3;
/// Least fall over the height, share of the mean, that is no mere scatter (ours).
const LEAST_FALL: f64 = 0.15;

building::kinds! {
    /// Part of a space a rule is about.
    Part {
        /// Walls.
        Walls = "walls", "walls";
        /// Ceiling.
        Ceiling = "ceiling", "ceiling";
        /// Floor.
        Floor = "floor", "floor";
    }
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Rule {
    built: Option<String>,
    faces: Vec<Part>,
    scales: Vec<MapScale>,
    #[serde(default)]
    of: Vec<Material>,
    why: String,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    rule: Vec<Rule>,
}

#[allow(clippy::expect_used, reason = "the table is compiled in and read by a test")]
static RULES: LazyLock<File> =
    LazyLock::new(|| toml::from_str(include_str!("../data/metering.toml")).expect("metering.toml is well formed"));

/// Why a face of a material should not be metered in a building of these constructions (ids of the call); `None` where it may.
#[must_use]
pub fn refusal(built: &[String], facet: Facet, scale: MapScale, material: Material) -> Option<&'static str> {
    let part = match facet {
        Facet::Floor => Part::Floor,
        Facet::Ceiling => Part::Ceiling,
        _ => Part::Walls,
    };
    let meant = |r: &&Rule| {
        r.built.as_ref().is_none_or(|b| built.contains(b))
            && r.faces.contains(&part)
            && r.scales.contains(&scale)
            && (r.of.is_empty() || r.of.contains(&material))
    };
    RULES.rule.iter().find(meant).map(|r| r.why.as_str())
}

/// What a meter showed at a place.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Showed {
    /// A figure.
    Figure(f64),
    /// More than its scale holds.
    Over,
    /// Nothing could be read there.
    Unread,
}

/// A place of a map.
#[derive(Debug, Clone, PartialEq)]
pub struct MapPoint {
    /// The face.
    pub facet: Facet,
    /// Its height above the floor on a wall, m.
    pub height: Option<f64>,
    /// In the space, m.
    pub place: [f64; 3],
    /// What stood there.
    pub showed: Showed,
    /// Why it only seems wet.
    pub false_wet: Option<FalseWet>,
    /// Distance to the next, m.
    pub spacing: f64,
    /// Whether it is one of a grid, which has an area.
    pub in_grid: bool,
}

/// What a second method said at a place.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Second {
    /// In the space, m.
    pub place: [f64; 3],
    /// Whether it found it wet.
    pub wet: bool,
}

/// What a place amounts to.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Damp {
    /// As dry as the standard.
    Dry,
    /// More than that.
    Raised,
    /// Wet, as far as this meter can tell.
    High,
    /// A false wet.
    LeftOut,
    /// Not read.
    Unread,
    /// No standard to tell by.
    Untold,
}

/// Whether a second method agrees.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Confirmed {
    /// Nobody asked one.
    Open,
    /// It found it wet, at so many places.
    Wet(usize),
    /// It found it dry.
    Dry,
}

/// A wet patch.
#[derive(Debug, Clone, PartialEq)]
pub struct WetPatch {
    /// Its points, by their place in the map.
    pub points: Vec<usize>,
    /// The wettest of them.
    pub worst: usize,
    /// How far it goes along an edge, m; none where only a grid found it.
    pub stretch_m: Option<f64>,
    /// Its area in a grid, m².
    pub area_m2: Option<f64>,
    /// Whether a second method agrees.
    pub confirmed: Confirmed,
}

building::kinds! {
    /// How moisture changes with height on a wall; the ids are results of the test `meter_profile`.
    Rising {
        /// Wettest at the foot: from the ground.
        Falls = "falls_with_height", "falls with height: it comes from the ground";
        /// The same all the way up.
        Even = "even", "is even over the height";
        /// Wettest above: from above.
        Rises = "rises", "rises with height: it comes from above";
    }
}

/// What a wall shows by height.
#[derive(Debug, Clone, PartialEq)]
pub struct Profile {
    /// The wall.
    pub facet: Facet,
    /// Height, mean figure, and how many, from the foot up.
    pub heights: Vec<(f64, f64, usize)>,
    /// What it amounts to.
    pub says: Rising,
}

/// A map judged.
#[derive(Debug, Clone, PartialEq)]
pub struct MapSaid {
    /// What each place amounts to.
    pub damp: Vec<Damp>,
    /// Wet patches, largest first.
    pub patches: Vec<WetPatch>,
    /// Profiles of the walls that have enough heights.
    pub profiles: Vec<Profile>,
    /// The wettest place that counts.
    pub worst: Option<usize>,
}

impl MapSaid {
    /// How many places counted.
    #[must_use]
    pub fn counted(&self) -> usize {
        self.damp.iter().filter(|d| !matches!(d, Damp::LeftOut | Damp::Unread)).count()
    }

    /// How many of them stand high.
    #[must_use]
    pub fn high(&self) -> usize {
        self.damp.iter().filter(|d| **d == Damp::High).count()
    }
}

/// Limits a map is told by: up to the first it is dry, from the second on it is high.
#[must_use]
pub fn limits_of(scale: MapScale, standard: Option<f64>, limits: &Limits) -> Option<[f64; 2]> {
    match scale {
        MapScale::Pins => Some([Limited::WoodGoal, Limited::WoodWet].map(|l| limits.percent(l))),
        MapScale::Pinless => {
            standard.map(|dry| [Limited::MapDry, Limited::MapHigh].map(|l| dry * limits.percent(l) / 100.0))
        }
    }
}

fn value(showed: Showed) -> f64 {
    match showed {
        Showed::Figure(x) => x,
        Showed::Over => f64::INFINITY,
        Showed::Unread => f64::NEG_INFINITY,
    }
}

fn apart(a: &[f64; 3], b: &[f64; 3]) -> f64 {
    (0..3).map(|i| (a[i] - b[i]).powi(2)).sum::<f64>().sqrt()
}

/// Judges a map of one meter and one material. A place told wet by the meter's own scale stays open until a second method
/// within [`NEAR`] agrees.
#[must_use]
pub fn read(points: &[MapPoint], limits: Option<[f64; 2]>, seconds: &[Second]) -> MapSaid {
    let damp: Vec<Damp> = points.iter().map(|p| damp(p, limits)).collect();
    let counts = |i: &usize| !matches!(damp[*i], Damp::LeftOut | Damp::Unread);
    let by_value = |a: &usize, b: &usize| value(points[*a].showed).total_cmp(&value(points[*b].showed));
    let worst = (0..points.len()).filter(counts).max_by(by_value);
    let mut patches: Vec<WetPatch> =
        joined(points, &damp).into_iter().map(|group| patch(points, group, seconds)).collect();
    patches.sort_by_key(|p| std::cmp::Reverse(p.points.len()));
    let walls = [Facet::North, Facet::East, Facet::South, Facet::West, Facet::Around];
    let profiles = walls.into_iter().filter_map(|w| profile(points, &damp, w)).collect();
    MapSaid { damp, patches, profiles, worst }
}

fn damp(p: &MapPoint, limits: Option<[f64; 2]>) -> Damp {
    match (p.false_wet, p.showed, limits) {
        (Some(_), ..) => Damp::LeftOut,
        (_, Showed::Unread, _) => Damp::Unread,
        (_, Showed::Over, _) => Damp::High,
        (.., None) => Damp::Untold,
        (_, Showed::Figure(x), Some([dry, _])) if x <= dry => Damp::Dry,
        (_, Showed::Figure(x), Some([_, high])) if x >= high => Damp::High,
        _ => Damp::Raised,
    }
}

/// Groups of high places near to each other. Each looks only among those of its own and the neighboring boxes, as wide as the farthest
/// two that may join, so that a wall full of them takes no longer than it has places.
fn joined(points: &[MapPoint], damp: &[Damp]) -> Vec<Vec<usize>> {
    let high: Vec<usize> = (0..points.len()).filter(|i| damp[*i] == Damp::High).collect();
    let farthest = high.iter().map(|i| JOINED * points[*i].spacing).fold(1e-3, f64::max);
    let of = |i: usize| points[i].place.map(|m| (m / farthest).floor() as i64);
    let mut boxes: HashMap<[i64; 3], Vec<usize>> = HashMap::new();
    for i in &high {
        boxes.entry(of(*i)).or_default().push(*i);
    }
    let around = |[x, y, z]: [i64; 3]| {
        let by = |step: i64| (step % 3 - 1, step / 3 % 3 - 1, step / 9 - 1);
        (0..27).map(by).map(move |(dx, dy, dz)| [x + dx, y + dy, z + dz])
    };
    let mut groups = Vec::new();
    for first in high {
        // What was taken into a group before is in no box any more.
        let Some(at) = boxes.get_mut(&of(first)).and_then(|b| b.iter().position(|i| *i == first).map(|k| (b, k)))
        else {
            continue;
        };
        at.0.swap_remove(at.1);
        let mut group = vec![first];
        let mut next = 0;
        while next < group.len() {
            let from = group[next];
            next += 1;
            for key in around(of(from)) {
                let Some(here) = boxes.get_mut(&key) else { continue };
                here.retain(|i| {
                    let reach = JOINED * points[from].spacing.max(points[*i].spacing);
                    let near = apart(&points[from].place, &points[*i].place) <= reach;
                    if near {
                        group.push(*i);
                    }
                    !near
                });
            }
        }
        group.sort_unstable();
        groups.push(group);
    }
    groups
}

fn patch(points: &[MapPoint], group: Vec<usize>, seconds: &[Second]) -> WetPatch {
    let by_value = |a: &&usize, b: &&usize| value(points[**a].showed).total_cmp(&value(points[**b].showed));
    let worst = group.iter().max_by(by_value).copied().unwrap_or_default();
    let sum = |in_grid: bool, of: fn(f64) -> f64| {
        let own: Vec<f64> =
            group.iter().filter(|i| points[**i].in_grid == in_grid).map(|i| of(points[*i].spacing)).collect();
        (!own.is_empty()).then(|| own.iter().sum())
    };
    let near = |s: &&Second| group.iter().any(|i| apart(&points[*i].place, &s.place) <= NEAR);
    let said: Vec<&Second> = seconds.iter().filter(near).collect();
    let confirmed = match said.iter().filter(|s| s.wet).count() {
        0 if said.is_empty() => Confirmed::Open,
        0 => Confirmed::Dry,
        n => Confirmed::Wet(n),
    };
    let (stretch_m, area_m2) = (sum(false, |s| s), sum(true, |s| s * s));
    WetPatch { points: group, worst, stretch_m, area_m2, confirmed }
}

/// A wall's figures by height. A line through them, weighted by nothing, must slope by more than its scatter allows (Student's
/// t, two-sided 95 %) and by [`LEAST_FALL`] of the mean.
fn profile(points: &[MapPoint], damp: &[Damp], facet: Facet) -> Option<Profile> {
    let own = (0..points.len()).filter(|i| points[*i].facet == facet && !matches!(damp[*i], Damp::LeftOut));
    let read: Vec<(f64, f64)> = own
        .filter_map(|i| match (points[i].height, points[i].showed) {
            (Some(h), Showed::Figure(x)) => Some((h, x)),
            _ => None,
        })
        .collect();
    let mut heights: Vec<(f64, f64, usize)> = Vec::new();
    let mut sorted = read.clone();
    sorted.sort_by(|a, b| a.0.total_cmp(&b.0));
    for (h, x) in sorted {
        match heights.last_mut().filter(|last| (h - last.0).abs() < 1e-6) {
            Some(last) => *last = (last.0, (last.1 * last.2 as f64 + x) / (last.2 + 1) as f64, last.2 + 1),
            None => heights.push((h, x, 1)),
        }
    }
    if heights.len() < LEAST_HEIGHTS {
        return None;
    }
    let n = read.len() as f64;
    let (mh, mx) = (read.iter().map(|r| r.0).sum::<f64>() / n, read.iter().map(|r| r.1).sum::<f64>() / n);
    let shh: f64 = read.iter().map(|(h, _)| (h - mh).powi(2)).sum();
    let slope = read.iter().map(|(h, x)| (h - mh) * (x - mx)).sum::<f64>() / shh;
    let rest: f64 = read.iter().map(|(h, x)| (x - mx - slope * (h - mh)).powi(2)).sum();
    let error = (rest / (n - 2.0) / shh).sqrt();
    let t = StudentsT::new(0.0, 1.0, n - 2.0).ok()?.inverse_cdf(0.975);
    let span = heights.last().map_or(0.0, |l| l.0) - heights[0].0;
    let says = if slope.abs() <= t * error || (slope * span).abs() < LEAST_FALL * mx.abs() {
        Rising::Even
    } else if slope < 0.0 {
        Rising::Falls
    } else {
        Rising::Rises
    };
    Some(Profile { facet, heights, says })
}
