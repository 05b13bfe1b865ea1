//! The calculator as its users meet it: every sheet, both unit systems, addresses, errors, drawings.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, missing_docs, reason = "tests")]

use calculator::{Cell, Page, SHEETS, Shape, Shown, Sketch, open, sheet};
use judgment::limits::Limits;
use notation::Units;
use notation::unit;
use proptest::prelude::*;
use serde_json::Value;
use std::collections::HashMap;

const BOTH: [Units; 2] = [Units::Metric, Units::Us];

fn given(pairs: &[(&str, &str)]) -> HashMap<String, String> {
    pairs.iter().map(|(k, v)| ((*k).to_owned(), (*v).to_owned())).collect()
}

fn from_query(query: &str) -> HashMap<String, String> {
    serde_urlencoded::from_str(query).unwrap()
}

fn page(op: &str, pairs: &[(&str, &str)], units: Units) -> Page {
    open(sheet(op).unwrap(), given(pairs), units, Limits::default())
}

fn figure(page: &Page, label: &str) -> String {
    let outcome = page.outcome.as_ref().unwrap_or_else(|| panic!("no answer: {}", page.trouble));
    outcome.figures.iter().find(|(l, _)| *l == label).unwrap().1.clone()
}

/// Every cell of a page by name.
fn cells(page: &Page) -> Vec<&Cell> {
    page.fields
        .iter()
        .flat_map(|f| match f {
            Shown::Figure(c) | Shown::Lines(c) | Shown::Choice { cell: c, .. } => vec![c],
            Shown::Layers { rows, .. } => rows.iter().flat_map(|r| &r.cells).collect(),
            Shown::Months { rows, .. } => rows.iter().flat_map(|(_, cells)| cells).collect(),
        })
        .collect()
}

fn errors(page: &Page) -> Vec<(&str, &str)> {
    cells(page).into_iter().filter(|c| !c.error.is_empty()).map(|c| (c.name.as_str(), c.error.as_str())).collect()
}

/// Left, top, right and bottom of a word, roughly.
fn words_box(mark: &Shape) -> Option<(f64, f64, f64, f64, &str)> {
    let Shape::Text { x, y, text, class, anchor } = mark else { return None };
    let letter = if class.contains("tick") { 7.5 } else { 6.6 };
    let width = letter * text.chars().count() as f64;
    let left = match *anchor {
        "start" => *x,
        "middle" => x - width / 2.0,
        _ => x - width,
    };
    Some((left, y - 10.0, left + width, y + 1.0, text))
}

fn check_drawing(what: &str, sketch: &Sketch) {
    assert!(sketch.marks.len() > 5, "{what}: hardly anything is drawn");
    for mark in &sketch.marks {
        if let Shape::Line { path, .. } | Shape::Area { path, .. } = mark {
            assert!(!path.contains("NaN") && !path.contains("inf"), "{what}: {path}");
        }
    }
    let boxes: Vec<_> = sketch.marks.iter().filter_map(words_box).collect();
    for (i, a) in boxes.iter().enumerate() {
        assert!(
            a.0 > -1.0 && a.1 > -1.0 && a.2 < sketch.width + 1.0 && a.3 < sketch.height + 1.0,
            "{what}: “{}” leaves the sheet",
            a.4
        );
        for b in &boxes[i + 1..] {
            let apart = a.2 <= b.0 || b.2 <= a.0 || a.3 <= b.1 || b.3 <= a.1;
            assert!(apart, "{what}: “{}” lies over “{}”", a.4, b.4);
        }
    }
}

#[test]
fn every_sheet_opens_with_an_example_that_is_answered_and_drawn() {
    for units in BOTH {
        for sheet in SHEETS {
            let page = open(sheet, HashMap::new(), units, Limits::default());
            let what = format!("{} in {units:?}", sheet.op);
            assert_eq!(errors(&page), [], "{what}");
            let outcome = page.outcome.as_ref().unwrap_or_else(|| panic!("{what}: {}", page.trouble));
            assert!(!outcome.verdict.is_empty() && !outcome.verdict.contains("NaN"), "{what}: {}", outcome.verdict);
            assert!(outcome.figures.iter().all(|(_, text)| !text.contains("NaN")), "{what}: {:?}", outcome.figures);
            check_drawing(&what, &outcome.drawing);
            let again: Value = serde_json::from_str(&page.line).unwrap();
            let answer = calc::answer(&again);
            assert!(answer.get("error").is_none(), "{what}: the line to copy is refused: {answer}");
        }
    }
}

#[test]
fn an_address_brings_the_same_page_back_to_anyone() {
    for sheet in SHEETS {
        for (mine, theirs) in [(Units::Metric, Units::Us), (Units::Us, Units::Metric)] {
            let first = open(sheet, HashMap::new(), mine, Limits::default());
            let same = open(sheet, from_query(&first.query), mine, Limits::default());
            assert_eq!((&first.line, &first.query), (&same.line, &same.query), "{}", sheet.op);
            // A colleague with the other units gets the same building in theirs.
            let other = open(sheet, from_query(&first.query), theirs, Limits::default());
            assert_eq!(errors(&other), [], "{}", sheet.op);
            let (a, b): (Value, Value) =
                (serde_json::from_str(&first.line).unwrap(), serde_json::from_str(&other.line).unwrap());
            nearly(sheet.op, &a, &b);
        }
    }
}

fn nearly(path: &str, a: &Value, b: &Value) {
    match (a, b) {
        (Value::Object(a), Value::Object(b)) => {
            assert!(a.keys().eq(b.keys()), "{path}");
            a.iter().for_each(|(k, v)| nearly(&format!("{path}.{k}"), v, &b[k]));
        }
        (Value::Array(a), Value::Array(b)) => {
            assert_eq!(a.len(), b.len(), "{path}");
            a.iter().zip(b).for_each(|(a, b)| nearly(path, a, b));
        }
        (Value::Number(a), Value::Number(b)) => {
            let (a, b) = (a.as_f64().unwrap(), b.as_f64().unwrap());
            assert!((a - b).abs() <= 2e-5 * a.abs().max(1e-6), "{path}: {a} against {b}");
        }
        _ => assert_eq!(a, b, "{path}"),
    }
}

#[test]
fn figures_carry_their_own_units() {
    // NIST SP 811 conversion factors.
    for (kind, text, si) in [
        (&unit::TEMPERATURE, "64.4F", 18.0),
        (&unit::TEMPERATURE, "18 °C", 18.0),
        (&unit::THICKNESS, "3.5 in", 0.0889),
        (&unit::FLOW, "50cfm", 0.023_597_37),
        (&unit::RESISTANCE, "13 R", 2.289_435),
        (&unit::DAILY, "70 pint/day", 33.122_35),
        (&unit::PRESSURE, "1 inHg", 3386.389),
        (&unit::AREA, "1000 ft2", 92.903_04),
        (&unit::CONDUCTIVITY, "1 Btu", 0.144_227_9),
        (&unit::AREAL_MASS, "1 lb/ft²", 4.882_428),
        (&unit::SPREAD, "400 ft²/gal", 9.816_958),
        (&unit::RATIO, "70 gr/lb", 10.0),
        (&unit::VOLUME, "100 ft³", 2.831_685),
    ] {
        let read = kind.parse(text, Units::Metric).unwrap();
        assert!((read - si).abs() < 1e-5 * si, "{text}: {read} against {si}");
    }
    // Enthalpy of 20 °C, 50 % air is 38.55 kJ/kg or 24.26 Btu/lb, counted from 0 °F (PsychroLib 2.5.0).
    assert_eq!(unit::ENTHALPY.text(38.552, Units::Us), "24.3 Btu/lb");
    let refused = unit::TEMPERATURE.parse("20 %", Units::Metric).unwrap_err();
    assert!(refused.contains("°C, °F"), "{refused}");
    let mixed = page("air", &[("t_c", "68F"), ("rh_pct", "50")], Units::Metric);
    assert_eq!(figure(&mixed, "dew point"), "9.3 ± 1.0 °C");
    let american = page("air", &[("t_c", "68"), ("rh_pct", "50"), ("units", "us")], Units::Us);
    assert_eq!(figure(&american, "dew point"), "48.7 ± 1.8 °F");
}

#[test]
fn a_wrong_figure_is_marked_and_nothing_else_is_lost() {
    let typed = [("t_c", "21"), ("rh_pct", "112"), ("surface_c", "abc"), ("t_err_c", "0.7")];
    let spoiled = page("surface", &typed, Units::Metric);
    assert!(spoiled.outcome.is_none() && spoiled.line.is_empty());
    let marked = errors(&spoiled);
    assert_eq!(marked.iter().map(|e| e.0).collect::<Vec<_>>(), ["rh_pct", "surface_c"], "both at once");
    assert!(marked[0].1.contains("0 to 100 %, got 112"));
    for (name, text) in typed {
        assert_eq!(cells(&spoiled).iter().find(|c| c.name == name).unwrap().value, text, "what was typed stays");
    }
    let american = page("air", &[("t_c", "500"), ("rh_pct", "50"), ("units", "us")], Units::Us);
    assert_eq!(
        errors(&american),
        [("t_c", "Temperature must be -148 to 392 °F, got 500.")],
        "limits in the units typed"
    );
    for (op, pairs, field) in [
        ("air", &[("t_c", "20"), ("rh_pct", "50"), ("wet_c", "12")][..], "wet_c"),
        ("drying_fit", &[("readings", "0 20\n1 x\n2 15"), ("equilibrium_pct", "12"), ("goal_pct", "15")], "readings"),
        ("drying_fit", &[("readings", "0 20\n1 18"), ("equilibrium_pct", "12"), ("goal_pct", "15")], "readings"),
        ("mold_index", &[("hours", "3000 20 95"), ("class", "medium")], "hours"),
        ("mold_index", &[("hours", "2 20 95\n1 60 95"), ("class", "medium")], "hours"),
        ("assembly", &[("layers.0.material", "osb"), ("layers.0.mu", "x")], "layers.0.mu"),
        (
            "assembly",
            &[
                ("layers.0.lambda", "0.1"),
                ("layers.0.mu", "10"),
                ("inside.t_c", "20"),
                ("inside.rh_pct", "50"),
                ("outside.t_c", "0"),
                ("outside.rh_pct", "80"),
            ],
            "layers.0.d",
        ),
        ("infrared", &[("apparent_c", "12"), ("emissivity", "0.1"), ("reflected_c", "20")], "emissivity"),
        (
            "coverage",
            &[("area_m2", "40"), ("coats", "2"), ("spread_m2_l", "8"), ("water_parts", "4")],
            "concentrate_parts",
        ),
    ] {
        let spoiled = page(op, pairs, Units::Metric);
        let found = errors(&spoiled);
        assert!(found.iter().any(|(name, _)| *name == field), "{op}: {found:?} {}", spoiled.trouble);
        assert!(found.iter().all(|(_, message)| !message.contains('_')), "in words, not keys: {found:?}");
    }
}

#[test]
fn the_sentence_says_what_the_figures_mean() {
    let base: &[(&str, &[(&str, &str)])] = &[
        ("surface", &[("t_c", "21"), ("rh_pct", "60")]),
        (
            "budget",
            &[
                ("volume_m3", "30"),
                ("t_c", "18"),
                ("start_rh_pct", "45"),
                ("outdoor.t_c", "2"),
                ("outdoor.rh_pct", "85"),
                ("hours", "12"),
                ("surface_c", "8"),
            ],
        ),
        ("insulation_for", &[("inside.t_c", "20"), ("outside_c", "-12"), ("r_si", "0.25"), ("target", "no_mold")]),
        ("attic_vents", &[("area_m2", "90"), ("ratio", "300")]),
        ("dehumidifier", &[("rated_l_day", "20"), ("t_c", "20"), ("rh_pct", "60")]),
        ("drying_fit", &[("goal_pct", "15")]),
        ("mold_index", &[("class", "very_sensitive")]),
        ("emc", &[("t_c", "20")]),
        (
            "assembly",
            &[
                ("layers.0.material", "glass_wool"),
                ("layers.1.material", "osb"),
                ("inside.t_c", "20"),
                ("outside.rh_pct", "80"),
            ],
        ),
    ];
    for (op, more, says) in [
        ("surface", &[("surface_c", "9")][..], "Condensing: 3.9 ± 1.3 K below"),
        ("surface", &[("surface_c", "13")], "Can’t tell"),
        ("surface", &[("surface_c", "15.5")], "Mold risk"),
        ("surface", &[("surface_c", "19")], "Dry: 6.1 ± 1.3 K above"),
        ("budget", &[("flow_m3_s", "8"), ("source_kg_s", "3.5")], "The coldest surface is wet after 0.6"),
        ("budget", &[("flow_m3_s", "30"), ("source_kg_s", "1")], "It never reaches the dew point"),
        (
            "budget",
            &[("flow_m3_s", "8"), ("source_kg_s", "1"), ("start_rh_pct", "80")],
            "The coldest surface is wet already",
        ),
        ("insulation_for", &[("inside.rh_pct", "55"), ("r_existing_m2k_w", "0.6")], "Add 0.7"),
        ("insulation_for", &[("inside.rh_pct", "30"), ("r_existing_m2k_w", "3")], "Nothing to add"),
        ("insulation_for", &[("inside.rh_pct", "90"), ("r_existing_m2k_w", "3")], "No insulation can do it"),
        ("attic_vents", &[("high_m2", "1400"), ("low_m2", "1800")], "Enough, and rightly split"),
        ("attic_vents", &[("high_m2", "3000"), ("low_m2", "1000")], "Not met: more than half is high"),
        ("attic_vents", &[("high_m2", "900"), ("low_m2", "1000")], "Not met: net free area is too small"),
        ("attic_vents", &[("high_m2", "1400")], "Give both areas"),
        ("dehumidifier", &[("load_l_day", "5")], "It runs 2"),
        ("dehumidifier", &[("load_l_day", "50")], "Not enough: 3 units are needed"),
        ("dehumidifier", &[("t_c", "12"), ("load_l_day", "5")], "It runs"),
        ("drying_fit", &[("readings", "0 22\n3 21.9\n6 22.1\n9 21.95"), ("equilibrium_pct", "12")], "Stalled"),
        ("drying_fit", &[("readings", "0 28\n2 24\n4 21\n6 18.9"), ("equilibrium_pct", "16")], "It never gets there"),
        ("mold_index", &[("hours", "60 20 97")], "Unacceptable: passes 3 after"),
        ("mold_index", &[("hours", "20 20 95")], "Growth begins after 13.9 days"),
        ("mold_index", &[("hours", "60 20 70")], "No growth that shows"),
        ("emc", &[("rh_pct", "95")], "Over 19 %"),
        ("emc", &[("rh_pct", "50")], "Below 15 %"),
        ("assembly", &[("outside.t_c", "10"), ("inside.rh_pct", "40")], "No condensation by diffusion"),
        ("assembly", &[("outside.t_c", "-15"), ("inside.rh_pct", "55")], "Water collects at one plane"),
    ] {
        let own = base.iter().find(|(name, _)| *name == op).unwrap().1;
        let mut fields = given(own);
        fields.extend(given(more));
        let page = open(sheet(op).unwrap(), fields, Units::Metric, Limits::default());
        let verdict = page
            .outcome
            .as_ref()
            .map_or_else(|| format!("{:?} {}", errors(&page), page.trouble), |o| o.verdict.clone());
        assert!(verdict.starts_with(says), "{op} with {more:?}: {verdict}");
        check_drawing(&format!("{op} with {more:?}"), &page.outcome.unwrap().drawing);
    }
}

#[test]
fn layers_take_from_the_library_what_is_left_open() {
    let pairs = [
        ("layers.0.material", "gypsum_board"),
        ("layers.2.material", "polyethylene_015"),
        ("layers.3.material", "glass_wool"),
        ("layers.3.d", "90"),
        ("layers.3.lambda", "0.05"),
        ("inside.t_c", "20"),
        ("inside.rh_pct", "50"),
        ("outside.t_c", "0"),
        ("outside.rh_pct", "80"),
    ];
    let line: Value = serde_json::from_str(&page("assembly", &pairs, Units::Metric).line).unwrap();
    let layers = line["layers"].as_array().unwrap();
    assert_eq!(layers.len(), 3, "an empty row is no layer");
    assert_eq!((&layers[0]["thickness_m"], &layers[0]["mu"]), (&0.0125.into(), &10.0.into()));
    assert_eq!((&layers[1]["sd_m"], &layers[1]["mu"]), (&50.0.into(), &Value::Null), "a film resists as a whole");
    assert_eq!((&layers[2]["lambda_w_mk"], &layers[2]["thickness_m"]), (&0.05.into(), &0.09.into()));
}

#[test]
fn the_band_of_a_page_is_the_cores_own() {
    // The margin's band by perturbing the page's figures against the one the core propagates itself.
    for surface in ["5", "12", "19"] {
        let p = page("surface", &[("t_c", "21"), ("rh_pct", "60"), ("surface_c", surface)], Units::Metric);
        let core = calc::answer(&serde_json::from_str(&p.line).unwrap())["margin_err_c"].as_f64().unwrap();
        let text = figure(&p, "margin above the dew point");
        let shown: f64 = text.split_whitespace().nth(2).unwrap().parse().unwrap();
        assert!((shown - core).abs() < 0.06, "{text} against {core}");
    }
    let close = page(
        "compare_air",
        &[
            ("inside.t_c", "19"),
            ("inside.rh_pct", "80"),
            ("outside.t_c", "24"),
            ("outside.rh_pct", "55"),
            ("flow_m3_s", "20"),
        ],
        Units::Metric,
    );
    assert!(close.outcome.unwrap().verdict.starts_with("Can’t tell"), "a band that spans nothing is no advice");
}

proptest! {
    #[test]
    fn any_figure_comes_back_from_its_text(si in -50.0..500.0_f64, us: bool) {
        let units = if us { Units::Us } else { Units::Metric };
        for kind in [&unit::TEMPERATURE, &unit::PERCENT, &unit::THICKNESS, &unit::FLOW, &unit::RESISTANCE, &unit::DAILY, &unit::ENTHALPY, &unit::SPREAD] {
            let back = kind.parse(&kind.typed(si, units), units).unwrap();
            prop_assert!((back - si).abs() <= 1e-4 * si.abs().max(1.0), "{si} came back as {back}");
        }
    }

    /// Whatever is typed in whatever field, the page opens, keeps it, and draws nothing that is not a number.
    #[test]
    fn nothing_typed_breaks_a_page(which in 0..SHEETS.len(), n in any::<prop::sample::Index>(), text in prop_oneof!["[-0-9.,eE]{0,8}", ".{0,12}", "-?[0-9]{1,4}(\\.[0-9])? ?(C|F|%|mm|cfm)?"], us: bool) {
        let units = if us { Units::Us } else { Units::Metric };
        let mut fields = from_query(&open(SHEETS[which], HashMap::new(), units, Limits::default()).query);
        let mut names: Vec<String> = fields.keys().filter(|k| *k != "units").cloned().collect();
        names.sort();
        let name = names[n.index(names.len())].clone();
        fields.insert(name.clone(), text.clone());
        let page = open(SHEETS[which], fields, units, Limits::default());
        if let Some(cell) = cells(&page).into_iter().find(|c| c.name == name) {
            prop_assert_eq!(&cell.value, &text);
        }
        if let Some(outcome) = &page.outcome {
            for mark in &outcome.drawing.marks {
                if let Shape::Line { path, .. } | Shape::Area { path, .. } = mark {
                    prop_assert!(!path.contains("NaN") && !path.contains("inf"), "{} with {name} = {text}: {path}", page.sheet.op);
                }
            }
        } else {
            prop_assert!(!page.trouble.is_empty() || !errors(&page).is_empty() || page.fields.iter().any(|f| matches!(f, Shown::Layers { error, .. } if !error.is_empty())), "{} with {name} = {text}: no answer and no reason", page.sheet.op);
        }
    }
}
