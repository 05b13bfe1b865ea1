//! The starter library of build-ups, from `data/buildups.toml`.

use super::Face;
use super::construction::{Construction, Course, Stock, Substance, Variant};
use serde::Deserialize;
use std::sync::LazyLock;
use uuid::Uuid;

/// An ordinary build-up to begin with, layers from inside to outside.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct StarterBuildUp {
    /// Stable id.
    pub id: String,
    /// What it is.
    pub name: String,
    /// `wall`, `roof`, `floor` or `vehicle`: how it is listed.
    pub group: String,
    /// Material id (or `air_gap`) and thickness in mm of each layer, inside first.
    layers: Vec<(String, f64)>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    buildup: Vec<StarterBuildUp>,
}

#[allow(clippy::expect_used, reason = "the table is compiled in and read by a test")]
static TABLE: LazyLock<File> =
    LazyLock::new(|| toml::from_str(include_str!("../data/buildups.toml")).expect("buildups.toml is well formed"));

/// Every starter build-up, in the order offered.
#[must_use]
pub fn buildups() -> &'static [StarterBuildUp] {
    &TABLE.buildup
}

/// The build-up with this id.
#[must_use]
pub fn buildup(id: &str) -> Option<&'static StarterBuildUp> {
    TABLE.buildup.iter().find(|b| b.id == id)
}

impl StarterBuildUp {
    /// Its layers as courses, inside first.
    #[must_use]
    pub fn courses(&self) -> Vec<Course> {
        let course = |(id, mm): &(String, f64)| {
            Some(Course { of: Substance::from_id(id)?, thickness_m: mm / 1000.0, framed: false })
        };
        self.layers.iter().filter_map(course).collect()
    }

    /// It as the first variant of a boundary.
    #[must_use]
    pub fn variant(&self, boundary_id: Uuid) -> Variant {
        let name = self.name.clone();
        Variant { id: boundary_id, boundary_id, name, courses: self.courses(), framing_pct: 0.0 }
    }

    /// It behind the films of a face. `None` if the table holds what cannot be; a test keeps it whole.
    #[must_use]
    pub fn construct(&self, face: Face) -> Option<Construction> {
        Stock::default().construct(&self.variant(Uuid::nil()), face).ok()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::blueprints;

    /// Every layer is in the library of materials, every usual build-up in this one, and each insulates as such things
    /// do: between a single pane and a thick roof.
    #[test]
    fn the_library_is_whole() {
        for b in buildups() {
            assert_eq!(b.courses().len(), b.layers.len(), "{}: unknown material", b.id);
            let u = b.construct(Face::North).map(|c| c.between.transmittance());
            assert!(u.is_some_and(|u| (0.1..6.5).contains(&u)), "{}: {u:?}", b.id);
        }
        for b in blueprints().iter().flat_map(|b| &b.boundaries) {
            assert!(b.buildup.as_deref().is_none_or(|id| buildup(id).is_some()), "{}", b.name);
        }
    }
}
