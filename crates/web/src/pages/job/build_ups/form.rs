//! The form in which a variant's layers are typed.

use building::construction::{Course, MOST_COURSES, MOST_FRAMING, Stock, Variant};
use language::say;
use notation::Units;
use notation::number::plain_number;
use notation::unit::THICKNESS;
use std::collections::HashMap;
use uuid::Uuid;

/// Longest name of a variant, characters.
const LONGEST: usize = 60;
/// Names offered where what was typed could be several.
const OFFERED: usize = 6;
/// Thickest layer, m.
const THICKEST: f64 = 5.0;

/// A layer as typed.
#[derive(Default, Clone)]
pub struct RowForm {
    pub of: String,
    pub thickness: String,
    pub framed: bool,
    pub of_error: Option<String>,
    pub thickness_error: Option<String>,
}

/// A variant as typed.
#[derive(Default)]
pub struct EditorForm {
    pub name: String,
    pub framing: String,
    pub rows: Vec<RowForm>,
    pub name_error: Option<String>,
    pub framing_error: Option<String>,
    /// What is wrong with the whole.
    pub error: Option<String>,
}

impl EditorForm {
    /// As it is kept, with an empty row to go on.
    pub fn of(variant: Option<&Variant>, stock: Stock, units: Units) -> Self {
        let Some(variant) = variant else { return Self { rows: vec![RowForm::default(); 3], ..Self::default() } };
        let row = |c: &Course| RowForm {
            of: stock.name(c.of).to_owned(),
            thickness: THICKNESS.typed(c.thickness_m, units),
            framed: c.framed,
            ..RowForm::default()
        };
        let mut rows: Vec<RowForm> = variant.courses.iter().map(row).collect();
        if rows.len() < MOST_COURSES {
            rows.push(RowForm::default());
        }
        let framing = if variant.framing_pct > 0.0 { variant.framing_pct.to_string() } else { String::new() };
        Self { name: variant.name.clone(), framing, rows, ..Self::default() }
    }

    /// As it was sent: rows in the order named, those not named after them.
    pub fn sent(fields: &HashMap<String, String>) -> Self {
        let text = |key: &str| fields.get(key).cloned().unwrap_or_default();
        let mut order: Vec<usize> = text("order").split(',').filter_map(|i| i.parse().ok()).collect();
        let all = 0..=MOST_COURSES;
        order.retain(|i| all.contains(i));
        order.extend(all.clone().filter(|i| !order.contains(i)).collect::<Vec<_>>());
        let mut seen = std::collections::HashSet::new();
        order.retain(|i| seen.insert(*i));
        let row = |i: usize| RowForm {
            of: text(&format!("of-{i}")).trim().to_owned(),
            thickness: text(&format!("thickness-{i}")).trim().to_owned(),
            framed: fields.contains_key(&format!("framed-{i}")),
            ..RowForm::default()
        };
        let rows = order.into_iter().map(row).filter(|r| !r.of.is_empty() || !r.thickness.is_empty()).collect();
        Self {
            name: text("name").trim().to_owned(),
            framing: text("framing").trim().to_owned(),
            rows,
            ..Self::default()
        }
    }

    /// The variant it says; `None` with what is wrong written in.
    pub fn read(&mut self, id: Uuid, boundary_id: Uuid, stock: Stock, units: Units) -> Option<Variant> {
        let length = self.name.chars().count();
        self.name_error = match () {
            () if length == 0 => Some(say!("Give it a name.").into()),
            () if length > LONGEST => {
                Some(say!("The name is {length} characters long; {longest} at most.", length, longest = LONGEST))
            }
            () if self.name.chars().any(char::is_control) => Some(say!("A name is one line.").into()),
            () => None,
        };
        let framing_pct = self.framing();
        let courses: Vec<Option<Course>> = self.rows.iter_mut().map(|r| r.read(stock, units)).collect();
        let courses: Option<Vec<Course>> = courses.into_iter().collect();
        if self.rows.is_empty() {
            self.error = Some(say!("A build-up has at least one layer.").into());
        } else if self.rows.len() > MOST_COURSES {
            self.error = Some(say!("A build-up has {most_courses} layers at most.", most_courses = MOST_COURSES));
        }
        if self.name_error.is_some() || self.error.is_some() {
            return None;
        }
        Some(Variant { id, boundary_id, name: self.name.clone(), courses: courses?, framing_pct: framing_pct? })
    }

    fn framing(&mut self) -> Option<f64> {
        let text = self.framing.trim_end_matches('%').trim();
        let read = if text.is_empty() { Ok(0.0) } else { plain_number(text) };
        match read {
            Ok(share) if (0.0..=MOST_FRAMING).contains(&share) => return Some(share),
            Ok(_) => {
                self.framing_error =
                    Some(say!("Framing takes 0 to {most_framing} % of the area.", most_framing = MOST_FRAMING));
            }
            Err(e) => self.framing_error = Some(e.said(text)),
        }
        None
    }

    pub fn is_wrong(&self) -> bool {
        let row = |r: &RowForm| r.of_error.is_some() || r.thickness_error.is_some();
        self.name_error.is_some() || self.framing_error.is_some() || self.error.is_some() || self.rows.iter().any(row)
    }
}

impl RowForm {
    fn read(&mut self, stock: Stock, units: Units) -> Option<Course> {
        let offered = match stock.named(&self.of) {
            Ok(offered) => Some(offered),
            Err(could) => {
                self.of_error = Some(self.unknown(&could));
                None
            }
        };
        let thickness = if self.thickness.is_empty() {
            offered.as_ref().map(|o| o.thickness_m)
        } else {
            match THICKNESS.parse(&self.thickness, units) {
                Ok(d) if d > 0.0 && d <= THICKEST => Some(d),
                Ok(_) => {
                    let most = THICKNESS.text(THICKEST, units);
                    self.thickness_error = Some(say!("A layer is more than 0 and at most {most} thick.", most));
                    None
                }
                Err(why) => {
                    self.thickness_error = Some(why);
                    None
                }
            }
        };
        let offered = offered?;
        self.of = offered.name.to_owned();
        Some(Course { of: offered.of, thickness_m: thickness?, framed: self.framed })
    }

    fn unknown(&self, could: &[&str]) -> String {
        if self.of.is_empty() {
            return say!("Say what it is made of.").into();
        }
        let typed = notation::number::short(&self.of);
        if could.is_empty() {
            return say!("No material is called “{typed}”.", typed);
        }
        let more = if could.len() > OFFERED { say!(" or others") } else { "" };
        say!("“{typed}” could be {could}{more}.", typed, could = could[..could.len().min(OFFERED)].join(", "), more)
    }
}
