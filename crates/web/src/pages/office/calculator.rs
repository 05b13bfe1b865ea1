//! The calculator: a Working for every operation of the core.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Path, Query};
use crate::view::Frame;
use askama::Template;
use askama_web::WebTemplate;
use calculator::{Cell, LayerRow, Page, SHEETS, Shape, Sheet, Shown};
use hygrothermal::material::{Material, Resists, materials};
use hygrothermal::space::{MoistureSource, moisture_sources};
use hygrothermal::vent::{VentCover, vent_covers};
use hygrothermal::wood::{Species, species};
use language::say;
use notation::Units;
use notation::unit;
use std::collections::HashMap;

#[derive(Template, WebTemplate)]
#[template(path = "calculator/index.html")]
pub struct IndexPage {
    frame: Frame,
    groups: Vec<(&'static str, Vec<&'static Sheet>)>,
}

#[derive(Template, WebTemplate)]
#[template(path = "calculator/sheet.html")]
pub struct SheetPage {
    frame: Frame,
    page: Page,
    groups: Vec<(&'static str, Vec<&'static Material>)>,
    link: String,
}

/// The tables behind the core, every row with its source.
#[derive(Template, WebTemplate)]
#[template(path = "calculator/library.html")]
pub struct LibraryPage {
    frame: Frame,
    materials: Vec<(&'static str, Vec<&'static Material>)>,
    sources: &'static [MoistureSource],
    species: &'static [Species],
    covers: &'static [VentCover],
    units: Units,
}

impl LibraryPage {
    fn conductivity(&self, m: &Material) -> String {
        unit::CONDUCTIVITY.figure(m.lambda, self.units)
    }

    fn vapor(&self, m: &Material) -> String {
        match (m.resists(), m.mu_wet) {
            (Ok(Resists::PerThickness(mu)), Some(wet)) => {
                say!(
                    "μ {mu} dry, {wet} wet",
                    mu = unit::NUMBER.figure(mu.get(), self.units),
                    wet = unit::NUMBER.figure(wet, self.units)
                )
            }
            (Ok(Resists::PerThickness(mu)), None) => format!("μ {}", unit::NUMBER.figure(mu.get(), self.units)),
            (Ok(Resists::AsLayer(sd)), _) => format!("s_d {}", unit::STILL_AIR.text(sd.get(), self.units)),
            (Err(_), _) => String::new(),
        }
    }

    fn density(&self, m: &Material) -> String {
        unit::DENSITY_OF_SOLIDS.figure(m.density, self.units)
    }

    fn heat(&self, m: &Material) -> String {
        unit::HEAT.figure(m.heat, self.units)
    }

    fn sorption(&self, m: &Material) -> String {
        m.w80.map(|w| unit::PERCENT.figure(w, self.units)).unwrap_or_default()
    }

    fn liters(&self, liters: &f64) -> String {
        unit::LITERS.figure(*liters, self.units)
    }

    fn free(&self, cover: &VentCover) -> String {
        unit::SHARE.text(cover.free, self.units)
    }
}

/// The libraries.
pub async fn library(who: Who) -> LibraryPage {
    LibraryPage {
        frame: Frame::new(&who),
        materials: grouped(materials(), |m| m.group.as_str()),
        sources: moisture_sources(),
        species: species(),
        covers: vent_covers(),
        units: who.units(),
    }
}

/// The answer alone, with what is wrong at each field: swapped in while someone types.
#[derive(Template, WebTemplate)]
#[template(path = "calculator/live.html")]
pub struct Live {
    frame: Frame,
    page: Page,
    link: String,
}

/// Runs of things that share a heading, in their order.
fn grouped<T: Copy>(
    items: impl IntoIterator<Item = T>,
    heading: impl Fn(T) -> &'static str,
) -> Vec<(&'static str, Vec<T>)> {
    let mut groups: Vec<(&'static str, Vec<T>)> = Vec::new();
    for item in items {
        let name = heading(item);
        match groups.iter_mut().find(|(group, _)| *group == name) {
            Some((_, members)) => members.push(item),
            None => groups.push((name, vec![item])),
        }
    }
    groups
}

/// Every operation.
pub async fn index(who: Who) -> IndexPage {
    IndexPage { frame: Frame::new(&who), groups: grouped(SHEETS, |s| s.group) }
}

fn open(who: &Who, op: &str, given: HashMap<String, String>) -> Result<Page, Failure> {
    let sheet = calculator::sheet(op).ok_or(Failure::NotFound)?;
    Ok(calculator::open(sheet, given, who.units(), who.limits()))
}

fn link(page: &Page) -> String {
    format!("/calculator/{}?{}", page.sheet.op, page.query)
}

/// One operation, with what its address says or an example.
pub async fn page(
    who: Who,
    Path(op): Path<String>,
    Query(given): Query<HashMap<String, String>>,
) -> Result<SheetPage, Failure> {
    let page = open(&who, &op, given)?;
    let link = link(&page);
    let groups = grouped(materials(), |m| m.group.as_str());
    Ok(SheetPage { frame: Frame::new(&who), page, groups, link })
}

/// The answer to what is being typed.
pub async fn live(
    who: Who,
    Path(op): Path<String>,
    Query(given): Query<HashMap<String, String>>,
) -> Result<Live, Failure> {
    let page = open(&who, &op, given)?;
    let link = link(&page);
    Ok(Live { frame: Frame::new(&who), page, link })
}

impl SheetPage {
    /// A layer's thickness as typed or taken from the library; without one, what opens its figures.
    fn thickness(&self, row: &LayerRow) -> String {
        let Some(cell) = row.cells.first() else { return String::new() };
        let figure = if cell.value.is_empty() { &cell.placeholder } else { &cell.value };
        match figure {
            figure if figure.is_empty() => say!("figures").into(),
            figure if figure.ends_with(|c: char| c.is_ascii_digit()) => format!("{figure} {}", cell.unit),
            figure => figure.clone(),
        }
    }

    /// Whether a layer's figures stand open: when one of them is wrong, or there is no material to speak for them.
    fn opened(&self, row: &LayerRow) -> bool {
        let own = row.material.is_empty() && row.cells.iter().any(|c| !c.value.is_empty());
        own || row.cells.iter().any(|c| !c.error.is_empty())
    }
}

/// A field name as an element's id.
fn id(name: &str) -> String {
    name.replace('.', "-")
}

impl Live {
    /// Every field's error by the id of its place, the empty ones too.
    fn errors(&self) -> Vec<(String, &str)> {
        let cell = |c: &'_ Cell| id(&c.name);
        self.page
            .fields
            .iter()
            .flat_map(|field| match field {
                Shown::Figure(c) | Shown::Lines(c) => vec![(cell(c), c.error.as_str())],
                Shown::Choice { cell: c, .. } => vec![(cell(c), c.error.as_str())],
                Shown::Layers { rows, error, .. } => {
                    let cells = rows.iter().flat_map(|r| &r.cells).map(|c| (cell(c), c.error.as_str()));
                    cells.chain([("layers".to_owned(), error.as_str())]).collect()
                }
                Shown::Months { rows, .. } => {
                    rows.iter().flat_map(|(_, cells)| cells).map(|c| (cell(c), c.error.as_str())).collect()
                }
            })
            .collect()
    }
}
