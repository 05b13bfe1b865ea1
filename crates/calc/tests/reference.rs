//! Every operation against answers found by other means (`reference/make_operations.py`, libraries named there).
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, missing_docs, reason = "tests")]

use calc::answer;
use serde_json::Value;

/// Same shape and, where both are numbers, equal within `tolerance` of their size (or of 1).
fn agrees(path: &str, got: &Value, want: &Value, tolerance: f64) {
    match (got, want) {
        (Value::Number(g), Value::Number(w)) => {
            let (g, w) = (g.as_f64().unwrap(), w.as_f64().unwrap());
            assert!((g - w).abs() <= tolerance * w.abs().max(1.0), "{path}: got {g}, want {w}");
        }
        (Value::Array(g), Value::Array(w)) => {
            assert_eq!(g.len(), w.len(), "{path}: got {got}, want {want}");
            for (i, (g, w)) in g.iter().zip(w).enumerate() {
                agrees(&format!("{path}[{i}]"), g, w, tolerance);
            }
        }
        (Value::Object(g), Value::Object(w)) => {
            for (key, w) in w {
                agrees(&format!("{path}.{key}"), &g[key], w, tolerance);
            }
        }
        _ => assert_eq!(got, want, "{path}"),
    }
}

#[test]
fn operations_agree_with_independent_solutions() {
    let cases = include_str!("reference/operations.jsonl");
    let mut ops = std::collections::BTreeMap::new();
    for case in cases.lines() {
        let case: Value = serde_json::from_str(case).unwrap();
        let op = case["request"]["op"].as_str().unwrap();
        let n: &mut usize = ops.entry(op.to_owned()).or_default();
        let got = answer(&case["request"]);
        assert!(got["error"].is_null(), "{op} {n}: {got}");
        agrees(&format!("{op} {n}"), &got, &case["answer"], case["tolerance"].as_f64().unwrap());
        *n += 1;
    }
    assert_eq!(ops.len(), 13, "{ops:?}");
}
