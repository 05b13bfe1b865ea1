//! What a patch of a thermal picture may be, and which picture says how much.

use hygrothermal::quantity::Temperature;
use hygrothermal::surface::{BELOW_WET_BULB, Patch, Room, ThermalGrid};
use serde::Deserialize;
use std::sync::LazyLock;

/// Inside and outside of a pair must differ alike within this, K (common practice).
pub const ALIKE_WITHIN: f64 = 3.0;
/// A patch so many times as long as it is broad is a run.
const RUN: usize = 5;
/// Outdoors so much warmer than inside: a leak or a gap shows warm, K.
const SUMMER: f64 = 5.0;

/// Something that looks like something else.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Lookalike {
    /// Stable id.
    pub id: String,
    /// What it is.
    pub name: String,
    /// How it looks.
    pub looks: String,
    /// What settles it.
    pub settles: String,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    lookalike: Vec<Lookalike>,
}

#[allow(clippy::expect_used, reason = "the table is compiled in and read by a test")]
static TABLE: LazyLock<File> =
    LazyLock::new(|| toml::from_str(include_str!("../data/lookalikes.toml")).expect("lookalikes.toml is well formed"));

/// Everything a patch may be.
#[must_use]
pub fn lookalikes() -> &'static [Lookalike] {
    &TABLE.lookalike
}

/// A stop of a thermal survey.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct SurveyStop {
    /// What is looked at.
    pub name: String,
    /// What it shows.
    pub look: String,
    /// Ids of the findings it may end in.
    pub found: Vec<String>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Survey {
    stop: Vec<SurveyStop>,
}

#[allow(clippy::expect_used, reason = "the table is compiled in and read by a test")]
static SURVEY: LazyLock<Survey> =
    LazyLock::new(|| toml::from_str(include_str!("../data/survey.toml")).expect("survey.toml is well formed"));

/// The stops of a thermal survey, in walking order.
#[must_use]
pub fn survey() -> &'static [SurveyStop] {
    &SURVEY.stop
}

/// Which season a picture was taken in, as far as it matters for reading it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Season {
    /// Outdoors colder: what is wrong shows cold.
    Cold,
    /// Outdoors warmer: what is wrong shows warm.
    Warm,
    /// Too much alike, or not known.
    Neither,
}

/// The season of a picture.
#[must_use]
pub fn season(room: &Room) -> Season {
    let Some(outdoor) = room.outdoor else { return Season::Neither };
    let above = outdoor.above(room.air.temperature()).get();
    if above >= SUMMER {
        Season::Warm
    } else if above <= -SUMMER {
        Season::Cold
    } else {
        Season::Neither
    }
}

/// What the shape of a patch speaks for or against, by the ids of look-alikes: likely first, then ruled out.
#[must_use]
pub fn shape(grid: &ThermalGrid, patch: &Patch, room: &Room) -> (Vec<&'static str>, Vec<&'static str>) {
    let (height, width) = (patch.rows.1 - patch.rows.0 + 1, patch.columns.1 - patch.columns.0 + 1);
    let filled = patch.cells as f64 / (height * width) as f64;
    let (mut likely, mut out) = (Vec::new(), Vec::new());
    if height >= RUN * width || width >= RUN * height {
        likely.extend(["duct_or_pipe", "thermal_bridge", "air_leak"]);
    } else if filled > 0.8 {
        // A box filled to its edges has sharp ones.
        likely.extend(["missing_insulation", "thermal_bridge"]);
    } else {
        likely.extend(["air_leak", "wet"]);
    }
    let corner = (patch.rows.0 == 0 || patch.rows.1 + 1 == grid.rows())
        && (patch.columns.0 == 0 || patch.columns.1 + 1 == grid.columns());
    if corner && !likely.contains(&"thermal_bridge") {
        likely.push("thermal_bridge");
    }
    let wet_bulb = room.air.wet_bulb().map(Temperature::get);
    if wet_bulb.is_some_and(|wet| patch.coldest.celsius < wet - BELOW_WET_BULB) {
        likely.retain(|id| *id != "wet");
        out.push("wet");
    }
    (likely, out)
}

/// Heat lost through a patch beside what goes through its surround, W.
///
/// # Formula
/// q = ΔT h_i A, ΔT the surround's mean less the patch's, h_i = 1/R_si (ISO 6946 film), `area` in m².
#[must_use]
pub fn watts(surround: f64, patch: &Patch, area: f64, r_si: f64) -> f64 {
    (surround - patch.mean) / r_si * area
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_table_is_whole_and_shapes_name_what_is_in_it() {
        let known: Vec<&str> = lookalikes().iter().map(|l| l.id.as_str()).collect();
        assert_eq!(known.len(), 7);
        for id in ["duct_or_pipe", "thermal_bridge", "air_leak", "missing_insulation", "wet"] {
            assert!(known.contains(&id), "{id}");
        }
        let known = |id: &String| crate::finding::finding(id).is_some();
        assert!(survey().len() > 5 && survey().iter().flat_map(|s| &s.found).all(known));
        // By hand: 2 m² that stand 4 K colder than their surround behind a film of 0.13 m²K/W.
        let patch = Patch {
            cells: 1,
            coldest: hygrothermal::surface::Spot { row: 0, column: 0, celsius: 13.0 },
            mean: 14.0,
            rows: (0, 0),
            columns: (0, 0),
        };
        assert!((watts(18.0, &patch, 2.0, 0.13) - 61.54).abs() < 0.01);
    }
}
