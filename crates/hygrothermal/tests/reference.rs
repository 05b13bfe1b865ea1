//! Against the outside: PsychroLib 2.5.0 and CoolProp 8.0.0 (fixture and its script in `reference/`), ASHRAE values.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, missing_docs, reason = "tests")]

use hygrothermal::air::{MoistAir, Over, saturation_pressure, saturation_pressure_over};
use hygrothermal::quantity::{AirFlow, Altitude, Area, Pressure, RelativeHumidity, Temperature, ThermalResistance};
use hygrothermal::space::{Advice, bare_soil_evaporation, compare_air};
use hygrothermal::surface::{Target, added_insulation};

fn t(celsius: f64) -> Temperature {
    Temperature::new(celsius).unwrap()
}

fn air(celsius: f64, rh: f64) -> MoistAir {
    at(celsius, rh, Pressure::STANDARD)
}

fn at(celsius: f64, rh: f64, p: Pressure) -> MoistAir {
    MoistAir::from_rh(t(celsius), RelativeHumidity::new(rh).unwrap(), Over::Ice, p).unwrap()
}

fn close(what: &str, got: f64, want: f64, tolerance: f64) {
    assert!((got - want).abs() <= tolerance, "{what}: got {got}, want {want} ± {tolerance}");
}

#[test]
fn states_agree_with_psychrolib_and_coolprop() {
    let mut reader = csv::Reader::from_path("tests/reference/moist_air.csv").unwrap();
    let mut rows = 0;
    for row in reader.records() {
        let row = row.unwrap();
        let x = |i: usize| row[i].parse::<f64>().unwrap();
        let air = at(x(0), x(1), Pressure::new(x(2)).unwrap());
        let case = format!("{} °C {} % {} Pa", &row[0], &row[1], &row[2]);
        // PsychroLib solves dew point and wet bulb to 0.001 K.
        close(&format!("dew {case}"), air.dew_point().unwrap().get(), x(3), 0.003);
        close(&format!("wet {case}"), air.wet_bulb().unwrap().get(), x(4), 0.003);
        close(&format!("vapor {case}"), air.vapor_pressure(), x(5), 1e-6 * x(5) + 1e-4);
        // It also lifts humidity ratios below 1e-7, which none here has.
        close(&format!("ratio {case}"), air.humidity_ratio(), x(6), 1e-6 * x(6) + 1e-8);
        close(&format!("enthalpy {case}"), air.enthalpy(), x(7), 1e-3);
        close(&format!("density {case}"), air.density(), x(8), 1e-4);
        if !row[9].is_empty() {
            // CoolProp's humid air is a real gas: 0.5 to 0.7 % in humidity ratio, up to 0.03 K in dew point.
            close(&format!("real-gas dew {case}"), air.dew_point().unwrap().get(), x(9), 0.03);
            close(&format!("real-gas ratio {case}"), air.humidity_ratio(), x(10), 0.007 * x(10));
        }
        rows += 1;
    }
    assert_eq!(rows, 144);
}

#[test]
fn saturation_pressure_matches_the_ashrae_table() {
    // ASHRAE Handbook—Fundamentals 2017, ch. 1 table 3 (kPa → Pa), from memory.
    for (celsius, pascals) in
        [(-40.0, 12.85), (-20.0, 103.24), (0.0, 611.2), (20.0, 2338.8), (40.0, 7383.8), (100.0, 101_418.0)]
    {
        close(&format!("p_sat {celsius}"), saturation_pressure(t(celsius)), pascals, 7e-4 * pascals);
    }
    // Over supercooled water at −25 °C ice saturation reads about 78 % (Sonntag 1990, from memory).
    let ratio = saturation_pressure(t(-25.0)) / saturation_pressure_over(t(-25.0), Over::Water);
    close("ice over water at −25 °C", 100.0 * ratio, 78.4, 0.4);
}

#[test]
fn standard_atmosphere_by_altitude() {
    // ASHRAE Handbook—Fundamentals 2017, ch. 1 table 1 (kPa → Pa), from memory.
    for (z, pascals) in [(0.0, 101_325.0), (1000.0, 89_875.0), (3000.0, 70_108.0)] {
        close("pressure", Pressure::at_altitude(Altitude::new(z).unwrap()).get(), pascals, 10.0);
    }
}

#[test]
fn outdoor_air_is_weighed_in_absolute_terms() {
    // 90 % at 5 °C holds less than 50 % at 20 °C: it dries, by ρQ(W_in − W_out) with PsychroLib's 7.2617 and 4.8487 g/kg.
    let compared = compare_air(&air(20.0, 50.0), &air(5.0, 90.0), AirFlow::new(0.06).unwrap(), Some(t(3.0)));
    assert_eq!(compared.advice, Advice::Ventilate);
    assert_eq!(compared.condenses, Some(true), "outdoor dew point 3.5 °C, surface 3 °C");
    let by_hand = 0.06 / air(5.0, 90.0).specific_volume() * (7.2617e-3 - 4.8487e-3) * 86_400.0;
    close("removal", compared.removal_l_day, by_hand, 0.01 * by_hand);
    let summer = compare_air(&air(21.5, 91.0), &air(31.0, 66.0), AirFlow::new(0.06).unwrap(), None);
    assert!(summer.advice == Advice::KeepClosed && summer.removal_l_day < 0.0);
    let same = compare_air(&air(20.0, 50.0), &air(25.0, 37.0), AirFlow::new(0.06).unwrap(), None);
    assert_eq!(same.advice, Advice::NoDifference, "dew points within 0.5 K");
}

#[test]
fn bare_damp_soil_gives_off_about_four_tenths_of_a_liter() {
    // Common practice, from memory: about 0.4 kg/m² a day at 13 °C and 80 %.
    close("soil", bare_soil_evaporation(t(13.0), &air(13.0, 80.0), Area::new(1.0).unwrap()), 0.4, 0.05);
}

#[test]
fn added_insulation_solves_the_surface_temperature() {
    // Hand-worked by ISO 6946: R 0.5, R_si 0.13, 20 °C against −10 °C: T_si = 20 − 30·0.13/0.5 = 12.2 °C. The dew point
    // of 20 °C 65 % is 13.2272 °C (PsychroLib), so R must reach 0.13·30/(20 − 13.2272) = 0.5758.
    let r = |x| ThermalResistance::new(x).unwrap();
    let need = |rh, target| added_insulation(&air(20.0, rh), t(-10.0), r(0.5), r(0.13), target);
    close("surface", need(65.0, Target::NoCondensation).surface_before, 12.2, 1e-9);
    close("added", need(65.0, Target::NoCondensation).added.unwrap(), 0.0758, 1e-4);
    assert_eq!(need(50.0, Target::NoCondensation).added, Some(0.0));
    assert!(need(65.0, Target::NoMold).added.unwrap() > 0.0758);
    assert_eq!(need(85.0, Target::NoMold).added, None, "air above 80 % cannot have a surface below it by insulation");
}
