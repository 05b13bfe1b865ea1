//! How fast the core is. Figures and what they were measured on: docs/benchmarks.md.
#![allow(clippy::unwrap_used, missing_docs, reason = "benchmarks")]

use criterion::{BatchSize, Criterion, Throughput, criterion_group, criterion_main};
use hygrothermal::air::{MoistAir, Over};
use hygrothermal::buildup::{BuildUp, Layer, Month, Sides, film};
use hygrothermal::hours::{LoggedHour, VentHour, log_hours, vent_hours};
use hygrothermal::mold::{Decline, Sensitivity, mold_index};
use hygrothermal::proof::{ProofDay, proof};
use hygrothermal::quantity::{
    AirFlow, ArealMass, Days, Diameter, DiffusionThickness, Emissivity, HeatCapacity, Length, Minutes, MoldIndex,
    Pressure, RelativeHumidity, Temperature, ThermalResistance, Volume, WaterFlow,
};
use hygrothermal::space::{BudgetHour, RoomAir};
use hygrothermal::surface::{Apparent, Room, Scene, Settings, ThermalGrid};
use hygrothermal::vent::{Duct, DuctWall, Exhaust};
use std::hint::black_box;

/// Temperatures and humidities spread over what buildings see, frost included.
fn readings(count: usize) -> Vec<(Temperature, RelativeHumidity)> {
    let spread = |i: usize, step: f64| (i as f64 * step).fract();
    (0..count)
        .map(|i| {
            let t = Temperature::new(-15.0 + 50.0 * spread(i, 0.618_034)).unwrap();
            (t, RelativeHumidity::new(10.0 + 89.0 * spread(i, 0.414_214)).unwrap())
        })
        .collect()
}

fn air(t: Temperature, rh: RelativeHumidity) -> MoistAir {
    MoistAir::from_rh(t, rh, Over::Ice, Pressure::STANDARD).unwrap()
}

fn moist_air(c: &mut Criterion) {
    let readings = readings(10_000);
    let mut group = c.benchmark_group("air");
    group.throughput(Throughput::Elements(readings.len() as u64));
    group.bench_function("dew point from t and rh", |b| {
        b.iter(|| readings.iter().filter_map(|&(t, rh)| air(t, rh).dew_point()).map(Temperature::get).sum::<f64>());
    });
    group.bench_function("full state with wet bulb", |b| {
        b.iter(|| readings.iter().map(|&(t, rh)| full_state(&air(t, rh))).sum::<f64>());
    });
    group.finish();
}

fn full_state(air: &MoistAir) -> f64 {
    let dew = air.dew_point().map_or(0.0, Temperature::get);
    let wet = air.wet_bulb().map_or(0.0, Temperature::get);
    dew + wet + air.vapor_pressure() + air.humidity_ratio() + air.enthalpy() + air.density() + air.absolute_humidity()
}

/// Eight layers that get wet in winter and dry in summer.
fn year(c: &mut Criterion) {
    let layer = |r: f64, s: f64| Layer {
        resistance: ThermalResistance::new(r).unwrap(),
        diffusion: DiffusionThickness::new(s).unwrap(),
    };
    let layers = [
        layer(0.02, 0.2),
        layer(0.05, 0.125),
        layer(0.3, 2.0),
        layer(2.0, 0.07),
        layer(2.0, 0.07),
        layer(0.09, 2.4),
        layer(0.15, 0.02),
        layer(0.15, 1.8),
    ];
    let buildup = BuildUp::new(&layers, film::WALL, film::OUTSIDE).unwrap();
    let months: [Month; 12] = std::array::from_fn(|m| {
        let season = (m as f64 * std::f64::consts::TAU / 12.0).cos();
        let side = |t: f64, rh: f64| air(Temperature::new(t).unwrap(), RelativeHumidity::new(rh).unwrap());
        let sides = Sides { inside: side(20.0, 55.0), outside: side(6.0 - 12.0 * season, 78.0 + 8.0 * season) };
        Month { sides, days: Days::new(30.4).unwrap() }
    });
    assert!(buildup.year(&months, None).peak > 0.0, "a wall that stays dry would flatter the figure");
    let mut group = c.benchmark_group("build-up");
    group.throughput(Throughput::Elements(1));
    group.bench_function("monthly year of 8 layers", |b| b.iter(|| black_box(&buildup).year(black_box(&months), None)));
    group.finish();
    let thick: Vec<Layer> = layers.iter().chain(&layers[..12 - layers.len()]).copied().collect();
    let variants: Vec<BuildUp> =
        (0..4).map(|v| BuildUp::new(&thick[v % 2..], film::WALL, film::OUTSIDE).unwrap()).collect();
    c.bench_function("profiles of 12 layers, 4 variants, 12 months", |b| {
        b.iter(|| {
            let all = variants.iter().flat_map(|v| months.iter().map(move |m| black_box(v).profile(&m.sides)));
            all.map(|p| p.condensation.len()).sum::<usize>()
        });
    });
}

fn mold(c: &mut Criterion) {
    let hours = readings(8760);
    c.bench_function("mold index over 8760 hours", |b| {
        b.iter(|| {
            mold_index(black_box(&hours), Sensitivity::Sensitive, MoldIndex::CLEAN, Decline::ASHRAE_160).unwrap()
        });
    });
}

fn duct(c: &mut Criterion) {
    let wall = DuctWall {
        mass: ArealMass::new(3.9).unwrap(),
        heat: HeatCapacity::new(460.0).unwrap(),
        insulation: ThermalResistance::new(0.7).unwrap(),
    };
    let duct = Duct { diameter: Diameter::new(0.1).unwrap(), length: Length::new(4.0).unwrap(), wall };
    let damp = air(Temperature::new(24.0).unwrap(), RelativeHumidity::new(85.0).unwrap());
    let cold = Temperature::new(-5.0).unwrap();
    let exhaust = Exhaust::new(damp, cold, AirFlow::new(0.0236).unwrap(), duct).unwrap();
    c.bench_function("cold duct over 15 minutes", |b| {
        b.iter_batched(|| exhaust, |e| e.run(Minutes::new(15.0).unwrap()), BatchSize::SmallInput);
    });
}

/// A year of hours as they lie in memory: states known, a surface a little cooler than its air.
fn hours(c: &mut Criterion) {
    let states: Vec<MoistAir> = readings(8760).into_iter().map(|(t, rh)| air(t, rh)).collect();
    let coldest = Temperature::new(8.0).unwrap();
    let hour = |i: usize| LoggedHour {
        inside: Some(states[i]),
        outside: Some(states[(i + 100) % states.len()]),
        surface: Temperature::new(states[i].temperature().get() - 4.0).ok(),
    };
    let logged: Vec<LoggedHour> = (0..states.len()).map(hour).collect();
    c.bench_function("log_hours over 8760 h", |b| {
        b.iter(|| black_box(log_hours(logged.iter().copied(), 1.0, Over::Ice)));
    });
    let flow = AirFlow::new(0.05).unwrap();
    c.bench_function("vent_hours over 8760 h", |b| {
        let hours = logged.iter().map(|h| {
            h.inside.zip(h.outside).map(|(inside, outside)| VentHour { inside, outside, coldest: Some(coldest) })
        });
        b.iter(|| black_box(vent_hours(hours.clone(), flow)));
    });
}

/// A picture of 640 × 480 cells with cold patches of all sizes: corrected, read, its patches and two lines drawn.
fn picture(c: &mut Criterion) {
    let cell =
        |x: f64, y: f64| 17.0 + 2.0 * (x / 31.0).sin() * (y / 47.0).cos() + 3.0 * (x / 9.0).sin() * (y / 8.0).cos();
    let rows = (0..480).map(|y| (0..640).map(|x| Some(cell(f64::from(x), f64::from(y)))).collect::<Vec<_>>());
    let picture = ThermalGrid::from_rows(rows).unwrap();
    let celsius = |t: f64| Temperature::new(t).unwrap();
    let room = Room {
        air: air(celsius(21.0), RelativeHumidity::new(52.0).unwrap()),
        outdoor: Some(celsius(-3.0)),
        design: Some(celsius(-15.0)),
    };
    let one = Emissivity::new(1.0).unwrap();
    let settings = Settings {
        scene: Scene { emissivity: Emissivity::new(0.93).unwrap(), reflected: celsius(20.0) },
        set: Apparent { shown: celsius(20.0), set_emissivity: one, set_reflected: celsius(20.0) },
    };
    c.bench_function("thermal picture of 640 × 480", |b| {
        b.iter(|| {
            let surface = black_box(&picture).corrected(&settings).unwrap();
            let said = surface.read(&room);
            let lines = [said.dew, said.mold].map(|t| surface.contour(t.unwrap().get()).len());
            assert!(said.patches.len() > 20 && lines[1] > 20, "an empty picture would flatter the figure");
            (said, lines)
        });
    });
}

/// A year of hours with people in and out, and two years of days before and after a fix.
fn spans(c: &mut Criterion) {
    let t = Temperature::new(18.0).unwrap();
    let room = RoomAir::new(Volume::new(22.0).unwrap(), &air(t, RelativeHumidity::new(60.0).unwrap()));
    let hour = |i: usize, (t, rh): (Temperature, RelativeHumidity)| BudgetHour {
        outdoor: air(t, rh),
        flow: AirFlow::new(if i % 24 < 8 { 0.003 } else { 0.02 }).unwrap(),
        source: WaterFlow::new(if i % 24 < 8 { 3e-5 } else { 1e-5 }).unwrap(),
        removal: WaterFlow::new(if i.is_multiple_of(5) { 2e-5 } else { 0.0 }).unwrap(),
    };
    let year: Vec<BudgetHour> = readings(8760).into_iter().enumerate().map(|(i, r)| hour(i, r)).collect();
    c.bench_function("budget over 8760 h", |b| {
        b.iter(|| {
            let mut room = black_box(room);
            let end = |h: &BudgetHour| {
                let end = room.step(h);
                [Some(end.rh), end.dew_point().map(Temperature::get)]
            };
            year.iter().map(end).collect::<Vec<_>>()
        });
    });
    let day = |at: i64| {
        let x = at as f64;
        ProofDay {
            at,
            excess: 300.0 + 40.0 * (x * 1.7).sin() - if at > 365 { 120.0 } else { 0.0 },
            outdoor_t: 10.0 + 12.0 * (x / 58.0).sin(),
            outdoor_p: 900.0 + 400.0 * (x / 58.0).sin() + 90.0 * (x * 0.9).cos(),
        }
    };
    let days: Vec<ProofDay> = (0..730).map(day).collect();
    c.bench_function("proof over two years of days", |b| b.iter(|| proof(black_box(&days[..365]), &days[365..], 50.0)));
}

criterion_group!(benches, moist_air, year, mold, duct, hours, picture, spans);
criterion_main!(benches);
