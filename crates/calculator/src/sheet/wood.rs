//! Wood.

use super::{Field, RH_DOUBT, Sheet, T_DOUBT, defaulted, figure, measured, nothing_to_add, quantity};
use crate::drawing::course;
use hygrothermal::quantity::Measured;
use hygrothermal::wood::MeterReading;
use judgment::limits::WoodState;
use language::{known, say};
use notation::unit::{DAYS, PER_DAY, PERCENT, TEMPERATURE};

pub static EMC: Sheet = Sheet {
    op: "emc",
    title: "Equilibrium moisture of wood",
    group: "Moisture in materials",
    lead: "The moisture content wood settles at in steady air.",
    fields: &[
        measured("t_c", "Air temperature", &TEMPERATURE, 21.0, T_DOUBT),
        measured("rh_pct", "Relative humidity", &PERCENT, 70.0, RH_DOUBT),
    ],
    results: &[figure("emc_pct", "equilibrium moisture content", &PERCENT)],
    formula: &[
        "M = 1800/W · (KH/(1 − KH) + (K₁KH + 2K₁K₂K²H²)/(1 + K₁KH + K₁K₂K²H²))",
        "W, K, K₁, K₂ quadratic in t; H = φ/100",
    ],
    source: "Wood Handbook (USDA FPL-GTR-282), eq. 4-5. What closes in is common practice; what counts as wet is from memory.",
    verdict: |c| {
        let value = MeterReading::Percent(Measured { value: c.got("emc_pct"), err: 0.0 });
        c.limits.fill(known(match c.limits.wood(value) {
            WoodState::Dry => "Below {wood_goal} %: dry enough to close in.",
            WoodState::Damp => "Over {wood_goal} %: do not close it in.",
            WoodState::Wet => "Over {wood_wet} %: wet by most codes; decay becomes possible.",
        }))
    },
    notes: nothing_to_add,
    draw: course::emc,
};

pub static DRYING: Sheet = Sheet {
    op: "drying_fit",
    title: "When it will be dry",
    group: "Moisture in materials",
    lead: "Three or more readings of one spot give the curve, and the curve gives the day.",
    fields: &[
        Field::Pairs {
            key: "readings",
            label: "Day and moisture content, one reading to a line",
            kinds: [&DAYS, &PERCENT],
            example: &[(0.0, 28.4), (1.0, 25.9), (2.0, 24.2), (4.0, 21.0), (7.0, 17.6)],
        },
        quantity("equilibrium_pct", "Dry standard (equilibrium)", &PERCENT, 11.0),
        defaulted("equilibrium_err_pct", "which may be off by", &PERCENT, 1.0),
        quantity("goal_pct", "Goal", &PERCENT, 15.0),
    ],
    results: &[
        figure("day_of_goal", "day it passes the goal", &DAYS),
        figure("day_low", "at the earliest (90 % band)", &DAYS),
        figure("day_high", "at the latest (90 % band)", &DAYS),
        figure("k_per_day", "drying rate k", &PER_DAY),
    ],
    formula: &[
        "MC(t) = MC_e + (MC₀ − MC_e) e^(−kt), MC₀ and k by least squares",
        "band: first order in MC₀ and k, Student’s t for n − 2 readings, and by the doubt of MC_e",
    ],
    source: "Exponential drying; goals by common practice.",
    verdict: |c| match (c.flag("stalled"), c.got_if("day_of_goal")) {
        (Some(true), _) => say!("Stalled: nothing is drying. Find what still feeds it, or change the machines.").into(),
        (_, Some(day)) => say!("It passes the goal on day {day}.", day = DAYS.figure(day, c.units)),
        _ => say!("It never gets there: the goal is not above the dry standard.").into(),
    },
    notes: nothing_to_add,
    draw: course::drying,
};
