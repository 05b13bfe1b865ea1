//! Lines of a price book, and what a sized step costs by it.

use super::Sizing;
use super::table::Worker;
use serde::Deserialize;
use std::collections::BTreeMap;
use std::sync::LazyLock;

/// A line of the price book.
#[derive(Debug, Clone, PartialEq, Eq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Item {
    /// Stable id.
    pub id: String,
    /// What it is.
    pub name: String,
    /// What one price is for: `m2`, `m`, `m3`, `l`, `piece`, `hour`, `day`, `week`, `kwh_year`.
    pub unit: String,
    /// Heading it is listed under.
    pub group: String,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    item: Vec<Item>,
}

#[allow(clippy::expect_used, reason = "the table is compiled in and read by a test")]
static ITEMS: LazyLock<Vec<Item>> = LazyLock::new(|| {
    toml::from_str::<File>(include_str!("../../data/items.toml")).expect("items.toml is well formed").item
});

/// Every line, in the order listed.
#[must_use]
pub fn items() -> &'static [Item] {
    &ITEMS
}

/// The line with this id.
#[must_use]
pub fn item(id: &str) -> Option<&'static Item> {
    ITEMS.iter().find(|i| i.id == id)
}

/// Prices by item, in hundredths of the practice's currency, so that sums are exact.
pub type Prices = BTreeMap<String, i64>;

/// A line of an offer.
#[derive(Debug, Clone, PartialEq)]
pub struct CostLine {
    /// What.
    pub item: &'static Item,
    /// How much of it.
    pub quantity: f64,
    /// What that costs in hundredths; `None` without a price.
    pub cents: Option<i64>,
    /// Whether it is paid every year, not once.
    pub yearly: bool,
}

/// What a step costs.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Cost {
    /// Work first, then what is bought.
    pub lines: Vec<CostLine>,
}

/// A sum, and how much of it is unknown.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Total {
    /// Hundredths, once.
    pub cents: i64,
    /// Hundredths, each year.
    pub yearly_cents: i64,
    /// Lines without a price.
    pub unpriced: usize,
}

impl std::ops::Add for Total {
    type Output = Self;

    fn add(self, other: Self) -> Self {
        Self {
            cents: self.cents + other.cents,
            yearly_cents: self.yearly_cents + other.yearly_cents,
            unpriced: self.unpriced + other.unpriced,
        }
    }
}

impl Cost {
    /// Prices the work and the material of a sized step, by who does it here.
    #[must_use]
    pub fn of(who: Worker, sizing: &Sizing, prices: &Prices) -> Self {
        let hour = match who {
            Worker::Oneself => "hour_self",
            Worker::Trade => "hour_trade",
            Worker::Licensed => "hour_licensed",
        };
        let work = (hour, sizing.hours);
        let bought = sizing.needs.iter().map(|n| (n.item, n.quantity));
        let line = |(id, quantity): (&str, f64)| {
            let item = item(id)?;
            let cents = prices.get(id).map(|price| (*price as f64 * quantity).round() as i64);
            Some(CostLine { item, quantity, cents, yearly: item.unit == "kwh_year" })
        };
        Self { lines: std::iter::once(work).chain(bought).filter(|l| l.1 > 0.0).filter_map(line).collect() }
    }

    /// Its sum.
    #[must_use]
    pub fn total(&self) -> Total {
        let one = |l: &CostLine| match (l.cents, l.yearly) {
            (None, _) => Total { unpriced: 1, ..Total::default() },
            (Some(c), true) => Total { yearly_cents: c, ..Total::default() },
            (Some(c), false) => Total { cents: c, ..Total::default() },
        };
        self.lines.iter().map(one).fold(Total::default(), |a, b| a + b)
    }
}
