//! The wall of a panel-built vehicle: as it is, behind a lining, under foam.

use super::{Given, Mark, Reply, Told, air, at_80, at_face, dew, mark};
use crate::plan::Measure;

/// Films, m²K/W (ISO 6946).
const FILMS: [f64; 2] = [0.13, 0.04];
/// Conductivities of felt and closed-cell foam, W/(m·K) (common practice).
const LAMBDA: [f64; 2] = [0.04, 0.036];

pub fn answer(given: &Given) -> Option<Reply> {
    let cabin = air(given.get("inside_t"), given.get("inside_rh"))?;
    let (inside, outdoor) = (given.get("inside_t"), given.get("outdoor_t"));
    let (panel, frame) = (given.get("panel"), given.get("frame"));
    let (felt, foam) = (given.get("felt") / LAMBDA[0], given.get("foam") / LAMBDA[1]);
    // What the air reaches behind `before` of what lies inside of a wall of resistance `wall`.
    let reached = |wall: f64, cover: f64, before: f64| {
        inside - (inside - outdoor) * (FILMS[0] + before) / (FILMS[0] + cover + wall + FILMS[1])
    };
    let row = |id, field: f64, at_frame: f64| {
        let rh = at_face(&cabin, at_frame.min(field));
        Told { id, mark: mark(rh), figures: vec![Some(field), Some(at_frame), Some(at_face(&cabin, at_frame))] }
    };
    let options = vec![
        row("bare", reached(panel, 0.0, 0.0), reached(frame, 0.0, 0.0)),
        row("felt", reached(panel, felt, felt), reached(frame, felt, felt)),
        row("foam", reached(panel, foam, 0.0), reached(frame, 0.0, 0.0)),
        row("all", reached(panel, foam, 0.0), reached(frame, foam, 0.0)),
    ];
    let goal = at_80(&cabin);
    let outcome = match (options[0].mark, options[3].mark) {
        (Mark::Dry, _) => "bare",
        (_, Mark::Dry) => "all",
        _ if goal < inside => "air",
        _ => "damp",
    };
    let face = if outcome == "bare" { reached(frame, 0.0, 0.0) } else { reached(frame, foam, 0.0) };
    let needed = (FILMS[0] * (inside - outdoor) / (inside - goal) - FILMS[0] - FILMS[1] - frame) * LAMBDA[1];
    let figures = [
        ("face", (Measure::Temperature, face)),
        ("dew", (Measure::Temperature, dew(&cabin))),
        ("foam", (Measure::Thickness, given.get("foam"))),
        ("needed", (Measure::Thickness, needed.max(0.0))),
    ];
    Some(Reply { outcome, options, figures: figures.into() })
}
