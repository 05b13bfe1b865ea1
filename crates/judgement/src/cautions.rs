//! Cautions of the trade, shown where work is planned. Local code and licensed practice govern.

use crate::building::SpaceKind;
use serde::Deserialize;
use std::sync::LazyLock;

/// The sentence that closes every list of cautions.
pub const LOCAL_CODE: &str = "Local code and licensed practice govern.";

/// A kind of advice that cautions hang on.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Work {
    /// Open up to outdoor air.
    Ventilate,
    /// Shut outdoor air out.
    KeepClosed,
    /// Run a dehumidifier.
    Dehumidify,
    /// Add insulation.
    Insulate,
}

/// One caution.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Caution {
    /// Stable id.
    pub id: String,
    /// What to say.
    pub text: String,
    spaces: Vec<SpaceKind>,
    advice: Vec<Work>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    caution: Vec<Caution>,
}

#[allow(clippy::expect_used, reason = "the table is compiled in and read by a test")]
static CAUTIONS: LazyLock<Vec<Caution>> = LazyLock::new(|| {
    let file: File = toml::from_str(include_str!("../data/cautions.toml")).expect("cautions.toml is well formed");
    file.caution
});

/// The cautions for working on this advice in a space of this kind; those without an advice of their own apply to
/// being there at all.
pub fn cautions(kind: SpaceKind, advice: &[Work]) -> impl Iterator<Item = &'static Caution> {
    CAUTIONS.iter().filter(move |c| {
        (c.spaces.is_empty() || c.spaces.contains(&kind))
            && (c.advice.is_empty() || c.advice.iter().any(|a| advice.contains(a)))
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_kind_of_space_has_cautions_and_a_crawl_space_warns_of_entering_alone() {
        for &kind in SpaceKind::ALL {
            assert!(cautions(kind, &[]).count() >= 1, "{kind:?}");
        }
        let crawl: Vec<_> = cautions(SpaceKind::Crawl, &[Work::Dehumidify]).map(|c| c.id.as_str()).collect();
        for id in ["confined_space", "soil_gas", "source_first"] {
            assert!(crawl.contains(&id), "{id} missing in {crawl:?}");
        }
        assert!(!cautions(SpaceKind::Attic, &[]).any(|c| c.id == "source_first"));
    }
}
