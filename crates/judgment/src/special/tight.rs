//! Something that can get wet between two tight layers.

use super::{Given, Mark, Reply, Told, Where};
use crate::construction::around;
use crate::plan::Measure;
use hygrothermal::buildup::{BuildUp, Layer, Month};
use hygrothermal::quantity::DiffusionThickness;

/// It must dry out so many times what comes in (ours).
const TIMES: f64 = 2.0;

/// What a plane dries in a year, g/m²: all, inward, and how many months from January until so much is out.
fn year(built: &BuildUp, plane: usize, months: &[Month; 12], water: f64) -> Option<(f64, f64, Option<f64>)> {
    let (mut all, mut inward) = (0.0, 0.0);
    let mut by_month = [0.0; 12];
    for (i, month) in months.iter().enumerate() {
        let dries = built.drying(plane, &month.sides)?;
        by_month[i] = dries.sum().max(0.0) * month.days.get();
        all += by_month[i];
        inward += if dries.sum() > 0.0 { dries.to_inside.max(0.0) * month.days.get() } else { 0.0 };
    }
    let mut left = water;
    let out = (0..120).find_map(|m| {
        let dries = by_month[m % 12];
        if dries >= left && dries > 0.0 {
            return Some(m as f64 + left / dries);
        }
        left -= dries;
        None
    });
    Some((all, inward, out))
}

pub fn answer(given: &Given, at: Where) -> Option<Reply> {
    let none = || Reply { outcome: "unknown", options: Vec::new(), figures: [].into() };
    let built = at.of.and_then(|(b, v)| Some((b, at.building.stock().construct(v, b.face).ok()?)));
    let Some((boundary, built)) = built.filter(|(_, c)| c.plies.len() > 1) else { return Some(none()) };
    let months = around(at.building, boundary, at.class).months(at.outdoors)?;
    let layers: Vec<Layer> = built.plies.iter().map(|p| p.layer).collect();
    let (water, open) = (given.get("water"), DiffusionThickness::new(given.get("open")).ok()?);
    // The plane that dries worst decides.
    let worst = (1..layers.len())
        .filter_map(|p| Some((p, year(&built.between, p, &months, water)?.0)))
        .min_by(|a, b| a.1.total_cmp(&b.1))?
        .0;
    let opened = |inside: bool, outside: bool| -> Vec<Layer> {
        let side = |i: usize| if i < worst { inside } else { outside };
        let ease = |(i, l): (usize, &Layer)| {
            let tight = side(i) && l.diffusion.get() > open.get();
            if tight { Layer { diffusion: open, ..*l } } else { *l }
        };
        layers.iter().enumerate().map(ease).collect()
    };
    let ways = [("stands", false, false), ("inside", true, false), ("outside", false, true), ("both", true, true)];
    let mut options = Vec::new();
    for (id, inside, outside) in ways {
        let made = BuildUp::new(&opened(inside, outside), built.films[0], built.films[1]).ok()?;
        let (dries, inward, out) = year(&made, worst, &months, water)?;
        let mark = match dries {
            d if d < water => Mark::Wet,
            d if d < TIMES * water => Mark::Mold,
            _ => Mark::Dry,
        };
        options.push(Told { id, mark, figures: vec![Some(dries), Some(inward), out] });
    }
    let dries = |i: usize| options[i].figures[0].unwrap_or(0.0);
    let outcome = match options[0].mark {
        Mark::Wet => "caught",
        Mark::Mold => "slow",
        _ => "free",
    };
    let resists = |layers: &[Layer]| layers.iter().map(|l| l.diffusion.get()).sum::<f64>();
    let figures = [
        ("dries", (Measure::Gain, dries(0))),
        ("water", (Measure::Gain, water)),
        ("inner", (Measure::StillAir, resists(&layers[..worst]))),
        ("outer", (Measure::StillAir, resists(&layers[worst..]))),
        ("best", (Measure::Gain, dries(1).max(dries(2)))),
    ];
    Some(Reply { outcome, options, figures: figures.into() })
}
