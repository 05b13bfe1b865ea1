//! A slab on damp ground, and what lies on it.

use super::{Given, Mark, Reply, Told, air, at_face, dew, mark, sat};
use crate::plan::Measure;

/// Films: at a cool floor, m²K/W (ISO 6946).
const FILM: f64 = 0.17;
/// Conductivities of concrete and foam board, W/(m·K) (ISO 10456, from memory).
const LAMBDA: [f64; 2] = [1.6, 0.034];
/// Resistance to vapor of concrete and of foam board, times that of still air (ISO 10456, from memory).
const MU: [f64; 2] = [100.0, 100.0];
/// Films, carpets, vinyl and boards as still air, m (common practice).
const FILM_SD: f64 = 50.0;
const CARPET: [f64; 2] = [0.1, 0.1];
const VINYL: [f64; 2] = [0.02, 20.0];
const BOARDS: [f64; 2] = [0.12, 1.0];

/// One layer: resistance to heat, m²K/W, and to vapor, m of still air.
type Layer = [f64; 2];

/// The layers from the ground up, and after how many of them the finish lies.
struct Floor {
    id: &'static str,
    layers: Vec<Layer>,
    finish: usize,
}

pub fn answer(given: &Given) -> Option<Reply> {
    let room = air(given.get("inside_t"), given.get("inside_rh"))?;
    let (inside, ground) = (given.get("inside_t"), given.get("ground_t"));
    let slab = [given.get("slab") / LAMBDA[0], MU[0] * given.get("slab")];
    let foam = [given.get("insulation") / LAMBDA[1], MU[1] * given.get("insulation")];
    let film = [0.0, if given.word("film") == "yes" { FILM_SD } else { 0.0 }];
    let tight = [0.0, FILM_SD];
    let floors = [
        Floor { id: "open", layers: vec![film, slab], finish: 2 },
        Floor { id: "carpet", layers: vec![film, slab, CARPET], finish: 2 },
        Floor { id: "vinyl", layers: vec![film, slab, VINYL], finish: 2 },
        Floor { id: "above", layers: vec![film, slab, foam, tight, BOARDS], finish: 4 },
        Floor { id: "below", layers: vec![foam, tight, slab, VINYL], finish: 3 },
    ];
    let row = |f: &Floor| {
        let r: f64 = f.layers.iter().map(|l| l[0]).sum::<f64>() + FILM;
        let s: f64 = f.layers.iter().map(|l| l[1]).sum();
        let at = |n: usize, of: usize, whole: f64| f.layers[..n].iter().map(|l| l[of]).sum::<f64>() / whole;
        let t = |n: usize| ground + (inside - ground) * at(n, 0, r);
        let surface = t(f.layers.len());
        let rh = at_face(&room, surface);
        // Vapor from soil at saturation up to the room.
        let from = sat(ground);
        let vapor = from + (room.vapor_pressure() - from) * at(f.finish, 1, s);
        let under = (f.finish < f.layers.len()).then(|| (100.0 * vapor / sat(t(f.finish))).min(100.0));
        Told { id: f.id, mark: mark(rh.max(under.unwrap_or(0.0))), figures: vec![Some(surface), Some(rh), under] }
    };
    let options: Vec<Told> = floors.iter().map(row).collect();
    let all_dry = options[1..3].iter().all(|o| o.mark == Mark::Dry);
    let outcome = match options[0].mark {
        Mark::Wet => "dry_air",
        Mark::Mold => "insulate",
        _ if all_dry => "any",
        _ => "open",
    };
    let bare = |n: usize| options[0].figures[n].unwrap_or(f64::NAN);
    let figures = [
        ("surface", (Measure::Temperature, bare(0))),
        ("rh", (Measure::Percent, bare(1))),
        ("dew", (Measure::Temperature, dew(&room))),
    ];
    Some(Reply { outcome, options, figures: figures.into() })
}
