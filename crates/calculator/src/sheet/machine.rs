//! Vents, ducts and dehumidifiers.

use super::{Field, RH_DOUBT, Sheet, T_DOUBT, defaulted, figure, measured, nothing_to_add, optional, quantity};
use crate::drawing::{course, duct, vents};
use language::{known_of, say};
use notation::unit::{
    AREA, AREAL_MASS, DAILY, FLOW, FREE_AREA, HEAT, LENGTH, MILLILITERS, MINUTES, NUMBER, PERCENT, RESISTANCE, SHARE,
    TEMPERATURE, THICKNESS,
};

pub static ATTIC: Sheet = Sheet {
    op: "attic_vents",
    title: "Attic vents",
    group: "Vents and machines",
    lead: "Is there enough net free area, and is it split rightly between high and low?",
    fields: &[
        quantity("area_m2", "Attic floor", &AREA, 90.0),
        Field::Choice {
            key: "ratio",
            label: "Rule",
            options: &[("300", "1/300, balanced"), ("150", "1/150")],
            number: true,
        },
        optional("high_m2", "High vents, net free", &FREE_AREA, Some(0.14)),
        optional("low_m2", "Low vents, net free", &FREE_AREA, Some(0.18)),
    ],
    results: &[
        figure("required_m2", "net free area required", &FREE_AREA),
        figure("high_share", "share that is high", &SHARE),
    ],
    formula: &["required = floor/150, or floor/300 with 40 to 50 % high and the rest at the eaves"],
    source: "IRC R806 (from memory). Local code governs; 1/300 also asks for a vapor retarder on the warm side in cold zones.",
    verdict: |c| match c.flag("met") {
        Some(true) => say!("Enough, and rightly split.").into(),
        Some(false) => c
            .list("notes")
            .first()
            .and_then(|n| n.as_str())
            .map_or_else(|| say!("Not enough.").into(), |n| say!("Not met: {n}.", n = known_of(n))),
        None => say!("Give both areas to see whether it is met.").into(),
    },
    notes: nothing_to_add,
    draw: vents::attic,
};

pub static DUCT: Sheet = Sheet {
    op: "exhaust_duct",
    title: "A duct through the cold",
    group: "Vents and machines",
    lead: "How long a bath fan’s duct sweats before its wall is warm, and how much water runs back.",
    fields: &[
        measured("air.t_c", "Air into the duct", &TEMPERATURE, 24.0, T_DOUBT),
        measured("air.rh_pct", "Its humidity", &PERCENT, 70.0, RH_DOUBT),
        measured("around_c", "Air around the duct", &TEMPERATURE, -5.0, T_DOUBT),
        quantity("flow_m3_s", "Airflow", &FLOW, 0.0236),
        quantity("diameter_m", "Inside diameter", &THICKNESS, 0.1),
        quantity("length_m", "Length", &LENGTH, 4.0),
        quantity("r_m2k_w", "Insulation around it", &RESISTANCE, 1.0),
        quantity("wall_kg_m2", "Wall: mass per area (sheet steel 3.9, flexible 0.3)", &AREAL_MASS, 3.9),
        quantity("wall_c_j_kgk", "Wall: specific heat (steel 460, plastic 1000)", &HEAT, 460.0),
        quantity("minutes", "Fan runs", &MINUTES, 15.0),
    ],
    results: &[
        figure("minutes_to_clear", "until the outlet is above the dew point", &MINUTES),
        figure("condensate_ml", "water left in the duct", &MILLILITERS),
        figure("wall_c_end", "outlet wall in the end", &TEMPERATURE),
    ],
    formula: &[
        "t_air(x) = t_a + (t₀ − t_a) e^(−NTU x/L);  wall between film h_i and insulation",
        "h_i by Gnielinski; outer film 10 W/(m²K); wall lumped per slice; vapor settles by the Lewis relation",
    ],
    source: "Gnielinski 1976, Petukhov friction, Lewis relation (from memory).",
    verdict: |c| match c.got_if("minutes_to_clear") {
        Some(m) => say!(
            "It sweats for {time} and leaves {water}.",
            time = MINUTES.text(m, c.units),
            water = MILLILITERS.text(c.got("condensate_ml"), c.units)
        ),
        None => say!(
            "It never clears: {water} are left, and the outlet stays wet.",
            water = MILLILITERS.text(c.got("condensate_ml"), c.units)
        ),
    },
    notes: nothing_to_add,
    draw: duct::along,
};

pub static DEHUMIDIFIER: Sheet = Sheet {
    op: "dehumidifier",
    title: "Dehumidifier at this temperature",
    group: "Vents and machines",
    lead: "A label is made in warm air. What does the unit take out here, and is that enough?",
    fields: &[
        quantity("rated_l_day", "Capacity on the label", &DAILY, 20.0),
        defaulted("rated_t_c", "Rated at", &TEMPERATURE, 18.3),
        defaulted("rated_rh_pct", "and", &PERCENT, 60.0),
        measured("t_c", "Air here", &TEMPERATURE, 14.0, T_DOUBT),
        measured("rh_pct", "Its humidity", &PERCENT, 70.0, RH_DOUBT),
        optional("load_l_day", "Water to take out", &DAILY, Some(9.0)),
    ],
    results: &[
        figure("capacity_l_day", "capacity here", &DAILY),
        figure("runtime_share", "share of the time it runs", &SHARE),
        figure("units_needed", "units needed", &NUMBER),
    ],
    formula: &[
        "relative capacity = −1.1625 + 0.022715 t − 0.00011321 t² + 0.021111 φ − 0.000069303 φ² + 0.00037884 tφ",
        "held at the edges of 10 to 35 °C and 30 to 100 %, divided by its value at the rating",
    ],
    source: "Generic compressor unit, from memory. Standard units frost below about 15 to 18 °C (common practice).",
    verdict: |c| {
        let frost = if c.given("t_c") < 18.0 {
            say!(" Below 18 °C a standard unit’s coil frosts: choose one made for it.")
        } else {
            ""
        };
        match c.got_if("runtime_share") {
            Some(share) if share > 1.0 => {
                say!(
                    "Not enough: {n} units are needed.{frost}",
                    n = NUMBER.figure(c.got("units_needed"), c.units),
                    frost
                )
            }
            Some(share) => say!("It runs {share} of the time.{frost}", share = SHARE.text(share, c.units), frost),
            None => {
                say!("Here it takes out {water}.{frost}", water = DAILY.text(c.got("capacity_l_day"), c.units), frost)
            }
        }
    },
    notes: nothing_to_add,
    draw: course::dehumidifier,
};
