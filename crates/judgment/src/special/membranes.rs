//! Felt and canvas with two membranes over wall and roof: what passes, what is held as frost, where a boil-off went.

use super::{Given, Mark, Reply, Told, air, sat};
use crate::plan::Measure;
use hygrothermal::quantity::Permeance;
use std::f64::consts::PI;

/// Films, m²K/W (ISO 6946).
const FILMS: [f64; 2] = [0.13, 0.04];
/// Conductivity of felt, W/(m·K), and of canvas by its resistance, m²K/W (common practice).
const FELT: f64 = 0.045;
const CANVAS: f64 = 0.02;
/// Felt lets vapor through as still air of so many times its thickness; canvas as still air, m (common practice).
const FELT_MU: f64 = 1.5;
const CANVAS_SD: f64 = 0.1;
/// The film of air inside, as still air, m.
const STILL: f64 = 0.008;
const DAY: f64 = 86_400.0;

/// A part of the cover.
struct Part {
    /// m².
    area: f64,
    /// What lies inside of the cold plane and outside of it, as still air, m.
    sides: [f64; 2],
}

/// What happens to the water given off, L/day, at a vapor pressure inside.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Fate {
    /// Passes outward by diffusion.
    pub passes: f64,
    /// Stays as frost or water at the membranes.
    pub held: f64,
    /// Leaves with air.
    pub aired: f64,
}

/// The dwelling with its climate.
struct Dwelling {
    parts: Vec<Part>,
    /// Outside of the felt, where frost forms, °C.
    plane: f64,
    inside: f64,
    outside: f64,
    /// Air changed in a second, m³.
    flow: f64,
}

impl Dwelling {
    /// What happens at a vapor pressure inside, Pa.
    fn at(&self, vapor: f64) -> Fate {
        let at_plane = sat(self.plane);
        let (mut passes, mut held) = (0.0, 0.0);
        for part in &self.parts {
            let [inner, outer] = part.sides;
            let through = |drop: f64, s_d: f64| Permeance::STILL_AIR * drop / s_d * part.area * DAY;
            let free = vapor - (vapor - self.outside) * inner / (inner + outer);
            if free > at_plane {
                let (comes, leaves) = (through(vapor - at_plane, inner), through(at_plane - self.outside, outer));
                passes += leaves;
                held += comes - leaves;
            } else {
                passes += through(vapor - self.outside, inner + outer);
            }
        }
        // Vapor density by the gas law; the outdoor air is warmed on its way.
        let density = |p: f64| p / (461.5 * (self.inside + 273.15));
        Fate { passes, held, aired: self.flow * (density(vapor) - density(self.outside)) * DAY }
    }

    /// The vapor pressure at which as much leaves as `liters` a day give off, and what happens then; at saturation the rest runs
    /// down inside and counts as held.
    fn balance(&self, liters: f64) -> (f64, Fate) {
        let (mut low, mut high) = (self.outside.min(sat(self.inside)), sat(self.inside));
        let sum = |f: Fate| f.passes + f.held + f.aired;
        if sum(self.at(high)) < liters {
            let fate = self.at(high);
            return (high, Fate { held: fate.held + liters - sum(fate), ..fate });
        }
        for _ in 0..60 {
            let middle = f64::midpoint(low, high);
            if sum(self.at(middle)) < liters { low = middle } else { high = middle }
        }
        (high, self.at(high))
    }
}

pub fn answer(given: &Given) -> Option<Reply> {
    let (d, wall, crown) = (given.get("diameter"), given.get("wall"), given.get("crown"));
    let r = d / 2.0;
    let areas = [PI * d * wall, PI * r * r.hypot((crown - wall).max(0.0))];
    let volume = PI * r * r * (wall + (crown - wall).max(0.0) / 3.0);
    let (inside, outdoor) = (given.get("inside_t"), given.get("outdoor_t"));
    let outside = air(outdoor, given.get("outdoor_rh"))?.vapor_pressure();
    let felt = given.get("felt") / FELT;
    let plane = inside - (inside - outdoor) * (FILMS[0] + felt) / (FILMS[0] + felt + CANVAS + FILMS[1]);
    let felt_sd = STILL + FELT_MU * given.get("felt");
    let sides = |membrane: f64| {
        if given.word("lies") == "inside" { [felt_sd + membrane, CANVAS_SD] } else { [felt_sd, membrane + CANVAS_SD] }
    };
    let dwelling = |membranes: [f64; 2]| Dwelling {
        parts: areas.into_iter().zip(membranes).map(|(area, membrane)| Part { area, sides: sides(membrane) }).collect(),
        plane,
        inside,
        outside,
        flow: given.get("air_changes") * volume / 3600.0,
    };
    let (a, b) = (given.get("a"), given.get("b"));
    let (trial, days) = (given.get("trial"), given.get("trial_days"));
    let row = |(id, membranes): (&'static str, [f64; 2])| {
        let home = dwelling(membranes);
        let (vapor, fate) = home.balance(given.get("water"));
        let (_, tried) = home.balance(trial / days);
        let rh = 100.0 * vapor / sat(inside);
        let held = fate.held * given.get("cold_days");
        let mark = if fate.held > 0.005 {
            Mark::Wet
        } else if rh >= super::MOLD {
            Mark::Mold
        } else {
            Mark::Dry
        };
        let figures = [held, fate.passes, fate.aired, rh, tried.held * days, (tried.passes + tried.aired) * days];
        Told { id, mark, figures: figures.map(Some).into() }
    };
    let options: Vec<Told> =
        [("aa", [a, a]), ("bb", [b, b]), ("ab", [a, b]), ("ba", [b, a])].into_iter().map(row).collect();
    let held = |o: &Told| o.figures[0].unwrap_or(f64::NAN);
    let least = options.iter().min_by(|x, y| held(x).total_cmp(&held(y)))?;
    let most = options.iter().map(held).fold(0.0, f64::max);
    // The ways are told from A: with B the more open one they change places.
    let (same, roof) = if a <= b { (["aa", "bb"], ["ba", "ab"]) } else { (["bb", "aa"], ["ab", "ba"]) };
    let outcome = match least.id {
        _ if most < 0.05 => "none",
        id if id == same[0] => "open_all",
        id if id == same[1] => "tight_all",
        id if id == roof[0] => "open_roof",
        _ => "open_wall",
    };
    let figures = [
        ("least", (Measure::Liters, held(least))),
        ("most", (Measure::Liters, most)),
        ("plane", (Measure::Temperature, plane)),
    ];
    Some(Reply { outcome, options, figures: figures.into() })
}
