//! What every template keeps to.
#![allow(clippy::unwrap_used, missing_docs, reason = "tests")]

use std::path::Path;

/// Longest line of a template a person can read.
const LONGEST: usize = 140;

fn longer(folder: &Path, out: &mut Vec<String>) {
    for entry in std::fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            longer(&path, out);
            continue;
        }
        let text = std::fs::read_to_string(&path).unwrap();
        let long = text.lines().enumerate().filter(|(_, line)| line.chars().count() > LONGEST);
        out.extend(long.map(|(i, _)| format!("{}:{}", path.display(), i + 1)));
    }
}

#[test]
fn every_line_of_a_template_can_be_read() {
    let mut out = Vec::new();
    longer(&Path::new(env!("CARGO_MANIFEST_DIR")).join("templates"), &mut out);
    assert!(out.is_empty(), "longer than {LONGEST} characters: {}", out.join(", "));
}
