//! Spaces of the demo laid flat, with what is placed on them and what meters showed there.

use crate::scenario::Noise;
use building::unfold::{Facet, Fixture, FixtureKind, Layout, MapScale, Roof, Shape, Thing};
use building::{Material, Structure};
use serde::Deserialize;
use uuid::Uuid;

/// Scatter of a meter on one material, share of the figure.
const SCATTER: f64 = 0.025;

/// A space of the demo laid flat.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct DemoSpace {
    /// Name of the job.
    pub job: String,
    /// Name of the space.
    pub space: String,
    /// Length, width and height, m.
    #[serde(default)]
    straight: Option<[f64; 3]>,
    /// Diameter, wall and crown, m.
    #[serde(default)]
    round: Option<[f64; 3]>,
    #[serde(default)]
    built_in: Vec<DemoFixture>,
    /// What is placed on it.
    #[serde(default)]
    pub placed: Vec<DemoPlaced>,
    /// What was walked.
    #[serde(default)]
    pub walk: Vec<DemoWalk>,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
struct DemoFixture {
    kind: FixtureKind,
    name: String,
    at: (Facet, f64, f64),
    size: [f64; 2],
}

/// Something placed.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct DemoPlaced {
    /// What it is.
    pub what: Thing,
    /// Its name: of a station its surface, of a finding its id, of a photo its scene.
    pub name: String,
    /// Face, along and across it, m.
    pub at: (Facet, f64, f64),
}

/// A way walked with a meter.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct DemoWalk {
    /// Id of the way.
    pub route: String,
    /// Spacing, m.
    pub every: f64,
    /// What the figures are.
    pub scale: MapScale,
    /// The material.
    pub material: Material,
    /// Dry standard.
    #[serde(default)]
    pub standard: Option<f64>,
    /// Where it was read.
    #[serde(default)]
    pub standard_at: String,
    /// What it shows where it is dry.
    dry: f64,
    /// Wet spots: place in the space, m, how far they reach, m, and how many times the dry figure they add.
    wet: Vec<[f64; 5]>,
    /// Places that only seem wet: number, why, and what stood there.
    #[serde(default)]
    pub false_wet: Vec<(i32, building::unfold::FalseWet, f64)>,
    /// When, days before the demo is loaded.
    pub days_ago: i64,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    space: Vec<DemoSpace>,
}

/// Every space laid flat.
///
/// # Errors
/// What is wrong with the shipped table, in words.
pub fn unfolded() -> Result<Vec<DemoSpace>, String> {
    let file: File = toml::from_str(include_str!("../data/unfolded.toml")).map_err(|e| e.to_string())?;
    Ok(file.space)
}

impl DemoSpace {
    /// It as a layout, drawing identities from `new_id`.
    ///
    /// # Errors
    /// What is wrong with it, in words.
    pub fn layout(&self, space_id: Uuid, mut new_id: impl FnMut() -> Uuid) -> Result<Layout, String> {
        let shape = match (self.straight, self.round) {
            (Some([length_m, width_m, height_m]), None) => {
                Shape::Straight { length_m, width_m, height_m, roof: Roof::Flat }
            }
            (None, Some([diameter_m, wall_m, crown_m])) => Shape::Round { diameter_m, wall_m, crown_m },
            _ => return Err(format!("{}: straight or round", self.space)),
        };
        let mut layout = Layout { space_id, shape, fixtures: Vec::new() };
        let sheet = layout.sheet();
        for f in &self.built_in {
            let (facet, x, y) = f.at;
            let panel = sheet.panel(facet).ok_or_else(|| format!("{}: no {}", self.space, facet.words()))?;
            let [width_m, height_m] = f.size;
            let at = panel.at([x, y]);
            layout.fixtures.push(Fixture { id: new_id(), kind: f.kind, name: f.name.clone(), at, width_m, height_m });
        }
        layout.check().map_err(|wrong| format!("{}: {wrong:?}", self.space))?;
        Ok(layout)
    }
}

impl DemoWalk {
    /// What stands at each place of the way, as a meter shows it: the dry figure, more toward what is wet as water spreads in a
    /// porous board, and its scatter.
    ///
    /// # Errors
    /// That there is no such way.
    pub fn figures(
        &self,
        layout: &Layout,
        structure: Structure,
        seed: u64,
    ) -> Result<Vec<(building::unfold::At, f64)>, String> {
        let routes = layout.routes(structure);
        let route = routes.iter().find(|r| r.id == self.route).ok_or_else(|| format!("no way {}", self.route))?;
        let stops = route.stops(layout, self.every).map_err(|n| format!("{n} places"))?;
        let sheet = layout.sheet();
        let mut noise = Noise(seed);
        let mut all = Vec::new();
        for (n, stop) in (0..).zip(&stops) {
            let panel = sheet.panel(stop.facet).ok_or("a stop beside the space")?;
            let at = panel.at(stop.point);
            let place = sheet.in_space(&at).ok_or("a stop beside the space")?;
            let more = |[x, y, z, reach, times]: &[f64; 5]| {
                let apart = ((place[0] - x).powi(2) + (place[1] - y).powi(2) + (place[2] - z).powi(2)).sqrt();
                times * (-(apart / reach).powi(2)).exp()
            };
            let wet: f64 = self.wet.iter().map(more).sum();
            let mut figure = self.dry * (1.0 + wet) * (1.0 + SCATTER * noise.next());
            if let Some((_, _, shown)) = self.false_wet.iter().find(|(at, ..)| *at == n) {
                figure = *shown;
            }
            let digits = if self.scale == MapScale::Pins { 10.0 } else { 1.0 };
            all.push((at, (figure * digits).round() / digits));
        }
        Ok(all)
    }
}
