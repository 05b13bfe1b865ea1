//! A space laid flat: what was read, seen and taken at its place, and moisture maps walked with a meter.

mod edit;
mod form;
mod keep;
mod map;
mod sight;
mod walk;

pub use edit::{change_map, measure, place};
pub use keep::keep_walk;
pub use map::{Mapsheet, mapsheets};
pub use sight::page;
pub use walk::walk;

use crate::error::Failure;
use building::Space;
use building::unfold::Layout;
use casework::CaseFile;
use uuid::Uuid;

/// Tables what is done here is kept in.
const TABLES: &[&str] = &["layout", "placed", "moisture_map"];

/// A space, and how it is laid flat.
struct Laid<'a> {
    space: &'a Space,
    layout: Layout,
    /// Whether somebody measured it.
    measured: bool,
}

/// The space asked for, else the one most walked, else the first somebody measured, else the first.
fn laid(file: &CaseFile, asked: Option<Uuid>) -> Result<Laid<'_>, Failure> {
    let b = &file.building;
    let space = match asked {
        Some(id) => b.space(id),
        None => {
            let known = |s: &&Space| (file.maps.iter().filter(|m| m.space_id == s.id).count(), b.layout(s).1);
            // Of several alike the first.
            b.spaces.iter().rev().max_by_key(known)
        }
    };
    let space = space.ok_or(Failure::NotFound)?;
    let (layout, measured) = b.layout(space);
    Ok(Laid { space, layout, measured })
}

/// The address of a space, with a map in view.
fn address(job: Uuid, space: Uuid, map: Option<Uuid>) -> String {
    let map = map.map_or_else(String::new, |m| format!("&map={m}"));
    format!("/jobs/{job}/unfolded?space={space}{map}")
}
