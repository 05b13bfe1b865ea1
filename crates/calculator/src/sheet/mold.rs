//! Mold.

use super::{Field, Sheet, defaulted, figure, nothing_to_add};
use crate::drawing::course;
use language::say;
use notation::unit::{DAYS, FRACTION, NUMBER};

pub static MOLD: Sheet = Sheet {
    op: "mold_index",
    title: "Mold index",
    group: "Moisture in materials",
    lead: "How far growth comes on a surface over weeks of its own temperature and humidity. Below 3 is acceptable.",
    fields: &[
        Field::Spans {
            key: "hours",
            label: "Days, then surface temperature and humidity, one span to a line",
            example: &[(21.0, 18.0, 94.0), (14.0, 12.0, 70.0), (35.0, 16.0, 92.0)],
        },
        Field::Choice {
            key: "class",
            label: "Surface",
            options: &[
                ("very_sensitive", "very sensitive: untreated pine sapwood"),
                ("sensitive", "sensitive: planed wood, paper-faced boards"),
                ("medium", "medium: cement, plastics, wool"),
                ("resistant", "resistant: glass, metal, treated"),
            ],
            number: false,
        },
        defaulted("start", "Index at the start", &NUMBER, 0.0),
        defaulted("decline", "Decline factor (0.1 cautious, 1 pine)", &FRACTION, 0.1),
    ],
    results: &[
        figure("peak", "highest index", &FRACTION),
        figure("end", "index at the end", &FRACTION),
        figure("first_hour_over_1", "first hour over 1", &NUMBER),
        figure("first_hour_over_3", "first hour over 3", &NUMBER),
    ],
    formula: &[
        "ΔM per hour = k₁k₂/(168 exp(−0.68 ln t − 13.9 ln φ + 0.14 W + 66.02)) while t > 0 °C and φ > φ_crit",
        "φ_crit = −0.00267 t³ + 0.160 t² − 3.13 t + 100, not below the class’s minimum",
        "k₂ = 1 − exp(2.3 (M − M_max));  otherwise M declines",
    ],
    source: "Hukka and Viitanen 1999; Ojanen et al. 2010; ASHRAE 160-2016 (from memory).",
    verdict: |c| match (c.got("peak"), c.got_if("first_hour_over_3"), c.got_if("first_hour_over_1")) {
        (_, Some(h), _) => say!("Unacceptable: passes 3 after {time}.", time = DAYS.text(h / 24.0, c.units)),
        (_, None, Some(h)) => {
            say!("Growth begins after {time} but stays below 3.", time = DAYS.text(h / 24.0, c.units))
        }
        (peak, ..) => say!("No growth that shows: the index reaches {index}.", index = FRACTION.figure(peak, c.units)),
    },
    notes: nothing_to_add,
    draw: course::mold,
};
