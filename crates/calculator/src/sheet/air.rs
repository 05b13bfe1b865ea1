//! Moist air.

use super::{Field, Need, RH_DOUBT, RH_OVER, Sheet, T_DOUBT, defaulted, figure, measured, nothing_to_add, optional};
use crate::case::Case;
use crate::drawing;
use language::say;
use notation::unit::{ABSOLUTE, DENSITY, ENTHALPY, LENGTH, PERCENT, PRESSURE, RATIO, TEMPERATURE};

pub static AIR: Sheet = Sheet {
    op: "air",
    title: "Moist air",
    group: "Air and surfaces",
    lead: "Everything about air from its temperature and relative humidity: its dew point above all.",
    fields: &[
        measured("t_c", "Air temperature", &TEMPERATURE, 21.0, T_DOUBT),
        Field::Quantity {
            key: "rh_pct",
            label: "Relative humidity",
            kind: &PERCENT,
            example: Some(55.0),
            doubt: RH_DOUBT,
            need: Need::Optional,
        },
        optional("dew_c", "or dew point", &TEMPERATURE, None),
        optional("wet_c", "or wet bulb", &TEMPERATURE, None),
        defaulted("altitude_m", "Height above sea level", &LENGTH, 0.0),
        Field::Choice { key: "rh_over", label: "Below freezing, RH is", options: RH_OVER, number: false },
    ],
    results: &[
        figure("dew_c", "dew point", &TEMPERATURE),
        figure("wet_c", "wet bulb", &TEMPERATURE),
        figure("rh_pct", "relative humidity", &PERCENT),
        figure("ratio_g_kg", "humidity ratio", &RATIO),
        figure("abs_g_m3", "absolute humidity", &ABSOLUTE),
        figure("vapor_pa", "vapor pressure", &PRESSURE),
        figure("sat_pa", "saturation pressure", &PRESSURE),
        figure("vpd_pa", "vapor pressure deficit", &PRESSURE),
        figure("enthalpy_kj_kg", "enthalpy", &ENTHALPY),
        figure("density_kg_m3", "density", &DENSITY),
    ],
    formula: &[
        "p_v = φ · p_sat(t), with ln p_sat = a/T + Σ bᵢTⁱ + c ln T over ice below 0 °C and over water above",
        "dew point: p_sat(t_dew) = p_v;  W = 0.621945 p_v/(p − p_v)",
        "wet bulb t*: W = ((2501 − 2.326 t*) W_s − 1.006 (t − t*))/(2501 + 1.86 t − 4.186 t*)",
    ],
    source: "ASHRAE Handbook—Fundamentals 2017, ch. 1 eq. 3, 5, 6, 20, 26, 30, 33, 35; checked against PsychroLib and CoolProp.",
    verdict: |c| match c.got_if("dew_c") {
        Some(dew) => say!("Anything colder than {dew} gets wet in this air.", dew = TEMPERATURE.text(dew, c.units)),
        None => say!("This air is too dry to have a dew point above −100 °C.").into(),
    },
    notes: nothing_to_add,
    draw: |c: &Case| {
        drawing::chart::moist_air(c.units, &[drawing::chart::state(c)], c.given_if("altitude_m").unwrap_or(0.0))
    },
};
