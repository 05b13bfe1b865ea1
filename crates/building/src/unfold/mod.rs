//! A space laid flat: its dimensions, what is built into it, and places on its faces to the hand's width.
//!
//! The floor is seen from above with north on the left and east at the top; walls are seen from inside. Lengths in m.

mod route;
mod sheet;

pub use route::{MOST_STOPS, Route, RouteKind, SPACING, Stop};
pub use sheet::{Panel, Sheet};

use crate::closed::kinds;
use crate::kinds::{Face, SpaceKind, Structure};
use crate::parts::{Boundary, Space};
use language::{known, say};
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// Most things built into a space.
pub const MOST_FIXTURES: usize = 40;
/// Longest name of one, characters.
const NAME: usize = 40;

kinds! {
    /// A face of the unfolded space.
    Facet {
        /// From above.
        Floor = "floor", "floor";
        /// Seen through from above.
        Ceiling = "ceiling", "ceiling";
        /// Left of the floor.
        North = "north", "north wall";
        /// Above the floor.
        East = "east", "east wall";
        /// Right of the floor.
        South = "south", "south wall";
        /// Below the floor.
        West = "west", "west wall";
        /// The wall of a round space, unrolled from its north point, clockwise.
        Around = "around", "wall";
    }
    /// What is built into a space.
    FixtureKind {
        /// Glass.
        Window = "window", "window";
        /// A way in.
        Door = "door", "door";
        /// In a roof, floor or wall.
        Hatch = "hatch", "hatch";
        /// An opening for air.
        Vent = "vent", "vent";
        /// Storage with a floor of its own.
        Locker = "locker", "locker";
        /// A bed, bench or cabinet that hides a face.
        BuiltIn = "built_in", "built-in";
        /// A pier or post.
        Pier = "pier", "pier";
        /// A dehumidifier, fan or heater where it stands.
        Machine = "machine", "machine";
    }
    /// What is placed on the unfolded space.
    Thing {
        /// Where something is read.
        Station = "station", "station";
        /// Something seen.
        Finding = "finding", "finding";
        /// A trial.
        Test = "test", "test";
        /// A photo.
        Photo = "photo", "photo";
        /// A sensor of a logger.
        Logger = "logger", "logger";
        /// A thermal picture.
        Thermal = "thermal", "thermal picture";
    }
    /// What a map's figures are.
    MapScale {
        /// A meter's own scale, through the surface.
        Pinless = "pinless", "pinless, the meter’s own scale";
        /// Wood moisture by pins, %.
        Pins = "pins", "pins, wood moisture in %";
    }
    /// What makes a meter read wet where nothing is.
    FalseWet {
        /// Bracket, screw, nail plate.
        MetalBracket = "metal_bracket", "metal bracket";
        /// Cable.
        Wiring = "wiring", "wiring";
        /// Foil facing.
        Foil = "foil", "foil";
        /// Gasket.
        Rubber = "rubber", "window rubber";
        /// Salts in masonry.
        Salts = "salts", "salts";
        /// Black rubber.
        CarbonBlack = "carbon_black", "carbon-black rubber";
    }
}

impl FixtureKind {
    /// Whether it has an edge worth walking: seals of openings, floors of lockers.
    #[must_use]
    pub const fn has_edge(self) -> bool {
        matches!(self, Self::Window | Self::Door | Self::Hatch | Self::Locker)
    }

    /// Whether it is a hole in a face.
    #[must_use]
    pub const fn opening(self) -> bool {
        matches!(self, Self::Window | Self::Door | Self::Hatch | Self::Vent)
    }
}

/// The ceiling of a straight-walled space.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(tag = "roof", rename_all = "snake_case", deny_unknown_fields)]
pub enum Roof {
    /// Level.
    Flat,
    /// Two slopes up to a ridge from the north to the south wall.
    Gable {
        /// Height under the ridge, m.
        ridge_m: f64,
    },
    /// One slope, from the west wall up to the east wall.
    Shed {
        /// Height at the east wall, m.
        ridge_m: f64,
    },
}

/// The dimensions of a space.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(tag = "shape", rename_all = "snake_case", deny_unknown_fields)]
pub enum Shape {
    /// Four straight walls.
    Straight {
        /// From the north to the south wall, m.
        length_m: f64,
        /// From the east to the west wall, m.
        width_m: f64,
        /// Of the walls; under slopes that of the lower ones, m.
        height_m: f64,
        /// What is above.
        roof: Roof,
    },
    /// One round wall under a cone.
    Round {
        /// Across, m.
        diameter_m: f64,
        /// Of the wall, m.
        wall_m: f64,
        /// Under the crown, m.
        crown_m: f64,
    },
}

/// A distance along a side: from its beginning, or, where that was nearer, from its end, so that what sits in a corner stays in
/// it when dimensions are corrected.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Along {
    /// How far, m.
    pub m: f64,
    /// Whether from the end.
    pub far: bool,
}

impl Along {
    /// A distance from the beginning of a side of some length, kept from the nearer end.
    #[must_use]
    pub fn of(m: f64, length: f64) -> Self {
        if m > length / 2.0 { Self { m: length - m, far: true } } else { Self { m, far: false } }
    }

    /// From the beginning of a side of some length; never beyond it.
    #[must_use]
    pub fn on(self, length: f64) -> f64 {
        let m = if self.far { length - self.m } else { self.m };
        m.clamp(0.0, length)
    }
}

/// A place on a face. Walls: from the left end as seen from inside, and above the floor. Floor and ceiling: from the north, and
/// from the east.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct At {
    /// The face.
    pub facet: Facet,
    /// Along it.
    pub x: Along,
    /// Across it.
    pub y: Along,
}

/// Something built into a space.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Fixture {
    /// Identity.
    pub id: Uuid,
    /// What it is.
    pub kind: FixtureKind,
    /// What it is called.
    pub name: String,
    /// Its middle.
    pub at: At,
    /// Along the face, m.
    pub width_m: f64,
    /// Across the face, m.
    pub height_m: f64,
}

/// A space as it is laid flat.
#[derive(Debug, Clone, PartialEq)]
pub struct Layout {
    /// The space.
    pub space_id: Uuid,
    /// Its dimensions.
    pub shape: Shape,
    /// What is built in, in the order added.
    pub fixtures: Vec<Fixture>,
}

/// What is wrong with a layout: the field, and what to change.
pub type Wrong = (&'static str, String);

/// Proportion of a floor nobody measured.
const USUAL_LENGTH_TO_WIDTH: f64 = 1.6;

impl Layout {
    /// A space nobody measured yet, by its floor area and height.
    #[must_use]
    pub fn assumed(space: &Space) -> Self {
        let (area, height_m) = (space.area_m2, space.height_m);
        let shape = if space.kind == SpaceKind::Tent {
            let diameter_m = 2.0 * (area / std::f64::consts::PI).sqrt();
            Shape::Round { diameter_m, wall_m: height_m * 0.75, crown_m: height_m * 1.4 }
        } else {
            let width_m = (area / USUAL_LENGTH_TO_WIDTH).sqrt();
            let roof =
                if space.kind == SpaceKind::Attic { Roof::Gable { ridge_m: 2.0 * height_m } } else { Roof::Flat };
            let height_m = if space.kind == SpaceKind::Attic { 0.2 * height_m } else { height_m };
            Shape::Straight { length_m: area / width_m, width_m, height_m, roof }
        };
        Self { space_id: space.id, shape, fixtures: Vec::new() }
    }

    /// Floor area, m².
    #[must_use]
    pub fn area_m2(&self) -> f64 {
        match self.shape {
            Shape::Straight { length_m, width_m, .. } => length_m * width_m,
            Shape::Round { diameter_m, .. } => std::f64::consts::PI * (diameter_m / 2.0).powi(2),
        }
    }

    /// Mean height, m: the volume over the floor area.
    #[must_use]
    pub fn mean_height_m(&self) -> f64 {
        match self.shape {
            Shape::Straight { height_m, roof: Roof::Flat, .. } => height_m,
            Shape::Straight { height_m, roof: Roof::Gable { ridge_m } | Roof::Shed { ridge_m }, .. } => {
                f64::midpoint(height_m, ridge_m)
            }
            // A cone holds a third of its cylinder.
            Shape::Round { wall_m, crown_m, .. } => wall_m + (crown_m - wall_m) / 3.0,
        }
    }

    /// Whether it may be drawn.
    ///
    /// # Errors
    /// What is wrong, field by field: `length`, `width`, `height`, `ridge`, `diameter`, `wall`, `crown`, or a fixture's `name`,
    /// `fixture_width`, `fixture_height`, `fixture`.
    pub fn check(&self) -> Result<(), Vec<Wrong>> {
        let mut wrong = Vec::new();
        let mut within = |field, what: &str, x: f64, low: f64, high: f64| {
            if !(low..=high).contains(&x) {
                wrong.push((
                    field,
                    say!("{what} must be {low} to {high} m, got {x}.", what, low, high, x = format_args!("{:.2}", x)),
                ));
            }
        };
        match self.shape {
            Shape::Straight { length_m, width_m, height_m, roof } => {
                within("length", say!("The length"), length_m, 0.3, 60.0);
                within("width", say!("The width"), width_m, 0.3, 60.0);
                within("height", say!("The height"), height_m, 0.05, 12.0);
                if let Roof::Gable { ridge_m } | Roof::Shed { ridge_m } = roof {
                    within("ridge", say!("The height under the ridge"), ridge_m, height_m.clamp(0.05, 15.0), 15.0);
                }
            }
            Shape::Round { diameter_m, wall_m, crown_m } => {
                within("diameter", say!("The diameter"), diameter_m, 0.5, 30.0);
                within("wall", say!("The wall"), wall_m, 0.05, 8.0);
                within("crown", say!("The height under the crown"), crown_m, wall_m.clamp(0.05, 12.0), 12.0);
            }
        }
        if !wrong.is_empty() {
            return Err(wrong);
        }
        if self.fixtures.len() > MOST_FIXTURES {
            wrong.push(("fixture", say!("A space is drawn with {most} fixtures at most.", most = MOST_FIXTURES)));
        }
        let sheet = self.sheet();
        wrong.extend(self.fixtures.iter().flat_map(|f| check_fixture(f, &sheet)));
        if wrong.is_empty() { Ok(()) } else { Err(wrong) }
    }

    /// The sheet it is drawn on.
    #[must_use]
    pub fn sheet(&self) -> Sheet {
        Sheet::of(&self.shape)
    }
}

fn check_fixture(f: &Fixture, sheet: &Sheet) -> Vec<Wrong> {
    let mut wrong = Vec::new();
    let Some(panel) = sheet.panel(f.at.facet) else {
        return vec![(
            "fixture",
            say!("{name}: this space has no {facet}.", name = f.name, facet = known(f.at.facet.words())),
        )];
    };
    if f.name.trim().is_empty() || f.name.chars().count() > NAME || f.name.chars().any(char::is_control) {
        wrong.push(("name", say!("Give it a name of one line, {most} characters at most.", most = NAME)));
    }
    let sizes = [("fixture_width", f.width_m, panel.size[0]), ("fixture_height", f.height_m, panel.size[1])];
    for (field, m, most) in sizes {
        if !(0.02..=most + 1e-9).contains(&m) {
            let said = say!(
                "It must be 0.02 to {most} m, the size of the {facet}; got {m}.",
                most = format_args!("{:.2}", most),
                facet = known(f.at.facet.words()),
                m = format_args!("{:.2}", m)
            );
            wrong.push((field, said));
        }
    }
    wrong
}

impl Facet {
    /// What it is called in a kind of structure: a vehicle is named from its driver's seat, a boat from its helm.
    #[must_use]
    pub const fn called(self, structure: Structure) -> &'static str {
        match (structure, self) {
            (Structure::Vehicle, Self::North) => "front",
            (Structure::Vehicle, Self::South) => "rear",
            (Structure::Vehicle, Self::East) => "right side",
            (Structure::Vehicle, Self::West) => "left side",
            (Structure::Boat, Self::North) => "port side",
            (Structure::Boat, Self::South) => "starboard side",
            (Structure::Boat, Self::East) => "bow end",
            (Structure::Boat, Self::West) => "stern end",
            _ => self.words(),
        }
    }

    /// The face of a space it is; the round wall is all of them.
    #[must_use]
    pub const fn face(self) -> Option<Face> {
        match self {
            Self::Floor => Some(Face::Floor),
            Self::Ceiling => Some(Face::Ceiling),
            Self::North => Some(Face::North),
            Self::East => Some(Face::East),
            Self::South => Some(Face::South),
            Self::West => Some(Face::West),
            Self::Around => None,
        }
    }

    /// Whether it is a wall.
    #[must_use]
    pub const fn upright(self) -> bool {
        !matches!(self, Self::Floor | Self::Ceiling)
    }

    /// Whether a boundary is on it, seen from a space.
    #[must_use]
    pub fn is_of(self, boundary: &Boundary, space: Uuid) -> bool {
        let face = if boundary.space_id == space { boundary.face } else { boundary.face.opposite() };
        boundary.touches(space) && self.face().map_or_else(|| face.upright(), |own| own == face)
    }
}
