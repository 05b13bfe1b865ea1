//! Quantities and prices of a plan.

use judgment::plan::{CostLine, Found, Measure, Total};
use language::{known, known_of, retold, say};
use notation::unit::{self, Kind};
use notation::{Show, money};

/// The kind of figure a measure is, for units and fields.
pub fn kind_of(measure: Measure) -> &'static Kind {
    match measure {
        Measure::Area => &unit::AREA,
        Measure::FreeArea => &unit::FREE_AREA,
        Measure::Length => &unit::LENGTH,
        Measure::Thickness => &unit::THICKNESS,
        Measure::Volume => &unit::VOLUME,
        Measure::Temperature => &unit::TEMPERATURE,
        Measure::Percent => &unit::PERCENT,
        Measure::Share => &unit::SHARE,
        Measure::Flow => &unit::FLOW,
        Measure::Daily => &unit::DAILY,
        Measure::Liters => &unit::LITERS,
        Measure::Milliliters => &unit::MILLILITERS,
        Measure::Spread => &unit::SPREAD,
        Measure::Resistance => &unit::RESISTANCE,
        Measure::Conductivity => &unit::CONDUCTIVITY,
        Measure::Pressure => &unit::PRESSURE,
        Measure::Minutes => &unit::MINUTES,
        Measure::Hours => &unit::HOURS,
        Measure::Days => &unit::DAYS,
        Measure::YearlyEnergy => &unit::YEARLY_ENERGY,
        Measure::Efficiency => &unit::EFFICIENCY,
        Measure::Number => &unit::NUMBER,
        Measure::Fraction => &unit::FRACTION,
        Measure::Difference => &unit::DIFFERENCE,
        Measure::StillAir => &unit::STILL_AIR,
        Measure::Gain => &unit::GAIN,
    }
}

/// How the price book's quantities are shown: the kind of figure, and the factor to its SI.
fn unit_of(item: &judgment::plan::Item) -> Option<&'static Kind> {
    Some(match item.unit.as_str() {
        "m2" => &unit::AREA,
        "m" => &unit::LENGTH,
        "m3" => &unit::VOLUME,
        "l" => &unit::LITERS,
        _ => return None,
    })
}

/// What one price of an item is for, in a person's units.
pub fn priced_for(show: &Show, item: &judgment::plan::Item) -> String {
    match (unit_of(item), item.unit.as_str()) {
        (Some(kind), _) => kind.unit(show.units).name().to_owned(),
        (None, "kwh_year") => "kWh".into(),
        (None, other) => known_of(other),
    }
}

/// Hundredths in a person's unit of an item from hundredths in SI, and back by the inverse.
pub fn price_factor(show: &Show, item: &judgment::plan::Item) -> f64 {
    unit_of(item).map_or(1.0, |kind| kind.si(1.0, show.units))
}

/// A sum in words: what it comes to once, each year, and what is not priced.
pub fn sum(total: Total, currency: &str) -> String {
    let mut parts = Vec::new();
    if total.cents > 0 || (total.yearly_cents == 0 && total.unpriced == 0) {
        parts.push(money(total.cents, currency));
    }
    if total.yearly_cents > 0 {
        parts.push(say!("{total} a year", total = money(total.yearly_cents, currency)));
    }
    if total.unpriced > 0 {
        parts.push(say!("{total} without a price", total = total.unpriced));
    }
    parts.join(" + ")
}

/// A figure of a sizing in a person's units.
pub fn figure(show: &Show, f: &Found) -> (String, String) {
    (retold(&f.name), kind_of(f.measure).text(f.value, show.units))
}

/// A line of costs in a person’s units.
pub fn cost_row(show: &Show, line: &CostLine, currency: &str) -> CostRow {
    let quantity = match unit_of(line.item) {
        Some(kind) => kind.text(line.quantity, show.units),
        None => {
            let unit = match line.item.unit.as_str() {
                "piece" => "",
                "hour" => " h",
                "day" => say!(" days"),
                "week" => say!(" weeks"),
                "kwh_year" => say!(" kWh a year"),
                other => other,
            };
            format!("{}{unit}", unit::NUMBER.text(line.quantity, show.units))
        }
    };
    let cost = line.cents.map_or_else(|| say!("no price").to_owned(), |c| money(c, currency));
    CostRow {
        name: known(&line.item.name),
        quantity,
        cost: if line.yearly { say!("{cost} a year", cost) } else { cost },
    }
}

/// A line of what it costs.
pub struct CostRow {
    /// Name.
    pub name: &'static str,
    /// How much.
    pub quantity: String,
    /// What it costs.
    pub cost: String,
}
