//! The headless interface as its users meet it.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, missing_docs, reason = "tests")]

use calc::{Outcome, answer, run_lines};
use proptest::prelude::*;
use serde_json::{Value, json};

fn number(answer: &Value, key: &str) -> f64 {
    answer[key].as_f64().unwrap_or_else(|| panic!("{key} in {answer}"))
}

fn close(answer: &Value, key: &str, want: f64, tolerance: f64) {
    let got = number(answer, key);
    assert!((got - want).abs() <= tolerance, "{key}: got {got}, want {want}");
}

#[test]
fn air_gives_the_handbook_states() {
    // PsychroLib 2.5.0 at 101 325 Pa.
    for (t, rh, dew, wet, vapor, ratio, enthalpy) in [
        (20.0, 50.0, 9.272, 13.784, 1169.40, 7.2617, 38.552),
        (30.0, 70.0, 23.928, 25.503, 2972.22, 18.7952, 78.236),
        (-5.0, 80.0, -7.585, -5.884, 321.41, 1.9791, -0.099),
    ] {
        let a = answer(&json!({"op": "air", "id": 7, "t_c": t, "rh_pct": rh}));
        assert_eq!((&a["op"], &a["id"]), (&json!("air"), &json!(7)));
        close(&a, "dew_c", dew, 0.002);
        close(&a, "wet_c", wet, 0.002);
        close(&a, "vapor_pa", vapor, 0.01);
        close(&a, "ratio_g_kg", ratio, 1e-4);
        close(&a, "enthalpy_kj_kg", enthalpy, 1e-3);
        close(&a, "vpd_pa", number(&a, "sat_pa") - vapor, 0.01);
    }
}

#[test]
fn electronic_hygrometers_read_over_water_in_frost() {
    let frosted = answer(&json!({"op": "air", "t_c": -25, "rh_pct": 78, "rh_over": "water"}));
    assert!((-25.2..-24.9).contains(&number(&frosted, "dew_c")), "a frosted attic reads about 78 %: {frosted}");
    let warm = json!({"op": "air", "t_c": 12, "rh_pct": 60});
    let over_water = json!({"op": "air", "t_c": 12, "rh_pct": 60, "rh_over": "water"});
    assert_eq!(answer(&warm), answer(&over_water), "nothing changes above 0 °C");
    let too_much = answer(&json!({"op": "air", "t_c": -25, "rh_pct": 95, "rh_over": "water"}));
    assert_eq!(too_much["error"]["field"], "rh_pct");
}

#[test]
fn surface_says_what_the_margin_and_its_band_mean() {
    let ask = |surface: f64| answer(&json!({"op": "surface", "t_c": 20, "rh_pct": 50, "surface_c": surface}));
    assert_eq!(ask(5.0)["verdict"], "condensing");
    assert_eq!(ask(9.0)["verdict"], "uncertain");
    assert_eq!(ask(12.0)["verdict"], "mold_risk");
    assert_eq!(ask(18.0)["verdict"], "dry");
    let a = ask(5.0);
    close(&a, "margin_c", 5.0 - 9.272, 0.002);
    assert!(number(&a, "surface_rh_pct") > 100.0, "past 100 as computed, never clipped");
    assert_eq!((&a["f_rsi"], &a["design_surface_c"]), (&Value::Null, &Value::Null));
    let with = |surface: f64, outdoor: f64| {
        answer(
            &json!({"op": "surface", "t_c": 20, "rh_pct": 50, "surface_c": surface, "outdoor_c": outdoor, "design_outdoor_c": -15}),
        )
    };
    close(&with(14.0, 0.0), "f_rsi", 0.7, 1e-12);
    close(&with(14.0, 0.0), "design_surface_c", -15.0 + 0.7 * 35.0, 1e-9);
    let near = with(18.0, 15.5);
    assert_eq!((&near["f_rsi"], &near["design_surface_c"]), (&Value::Null, &Value::Null), "under 5 K");
}

#[test]
fn errors_name_the_field_the_limit_and_the_value() {
    let error = |request: Value| answer(&request)["error"].clone();
    let wet = error(json!({"op": "air", "t_c": 20, "rh_pct": 112}));
    assert_eq!(wet, json!({"field": "rh_pct", "message": "relative humidity must be 0 to 100 %, got 112"}));
    let pair = |inside: Value, outside: Value| json!({"op": "compare_air", "inside": inside, "outside": outside, "flow_m3_s": 1});
    let fine = json!({"t_c": 20, "rh_pct": 50});
    for (field, request) in [
        ("t_c", json!({"op": "air", "rh_pct": 50})),
        ("t_c", json!({"op": "air", "t_c": "20", "rh_pct": 50})),
        ("t_c", json!({"op": "air", "t_c": -300, "rh_pct": 50})),
        ("wet_c", json!({"op": "air", "t_c": 20, "rh_pct": 50, "wet_c": 12})),
        ("dew_c", json!({"op": "air", "t_c": 20, "dew_c": 21})),
        ("rh_pc", json!({"op": "air", "t_c": 20, "rh_pc": 50})),
        ("altitude_m", json!({"op": "air", "t_c": 20, "rh_pct": 50, "p_pa": 90000, "altitude_m": 900})),
        ("inside.rh_pct", pair(json!({"t_c": 20, "rh_pct": 120}), fine.clone())),
        ("outside.rh", pair(fine.clone(), json!({"t_c": 5, "rh": 50}))),
        ("flow_m3_s", json!({"op": "compare_air", "inside": fine, "outside": fine})),
        ("op", json!({"t_c": 20})),
        ("op", json!({"op": "windchill"})),
        ("", json!([1, 2])),
    ] {
        assert_eq!(error(request.clone())["field"], field, "{request}");
    }
    assert!(error(json!({"op": "air", "t_c": 20, "rh_pct": 50, "p_pa": null})).is_null(), "null counts as absent");
}

#[test]
fn a_run_answers_line_by_line_and_says_how_it_went() {
    let run = |text: &str| {
        let mut out = Vec::new();
        let outcome = run_lines(text.as_bytes(), &mut out).unwrap();
        (outcome, String::from_utf8(out).unwrap())
    };
    let good = r#"{"op":"air","t_c":20,"rh_pct":50}"#;
    assert_eq!(run("").0, Outcome::Answered);
    assert_eq!(run(&format!("{good}\n\n{good}")).0, Outcome::Answered);
    let (outcome, text) = run(&format!("{good}\nnot json\n{good}\n"));
    assert_eq!((outcome, text.lines().count()), (Outcome::SomeErrors, 3));
    assert!(text.lines().nth(2).unwrap().contains("dew_c"), "a bad line never stops the others");
    assert_eq!(run("hello\nworld\n").0, Outcome::NotJsonLines);
}

proptest! {
    #[test]
    fn no_input_panics(bytes in prop::collection::vec(any::<u8>(), 0..400)) {
        run_lines(bytes.as_slice(), Vec::new()).unwrap();
    }

    #[test]
    fn no_number_panics(op in "air|surface|compare_air", key in "t_c|rh_pct|dew_c|wet_c|surface_c|p_pa|flow_m3_s", x in prop::num::f64::ANY, t in -150.0..250.0_f64) {
        let _ = answer(&json!({"op": op, "t_c": t, "rh_pct": 50.0, &*key: x}));
        let _ = answer(&json!({"op": op, "t_c": t, &*key: x}));
    }
}
