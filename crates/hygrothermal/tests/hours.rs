//! Rows of hours, against what each hour says by itself.
#![allow(clippy::unwrap_used, missing_docs, reason = "tests")]

use hygrothermal::air::{MoistAir, Over};
use hygrothermal::hours::{LoggedHour, VentHour, log_hours, vent_hours};
use hygrothermal::quantity::{AirFlow, Pressure, RelativeHumidity, Temperature};
use hygrothermal::space::compare_air;
use hygrothermal::surface::{Accuracy, judge};
use proptest::prelude::*;

fn air(t: f64, rh: f64) -> MoistAir {
    let (t, rh) = (Temperature::new(t).unwrap(), RelativeHumidity::new(rh).unwrap());
    MoistAir::from_rh(t, rh, Over::Ice, Pressure::STANDARD).unwrap()
}

fn hour(inside: Option<[f64; 2]>, outside: Option<[f64; 2]>, surface: Option<f64>) -> LoggedHour {
    LoggedHour {
        inside: inside.map(|[t, rh]| air(t, rh)),
        outside: outside.map(|[t, rh]| air(t, rh)),
        surface: surface.map(|t| Temperature::new(t).unwrap()),
    }
}

#[test]
fn wet_hours_spells_and_gaps_are_counted_by_hand() {
    // 20 °C and 50 % have a dew point of 9.27 °C (PsychroLib) and 80 % at 12.6 °C.
    let room = Some([20.0, 50.0]);
    let surfaces = [Some(15.0), Some(9.0), Some(9.2), None, Some(8.0), Some(12.0), Some(9.0)];
    let said = log_hours(surfaces.map(|s| hour(room, None, s)), 0.5, Over::Ice);
    assert_eq!((said.known, said.gaps), (3.0, 0.5));
    assert_eq!((said.wet, said.mold, said.longest_wet, said.wet_spells), (2.0, 2.5, 1.0, 3));
    let (margin, at) = said.worst.unwrap();
    assert!((margin + 1.27).abs() < 0.01 && at == 4);
    assert_eq!(said.excess, None);
}

#[test]
fn the_excess_is_a_mean_over_hours_that_know_both_airs() {
    // PsychroLib: 20 °C 50 % holds 8.64 g/m³ and 1169 Pa, 5 °C 80 % holds 5.43 g/m³ and 697.8 Pa.
    let both = hour(Some([20.0, 50.0]), Some([5.0, 80.0]), Some(18.0));
    let one = LoggedHour { outside: None, ..both };
    let said = log_hours([both, one, both], 1.0, Over::Ice);
    let [grams, pascals] = said.excess.unwrap();
    assert!((grams - 3.21).abs() < 0.02 && (pascals - 471.7).abs() < 1.5, "{grams} {pascals}");
    assert_eq!((said.known, said.gaps), (3.0, 0.0), "outdoor air is not needed where the surface is read");
    let estimated = both.estimated(0.6);
    assert!((estimated.surface.unwrap().get() - 14.0).abs() < 1e-9);
    assert_eq!(one.estimated(0.6).surface, None);
}

#[test]
fn air_without_vapor_wets_nothing() {
    let said = log_hours([hour(Some([20.0, 0.0]), None, Some(-30.0))], 1.0, Over::Ice);
    assert_eq!((said.wet, said.mold, said.worst), (0.0, 0.0, None));
}

proptest! {
    #[test]
    fn a_row_says_what_its_hours_say_one_by_one(
        hours in prop::collection::vec((-25.0..40.0, 1.0..100.0, -25.0..40.0), 1..60),
    ) {
        let row: Vec<LoggedHour> = hours.iter().map(|(t, rh, s)| hour(Some([*t, *rh]), None, Some(*s))).collect();
        let said = log_hours(row.iter().copied(), 1.0, Over::Ice);
        let judged: Vec<_> = row.iter()
            .map(|h| judge(&h.inside.unwrap(), h.surface.unwrap(), Over::Ice, &Accuracy::TYPICAL))
            .collect();
        let margins: Vec<f64> = judged.iter().map(|j| j.margin.map_or(f64::INFINITY, |m| m.value)).collect();
        let wet = margins.iter().filter(|m| **m <= 0.0).count();
        let mold = judged.iter().zip(&margins).filter(|(j, m)| **m <= 0.0 || j.surface_rh >= 80.0).count();
        prop_assert_eq!(said.wet, wet as f64);
        prop_assert_eq!(said.mold, mold as f64);
        let least = margins.iter().copied().fold(f64::INFINITY, f64::min);
        if let Some((margin, at)) = said.worst {
            prop_assert!((margin - least).abs() < 1e-6, "{} {}", margin, least);
            prop_assert!((margins[at] - least).abs() < 1e-6);
        } else {
            prop_assert!(least.is_infinite());
        }
    }

    #[test]
    fn opening_up_is_each_hours_comparison(
        hours in prop::collection::vec(((10.0..30.0, 10.0..95.0), (-15.0..35.0, 10.0..95.0)), 1..60),
        surface in -5.0..25.0,
    ) {
        let row: Vec<(MoistAir, MoistAir)> = hours.iter().map(|((a, b), (c, d))| (air(*a, *b), air(*c, *d))).collect();
        let (flow, coldest) = (AirFlow::new(0.02).unwrap(), Temperature::new(surface).unwrap());
        let said = vent_hours(row.iter().map(|(i, e)| Some(VentHour { inside: *i, outside: *e, coldest: Some(coldest) })), flow);
        let open = |i: usize| said.open.iter().any(|[first, end]| (*first..*end).contains(&i));
        let mut sum = 0.0;
        for (i, (inside, outside)) in row.iter().enumerate() {
            let one = compare_air(inside, outside, flow, Some(coldest));
            prop_assert!((said.removal_l[i] - one.removal_l_day / 24.0).abs() < 1e-12);
            prop_assert_eq!(open(i), one.removal_l_day > 0.0 && one.condenses == Some(false));
            sum += if open(i) { said.removal_l[i] } else { 0.0 };
        }
        prop_assert!((said.open_l - sum).abs() < 1e-9);
        prop_assert!((said.always_l - said.removal_l.iter().sum::<f64>()).abs() < 1e-9);
        let window = |[first, end]: [usize; 2]| said.removal_l[first..end].iter().sum::<f64>();
        let best = said.open.iter().map(|w| window(*w)).fold(0.0, f64::max);
        prop_assert!(said.best.map_or(0.0, window) >= best - 1e-12);
    }
}
