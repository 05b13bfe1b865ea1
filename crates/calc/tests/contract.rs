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

/// A valid request of every operation: the reference cases and three more.
fn requests() -> Vec<Value> {
    let cases = include_str!("reference/operations.jsonl").lines();
    let reference = cases.map(|c| serde_json::from_str::<Value>(c).unwrap()["request"].take());
    let short = |mut request: Value| {
        for list in ["hours", "air", "inside", "outside", "surface_c"] {
            if let Some(list) = request[list].as_array_mut() {
                list.truncate(5);
            }
        }
        request
    };
    let more = [
        json!({"op": "air", "t_c": 20, "rh_pct": 50, "altitude_m": 300}),
        json!({"op": "surface", "t_c": 20, "rh_pct": 50, "surface_c": 9, "outdoor_c": -4, "design_outdoor_c": -15}),
        json!({"op": "emc", "t_c": 20, "rh_pct": 65}),
        json!({"op": "compare_air", "inside": {"t_c": 20, "rh_pct": 60}, "outside": {"t_c": 8, "rh_pct": 80}, "flow_m3_s": 0.02}),
        json!({"op": "attic_vents", "area_m2": 90, "ratio": 300, "high_m2": 0.14, "low_m2": 0.16}),
        json!({"op": "dehumidifier", "rated_l_day": 20, "t_c": 16, "rh_pct": 70, "load_l_day": 9}),
        json!({"op": "coverage", "area_m2": 37, "coats": 2, "spread_m2_l": 7.9, "concentrate_parts": 1, "water_parts": 4}),
    ];
    reference.map(short).chain(more).collect()
}

/// Replaces the n-th value inside a JSON tree.
fn replace(value: &mut Value, n: &mut usize, by: &Value) {
    if *n == 0 {
        *value = by.clone();
    }
    *n = n.wrapping_sub(1);
    match value {
        Value::Array(items) => items.iter_mut().for_each(|v| replace(v, n, by)),
        Value::Object(map) => map.iter_mut().for_each(|(_, v)| replace(v, n, by)),
        _ => {}
    }
}

fn anything() -> impl Strategy<Value = Value> {
    prop_oneof![
        prop::num::f64::ANY.prop_map(|x| json!(x)),
        (-150.0..250.0_f64).prop_map(|x| json!(x)),
        Just(json!(0)),
        Just(Value::Null),
        Just(json!([])),
        Just(json!([[], {}])),
        Just(json!({})),
        ".{0,8}".prop_map(|s| json!(s)),
        any::<bool>().prop_map(|b| json!(b)),
    ]
}

proptest! {
    #[test]
    fn no_bytes_panic(bytes in prop::collection::vec(any::<u8>(), 0..400)) {
        run_lines(bytes.as_slice(), Vec::new()).unwrap();
    }

    /// Any value of any request replaced by anything, among good lines: nothing panics, nothing stops the others, and
    /// what is refused names a field.
    #[test]
    fn a_spoiled_line_never_stops_the_others(which in any::<prop::sample::Index>(), n in 0..40_usize, by in anything(), cut in any::<prop::sample::Index>()) {
        let all = requests();
        let mut spoiled = all[which.index(all.len())].clone();
        replace(&mut spoiled, &mut { n }, &by);
        let (good, mut torn) = (all[0].to_string(), spoiled.to_string());
        while !torn.is_char_boundary(cut.index(torn.len())) { torn.push(' '); }
        torn.truncate(cut.index(torn.len()));
        let text = format!("{good}\n{spoiled}\n{good}\n{}\n{good}\n", torn.replace('\n', " "));
        let mut out = Vec::new();
        run_lines(text.as_bytes(), &mut out).unwrap();
        let lines: Vec<Value> = String::from_utf8(out).unwrap().lines().map(|l| serde_json::from_str(l).unwrap()).collect();
        prop_assert!(lines.len() == 5 || (lines.len() == 4 && torn.trim().is_empty()), "{} answers to {text}", lines.len());
        prop_assert!(lines[0] == lines[2] && lines[0] == lines[lines.len() - 1]);
        if let Some(error) = lines[1].get("error") {
            prop_assert!(error["message"].as_str().is_some_and(|m| !m.is_empty()) && error["field"].is_string());
        }
    }
}

#[test]
fn answers_keep_their_order_over_many_pieces() {
    let text: String =
        (0..20_000).map(|i| format!("{{\"op\":\"air\",\"id\":{i},\"t_c\":20,\"rh_pct\":{}}}\n", i % 101)).collect();
    let mut out = Vec::new();
    assert_eq!(
        run_lines(std::io::BufReader::with_capacity(1000, text.as_bytes()), &mut out).unwrap(),
        Outcome::Answered
    );
    let ids = String::from_utf8(out)
        .unwrap()
        .lines()
        .map(|l| serde_json::from_str::<Value>(l).unwrap()["id"].as_u64().unwrap())
        .collect::<Vec<_>>();
    assert!(ids.len() == 20_000 && ids.iter().enumerate().all(|(i, id)| i as u64 == *id));
    let long = format!("{{\"op\":\"{}\n{}", "a".repeat(17 << 20), r#"{"op":"emc","t_c":20,"rh_pct":50}"#);
    let mut out = Vec::new();
    assert_eq!(run_lines(long.as_bytes(), &mut out).unwrap(), Outcome::SomeErrors);
    assert!(
        String::from_utf8(out).unwrap().lines().nth(1).unwrap().contains("emc_pct"),
        "an endless line is refused alone"
    );
}

#[test]
fn operations_say_what_the_contract_settles() {
    let ask = |request: Value| answer(&request);
    // Dehumidifier: a load of 0 needs none, an unknown load nobody knows; a capacity of 0 has no runtime.
    let unknown = ask(json!({"op": "dehumidifier", "rated_l_day": 20, "t_c": 20, "rh_pct": 60}));
    assert_eq!((&unknown["units_needed"], &unknown["runtime_share"]), (&Value::Null, &Value::Null));
    let idle = ask(json!({"op": "dehumidifier", "rated_l_day": 20, "t_c": 20, "rh_pct": 60, "load_l_day": 0}));
    assert_eq!((&idle["units_needed"], &idle["runtime_share"]), (&json!(0), &json!(0.0)));
    // Insulation: air that stands at the target's line itself cannot be helped by any.
    let insulate = |rh: f64, target: &str| {
        let inside = json!({"t_c": 20, "rh_pct": rh});
        ask(
            json!({"op": "insulation_for", "inside": inside, "outside_c": -10, "r_existing_m2k_w": 0.5, "target": target}),
        )
    };
    for (rh, target) in [(100.0, "no_condensation"), (80.0, "no_mold"), (93.0, "no_mold")] {
        let answer = insulate(rh, target);
        assert!(answer["r_added_m2k_w"].is_null() && answer["error"].is_null(), "{answer}");
    }
    assert!(number(&insulate(79.0, "no_mold"), "r_added_m2k_w") > 1.0);
    let warm = json!({"op": "insulation_for", "inside": {"t_c": 20, "rh_pct": 100}, "outside_c": 30, "r_existing_m2k_w": 0.5, "target": "no_condensation"});
    assert!(ask(warm)["r_added_m2k_w"].is_null(), "warm outside too");
    // Frost: at −10 °C ice saturation is 90.7 % over water; up to 3 % beyond counts as saturated.
    let frost = |rh: f64| ask(json!({"op": "air", "t_c": -10, "rh_pct": rh, "rh_over": "water"}));
    assert!((number(&frost(92.0), "dew_c") + 10.0).abs() < 1e-6 && number(&frost(92.0), "vpd_pa").abs() < 1e-9);
    assert_eq!(frost(94.5)["error"]["field"], "rh_pct");
    // Drying: the doubt of the equilibrium widens the band, about the same day.
    let dry = |err: Value| {
        let readings = json!([[0, 28.4], [1, 25.9], [2, 24.2], [4, 21.0], [7, 17.6]]);
        ask(
            json!({"op": "drying_fit", "readings": readings, "equilibrium_pct": 11, "goal_pct": 13, "equilibrium_err_pct": err}),
        )
    };
    let (sure, doubted) = (dry(Value::Null), dry(json!(1)));
    assert_eq!((&sure["day_of_goal"], dry(json!(0))), (&doubted["day_of_goal"], sure.clone()));
    // By another route: a refit with the equilibrium a little off.
    let half = |a: &Value| number(a, "day_high") - number(a, "day_of_goal");
    let moved = (half(&doubted).powi(2) - half(&sure).powi(2)).sqrt();
    let refit = |e: f64| {
        let readings = json!([[0, 28.4], [1, 25.9], [2, 24.2], [4, 21.0], [7, 17.6]]);
        number(
            &ask(json!({"op": "drying_fit", "readings": readings, "equilibrium_pct": e, "goal_pct": 13})),
            "day_of_goal",
        )
    };
    assert!((moved / (refit(11.05) - refit(10.95)).abs() / 10.0 - 1.0).abs() < 0.05, "{moved}");
    assert_eq!(dry(json!(-1))["error"]["field"], "equilibrium_err_pct");
    let dry = ask(json!({"op": "dehumidifier", "rated_l_day": 20, "t_c": 5, "rh_pct": 10, "load_l_day": 3}));
    assert_eq!(
        (number(&dry, "capacity_l_day"), &dry["runtime_share"], &dry["units_needed"]),
        (0.0, &Value::Null, &Value::Null)
    );
    // Attic: one side unknown leaves both open, none at all is a share of nothing.
    let attic = |high: Value, low: Value| {
        ask(json!({"op": "attic_vents", "area_m2": 90, "ratio": 150, "high_m2": high, "low_m2": low}))
    };
    let one = attic(json!(0.3), Value::Null);
    assert_eq!((&one["met"], &one["high_share"]), (&Value::Null, &Value::Null));
    let none = attic(json!(0), json!(0));
    assert_eq!((&none["met"], &none["high_share"]), (&json!(false), &Value::Null));
    // Budget without any air change: no steady state, but it saturates while a source is on.
    let shut = json!({"op": "budget", "volume_m3": 10, "t_c": 20, "outdoor": {"t_c": 5, "rh_pct": 80}, "flow_m3_s": 0,
        "source_kg_s": 1e-5, "start_rh_pct": 50, "hours": 1});
    let shut = ask(shut);
    assert_eq!(
        (&shut["steady_rh_pct"], &shut["saturates"], &shut["hours_to_dew"]),
        (&Value::Null, &json!(true), &Value::Null)
    );
    // A surface that itself condenses has no rate; vapor there is saturation.
    let sweating =
        ask(json!({"op": "assembly", "inside": {"t_c": 20, "rh_pct": 80}, "outside": {"t_c": -10, "rh_pct": 80},
        "layers": [{"name": "glass", "r_m2k_w": 0.004, "sd_m": 1e6}]}));
    assert_eq!(sweating["condensation"], json!([{"interface": 0, "rate_g_m2_day": null}]));
    assert_eq!(sweating["interfaces"][0]["vapor_pa"], sweating["interfaces"][0]["sat_pa"]);
    // Calibration at one point is an offset; coverage without parts has none.
    let single = ask(json!({"op": "calibrate", "points": [[75.3, 78.1]]}));
    assert_eq!((number(&single, "slope"), number(&single, "max_residual_pct")), (1.0, 0.0));
    close(&single, "offset", -2.8, 1e-9);
    let paint = ask(json!({"op": "coverage", "area_m2": 40, "coats": 2, "spread_m2_l": 8}));
    assert_eq!(
        (number(&paint, "litres"), &paint["concentrate_l"], &paint["water_l"]),
        (10.0, &Value::Null, &Value::Null)
    );
    let done = ask(
        json!({"op": "drying_fit", "readings": [[0, 20], [1, 17], [2, 15.2]], "equilibrium_pct": 12, "goal_pct": 11}),
    );
    assert_eq!((&done["day_of_goal"], &done["stalled"]), (&Value::Null, &json!(false)), "a goal below the equilibrium");
}

#[test]
fn a_picture_of_which_nothing_was_read_says_nothing() {
    let a = answer(
        &json!({"op": "thermal_grid", "grid_c": [[null, null]], "air": {"t_c": 20, "rh_pct": 50}, "outdoor_c": 5}),
    );
    assert_eq!((&a["missing"], &a["patches"], &a["warnings"]), (&json!(2), &json!([]), &json!([])));
    for key in
        ["min_c", "mean_c", "max_c", "share_wet", "share_mold", "coldest", "warmest", "f_rsi_min", "design_min_c"]
    {
        assert_eq!(a[key], Value::Null, "{key}");
    }
    close(&a, "dew_c", 9.272, 0.002); // PsychroLib 2.5.0
}

#[test]
fn a_fault_inside_a_list_names_its_place() {
    let layer = |extra: Value| {
        json!({"op": "assembly", "inside": {"t_c": 20, "rh_pct": 50}, "outside": {"t_c": 0, "rh_pct": 80},
        "layers": [{"r_m2k_w": 1, "sd_m": 1}, extra]})
    };
    let fine = json!({"t_c": 20, "rh_pct": 50});
    let year = |count: usize| {
        json!({"op": "assembly_year", "layers": [{"r_m2k_w": 1, "sd_m": 1}],
        "months": vec![json!({"inside": fine, "outside": fine, "days": 30}); count]})
    };
    let picture = |grid: Value, radiation: Value| {
        let mut request = json!({"op": "thermal_grid", "grid_c": grid, "air": fine});
        request.as_object_mut().unwrap().extend(radiation.as_object().unwrap().clone());
        request
    };
    let potential = |wet: Value, sd: f64| {
        json!({"op": "drying_potential", "layers": [{"r_m2k_w": 1, "sd_m": 1}, {"r_m2k_w": 1, "sd_m": sd}], "wet_interface": wet,
        "months": vec![json!({"inside": fine, "outside": fine, "days": 30}); 12]})
    };
    for (field, request) in [
        ("layers[1].sd_m", layer(json!({"r_m2k_w": 1}))),
        ("layers[1].sd_m", layer(json!({"r_m2k_w": 1, "sd_m": -1}))),
        ("layers[1].perm_kg_m2spa", layer(json!({"r_m2k_w": 1, "perm_kg_m2spa": 0}))),
        ("layers[1].thickness_m", layer(json!({"r_m2k_w": 1, "mu": 10}))),
        ("layers[1].mu", layer(json!({"r_m2k_w": 1, "sd_m": 1, "mu": 10}))),
        ("layers[1].color", layer(json!({"r_m2k_w": 1, "sd_m": 1, "color": "red"}))),
        ("layers", json!({"op": "assembly", "inside": fine, "outside": fine, "layers": []})),
        ("months", year(11)),
        (
            "readings[1]",
            json!({"op": "drying_fit", "readings": [[0, 20], [1], [2, 15]], "equilibrium_pct": 12, "goal_pct": 15}),
        ),
        (
            "readings",
            json!({"op": "drying_fit", "readings": [[0, 20], [1, 18]], "equilibrium_pct": 12, "goal_pct": 15}),
        ),
        ("hours[1]", json!({"op": "mold_index", "class": "medium", "hours": [[20, 80], [51, 80]]})),
        ("class", json!({"op": "mold_index", "class": "wood", "hours": []})),
        ("air[1]", json!({"op": "log_hours", "air": [null, [20]], "surface_c": [9, 9]})),
        ("air[0]", json!({"op": "log_hours", "air": [[20, 101]], "surface_c": [9]})),
        ("air", json!({"op": "log_hours", "air": [], "surface_c": []})),
        ("surface_c", json!({"op": "log_hours", "air": [[20, 50]], "surface_c": [9, 9]})),
        ("surface_c[0]", json!({"op": "log_hours", "air": [[20, 50]], "surface_c": ["cold"]})),
        ("outside", json!({"op": "log_hours", "air": [[20, 50]], "f_rsi": 0.5})),
        ("outside[0]", json!({"op": "vent_hours", "inside": fine, "outside": [null], "flow_m3_s": 0.1})),
        ("inside", json!({"op": "vent_hours", "inside": [[20, 50], [20, 50]], "outside": [[9, 50]], "flow_m3_s": 0.1})),
        ("grid_c", picture(json!([]), json!({}))),
        ("grid_c[1]", picture(json!([[9, 10], [9]]), json!({}))),
        ("grid_c[0]", picture(json!(["cold"]), json!({}))),
        ("grid_c[0][1]", picture(json!([[9, "cold"]]), json!({}))),
        ("grid_c[0][1]", picture(json!([[9, 900]]), json!({}))),
        ("emissivity", picture(json!([[9, 10]]), json!({"emissivity": 0.5}))),
        ("grid_c[0][0]", picture(json!([[-90, 10]]), json!({"emissivity": 0.7, "reflected_c": 60}))),
        ("wet_interface", potential(json!(0), 1.0)),
        ("wet_interface", potential(json!(3), 1.0)),
        ("wet_interface", potential(json!(1), 0.0)),
        ("wet_interface", potential(json!(null), 1.0)),
        ("emissivity", json!({"op": "infrared", "apparent_c": 12, "emissivity": 0.1, "reflected_c": 20})),
        ("points", json!({"op": "calibrate", "points": [[33, 50], [75, 50]]})),
        ("water_parts", json!({"op": "coverage", "area_m2": 40, "coats": 2, "spread_m2_l": 8, "concentrate_parts": 1})),
        ("coats", json!({"op": "coverage", "area_m2": 40, "coats": 1.5, "spread_m2_l": 8})),
        (
            "flow_m3_s",
            json!({"op": "exhaust_duct", "air": fine, "around_c": 0, "flow_m3_s": 0, "diameter_m": 0.1, "length_m": 4,
            "r_m2k_w": 1, "wall_kg_m2": 1, "wall_c_j_kgk": 500, "minutes": 10}),
        ),
        (
            "r_existing_m2k_w",
            json!({"op": "insulation_for", "inside": fine, "outside_c": 0, "r_existing_m2k_w": 0.1, "target": "no_mold"}),
        ),
    ] {
        assert_eq!(answer(&request)["error"]["field"], field, "{request}: {}", answer(&request));
    }
}

#[test]
fn diagnose_ranks_causes_names_tests_and_flags_and_says_what_is_wrong_where() {
    let ask = |more: Value| {
        let mut request = json!({"op": "diagnose", "structure": "crawl_vented"});
        request.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
        answer(&request)
    };
    let known = json!({
        "climate": "mixed", "season": "summer", "trouble_when": "in_humid_season",
        "findings": {"vents_open": true, "soil_bare": null, "tide_line": false, "outdoor_dew_c": 23.9, "air_dew_c": 20.0,
            "worst_margin_c": -1.2, "growth_area_m2": 1.4, "electrics_wet": true},
        "tests": {"two_week_log": "outdoor_wetter"},
    });
    let d = ask(known);
    let causes = d["causes"].as_array().unwrap();
    assert_eq!(causes[0]["id"], "humid_outdoor_air", "{d}");
    let shares: Vec<f64> = causes.iter().map(|c| number(c, "share")).collect();
    assert!((shares.iter().sum::<f64>() - 1.0).abs() < 1e-9 && shares.windows(2).all(|w| w[0] >= w[1]));
    let ids = |v: &Value| v.as_array().unwrap().iter().map(|x| x.as_str().unwrap().to_owned()).collect::<Vec<_>>();
    assert!(ids(&causes[0]["for"]).contains(&"two_week_log".to_owned()));
    assert!(!ids(&causes[0]["for"]).contains(&"soil_bare".to_owned()), "null is unknown");
    assert_eq!(d["close_call"], json!(shares[0] - shares[1] < 0.15));
    let flags = ids(&d["red_flags"]);
    assert!(["make_safe", "refer_electrician", "refer_mold_pro"].iter().all(|f| flags.contains(&(*f).to_owned())));
    let next = d["next_tests"].as_array().unwrap();
    assert!(next.windows(2).all(|w| number(&w[0], "gain") >= number(&w[1], "gain")));
    assert!(next.iter().all(|t| t["id"] != "two_week_log"), "what was done is not proposed again");
    // A difference of dew points needs both; a lone one is unknown, not zero.
    let lone = ask(json!({"findings": {"outdoor_dew_c": 23.9}}));
    assert_eq!(lone["causes"], ask(json!({}))["causes"]);
    for (wrong, field) in [
        (json!({"structure": "castle"}), "structure"),
        (json!({"season": "monsoon"}), "season"),
        (json!({"findings": {"vents_opne": true}}), "findings.vents_opne"),
        (json!({"findings": {"vents_open": 2}}), "findings.vents_open"),
        (json!({"findings": {"occupants": true}}), "findings.occupants"),
        (json!({"findings": {"vents_open": "yes"}}), "findings.vents_open"),
        (json!({"findings": [1]}), "findings"),
        (json!({"tests": {"hose": "wet"}}), "tests.hose"),
        (json!({"tests": {"hose": true}}), "tests.hose"),
    ] {
        assert_eq!(ask(wrong.clone())["error"]["field"], field, "{wrong}");
    }
}

#[test]
fn plan_orders_steps_says_what_each_waits_for_and_what_is_refused() {
    let ask = |more: Value| {
        let mut request = json!({"op": "plan", "structure": "crawl_vented", "climate": "mixed"});
        request.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
        answer(&request)
    };
    let known = |causes: Value, findings: Value| json!({"causes": causes, "findings": findings});
    let p = ask(known(
        json!(["ground_vapor", "surface_drainage"]),
        json!({"soil_bare": true, "gutter_faulty": true, "rim_joist_bare": true, "wood_mc_pct": 22}),
    ));
    let steps = p["steps"].as_array().unwrap();
    let at = |id: &str| steps.iter().position(|s| s["id"] == id).unwrap_or_else(|| panic!("{id} in {p}"));
    assert!(at("gutters") < at("ground_film") && at("ground_film") < at("insulate_rim"));
    let film = &steps[at("ground_film")];
    assert_eq!(
        (&film["phase"], &film["gate"]["open"], &film["because"]),
        (&json!("control"), &json!(false), &json!(["ground_vapor"]))
    );
    assert!(film["gate"]["needs"].as_str().unwrap().contains("Gutter"), "{film}");
    let cautions: Vec<&str> = film["cautions"].as_array().unwrap().iter().map(|c| c.as_str().unwrap()).collect();
    assert!(
        cautions.iter().any(|c| c.contains("never enter alone")) && cautions.last().unwrap().contains("Local code")
    );
    assert_eq!(steps[at("gutters")]["gate"], json!({"open": true, "needs": ""}));
    let refused: Vec<&str> = p["refused"].as_array().unwrap().iter().map(|r| r["id"].as_str().unwrap()).collect();
    assert!(["ground_film", "dehumidifier", "insulate_rim"].iter().all(|id| refused.contains(id)), "{refused:?}");
    // Letters name schools too; the order of findings and causes changes nothing.
    let sealed = |school: &str| ask(json!({"causes": ["humid_outdoor_air"], "choices": {"crawl_space": school}}));
    assert_eq!(sealed("b")["steps"], sealed("sealed")["steps"]);
    assert_ne!(sealed("a")["steps"], sealed("sealed")["steps"]);
    let goal = |goal: Value| ask(json!({"causes": ["humid_outdoor_air"], "choices": {"wood_goal": goal}}));
    assert_eq!(goal(json!(13)), goal(json!("13")));
    let ids = |p: Value| p["steps"].as_array().unwrap().iter().map(|s| s["id"].to_string()).collect::<Vec<_>>();
    assert_eq!(ids(ask(json!({}))), ["\"monitor\"", "\"recheck_seasonally\""]);
    for (wrong, field) in [
        (json!({"causes": ["damp"]}), "causes[0]"),
        (json!({"causes": "ground_vapor"}), "causes"),
        (json!({"choices": {"crawl": "vented"}}), "choices.crawl"),
        (json!({"choices": {"crawl_space": "open"}}), "choices.crawl_space"),
        (json!({"findings": {"surface_c": true}}), "findings.surface_c"),
        (json!({"cause": []}), "cause"),
    ] {
        assert_eq!(ask(wrong.clone())["error"]["field"], field, "{wrong}");
    }
}

#[test]
fn budget_hours_steps_a_night_and_keeps_the_water() {
    // Two sleepers (2 × 0.05 kg/h) in a shut 10 m³ cabin at 10 °C: 1 kg/h of dry air in and out over one hour by hand.
    let hour = json!({"outdoor": {"t_c": 0, "rh_pct": 80}, "flow_m3_s": 0.004, "source_kg_s": 0.1 / 3600.0, "removal_kg_s": 0});
    let ask = |hours: Vec<Value>| {
        answer(
            &json!({"op": "budget_hours", "volume_m3": 10, "t_c": 10, "start_rh_pct": 50, "hours": hours, "surface_c": 6}),
        )
    };
    let one = ask(vec![hour.clone()]);
    // Dry-air mass 10/0.8065 = 12.40 kg; W₀ 3.81 g/kg, W_e 3.01 g/kg; ṁ = 0.004/0.7773 = 5.146 g/s, τ = 2410 s;
    // W_ss = 3.01 + 0.02778/5.146·1000 = 8.41 g/kg; W = 8.41 + (3.81 − 8.41)·e^(−3600/2410) = 7.38 g/kg: 96.6 % at 10 °C.
    let rh = one["rh_pct"][0].as_f64().unwrap();
    assert!((rh - 96.6).abs() < 0.5, "{one}");
    assert_eq!(one["first_wet_hour"], json!(0), "dew point 9.5 °C over a 6 °C pane");
    // Against the plain budget, hour by hour alike.
    let day = ask(vec![hour.clone(); 24]);
    let plain = answer(&json!({"op": "budget", "volume_m3": 10, "t_c": 10, "start_rh_pct": 50, "hours": 24,
        "outdoor": {"t_c": 0, "rh_pct": 80}, "flow_m3_s": 0.004, "source_kg_s": 0.1 / 3600.0}));
    assert!((day["rh_pct"][23].as_f64().unwrap() - number(&plain, "end_rh_pct")).abs() < 1e-9);
    close(&day, "in_l", 2.4, 1e-9);
    let left = number(&day, "in_l") - number(&day, "removed_l") - number(&day, "air_out_l") - number(&day, "stored_l");
    assert!(left.abs() < 1e-9);
    // A machine cannot take what is not there; air without water has no dew point and wets nothing.
    let dry = json!({"outdoor": {"t_c": 0, "rh_pct": 80}, "flow_m3_s": 0, "removal_kg_s": 0.01});
    let emptied = ask(vec![dry.clone(), dry]);
    assert_eq!((&emptied["rh_pct"], &emptied["dew_c"]), (&json!([0.0, 0.0]), &json!([null, null])));
    assert_eq!(emptied["first_wet_hour"], Value::Null);
    close(&emptied, "removed_l", -number(&emptied, "stored_l"), 1e-12);
}

#[test]
fn coating_windows_name_what_rules_a_start_out() {
    let mut hours = vec![json!([15, 60, 0]); 60];
    let ask = |hours: &[Value], more: Value| {
        let mut asked = json!({"op": "coating_window", "hours": hours});
        asked.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
        answer(&asked)
    };
    // 60 hours, a day before, four of work, a day after: starts 24 to 32.
    let a = ask(&hours, json!({}));
    assert_eq!(
        (&a["starts"], &a["longest_run"]),
        (&json!((24..=32).collect::<Vec<_>>()), &json!({"first": 24, "count": 9}))
    );
    assert_eq!(a["why_not"], json!({"rain": 0, "cold": 0, "hot": 0, "humid": 0, "near_dew": 0, "cold_after": 0}));
    hours[30] = json!([15, 90, 0]);
    hours[59] = json!([9, 60, 0]);
    // Hour 30 is worked in from starts 27 to 30, hour 59 cures the last start; 90 % at 15 °C is 1.6 K above its dew point.
    let a = ask(&hours, json!({}));
    assert_eq!(a["starts"], json!([24, 25, 26, 31]));
    assert_eq!(a["why_not"], json!({"rain": 0, "cold": 0, "hot": 0, "humid": 4, "near_dew": 4, "cold_after": 1}));
    assert_eq!(a["longest_run"], json!({"first": 24, "count": 3}));
    hours[0] = json!([15, 60, 0.2]);
    assert_eq!(ask(&hours, json!({}))["why_not"]["rain"], 1);
    let short = ask(&hours[..20], json!({}));
    assert_eq!((&short["starts"], &short["longest_run"]), (&json!([]), &Value::Null));
    assert_eq!(ask(&hours, json!({"surface_c": vec![40; 60]}))["why_not"]["hot"], 9);
}

#[test]
fn proof_says_what_the_days_can_show() {
    let day = |i: usize, ti: f64, extra: f64| {
        // Days of changing weather; the inside holds 400 Pa more than outdoors, and what is added.
        let te = 5.0 + 4.0 * (i as f64 * 0.7).sin();
        let wobble = 15.0 * ((i * 2_654_435_761_usize % 97) as f64 / 97.0 - 0.5);
        let pe = 0.8 * number(&answer(&json!({"op": "air", "t_c": te, "rh_pct": 100})), "vapor_pa");
        let sat = number(&answer(&json!({"op": "air", "t_c": ti, "rh_pct": 100})), "vapor_pa");
        json!([ti, 100.0 * (pe + 400.0 + extra + wobble) / sat, te, 80])
    };
    let span = |from: usize, n: usize, extra: f64| (from..from + n).map(|i| day(i, 20.0, extra)).collect::<Vec<_>>();
    let ask = |before: Vec<Value>, after: Vec<Value>| answer(&json!({"op": "proof", "before": before, "after": after}));
    let better = ask(span(0, 20, 0.0), span(40, 20, -200.0));
    assert_eq!((&better["verdict"], &better["reasons"]), (&json!("improved"), &json!([])));
    close(&better, "change_pa", -200.0, 15.0);
    assert!(
        number(&better, "low_pa") < -190.0
            && number(&better, "high_pa") < 0.0
            && number(&better, "overlap_share") > 0.9
    );
    assert_eq!(ask(span(0, 20, 0.0), span(40, 20, 200.0))["verdict"], "worse");
    assert_eq!(ask(span(0, 20, 0.0), span(40, 20, 0.0))["verdict"], "no_change");
    let few = ask(span(0, 4, 0.0), span(40, 20, -200.0));
    assert_eq!(
        (&few["verdict"], &few["reasons"], &few["change_pa"]),
        (&json!("cant_tell"), &json!(["too_few_days"]), &Value::Null)
    );
    let mut summer = span(40, 20, -200.0);
    for d in &mut summer {
        *d = json!([25, 60, 24, 70]);
    }
    assert_eq!(ask(span(0, 20, 0.0), summer)["reasons"], json!(["seasons_do_not_overlap"]));
}

#[test]
fn spans_and_hours_that_make_no_sense_are_named() {
    let fine = json!({"outdoor": {"t_c": 0, "rh_pct": 80}, "flow_m3_s": 0.01});
    let budget =
        |hours: Value| json!({"op": "budget_hours", "volume_m3": 10, "t_c": 10, "start_rh_pct": 50, "hours": hours});
    for (field, asked) in [
        ("hours", budget(json!([]))),
        ("hours[1].flow_m3_s", budget(json!([fine, {"outdoor": {"t_c": 0, "rh_pct": 80}}]))),
        ("hours[0].outdoor.rh_pct", budget(json!([{"outdoor": {"t_c": 0, "rh_pct": 180}, "flow_m3_s": 0}]))),
        (
            "hours[0].source_kg_s",
            budget(json!([{"outdoor": {"t_c": 0, "rh_pct": 80}, "flow_m3_s": 0, "source_kg_s": -1}])),
        ),
        ("hours[0]", budget(json!([null]))),
        ("hours[0]", json!({"op": "coating_window", "hours": [[15, 60]]})),
        ("hours[0]", json!({"op": "coating_window", "hours": [[15, 60, -1]]})),
        ("hours", json!({"op": "coating_window", "hours": []})),
        ("surface_c", json!({"op": "coating_window", "hours": [[15, 60, 0]], "surface_c": [1, 2]})),
        ("surface_c[0]", json!({"op": "coating_window", "hours": [[15, 60, 0]], "surface_c": [null]})),
        ("max_c", json!({"op": "coating_window", "hours": [[15, 60, 0]], "max_c": 5})),
        ("work_h", json!({"op": "coating_window", "hours": [[15, 60, 0]], "work_h": 1.5})),
        ("before", json!({"op": "proof", "before": [], "after": [[20, 50, 5, 80]]})),
        ("after[0]", json!({"op": "proof", "before": [[20, 50, 5, 80]], "after": [[20, 50, 5]]})),
        ("after[0]", json!({"op": "proof", "before": [[20, 50, 5, 80]], "after": [[20, 500, 5, 80]]})),
        (
            "min_effect_pa",
            json!({"op": "proof", "before": [[20, 50, 5, 80]], "after": [[20, 50, 5, 80]], "min_effect_pa": -1}),
        ),
    ] {
        let a = answer(&asked);
        assert_eq!(a["error"]["field"], field, "{asked}: {a}");
    }
}
