//! Fields with what was typed and what is wrong with it.

use super::{Cell, LAYER_COLUMNS, LayerRow, MONTH_COLUMNS, MOST_LAYERS, Shown, Typed};
use crate::sheet::{Field, Need, Sheet};
use hygrothermal::material::{Resists, material};
use language::{known, known_of, say};
use notation::unit::{Kind, NUMBER};
use std::collections::BTreeMap;

use notation::months;
impl Typed {
    fn cell(&self, name: String, label: &str, kind: &Kind, errors: &BTreeMap<String, String>) -> Cell {
        Cell {
            label: known_of(label),
            unit: kind.unit(self.units).name(),
            value: self.texts.get(&name).cloned().unwrap_or_default(),
            placeholder: String::new(),
            error: errors.get(&name).cloned().unwrap_or_default(),
            name,
        }
    }

    /// The fields with what was typed and what is wrong with it.
    #[must_use]
    pub fn shown(&self, sheet: &Sheet, errors: &BTreeMap<String, String>) -> Vec<Shown> {
        sheet.fields.iter().map(|field| self.shown_field(field, errors)).collect()
    }

    fn shown_field(&self, field: &Field, errors: &BTreeMap<String, String>) -> Shown {
        match field {
            Field::Quantity { key, label, kind, example, need, .. } => {
                let mut cell = self.cell((*key).into(), label, kind, errors);
                match need {
                    Need::Required => {}
                    Need::Defaulted => {
                        cell.placeholder = example.map_or_else(String::new, |si| kind.typed(si, self.units));
                    }
                    Need::Optional => cell.placeholder = say!("not given").into(),
                }
                Shown::Figure(cell)
            }
            Field::Choice { key, label, options, .. } => {
                let cell = self.cell((*key).into(), label, &NUMBER, errors);
                let first = options.first().map_or("", |o| o.0);
                let chosen = options.iter().map(|o| o.0).find(|o| *o == self.text(key)).unwrap_or(first);
                Shown::Choice {
                    cell,
                    options: options.iter().map(|(v, words)| (*v, known(words), *v == chosen)).collect(),
                }
            }
            Field::Pairs { key, label, .. } | Field::Spans { key, label, .. } => {
                Shown::Lines(self.cell((*key).into(), label, &NUMBER, errors))
            }
            Field::Layers { .. } => self.shown_layers(errors),
            Field::Months { .. } => {
                let rows = months().into_iter().enumerate().map(|(i, month)| {
                    let cells = MONTH_COLUMNS.iter().map(|(short, _, label, kind)| {
                        self.cell(format!("months.{i}.{short}"), &format!("{month}, {}", known(label)), kind, errors)
                    });
                    (month, cells.collect())
                });
                let heads = MONTH_COLUMNS
                    .iter()
                    .map(|(_, _, label, kind)| format!("{}, {}", known(label), kind.unit(self.units).name()));
                Shown::Months { heads: heads.collect(), rows: rows.collect() }
            }
        }
    }

    /// Filled rows and two empty ones to go on with.
    fn shown_layers(&self, errors: &BTreeMap<String, String>) -> Shown {
        let last = (0..MOST_LAYERS).rev().find(|row| self.layer_filled(*row)).map_or(0, |row| row + 1);
        let rows = (0..(last + 2).min(MOST_LAYERS)).map(|row| {
            let id = self.text(&format!("layers.{row}.material")).to_owned();
            let own = material(&id);
            let cells = LAYER_COLUMNS.iter().map(|(short, label, kind)| {
                let label = say!("layer {row}, {label}", row = row + 1, label = known(label));
                let mut cell = self.cell(format!("layers.{row}.{short}"), &label, kind, errors);
                let library = own.and_then(|m| match (*short, m.resists()) {
                    ("d", _) => Some(m.thickness),
                    ("lambda", _) => Some(m.lambda),
                    ("mu", Ok(Resists::PerThickness(mu))) => Some(mu.get()),
                    ("sd", Ok(Resists::AsLayer(sd))) => Some(sd.get()),
                    _ => None,
                });
                cell.placeholder = library.map(|si| kind.typed(si, self.units)).unwrap_or_default();
                cell
            });
            LayerRow { name: format!("layers.{row}.material"), number: row + 1, material: id, cells: cells.collect() }
        });
        let heads = LAYER_COLUMNS.iter().map(|(_, label, kind)| match kind.unit(self.units).name() {
            "" => known(label).to_owned(),
            unit => format!("{}, {unit}", known(label)),
        });
        Shown::Layers {
            heads: heads.collect(),
            rows: rows.collect(),
            error: errors.get("layers").cloned().unwrap_or_default(),
        }
    }
}
