//! The rim joist: bare, behind fiber, behind a board with open or sealed edges; ducts that warm the space.

use super::{Given, Mark, Reply, Told, air, at_80, at_face, dew, mark, sat};
use crate::construction::MOST_HELD;
use crate::plan::Measure;
use hygrothermal::air::MoistAir;
use hygrothermal::quantity::Permeance;

/// Cold days in a row that are reckoned with (ours).
const COLD_DAYS: f64 = 100.0;
/// Films, m²K/W (ISO 6946).
const FILMS: [f64; 2] = [0.13, 0.04];
/// Conductivities of softwood, fiber and foam board, W/(m·K) (common practice).
const LAMBDA: [f64; 3] = [0.13, 0.040, 0.034];
/// Resistance to vapor of softwood and of foam board, times that of still air (ISO 10456, from memory).
const MU: [f64; 2] = [50.0, 150.0];

pub fn answer(given: &Given) -> Option<Reply> {
    let read = air(given.get("inside_t"), given.get("inside_rh"))?;
    // Ducts warm the air and add no water.
    let (inside, outdoor) = (given.get("inside_t") + given.get("duct"), given.get("outdoor_t"));
    let warmed = air(inside, (100.0 * read.vapor_pressure() / sat(inside)).min(100.0))?;
    let rim = given.get("wood") / LAMBDA[0];
    let (fiber, board) = (given.get("fiber") / LAMBDA[1], given.get("board") / LAMBDA[2]);
    // Temperature behind a resistance inside of the rim's inner face.
    let at = |cover: f64, inside_of: f64| {
        let whole = FILMS[0] + cover + rim + FILMS[1];
        inside - (inside - outdoor) * (FILMS[0] + inside_of) / whole
    };
    let row = |id, face: f64, behind: f64, at_rim: Mark| {
        let rh = at_face(&warmed, face);
        Told { id, mark: worst(mark(rh), at_rim), figures: vec![Some(face), Some(rh), Some(behind)] }
    };
    let reached = |id, cover: f64| {
        let face = at(cover, cover);
        row(id, face, at_face(&warmed, face), Mark::Dry)
    };
    let (behind, at_rim) = behind_board(&warmed, given, outdoor, at(board, board));
    let sealed = row("sealed", at(board, 0.0), behind, at_rim);
    let options = vec![reached("bare", 0.0), reached("fiber", fiber), reached("board", board), sealed];
    let goal = at_80(&warmed);
    // The face of a board rises with it: solved for its resistance.
    let needed = (FILMS[0] * (inside - outdoor) / (inside - goal) - FILMS[0] - FILMS[1] - rim) * LAMBDA[2];
    let (outcome, face) = match () {
        () if options[0].mark == Mark::Dry => ("bare", at(0.0, 0.0)),
        () if goal >= inside => ("air_first", at(board, 0.0)),
        () if options[3].mark == Mark::Dry => ("sealed", at(board, 0.0)),
        () => ("thicker", at(board, 0.0)),
    };
    let figures = [
        ("face", (Measure::Temperature, face)),
        ("dew", (Measure::Temperature, dew(&warmed))),
        ("needed", (Measure::Thickness, needed.max(given.get("board")))),
    ];
    Some(Reply { outcome, options, figures: figures.into() })
}

fn worst(a: Mark, b: Mark) -> Mark {
    match (a, b) {
        (Mark::Wet, _) | (_, Mark::Wet) => Mark::Wet,
        (Mark::Mold, _) | (_, Mark::Mold) => Mark::Mold,
        _ => Mark::Dry,
    }
}

/// Humidity at the rim behind a sealed board, %, by diffusion through board and rim; and whether more gathers there in a hundred cold
/// days than wood holds before it runs.
fn behind_board(inside: &MoistAir, given: &Given, outdoor: f64, plane: f64) -> (f64, Mark) {
    let (board, wood) = (MU[1] * given.get("board"), MU[0] * given.get("wood"));
    let (vapor, outside, at_plane) = (inside.vapor_pressure(), 0.85 * sat(outdoor), sat(plane));
    let free = vapor - (vapor - outside) * board / (board + wood);
    let daily = Permeance::STILL_AIR * ((vapor - at_plane) / board - (at_plane - outside) / wood) * 86_400.0 * 1000.0;
    let mark = match 100.0 * free / at_plane {
        rh if rh >= 100.0 && daily * COLD_DAYS > MOST_HELD => Mark::Wet,
        // At a rim below freezing nothing grows.
        rh if rh >= super::MOLD && plane > 0.0 => Mark::Mold,
        _ => Mark::Dry,
    };
    ((100.0 * free / at_plane).min(100.0), mark)
}
