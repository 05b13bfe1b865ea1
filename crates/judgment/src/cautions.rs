//! Cautions of the trade, shown where work is planned. Local code and licensed practice govern.

use building::SpaceKind;
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
    /// Dig.
    Dig,
    /// Climb on a roof or a ladder.
    Roof,
    /// Coat, seal or fill with something that cures.
    Coat,
    /// Disturb growth.
    Clean,
    /// Cut or tear out.
    Strip,
    /// Touch wiring or a machine's supply.
    Electrical,
    /// Open pipes.
    Plumbing,
    /// Meet sewage.
    Sewage,
    /// Cover the ground.
    CoverGround,
    /// Close gaps.
    Seal,
    /// Move air out by a fan.
    Exhaust,
    /// Dry with heat.
    Heat,
    /// Open a cooling circuit.
    Refrigerant,
    /// Bear loads.
    Structural,
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

/// The cautions for this work in spaces of these kinds: those of being there, and those of the work wherever it is done.
pub fn cautions_of(spaces: &[SpaceKind], work: &[Work]) -> impl Iterator<Item = &'static Caution> {
    CAUTIONS.iter().filter(move |c| {
        let there = c.spaces.iter().any(|s| spaces.contains(s));
        let done = c.advice.iter().any(|a| work.contains(a));
        if c.advice.is_empty() { there } else { done && (c.spaces.is_empty() || spaces.is_empty() || there) }
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
