//! Changing a building: each edit gives a whole building again or says what stands in its way.

use super::{Boundary, Building, Face, Place, Side, Space, Station, Surface};
use language::{known, say};
use std::fmt;
use uuid::Uuid;

/// Most spaces a building is drawn with.
pub const MOST_SPACES: usize = 12;
/// Most boundaries drawn along one face of a space toward the same side.
pub const MOST_PER_FACE: usize = 3;
/// Most surfaces read in one space.
const MOST_SURFACES: usize = 24;
/// Longest name, characters.
const NAME: usize = 40;
/// Longest name in the drawing, characters.
const SHORT: usize = 10;

/// One change.
#[derive(Debug, Clone, PartialEq)]
pub enum Edit {
    /// A new space at the right end of its level, with a station for its air.
    AddSpace(Space, Uuid),
    /// New name, kind, level or size; on another level it goes to the right end.
    ChangeSpace(Space),
    /// Changes places with its neighbor to the left (`-1`) or right (`1`).
    ShiftSpace(Uuid, i32),
    /// Away with it. What separated it from others stays as theirs, toward the outdoors or the ground.
    RemoveSpace(Uuid),
    /// A new boundary.
    AddBoundary(Boundary),
    /// New name, sides, face, ground or build-up; its surfaces go with it.
    ChangeBoundary(Boundary),
    /// Away with it and its surfaces.
    RemoveBoundary(Uuid),
    /// A new surface, with a station after the others of its space.
    AddSurface(Surface, Uuid),
    /// New name, material, side or boundary.
    ChangeSurface(Surface),
    /// Away with it and its station.
    RemoveSurface(Uuid),
    /// Stations in a new walking order; those not named keep theirs, after the named ones.
    Order(Vec<Uuid>),
}

/// Why an edit is refused.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct EditError {
    /// Which figure or word is wrong: `name`, `short`, `area`, `height`, `beyond`, `face` or `boundary`; empty for the
    /// building as a whole.
    pub field: &'static str,
    /// What to change.
    pub message: String,
}

impl fmt::Display for EditError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.message)
    }
}

impl std::error::Error for EditError {}

fn refuse<T>(field: &'static str, message: impl Into<String>) -> Result<T, EditError> {
    Err(EditError { field, message: message.into() })
}

fn name(field: &'static str, text: &str, longest: usize) -> Result<(), EditError> {
    let length = text.chars().count();
    match () {
        () if text.trim().is_empty() => refuse(field, say!("Give it a name.")),
        () if length > longest => {
            refuse(field, say!("The name is {length} characters long; {longest} at most.", length, longest))
        }
        () if text.chars().any(char::is_control) => refuse(field, say!("A name is one line.")),
        () => Ok(()),
    }
}

impl Building {
    /// The building after an edit. Something that is not there, because someone removed it meanwhile, is refused too.
    ///
    /// # Errors
    /// [`EditError`]: what stands in the way, and in which field.
    pub fn edited(&self, edit: &Edit) -> Result<Self, EditError> {
        let mut next = self.clone();
        match edit {
            Edit::AddSpace(space, station) => next.add_space(space, *station)?,
            Edit::ChangeSpace(space) => next.change_space(space)?,
            Edit::ShiftSpace(id, by) => next.shift_space(*id, *by)?,
            Edit::RemoveSpace(id) => next.remove_space(*id)?,
            Edit::AddBoundary(boundary) => {
                next.boundaries.push(boundary.clone());
                next.check_boundary(boundary)?;
            }
            Edit::ChangeBoundary(boundary) => {
                *found(&mut next.boundaries, |b| b.id == boundary.id)? = boundary.clone();
                next.check_boundary(boundary)?;
            }
            Edit::RemoveBoundary(id) => {
                found(&mut next.boundaries, |b| b.id == *id)?;
                next.boundaries.retain(|b| b.id != *id);
                next.surfaces.retain(|s| s.boundary_id != *id);
            }
            Edit::AddSurface(surface, station) => next.add_surface(surface, *station)?,
            Edit::ChangeSurface(surface) => {
                *found(&mut next.surfaces, |s| s.id == surface.id)? = surface.clone();
                next.check_surface(surface)?;
            }
            Edit::RemoveSurface(id) => {
                found(&mut next.surfaces, |s| s.id == *id)?;
                next.surfaces.retain(|s| s.id != *id);
            }
            Edit::Order(order) => {
                next.stations.sort_by_key(|s| order.iter().position(|o| *o == s.id).unwrap_or(usize::MAX));
            }
        }
        next.settle();
        next.check_faces()?;
        Ok(next)
    }

    fn add_space(&mut self, space: &Space, station: Uuid) -> Result<(), EditError> {
        if self.spaces.len() >= MOST_SPACES {
            return refuse("", say!("A building is drawn with {most} spaces at most.", most = MOST_SPACES));
        }
        check_space(space)?;
        self.spaces.push(Space { column: i32::MAX, ..space.clone() });
        self.stations.push(Station { id: station, place: Place::Space(space.id) });
        Ok(())
    }

    fn change_space(&mut self, space: &Space) -> Result<(), EditError> {
        check_space(space)?;
        let old = found(&mut self.spaces, |s| s.id == space.id)?;
        let column = if old.level == space.level { old.column } else { i32::MAX };
        *old = Space { column, ..space.clone() };
        Ok(())
    }

    fn shift_space(&mut self, id: Uuid, by: i32) -> Result<(), EditError> {
        let space = found(&mut self.spaces, |s| s.id == id)?;
        let (level, from) = (space.level, space.column);
        if let Some(other) = self.spaces.iter_mut().find(|s| s.level == level && s.column == from + by) {
            other.column = from;
            found(&mut self.spaces, |s| s.id == id)?.column = from + by;
        }
        Ok(())
    }

    fn remove_space(&mut self, id: Uuid) -> Result<(), EditError> {
        found(&mut self.spaces, |s| s.id == id)?;
        if self.spaces.len() == 1 {
            return refuse("", say!("A building has at least one space: add another first."));
        }
        self.spaces.retain(|s| s.id != id);
        for b in self.boundaries.iter_mut().filter(|b| b.touches(id)) {
            if let (true, Side::Space(other)) = (b.space_id == id, b.beyond) {
                (b.space_id, b.face) = (other, b.face.opposite());
            }
            b.beyond = if b.face == Face::Floor { Side::Ground } else { Side::Outdoors };
        }
        self.boundaries.retain(|b| b.space_id != id);
        self.surfaces.retain(|s| s.space_id != id && self.boundaries.iter().any(|b| b.id == s.boundary_id));
        Ok(())
    }

    fn add_surface(&mut self, surface: &Surface, station: Uuid) -> Result<(), EditError> {
        if self.surfaces_in(surface.space_id).count() >= MOST_SURFACES {
            return refuse("", say!("A space is read at {most} surfaces at most.", most = MOST_SURFACES));
        }
        self.check_surface(surface)?;
        let last = self.stations.iter().rposition(|s| self.space_of(s.place).is_some_and(|x| x.id == surface.space_id));
        self.surfaces.push(surface.clone());
        let station = Station { id: station, place: Place::Surface(surface.id) };
        self.stations.insert(last.map_or(self.stations.len(), |i| i + 1), station);
        Ok(())
    }

    fn check_boundary(&self, b: &Boundary) -> Result<(), EditError> {
        name("name", &b.name, NAME)?;
        if self.space(b.space_id).is_none() {
            return refuse("", say!("Its space is no longer there."));
        }
        match b.beyond {
            Side::Space(other) if other == b.space_id => refuse("beyond", say!("Two sides need two different spaces.")),
            Side::Space(other) if self.space(other).is_none() => {
                refuse("beyond", say!("That space is no longer there."))
            }
            Side::Ground if b.face == Face::Ceiling => refuse("beyond", say!("There is no ground above a ceiling.")),
            _ => Ok(()),
        }
    }

    fn check_surface(&self, s: &Surface) -> Result<(), EditError> {
        name("name", &s.name, NAME)?;
        name("short", &s.short, SHORT)?;
        match self.boundary(s.boundary_id) {
            None => refuse("boundary", say!("Its boundary is no longer there.")),
            Some(b) if !b.touches(s.space_id) => refuse("boundary", say!("That boundary is not one of this space.")),
            Some(_) => Ok(()),
        }
    }

    /// Columns counted from 0, faces between spaces as they stand, surfaces and stations of what is there.
    fn settle(&mut self) {
        self.spaces.sort_by_key(|s| s.column);
        let mut next = std::collections::HashMap::new();
        for space in &mut self.spaces {
            let column = next.entry(space.level).or_insert(0);
            space.column = *column;
            *column += 1;
        }
        let spaces = std::mem::take(&mut self.spaces);
        let of = |id: Uuid| spaces.iter().find(|s| s.id == id);
        for b in &mut self.boundaries {
            if let Side::Space(other) = b.beyond {
                b.bare_soil = false;
                if let Some(face) = of(b.space_id).zip(of(other)).map(|(own, other)| own.face_towards(other)) {
                    b.face = face;
                }
            }
            b.bare_soil &= b.beyond == Side::Ground;
        }
        self.spaces = spaces;
        for s in &mut self.surfaces {
            if let Some(b) = self.boundaries.iter().find(|b| b.id == s.boundary_id && !b.touches(s.space_id)) {
                s.space_id = b.space_id;
            }
        }
        let stations = std::mem::take(&mut self.stations);
        let there = |place: Place| match place {
            Place::Outdoors => true,
            Place::Space(id) => self.space(id).is_some(),
            Place::Surface(id) => self.surface(id).is_some(),
        };
        self.stations = stations.into_iter().filter(|s| there(s.place)).collect();
        // Spaces keep the order in which they are walked, not drawn.
        let walked = |id: Uuid| self.stations.iter().position(|s| s.place == Place::Space(id));
        let mut spaces = self.spaces.clone();
        spaces.sort_by_key(|s| walked(s.id));
        self.spaces = spaces;
    }

    fn check_faces(&self) -> Result<(), EditError> {
        match self.boundaries.iter().find(|b| self.boundaries.iter().filter(|x| b.along(x)).count() > MOST_PER_FACE) {
            Some(b) => refuse(
                "face",
                say!(
                    "The {face} side has {most} boundaries already: add a surface to one.",
                    face = known(b.face.words()),
                    most = MOST_PER_FACE
                ),
            ),
            None => Ok(()),
        }
    }
}

fn found<T>(all: &mut [T], which: impl Fn(&T) -> bool) -> Result<&mut T, EditError> {
    let gone = || EditError { field: "", message: say!("It is no longer there: someone removed it.").into() };
    all.iter_mut().find(|x| which(x)).ok_or_else(gone)
}

fn check_space(space: &Space) -> Result<(), EditError> {
    name("name", &space.name, NAME)?;
    if !(0.1..=20_000.0).contains(&space.area_m2) {
        return refuse(
            "area",
            say!("The floor area must be 0.1 to 20000 m², got {got}.", got = format_args!("{:.2}", space.area_m2)),
        );
    }
    if !(0.05..=30.0).contains(&space.height_m) {
        return refuse(
            "height",
            say!("The height must be 0.05 to 30 m, got {got}.", got = format_args!("{:.2}", space.height_m)),
        );
    }
    Ok(())
}

impl Space {
    /// The face of this space on which another lies in the cut.
    #[must_use]
    pub fn face_towards(&self, other: &Self) -> Face {
        // Levels are listed from the roof down.
        match self.level.cmp(&other.level) {
            std::cmp::Ordering::Greater => Face::Ceiling,
            std::cmp::Ordering::Less => Face::Floor,
            std::cmp::Ordering::Equal if other.column > self.column => Face::South,
            std::cmp::Ordering::Equal => Face::North,
        }
    }
}
