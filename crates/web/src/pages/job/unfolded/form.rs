//! What is typed about a space: its dimensions, what is built in, and where something is.

use building::unfold::{Along, At, Facet, Fixture, FixtureKind, Layout, Roof, Shape};
use language::say;
use notation::Units;
use notation::unit::LENGTH;
use serde::Deserialize;
use uuid::Uuid;

/// A field and what is wrong with it.
pub type Wrong = (&'static str, String);

/// What was typed, of whichever of the forms of this page.
#[derive(Deserialize, Default, Clone)]
#[serde(default)]
pub struct LayoutForm {
    pub id: String,
    pub space: String,
    pub map: String,
    /// What is done.
    pub act: String,
    /// `flat`, `gable`, `shed` or `round`.
    pub roof: String,
    pub length: String,
    pub width: String,
    pub height: String,
    pub ridge: String,
    /// A fixture or a thing.
    pub of: String,
    pub kind: String,
    pub name: String,
    pub facet: String,
    pub x: String,
    pub y: String,
    pub fixture_width: String,
    pub fixture_height: String,
    /// A place of the sheet, m, where something was dropped.
    pub sheet_x: String,
    pub sheet_y: String,
}

/// A length; in meters, or as the person's unit or another says.
fn length(text: &str, units: Units) -> Result<f64, String> {
    if text.trim().is_empty() {
        return Err(say!("Enter a length.").into());
    }
    LENGTH.parse(text, units)
}

/// A dry standard; none where nothing was typed.
pub fn standard(text: &str) -> Result<Option<f64>, Wrong> {
    if text.trim().is_empty() {
        return Ok(None);
    }
    match notation::number::plain_number(text).ok().filter(|x| (0.001..=100_000.0).contains(x)) {
        Some(x) => Ok(Some(x)),
        None => Err(("standard", say!("A dry standard is what the meter shows there: a figure over 0.").into())),
    }
}

/// A line of words as it is kept.
pub fn words(text: &str, longest: usize) -> String {
    text.trim().chars().filter(|c| !c.is_control()).take(longest).collect()
}

/// Longest place of a dry standard, characters.
pub const STANDARD_AT: usize = 80;

impl LayoutForm {
    /// The dimensions as they are kept, with empty lines for the rest.
    pub fn of(layout: &Layout, units: Units) -> Self {
        let typed = |m: f64| LENGTH.typed(m, units);
        let (roof, figures) = match layout.shape {
            Shape::Straight { length_m, width_m, height_m, roof } => {
                let (roof, ridge) = match roof {
                    Roof::Flat => ("flat", String::new()),
                    Roof::Gable { ridge_m } => ("gable", typed(ridge_m)),
                    Roof::Shed { ridge_m } => ("shed", typed(ridge_m)),
                };
                (roof, [typed(length_m), typed(width_m), typed(height_m), ridge])
            }
            Shape::Round { diameter_m, wall_m, crown_m } => {
                ("round", [typed(diameter_m), String::new(), typed(wall_m), typed(crown_m)])
            }
        };
        let [length, width, height, ridge] = figures;
        Self { roof: roof.into(), length, width, height, ridge, ..Self::default() }
    }

    /// The same with a space's own dimensions, unless they are what was typed: another form came back.
    pub fn with_dimensions(self, layout: &Layout, units: Units) -> Self {
        if self.act == "dimensions" {
            return self;
        }
        let Self { roof, length, width, height, ridge, .. } = Self::of(layout, units);
        Self { roof, length, width, height, ridge, ..self }
    }

    /// An id it names.
    pub fn uuid(text: &str) -> Option<Uuid> {
        text.parse().ok()
    }

    /// The dimensions.
    pub fn shape(&self, units: Units) -> Result<Shape, Vec<Wrong>> {
        let mut wrong = Vec::new();
        let mut read = |field: &'static str, text: &str| {
            length(text, units).unwrap_or_else(|e| {
                wrong.push((field, e));
                0.0
            })
        };
        let shape = match self.roof.as_str() {
            "round" => Shape::Round {
                diameter_m: read("length", &self.length),
                wall_m: read("height", &self.height),
                crown_m: read("ridge", &self.ridge),
            },
            roof => Shape::Straight {
                length_m: read("length", &self.length),
                width_m: read("width", &self.width),
                height_m: read("height", &self.height),
                roof: match roof {
                    "gable" => Roof::Gable { ridge_m: read("ridge", &self.ridge) },
                    "shed" => Roof::Shed { ridge_m: read("ridge", &self.ridge) },
                    _ => Roof::Flat,
                },
            },
        };
        if wrong.is_empty() { Ok(shape) } else { Err(wrong) }
    }

    /// A place: where something was dropped on the sheet, else as typed.
    pub fn at(&self, layout: &Layout, units: Units) -> Result<At, Vec<Wrong>> {
        let sheet = layout.sheet();
        let dropped = |text: &str| text.trim().parse::<f64>().ok().filter(|m| m.is_finite());
        if let (Some(x), Some(y)) = (dropped(&self.sheet_x), dropped(&self.sheet_y)) {
            let found = sheet.locate([x, y]);
            return found.ok_or_else(|| vec![("facet", say!("That is beside the space: drop it on a face.").into())]);
        }
        let mut wrong = Vec::new();
        let facet = Facet::from_id(&self.facet).filter(|f| sheet.panel(*f).is_some());
        if facet.is_none() {
            wrong.push(("facet", say!("Choose a face of this space.").into()));
        }
        let mut read = |field: &'static str, text: &str, most: f64| match length(text, units) {
            Ok(m) if (0.0..=most + 1e-9).contains(&m) => m,
            Ok(m) => {
                wrong.push((
                    field,
                    say!(
                        "The face is {most} m there, got {m} m.",
                        most = format_args!("{:.2}", most),
                        m = format_args!("{:.2}", m)
                    ),
                ));
                0.0
            }
            Err(e) => {
                wrong.push((field, e));
                0.0
            }
        };
        let size = facet.and_then(|f| sheet.panel(f)).map_or([f64::INFINITY; 2], |p| p.size);
        let point = [read("x", &self.x, size[0]), read("y", &self.y, size[1])];
        match facet.and_then(|f| sheet.panel(f)) {
            Some(panel) if wrong.is_empty() => Ok(panel.at(point)),
            _ => Err(wrong),
        }
    }

    /// Something built in.
    pub fn fixture(&self, id: Uuid, layout: &Layout, units: Units) -> Result<Fixture, Vec<Wrong>> {
        let mut wrong = Vec::new();
        let kind = FixtureKind::from_id(&self.kind);
        if kind.is_none() {
            wrong.push(("kind", say!("Choose what it is.").into()));
        }
        let mut size = |field: &'static str, text: &str| {
            length(text, units).unwrap_or_else(|e| {
                wrong.push((field, e));
                0.0
            })
        };
        let width_m = size("fixture_width", &self.fixture_width);
        let height_m = size("fixture_height", &self.fixture_height);
        let at = self.at(layout, units).unwrap_or_else(|more| {
            wrong.extend(more);
            At { facet: Facet::Floor, x: Along { m: 0.0, far: false }, y: Along { m: 0.0, far: false } }
        });
        let name = if self.name.trim().is_empty() { kind.map_or("", FixtureKind::words) } else { self.name.trim() };
        match kind {
            Some(kind) if wrong.is_empty() => Ok(Fixture { id, kind, name: name.to_owned(), at, width_m, height_m }),
            _ => Err(wrong),
        }
    }
}
