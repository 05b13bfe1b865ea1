//! Roof sheathing under the night sky.

use super::{Given, Mark, Reply, Told, air, at_face, dew, mark};
use crate::plan::Measure;

/// Stefan and Boltzmann, W/(m²K⁴).
const SIGMA: f64 = 5.670_374e-8;
const ZERO: f64 = 273.15;
/// Film under the sheathing, heat upward, m²K/W (ISO 6946).
const FILM: f64 = 0.10;

/// Temperature of the sky, °C, from the outdoor dew point and the share of cloud.
///
/// # Formula
/// ε = 0.711 + 0.56 (t_d/100) + 0.73 (t_d/100)² (Berdahl and Martin 1984, from memory); cloud fills what the clear sky lacks.
fn sky(outdoor: f64, dew: f64, cloud: f64) -> f64 {
    let x = dew / 100.0;
    let clear = (0.711 + 0.56 * x + 0.73 * x * x).clamp(0.4, 1.0);
    let emissivity = clear + (1.0 - clear) * cloud;
    (outdoor + ZERO) * emissivity.powf(0.25) - ZERO
}

/// Temperature of the underside, °C: what comes from below leaves to the air and to the sky.
fn underside(given: &Given, sky: f64, above: f64) -> f64 {
    let (t_e, t_a) = (given.get("outdoor_t"), given.get("attic_t"));
    let (h, e) = (4.0 + 4.0 * given.get("wind"), given.get("emissivity"));
    let r = FILM + given.get("sheathing") + above;
    let gain = |t: f64| (t_a - t) / r + h * (t_e - t) + e * SIGMA * ((sky + ZERO).powi(4) - (t + ZERO).powi(4));
    let (mut low, mut high) = (t_e.min(t_a).min(sky) - 5.0, t_e.max(t_a) + 5.0);
    // What it gains falls with its temperature: the bracket always holds the balance.
    for _ in 0..60 {
        let middle = f64::midpoint(low, high);
        if gain(middle) > 0.0 { low = middle } else { high = middle }
    }
    t_a - (t_a - low) * FILM / r
}

pub fn answer(given: &Given) -> Option<Reply> {
    let outdoor = air(given.get("outdoor_t"), given.get("outdoor_rh"))?;
    let attic = air(given.get("attic_t"), given.get("attic_rh"))?;
    let dew_out = dew(&outdoor);
    let row = |id, cloud: f64, above: f64| {
        let sky = sky(given.get("outdoor_t"), dew_out, cloud);
        let under = underside(given, sky, above);
        let rh = at_face(&attic, under);
        Told { id, mark: mark(rh), figures: vec![Some(sky), Some(under), Some(rh)] }
    };
    let options = vec![
        row("clear", 0.0, 0.0),
        row("half", 0.5, 0.0),
        row("overcast", 1.0, 0.0),
        row("above", 0.0, given.get("above")),
    ];
    let under = options[0].figures[1].unwrap_or(f64::NAN);
    let clear = sky(given.get("outdoor_t"), dew_out, 0.0);
    // Least insulation above that keeps the underside over the attic's dew point.
    let (mut low, mut high) = (0.0, 20.0);
    for _ in 0..50 {
        let middle = f64::midpoint(low, high);
        if underside(given, clear, middle) < dew(&attic) { low = middle } else { high = middle }
    }
    let outcome = match options[0].mark {
        Mark::Wet if under < 0.0 => "frost",
        Mark::Wet => "wet",
        Mark::Mold => "mold",
        _ => "dry",
    };
    let figures = [
        ("under", (Measure::Temperature, under)),
        ("dew", (Measure::Temperature, dew(&attic))),
        ("needed", (Measure::Resistance, high)),
    ];
    Some(Reply { outcome, options, figures: figures.into() })
}
