//! Instruments and quantities to buy.

use super::{Field, Sheet, figure, nothing_to_add, optional, quantity};
use crate::drawing::{course, vents};
use language::say;
use notation::unit::{AREA, LITERS, NUMBER, PERCENT, SPREAD};

pub static CALIBRATE: Sheet = Sheet {
    op: "calibrate",
    title: "Salt check of a hygrometer",
    group: "Bench and materials",
    lead: "The correction through one or more known humidities.",
    fields: &[Field::Pairs {
        key: "points",
        label: "Reference and reading, one check to a line",
        kinds: [&PERCENT, &PERCENT],
        example: &[(33.1, 34.6), (75.5, 73.9)],
    }],
    results: &[
        figure("slope", "slope", &NUMBER),
        figure("offset", "offset", &PERCENT),
        figure("max_residual_pct", "farthest from a point after correction", &PERCENT),
    ],
    formula: &["corrected = slope × read + offset; one point: slope 1; more: least squares"],
    source: "Saturated salts at 20 °C: LiCl 11.3, MgCl₂ 33.1, NaCl 75.5, K₂SO₄ 97.6 % (Greenspan 1977).",
    verdict: |c| {
        let at = |read: f64| PERCENT.text(c.got("slope") * read + c.got("offset"), c.units);
        say!("Where it shows 60 % the air is at {low}, where it shows 80 % at {high}.", low = at(60.0), high = at(80.0))
    },
    notes: nothing_to_add,
    draw: course::calibration,
};

pub static COVERAGE: Sheet = Sheet {
    op: "coverage",
    title: "How much coating",
    group: "Bench and materials",
    lead: "Liters to buy and mix for a wall.",
    fields: &[
        quantity("area_m2", "Area", &AREA, 37.0),
        quantity("coats", "Coats", &NUMBER, 2.0),
        quantity("spread_m2_l", "One liter covers, per coat", &SPREAD, 7.9),
        optional("concentrate_parts", "Parts of concentrate", &NUMBER, Some(1.0)),
        optional("water_parts", "Parts of water", &NUMBER, Some(4.0)),
    ],
    results: &[
        figure("litres", "ready to use", &LITERS),
        figure("concentrate_l", "concentrate in it", &LITERS),
        figure("water_l", "water in it", &LITERS),
    ],
    formula: &["liters = area × coats / spread rate, split by parts"],
    source: "Common practice: block takes about 7.9 m²/L a coat. Most masonry coatings want a surface of 10 °C or more, clean and dry.",
    verdict: |c| say!("Mix {water}.", water = LITERS.text(c.got("litres"), c.units)),
    notes: nothing_to_add,
    draw: vents::bucket,
};
