//! How a boundary is built: courses of materials, cavities and framing, in variants that are set side by side.

use super::Face;
use hygrothermal::buildup::{BuildUp, BuildUpError, Combined, Framed, HeatFlow, Layer, film};
use hygrothermal::material::{Material, Resists, material, materials};
use hygrothermal::mold::Sensitivity;
use hygrothermal::quantity::{
    Conductivity, DiffusionThickness, OutOfRange, ThermalResistance, Thickness, VaporResistanceFactor,
};
use language::known;
use serde::{Deserialize, Serialize};
use std::fmt;
use uuid::Uuid;

/// Most courses in a variant.
pub const MOST_COURSES: usize = 16;
/// Most variants of one boundary.
pub const MOST_VARIANTS: usize = 4;
/// Largest share of framing, %.
pub const MOST_FRAMING: f64 = 50.0;
/// What studs, joists and battens are made of.
const FRAMING: &str = "softwood";
/// Resistance to vapor of a layer of air, whatever its width, m (ISO 13788:2012, from memory).
const AIR_SD: f64 = 0.01;

/// What a course is made of.
#[derive(Debug, Clone, Copy, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub enum Substance {
    /// A material of the library.
    Library(&'static Material),
    /// One of the practice's own.
    Own(Uuid),
    /// Air that stands still.
    ClosedGap,
    /// A cavity open to outdoor air: what lies beyond keeps off rain and sun and does no more (ISO 6946).
    VentedCavity,
}

impl Substance {
    const CLOSED: &'static str = "air_gap";
    const VENTED: &'static str = "vented_cavity";
    const OWN: &'static str = "own:";

    /// The id used in storage and exchange.
    #[must_use]
    pub fn id(&self) -> String {
        match self {
            Self::Library(m) => m.id.clone(),
            Self::Own(id) => format!("{}{id}", Self::OWN),
            Self::ClosedGap => Self::CLOSED.into(),
            Self::VentedCavity => Self::VENTED.into(),
        }
    }

    /// The substance with this id.
    #[must_use]
    pub fn from_id(id: &str) -> Option<Self> {
        match id {
            Self::CLOSED => Some(Self::ClosedGap),
            Self::VENTED => Some(Self::VentedCavity),
            _ => match id.strip_prefix(Self::OWN) {
                Some(own) => own.parse().ok().map(Self::Own),
                None => material(id).map(Self::Library),
            },
        }
    }
}

impl Substance {
    /// Family it is listed and drawn under.
    #[must_use]
    pub fn family(self) -> &'static str {
        match self {
            Self::Library(m) => &m.group,
            Self::Own(_) => "own",
            Self::ClosedGap | Self::VentedCavity => "air",
        }
    }
}

impl PartialEq for Substance {
    fn eq(&self, other: &Self) -> bool {
        self.id() == other.id()
    }
}

impl TryFrom<String> for Substance {
    type Error = String;

    fn try_from(id: String) -> Result<Self, String> {
        Self::from_id(&id).ok_or_else(|| format!("no material {id}"))
    }
}

impl From<Substance> for String {
    fn from(of: Substance) -> Self {
        of.id()
    }
}

/// One course, inside to outside.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Course {
    /// What of.
    pub of: Substance,
    /// How thick, m.
    pub thickness_m: f64,
    /// Whether the framing stands in it.
    #[serde(default)]
    pub framed: bool,
}

/// One way a boundary is, or could be, built.
#[derive(Debug, Clone, PartialEq)]
pub struct Variant {
    /// Identity.
    pub id: Uuid,
    /// Whose.
    pub boundary_id: Uuid,
    /// What it is called.
    pub name: String,
    /// Inside first.
    pub courses: Vec<Course>,
    /// Share of the area taken by framing where courses are framed, %.
    pub framing_pct: f64,
}

/// A material of a practice's own.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(try_from = "Figures", into = "Figures")]
pub struct OwnMaterial {
    /// Identity.
    pub id: Uuid,
    /// What it is.
    pub name: String,
    /// Its conductivity.
    pub conductivity: Conductivity,
    /// How it resists vapor.
    pub resists: Resists,
    /// Usual thickness, m.
    pub thickness_m: f64,
    /// Where the figures come from.
    pub source: String,
}

/// An own material as it is stored and exchanged: one of `mu` and `sd` (m).
#[derive(Clone, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct Figures {
    id: Uuid,
    name: String,
    lambda: f64,
    mu: Option<f64>,
    sd: Option<f64>,
    thickness_m: f64,
    source: String,
}

impl TryFrom<Figures> for OwnMaterial {
    type Error = String;

    fn try_from(f: Figures) -> Result<Self, String> {
        let said = |e: OutOfRange| e.to_string();
        let resists = match (f.mu, f.sd) {
            (Some(mu), None) => Resists::PerThickness(VaporResistanceFactor::new(mu).map_err(said)?),
            (None, Some(sd)) => Resists::AsLayer(DiffusionThickness::new(sd).map_err(said)?),
            _ => return Err("a material has one of mu and sd".into()),
        };
        Ok(Self {
            id: f.id,
            name: f.name,
            conductivity: Conductivity::new(f.lambda).map_err(said)?,
            resists,
            thickness_m: f.thickness_m,
            source: f.source,
        })
    }
}

impl From<OwnMaterial> for Figures {
    fn from(m: OwnMaterial) -> Self {
        let (mu, sd) = match m.resists {
            Resists::PerThickness(mu) => (Some(mu.get()), None),
            Resists::AsLayer(sd) => (None, Some(sd.get())),
        };
        let OwnMaterial { id, name, conductivity, thickness_m, source, .. } = m;
        Self { id, name, lambda: conductivity.get(), mu, sd, thickness_m, source }
    }
}

/// A course as it counts.
#[derive(Debug, Clone, PartialEq)]
pub struct Ply {
    /// What it is.
    pub name: String,
    /// How thick, m.
    pub thickness_m: f64,
    /// Its resistances between the framing.
    pub layer: Layer,
    /// Its resistance through the framing.
    pub through: ThermalResistance,
    /// How readily its faces grow mold.
    pub class: Sensitivity,
    /// Family of its material.
    pub family: &'static str,
}

/// A course beyond a vented cavity: drawn, and no more.
#[derive(Debug, Clone, PartialEq)]
pub struct Beyond {
    /// What it is.
    pub name: String,
    /// How thick, m.
    pub thickness_m: f64,
    /// Family of its material.
    pub family: &'static str,
}

/// A variant ready to be computed.
#[derive(Debug, Clone, PartialEq)]
pub struct Construction {
    /// What counts, inside first.
    pub plies: Vec<Ply>,
    /// What lies beyond a vented cavity and does not count.
    pub beyond: Vec<Beyond>,
    /// Between the framing.
    pub between: BuildUp,
    /// Through the framing, where there is any.
    pub through: Option<BuildUp>,
    /// Heat through both (ISO 6946).
    pub combined: Combined,
    /// Films inside and outside, m²K/W.
    pub films: [ThermalResistance; 2],
}

/// Why courses make no construction. Courses count from 0.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum ConstructionError {
    /// A material that is no longer there.
    Unknown(usize),
    /// A thickness that cannot be, or a layer it makes.
    Course(usize, OutOfRange),
    /// All of them together.
    Whole(BuildUpError),
}

impl fmt::Display for ConstructionError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Unknown(i) => write!(f, "layer {}: its material is no longer in the list", i + 1),
            Self::Course(i, why) => write!(f, "layer {}: {why}", i + 1),
            Self::Whole(why) => why.fmt(f),
        }
    }
}

impl std::error::Error for ConstructionError {}

impl Face {
    /// Which way heat goes through it from a warm space.
    #[must_use]
    pub const fn heat_flow(self) -> HeatFlow {
        match self {
            Self::North | Self::South | Self::East | Self::West => HeatFlow::Sideways,
            Self::Ceiling => HeatFlow::Up,
            Self::Floor => HeatFlow::Down,
        }
    }
}

/// How readily faces of a family of materials grow mold (classes after ASHRAE 160-2016, from memory).
fn class_of(group: &str) -> Sensitivity {
    match group {
        "wood" | "board" => Sensitivity::Sensitive,
        "glass and metal" => Sensitivity::Resistant,
        _ => Sensitivity::Medium,
    }
}

/// What can be built with: the library and a practice's own materials.
#[derive(Debug, Clone, Copy, Default)]
pub struct Stock<'a> {
    /// The practice's own.
    pub own: &'a [OwnMaterial],
}

/// A substance as it is offered.
#[derive(Debug, Clone, PartialEq)]
pub struct Offered<'a> {
    /// What it is.
    pub of: Substance,
    /// Family it is listed under.
    pub group: &'a str,
    /// What it is called.
    pub name: &'a str,
    /// Usual thickness, m.
    pub thickness_m: f64,
}

impl<'a> Stock<'a> {
    /// Everything, the practice's own first.
    pub fn all(self) -> impl Iterator<Item = Offered<'a>> {
        let own = self.own.iter().map(|m| Offered {
            of: Substance::Own(m.id),
            group: "own",
            name: &m.name,
            thickness_m: m.thickness_m,
        });
        let air = [(Substance::ClosedGap, "air gap, closed"), (Substance::VentedCavity, "cavity vented to outdoors")];
        let air = air.into_iter().map(|(of, name)| Offered { of, group: "air", name: known(name), thickness_m: 0.025 });
        let library = materials().iter().map(|m| Offered {
            of: Substance::Library(m),
            group: &m.group,
            name: known(&m.name),
            thickness_m: m.thickness,
        });
        own.chain(air).chain(library)
    }

    /// What somebody means who types a name: the one called so, else the only one whose name holds all words typed.
    ///
    /// # Errors
    /// Names of those it could be, none where nothing is called like it.
    pub fn named(self, typed: &str) -> Result<Offered<'a>, Vec<&'a str>> {
        let typed = typed.trim().to_lowercase();
        // The library is in English, so its English names mean the same in every language.
        let names = |o: &Offered| match o.of {
            Substance::Library(m) => vec![o.name.to_lowercase(), m.name.to_lowercase()],
            _ => vec![o.name.to_lowercase()],
        };
        if let Some(exact) = self.all().find(|o| names(o).contains(&typed)) {
            return Ok(exact);
        }
        let words: Vec<&str> = typed.split_whitespace().collect();
        let holds = |o: &Offered| names(o).iter().any(|name| words.iter().all(|w| name.contains(w)));
        let mut found: Vec<Offered> = if words.is_empty() { Vec::new() } else { self.all().filter(holds).collect() };
        match found.len() {
            1 => Ok(found.remove(0)),
            _ => Err(found.into_iter().map(|o| o.name).collect()),
        }
    }

    /// What a substance is called; empty for an own material that is no longer there.
    #[must_use]
    pub fn name(self, of: Substance) -> &'a str {
        match of {
            Substance::Library(m) => known(&m.name),
            _ => self.all().find(|o| o.of == of).map_or("", |o| o.name),
        }
    }

    /// A variant of a boundary on this face, ready to be computed.
    ///
    /// # Errors
    /// [`ConstructionError`].
    pub fn construct(self, variant: &Variant, face: Face) -> Result<Construction, ConstructionError> {
        let flow = face.heat_flow();
        let vented = variant.courses.iter().position(|c| c.of == Substance::VentedCavity);
        let (counts, beyond) = variant.courses.split_at(vented.unwrap_or(variant.courses.len()));
        let plies: Vec<Ply> = counts.iter().enumerate().map(|(i, c)| self.ply(i, c, flow)).collect::<Result<_, _>>()?;
        let whole = ConstructionError::Whole;
        // Air in a vented cavity is still enough to keep the film of a room (ISO 6946).
        let films = [flow.inside_film(), if vented.is_some() { flow.inside_film() } else { film::OUTSIDE }];
        let layers: Vec<Layer> = plies.iter().map(|p| p.layer).collect();
        let is_framed = variant.framing_pct > 0.0 && counts.iter().any(|c| c.framed);
        let through: Vec<Layer> = plies.iter().map(|p| Layer { resistance: p.through, ..p.layer }).collect();
        let framed: Vec<Framed> =
            plies.iter().map(|p| Framed { between: p.layer.resistance, through: p.through }).collect();
        let build = |layers: &[Layer]| BuildUp::new(layers, films[0], films[1]).map_err(whole);
        Ok(Construction {
            between: build(&layers)?,
            through: is_framed.then(|| build(&through)).transpose()?,
            combined: Combined::new(&framed, variant.framing_pct / 100.0, films[0], films[1]),
            plies,
            beyond: beyond.iter().map(|c| self.beyond(c)).collect(),
            films,
        })
    }

    fn beyond(self, course: &Course) -> Beyond {
        let name = self.name(course.of).to_owned();
        Beyond { name, thickness_m: course.thickness_m, family: course.of.family() }
    }

    fn ply(self, i: usize, course: &Course, flow: HeatFlow) -> Result<Ply, ConstructionError> {
        let wrong = |why| ConstructionError::Course(i, why);
        let thickness = Thickness::new(course.thickness_m).map_err(wrong)?;
        let (layer, class) = match course.of {
            Substance::Library(m) => (m.layer(thickness), class_of(&m.group)),
            Substance::ClosedGap | Substance::VentedCavity => {
                let diffusion = DiffusionThickness::new(AIR_SD).map_err(wrong)?;
                (Ok(Layer { resistance: flow.closed_gap(thickness), diffusion }), Sensitivity::Resistant)
            }
            Substance::Own(id) => {
                let own = self.own.iter().find(|m| m.id == id).ok_or(ConstructionError::Unknown(i))?;
                (own.layer(thickness), Sensitivity::Medium)
            }
        };
        let layer = layer.map_err(wrong)?;
        let member = || material(FRAMING).and_then(|m| m.layer(thickness).ok()).map(|l| l.resistance);
        let through = if course.framed { member().unwrap_or(layer.resistance) } else { layer.resistance };
        let name = self.name(course.of).to_owned();
        let family = course.of.family();
        Ok(Ply { name, thickness_m: course.thickness_m, layer, through, class, family })
    }
}

impl OwnMaterial {
    fn layer(&self, thickness: Thickness) -> Result<Layer, OutOfRange> {
        let diffusion = match self.resists {
            Resists::PerThickness(mu) => mu.diffusion_thickness(thickness)?,
            Resists::AsLayer(sd) => sd,
        };
        Ok(Layer { resistance: self.conductivity.resistance(thickness)?, diffusion })
    }
}
