//! What must always hold.
#![allow(clippy::unwrap_used, clippy::expect_used, missing_docs, reason = "tests")]

use hygrothermal::air::{MoistAir, Over, dew_point, saturation_pressure, saturation_pressure_over, saturation_slope};
use hygrothermal::quantity::{AirFlow, HumidityAccuracy, Pressure, RelativeHumidity, Temperature, TemperatureAccuracy};
use hygrothermal::space::compare_air;
use hygrothermal::surface::{Accuracy, Verdict, judge};
use proptest::prelude::*;

fn t(celsius: f64) -> Temperature {
    Temperature::new(celsius).unwrap()
}

fn air(celsius: f64, rh: f64) -> MoistAir {
    MoistAir::from_rh(t(celsius), RelativeHumidity::new(rh).unwrap(), Over::Ice, Pressure::STANDARD).unwrap()
}

proptest! {
    #[test]
    fn dew_point_is_the_inverse_of_saturation(celsius in -100.0..200.0_f64) {
        let back = dew_point(saturation_pressure(t(celsius))).unwrap().get();
        prop_assert!((back - celsius).abs() < 1e-6, "{celsius} came back as {back}");
    }

    #[test]
    fn the_slope_is_the_derivative(celsius in -99.0..199.0_f64, water: bool) {
        prop_assume!(celsius.abs() > 0.01);
        let over = if water { Over::Water } else { Over::Ice };
        let h = 1e-4;
        let by_difference = (saturation_pressure_over(t(celsius + h), over) - saturation_pressure_over(t(celsius - h), over)) / (2.0 * h);
        let slope = saturation_slope(t(celsius), over);
        prop_assert!((slope - by_difference).abs() < 1e-5 * slope.abs(), "{slope} against {by_difference}");
    }

    #[test]
    fn every_measured_pair_leads_back_to_the_same_air(celsius in -60.0..60.0_f64, rh in 1.0..100.0_f64) {
        let first = air(celsius, rh);
        let (dew, wet) = (first.dew_point().unwrap(), first.wet_bulb().unwrap());
        prop_assert!(dew.get() <= wet.get() + 1e-6 && wet.get() <= celsius + 1e-6, "dew {dew:?}, wet {wet:?}, air {celsius}");
        let by_dew = MoistAir::from_dew_point(t(celsius), dew, Pressure::STANDARD).unwrap();
        // The two curves miss each other by 0.06 Pa at 0 °C; a vapor pressure in that gap has a dew point of just 0 °C.
        let gap = if dew.get() == 0.0 { 0.01 } else { 1e-4 };
        prop_assert!((by_dew.rh(Over::Ice) - rh).abs() < gap);
        let by_wet = MoistAir::from_wet_bulb(t(celsius), wet, Pressure::STANDARD).unwrap();
        prop_assert!((by_wet.rh(Over::Ice) - rh).abs() < 1e-3, "{} against {rh}", by_wet.rh(Over::Ice));
    }

    /// Over the whole range of temperature, humidity and pressure: the wet bulb comes back as the same air, or there is
    /// none because the air is drier than −100 °C frost.
    #[test]
    fn the_wet_bulb_converges_everywhere(celsius in -100.0..200.0_f64, rh in 0.0..=100.0_f64, pascals in 10_000.0..200_000.0_f64) {
        let p = Pressure::new(pascals).unwrap();
        let Ok(air) = MoistAir::from_rh(t(celsius), RelativeHumidity::new(rh).unwrap(), Over::Ice, p) else { return Ok(()) };
        // Of what is steam but for a thousandth, the wet bulb says next to nothing of how little air there is.
        prop_assume!(air.vapor_pressure() < 0.999 * pascals);
        match air.wet_bulb() {
            Some(wet) => {
                prop_assert!(wet.get() <= celsius + 1e-9, "wet bulb {wet:?} above the air");
                let back = MoistAir::from_wet_bulb(t(celsius), wet, p).unwrap();
                let off = (back.vapor_pressure() - air.vapor_pressure()).abs();
                prop_assert!(off < 1e-6 * air.vapor_pressure() + 1e-4, "{} came back as {}", air.vapor_pressure(), back.vapor_pressure());
            }
            None => prop_assert!(celsius < -90.0, "no wet bulb at {celsius} °C and {rh} %"),
        }
    }

    #[test]
    fn vapor_never_passes_saturation(celsius in -100.0..99.0_f64, rh in 0.0..=100.0_f64, water: bool) {
        let over = if water { Over::Water } else { Over::Ice };
        if let Ok(air) = MoistAir::from_rh(t(celsius), RelativeHumidity::new(rh).unwrap(), over, Pressure::STANDARD) {
            prop_assert!(air.vapor_pressure() <= saturation_pressure(t(celsius)) * (1.0 + 1e-12));
        }
    }

    #[test]
    fn saturated_air_is_accepted_at_any_temperature(celsius in -100.0..99.0_f64, water: bool) {
        prop_assume!(celsius >= 0.0 || !water);
        let over = if water { Over::Water } else { Over::Ice };
        let full = RelativeHumidity::new(100.0).unwrap();
        prop_assert!(MoistAir::from_rh(t(celsius), full, over, Pressure::STANDARD).is_ok());
    }

    #[test]
    fn a_warmer_surface_is_never_wetter(celsius in -20.0..45.0_f64, rh in 5.0..99.0_f64, surface in -30.0..50.0_f64, more in 0.1..10.0_f64) {
        let cold = judge(&air(celsius, rh), t(surface), Over::Ice, &Accuracy::TYPICAL);
        let warm = judge(&air(celsius, rh), t(surface + more), Over::Ice, &Accuracy::TYPICAL);
        prop_assert!(warm.surface_rh < cold.surface_rh);
        prop_assert!(warm.margin.unwrap().value > cold.margin.unwrap().value);
        if warm.verdict == Verdict::Condensing {
            prop_assert_eq!(cold.verdict, Verdict::Condensing);
        }
    }

    /// The first-order band against what the margin really does when each reading is off by its accuracy.
    #[test]
    fn the_band_holds_what_small_errors_do(celsius in 1.0..40.0_f64, rh in 20.0..95.0_f64, surface in 1.0..40.0_f64) {
        let e = 1e-3;
        let only = |a, h, s| Accuracy {
            air: TemperatureAccuracy::new(a).unwrap(), rh: HumidityAccuracy::new(h).unwrap(), surface: TemperatureAccuracy::new(s).unwrap(),
        };
        let margin = |c: f64, h: f64, s: f64| judge(&air(c, h), t(s), Over::Ice, &only(0.0, 0.0, 0.0)).margin.unwrap().value;
        let base = margin(celsius, rh, surface);
        prop_assume!(air(celsius, rh).dew_point().unwrap().get().abs() > 0.05);
        for (accuracy, moved) in [
            (only(e, 0.0, 0.0), margin(celsius + e, rh, surface)),
            (only(0.0, e, 0.0), margin(celsius, rh + e, surface)),
            (only(0.0, 0.0, e), margin(celsius, rh, surface + e)),
        ] {
            let band = judge(&air(celsius, rh), t(surface), Over::Ice, &accuracy).margin.unwrap().err;
            prop_assert!((band - (moved - base).abs()).abs() < 1e-2 * band + 1e-9, "band {band}, moved {}", moved - base);
        }
    }

    #[test]
    fn swapping_the_airs_turns_drying_into_wetting(a in 0.0..40.0_f64, b in 0.0..40.0_f64, ra in 5.0..100.0_f64, rb in 5.0..100.0_f64) {
        let flow = AirFlow::new(0.05).unwrap();
        let there = compare_air(&air(a, ra), &air(b, rb), flow, None).removal_l_day;
        let back = compare_air(&air(b, rb), &air(a, ra), flow, None).removal_l_day;
        prop_assert!(there * back <= 0.0);
    }

    #[test]
    fn a_quantity_out_of_range_is_never_made(x in prop::num::f64::ANY) {
        prop_assert_eq!(RelativeHumidity::new(x).is_ok(), (0.0..=100.0).contains(&x));
        prop_assert_eq!(Temperature::new(x).is_ok(), (-100.0..=200.0).contains(&x));
    }
}
