//! Build-ups.

use super::{Field, RH_DOUBT, Sheet, T_DOUBT, defaulted, figure, measured, nothing_to_add};
use crate::drawing::profile;
use language::say;
use notation::unit::{GAIN, GAIN_RATE, PERCENT, RESISTANCE, TEMPERATURE, TRANSMITTANCE};

const WALL: Field = Field::Layers {
    example: &[("gypsum_board", 0.0125), ("glass_wool", 0.14), ("osb", 0.012), ("brick_fired", 0.115)],
};
const R_SI: Field = defaulted("r_si", "Inside film (0.13 wall, 0.10 up, 0.17 down)", &RESISTANCE, 0.13);
const R_SE: Field = defaulted("r_se", "Outside film", &RESISTANCE, 0.04);
const FORMULA: &str =
    "t falls by R, p_v by s_d = μ·d; where p_v would pass p_sat the line is pulled taut against saturation";

pub static ASSEMBLY: Sheet = Sheet {
    op: "assembly",
    title: "A build-up in steady state",
    group: "Build-ups",
    lead: "Temperature and vapor pressure through a wall, roof or floor, and the planes where water collects.",
    fields: &[
        WALL,
        measured("inside.t_c", "Inside temperature", &TEMPERATURE, 20.0, T_DOUBT),
        measured("inside.rh_pct", "Inside humidity", &PERCENT, 50.0, RH_DOUBT),
        measured("outside.t_c", "Outside temperature", &TEMPERATURE, -5.0, T_DOUBT),
        measured("outside.rh_pct", "Outside humidity", &PERCENT, 80.0, RH_DOUBT),
        R_SI,
        R_SE,
    ],
    results: &[figure("u_w_m2k", "thermal transmittance U", &TRANSMITTANCE)],
    formula: &[FORMULA, "rate = δ₀ (Δp/s_d before − Δp/s_d after), δ₀ = 2·10⁻¹⁰ kg/(m·s·Pa)"],
    source: "ISO 6946 (heat), ISO 13788:2012 with tangent construction (vapor). Air leaking through carries far more than diffusion.",
    verdict: |c| {
        let planes = c.list("condensation");
        let rate: f64 = planes.iter().filter_map(|p| p.get("rate_g_m2_day")?.as_f64()).sum();
        match planes.len() {
            0 => say!("No condensation by diffusion in this climate.").into(),
            _ if planes.iter().any(|p| p.get("rate_g_m2_day").is_some_and(serde_json::Value::is_null)) => {
                say!("A surface itself condenses: warm it or dry the air.").into()
            }
            1 => say!("Water collects at one plane: {rate}.", rate = GAIN_RATE.text(rate, c.units)),
            n => say!("Water collects at {n} planes: {rate} in all.", n, rate = GAIN_RATE.text(rate, c.units)),
        }
    },
    notes: profile::leak_and_frost,
    draw: profile::steady,
};

/// A made-up cool, damp climate; a lived-in house.
const CLIMATE: [[f64; 4]; 12] = [
    [20.0, 42.0, -2.0, 86.0],
    [20.0, 41.0, -1.0, 84.0],
    [20.0, 42.0, 3.0, 79.0],
    [20.0, 45.0, 8.0, 74.0],
    [20.0, 52.0, 13.0, 72.0],
    [21.0, 56.0, 16.0, 72.0],
    [22.0, 58.0, 18.0, 73.0],
    [22.0, 58.0, 17.0, 75.0],
    [20.0, 58.0, 13.0, 79.0],
    [20.0, 56.0, 8.0, 83.0],
    [20.0, 47.0, 3.0, 86.0],
    [20.0, 43.0, -1.0, 88.0],
];

pub static YEAR: Sheet = Sheet {
    op: "assembly_year",
    title: "A build-up through the year",
    group: "Build-ups",
    lead: "What collects in winter, what dries in summer, and whether anything is carried over.",
    fields: &[WALL, Field::Months { example: &CLIMATE }, R_SI, R_SE],
    results: &[figure("peak_g_m2", "most water held", &GAIN)],
    formula: &[FORMULA, "wet planes stand at saturation all month; drying is limited to what is held"],
    source: "ISO 13788:2012, month by month. Months are means: a cold spell within one may still wet a plane.",
    verdict: |c| {
        let peak = GAIN.text(c.got("peak_g_m2"), c.units);
        match c.flag("dries_out") {
            _ if c.got("peak_g_m2") <= 0.0 => say!("It stays dry all year.").into(),
            Some(true) => say!("It holds up to {peak} and dries out again.", peak),
            _ => say!("It holds up to {peak} and carries some over: it gets wetter every year.", peak),
        }
    },
    notes: nothing_to_add,
    draw: profile::year,
};
