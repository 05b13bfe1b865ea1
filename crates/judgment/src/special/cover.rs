//! The cover of a cold pipe or duct.

use super::{Given, Mark, Reply, Told};
use crate::plan::Measure;
use hygrothermal::buildup::PipeCover;
use hygrothermal::quantity::{Conductivity, Diameter, Temperature, ThermalResistance};

/// Still air around a pipe, m²K/W (common practice).
const FILM: f64 = 0.125;
/// The skin stays so far over the worst dew point, K (common practice).
const OVER: f64 = 1.0;
/// Covers sold, mm (common practice).
const SOLD: [(&str, f64); 8] =
    [("0", 0.0), ("6", 6.0), ("9", 9.0), ("13", 13.0), ("19", 19.0), ("25", 25.0), ("32", 32.0), ("50", 50.0)];

pub fn answer(given: &Given) -> Option<Reply> {
    let t = |id| Temperature::new(given.get(id)).ok();
    let pipe = PipeCover {
        pipe: Diameter::new(given.get("diameter")).ok()?,
        contents: t("contents")?,
        around: t("around_t")?,
        conductivity: Conductivity::new(given.get("conductivity")).ok()?,
        film: ThermalResistance::new(FILM).ok()?,
    };
    let dew = given.get("dew");
    let row = |(id, mm): (&'static str, f64)| {
        let skin = pipe.skin(mm / 1000.0);
        let mark = match skin - dew {
            m if m < 0.0 => Mark::Wet,
            m if m < OVER => Mark::Unsure,
            _ => Mark::Dry,
        };
        Told { id, mark, figures: vec![Some(skin), Some(skin - dew)] }
    };
    let options: Vec<Told> = SOLD.into_iter().map(row).collect();
    let needed = Temperature::new(dew + OVER).ok().and_then(|keep| pipe.thickness_for(keep));
    let outcome = match needed {
        Some(mm) if mm <= 0.0 => "bare",
        Some(mm) if mm > SOLD[SOLD.len() - 1].1 / 1000.0 => "thick",
        Some(_) => "cover",
        None => "none",
    };
    let needed = needed.unwrap_or(f64::NAN);
    let sold = SOLD.iter().map(|(_, mm)| mm / 1000.0).find(|m| *m >= needed - 1e-9).unwrap_or(needed);
    let figures = [
        ("skin", (Measure::Temperature, pipe.skin(0.0))),
        ("dew", (Measure::Temperature, dew)),
        ("needed", (Measure::Thickness, needed)),
        ("sold", (Measure::Thickness, sold)),
    ];
    Some(Reply { outcome, options, figures: figures.into() })
}
