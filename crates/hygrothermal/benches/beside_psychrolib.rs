//! The core beside PsychroLib, on the same states in the same run: its scalar call and its vectorized one.
//!
//! Needs a Python with psychrolib (and numba and numpy for the vectorized call); PYTHON names another interpreter.
#![allow(
    clippy::unwrap_used,
    clippy::disallowed_methods,
    clippy::disallowed_macros,
    missing_docs,
    reason = "a benchmark reads the clock and prints; the core does neither"
)]

use hygrothermal::air::{MoistAir, Over};
use hygrothermal::quantity::{Pressure, RelativeHumidity, Temperature};
use std::hint::black_box;
use std::process::Command;
use std::time::Instant;

const STATES: usize = 200_000;

/// Best of five passes, in calls per second: the shared machine only ever slows a pass down.
fn rate(mut pass: impl FnMut()) -> f64 {
    let seconds = (0..5).map(|_| {
        let start = Instant::now();
        pass();
        start.elapsed().as_secs_f64()
    });
    STATES as f64 / seconds.fold(f64::INFINITY, f64::min)
}

/// The same spread as psychrolib_rate.py.
fn reading(i: usize) -> (Temperature, RelativeHumidity) {
    let t = Temperature::new((i as f64 * 0.618_034).fract() * 35.0 + 1.0).unwrap();
    (t, RelativeHumidity::new((i as f64 * 0.414_214).fract() * 89.0 + 10.0).unwrap())
}

fn air((t, rh): (Temperature, RelativeHumidity)) -> MoistAir {
    MoistAir::from_rh(t, rh, Over::Ice, Pressure::STANDARD).unwrap()
}

fn main() {
    let readings: Vec<_> = (0..STATES).map(reading).collect();
    let dew = rate(|| {
        for &read in &readings {
            black_box(air(read).dew_point());
        }
    });
    let wet = rate(|| {
        for &read in &readings {
            let air = air(read);
            black_box((air.wet_bulb(), air.humidity_ratio(), air.dew_point(), air.enthalpy(), air.specific_volume()));
        }
    });
    println!("core       dew point {dew:>12.0}/s   full state {wet:>12.0}/s");
    let python = std::env::var("PYTHON").unwrap_or_else(|_| "python3".into());
    for kind in ["scalar", "vectorized"] {
        let script = concat!(env!("CARGO_MANIFEST_DIR"), "/benches/psychrolib_rate.py");
        let output = Command::new(&python).args([script, kind]).output();
        let text = output.map(|o| String::from_utf8_lossy(&o.stdout).into_owned()).unwrap_or_default();
        let rates: Vec<f64> = text.split_whitespace().filter_map(|w| w.parse().ok()).collect();
        match rates[..] {
            [d, w] => println!(
                "{kind:<10} dew point {d:>12.0}/s   full state {w:>12.0}/s   core is {:.0} and {:.0} times as fast",
                dew / d,
                wet / w
            ),
            _ => println!("{kind:<10} not measured: {python} lacks psychrolib, numpy or numba"),
        }
    }
}
