//! What a fresh page shows, and figures rewritten in other units.

use super::{LAYER_COLUMNS, MONTH_COLUMNS, Typed};
use crate::sheet::{Field, Sheet};
use notation::Units;
use notation::unit::{DAYS, Kind, PERCENT, TEMPERATURE, THICKNESS};
use std::collections::HashMap;

impl Typed {
    pub(super) fn example(sheet: &Sheet, units: Units) -> Self {
        let mut typed = Self { texts: HashMap::new(), units };
        for field in sheet.fields {
            typed.fill(field);
        }
        typed
    }

    fn put(&mut self, name: impl Into<String>, text: impl Into<String>) {
        self.texts.insert(name.into(), text.into());
    }

    fn fill(&mut self, field: &Field) {
        let units = self.units;
        match field {
            Field::Quantity { key, kind, example: Some(si), .. } => self.put(*key, kind.typed(*si, units)),
            Field::Quantity { .. } => {}
            Field::Choice { key, options, .. } => self.put(*key, options.first().map_or("", |o| o.0)),
            Field::Pairs { key, kinds, example, .. } => {
                let line =
                    |(a, b): &(f64, f64)| format!("{}  {}", kinds[0].typed(*a, units), kinds[1].typed(*b, units));
                self.put(*key, example.iter().map(line).collect::<Vec<_>>().join("\n"));
            }
            Field::Spans { key, example, .. } => {
                let line = |(days, t, rh): &(f64, f64, f64)| {
                    format!("{}  {}  {}", days, TEMPERATURE.typed(*t, units), PERCENT.typed(*rh, units))
                };
                self.put(*key, example.iter().map(line).collect::<Vec<_>>().join("\n"));
            }
            Field::Layers { example } => {
                for (i, (id, thickness)) in example.iter().enumerate() {
                    self.put(format!("layers.{i}.material"), *id);
                    self.put(format!("layers.{i}.d"), THICKNESS.typed(*thickness, units));
                }
            }
            Field::Months { example } => {
                for (i, month) in example.iter().enumerate() {
                    for ((short, _, _, kind), si) in MONTH_COLUMNS.iter().zip(month) {
                        self.put(format!("months.{i}.{short}"), kind.typed(*si, units));
                    }
                }
            }
        }
    }

    /// Rewrites bare figures in other units; a figure typed with its unit, or not to be read, stays as it is.
    pub(super) fn convert(&mut self, sheet: &Sheet, units: Units) {
        let meant = self.units;
        let rewrite = |text: &str, kind: &Kind| match kind.parse(text, meant) {
            Ok(si) if !text.contains(|c: char| c.is_alphabetic() || c == '°') => kind.typed(si, units),
            _ => text.to_owned(),
        };
        let line = |text: &str, kinds: &[&Kind]| {
            let words = text
                .lines()
                .map(|l| l.split_whitespace().zip(kinds).map(|(w, k)| rewrite(w, k)).collect::<Vec<_>>().join("  "));
            words.collect::<Vec<_>>().join("\n")
        };
        for (name, text) in &mut self.texts {
            if let Some(kind) = kind_of(sheet, name) {
                *text = rewrite(text, kind);
                continue;
            }
            for field in sheet.fields {
                match field {
                    Field::Pairs { key, kinds, .. } if key == name => *text = line(text, kinds),
                    Field::Spans { key, .. } if key == name => *text = line(text, &[&DAYS, &TEMPERATURE, &PERCENT]),
                    _ => {}
                }
            }
        }
        self.units = units;
    }
}

/// The kind of figure a field of a sheet takes, where it takes just one.
pub fn kind_of(sheet: &Sheet, name: &str) -> Option<&'static Kind> {
    let last = name.rsplit('.').next().unwrap_or_default();
    sheet.fields.iter().find_map(|f| match f {
        Field::Quantity { key, kind, .. } if *key == name => Some(*kind),
        Field::Layers { .. } if name.starts_with("layers.") => LAYER_COLUMNS.iter().find(|c| c.0 == last).map(|c| c.2),
        Field::Months { .. } if name.starts_with("months.") => MONTH_COLUMNS.iter().find(|c| c.0 == last).map(|c| c.3),
        _ => None,
    })
}
