//! Surfaces.

use super::{
    Field, Need, RH_DOUBT, RH_OVER, Sheet, T_DOUBT, defaulted, figure, measured, nothing_to_add, optional, quantity,
};
use crate::drawing::strip;
use language::say;
use notation::unit::{DIFFERENCE, FRACTION, PERCENT, RESISTANCE, TEMPERATURE};

pub static SURFACE: Sheet = Sheet {
    op: "surface",
    title: "A surface beside air",
    group: "Air and surfaces",
    lead: "Does this surface get wet, how sure is that, and what will it do on the coldest night?",
    fields: &[
        measured("t_c", "Air temperature", &TEMPERATURE, 21.5, T_DOUBT),
        measured("rh_pct", "Relative humidity", &PERCENT, 78.0, RH_DOUBT),
        measured("surface_c", "Surface temperature", &TEMPERATURE, 15.4, 1.0),
        optional("outdoor_c", "Outdoor temperature now", &TEMPERATURE, Some(2.0)),
        optional("design_outdoor_c", "Coldest night to plan for", &TEMPERATURE, Some(-12.0)),
        defaulted("t_err_c", "Thermometer, ±", &DIFFERENCE, T_DOUBT),
        defaulted("rh_err_pct", "Hygrometer, ±", &PERCENT, RH_DOUBT),
        defaulted("surface_err_c", "Surface reading, ±", &DIFFERENCE, 1.0),
        Field::Choice { key: "rh_over", label: "Below freezing, RH is", options: RH_OVER, number: false },
    ],
    results: &[
        figure("margin_c", "margin above the dew point", &DIFFERENCE),
        figure("dew_c", "dew point of the air", &TEMPERATURE),
        figure("surface_rh_pct", "humidity at the surface", &PERCENT),
        figure("condensing_rh_pct", "air RH that wets it", &PERCENT),
        figure("mold_rh_pct", "air RH that brings it to 80 %", &PERCENT),
        figure("f_rsi", "temperature factor f_Rsi", &FRACTION),
        figure("design_surface_c", "surface on the design night", &TEMPERATURE),
    ],
    formula: &[
        "margin = t_surface − t_dew ± √(Σ(∂margin/∂xᵢ · eᵢ)²)",
        "surface RH = p_v / p_sat(t_surface);  wet at 100 %, mold risk from a lasting 80 %",
        "f_Rsi = (t_si − t_e)/(t_i − t_e);  t_si,design = t_e + f_Rsi (t_i − t_e)",
    ],
    source: "ISO 13788:2012 (temperature factor, 80 %); saturation by ASHRAE 2017 ch. 1; instrument bands by common practice.",
    verdict: |c| {
        let margin = DIFFERENCE.band(c.got("margin_c").abs(), c.got("margin_err_c"), c.units);
        match c.word("verdict") {
            "condensing" => say!("Condensing: {margin} below the dew point.", margin),
            "uncertain" => say!(
                "Can’t tell: the dew point lies within the band of {band}.",
                band = DIFFERENCE.text(c.got("margin_err_c"), c.units)
            ),
            "mold_risk" => say!(
                "Mold risk: not wet, but the surface stands at {rh}.",
                rh = PERCENT.text(c.got("surface_rh_pct"), c.units)
            ),
            _ if c.got_if("margin_c").is_none() => say!("Dry: this air has no dew point above −100 °C.").into(),
            _ => say!("Dry: {margin} above the dew point.", margin),
        }
    },
    notes: nothing_to_add,
    draw: strip::surface,
};

pub static INFRARED: Sheet = Sheet {
    op: "infrared",
    title: "What the infrared reading means",
    group: "Air and surfaces",
    lead: "A camera sees the surface and the room mirrored in it. This takes the mirror image away.",
    fields: &[
        measured("apparent_c", "Temperature shown", &TEMPERATURE, 12.0, 2.0),
        Field::Quantity {
            key: "emissivity",
            label: "Emissivity of the surface",
            kind: &FRACTION,
            example: Some(0.9),
            doubt: 0.03,
            need: Need::Required,
        },
        measured("reflected_c", "Reflected temperature", &TEMPERATURE, 22.0, 2.0),
        defaulted("set_emissivity", "Emissivity set on the instrument", &FRACTION, 0.95),
        optional("set_reflected_c", "Reflected temperature set on it", &TEMPERATURE, None),
    ],
    results: &[figure("object_c", "surface temperature", &TEMPERATURE)],
    formula: &[
        "W = ε₀ T_app⁴ + (1 − ε₀) T_refl,₀⁴  (kelvin: what reached the instrument)",
        "T⁴ = (W − (1 − ε) T_refl⁴)/ε;  under ε = 0.6 no judgment: put matte tape on it",
    ],
    source: "Gray-body radiation balance (Stefan–Boltzmann). ±2 K or 2 % of the instrument, surroundings ±2 K, ε ±0.03 (common practice).",
    verdict: |c| {
        let off = c.got("object_c") - c.given("apparent_c");
        let by = DIFFERENCE.text(off.abs(), c.units);
        if off < 0.0 {
            say!("The surface is {by} colder than shown.", by)
        } else {
            say!("The surface is {by} warmer than shown.", by)
        }
    },
    notes: nothing_to_add,
    draw: strip::infrared,
};

pub static INSULATION: Sheet = Sheet {
    op: "insulation_for",
    title: "Insulation a surface needs",
    group: "Build-ups",
    lead: "How much insulation outside of a surface keeps it dry, or free of mold?",
    fields: &[
        measured("inside.t_c", "Inside temperature", &TEMPERATURE, 20.0, T_DOUBT),
        measured("inside.rh_pct", "Inside humidity", &PERCENT, 55.0, RH_DOUBT),
        quantity("outside_c", "Outside temperature", &TEMPERATURE, -12.0),
        quantity("r_existing_m2k_w", "Whole construction now, films included", &RESISTANCE, 0.6),
        defaulted("r_si", "Inside film (0.13 wall, 0.25 for mold checks)", &RESISTANCE, 0.25),
        Field::Choice {
            key: "target",
            label: "Keep the surface",
            options: &[("no_mold", "below 80 % (no mold)"), ("no_condensation", "above the dew point")],
            number: false,
        },
    ],
    results: &[
        figure("r_added_m2k_w", "insulation to add", &RESISTANCE),
        figure("surface_c_before", "surface temperature now", &TEMPERATURE),
    ],
    formula: &["t_si = t_i − (t_i − t_e) R_si/R", "solved for R where p_v = p_sat(t_si), or 0.8 p_sat(t_si) for mold"],
    source: "ISO 6946 surface temperature, ISO 13788:2012 criterion.",
    verdict: |c| match c.got_if("r_added_m2k_w") {
        Some(0.0) => say!("Nothing to add: the surface meets it already.").into(),
        Some(r) => say!("Add {r} outside of the surface.", r = RESISTANCE.text(r, c.units)),
        None => say!("No insulation can do it: dry the air first.").into(),
    },
    notes: nothing_to_add,
    draw: strip::insulation,
};
