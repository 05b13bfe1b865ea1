//! Spaces.

use super::{RH_DOUBT, Sheet, T_DOUBT, figure, measured, nothing_to_add, optional, quantity};
use crate::drawing::{chart, course};
use language::say;
use notation::unit::{DAILY, FLOW, HOURS, PERCENT, SOURCE, TEMPERATURE, VOLUME};

pub static COMPARE: Sheet = Sheet {
    op: "compare_air",
    title: "Ventilate or keep closed",
    group: "Spaces",
    lead: "Would outdoor air dry this space now, or wet it? Compared in absolute terms, never by relative humidity.",
    fields: &[
        measured("inside.t_c", "Inside temperature", &TEMPERATURE, 19.0, T_DOUBT),
        measured("inside.rh_pct", "Inside humidity", &PERCENT, 80.0, RH_DOUBT),
        measured("outside.t_c", "Outside temperature", &TEMPERATURE, 24.0, T_DOUBT),
        measured("outside.rh_pct", "Outside humidity", &PERCENT, 40.0, RH_DOUBT),
        quantity("flow_m3_s", "Airflow", &FLOW, 0.02),
        optional("coldest_surface_c", "Coldest surface inside", &TEMPERATURE, Some(8.0)),
    ],
    results: &[
        figure("removal_l_day", "water carried out", &DAILY),
        figure("outside_dew_c", "dew point outdoors", &TEMPERATURE),
    ],
    formula: &[
        "removal = Q/v_out · (W_in − W_out); negative wets",
        "condenses when the outdoor dew point is above the coldest surface",
    ],
    source: "Mass balance, ASHRAE 2017 ch. 1 for W and v; 1 kg of water is 1 L.",
    verdict: |c| {
        let (removal, err) = (c.got("removal_l_day"), c.err("removal_l_day"));
        let water = DAILY.text(removal.abs(), c.units);
        let mut text = match c.word("advice") {
            "no_difference" => say!("No difference: the dew points lie within half a degree.").to_owned(),
            _ if removal.abs() <= err => say!(
                "Can’t tell: {band} spans nothing at all. Read both airs more exactly.",
                band = DAILY.band(removal, err, c.units)
            ),
            "ventilate" => say!("Ventilate: it carries out {water}.", water),
            _ => say!("Keep it closed: outdoor air would bring in {water}.", water),
        };
        if c.flag("condenses") == Some(true) {
            text.push_str(say!(" It would condense on the coldest surface: ventilating alone leaves that wet."));
        }
        text
    },
    notes: nothing_to_add,
    draw: chart::two_airs,
};

pub static BUDGET: Sheet = Sheet {
    op: "budget",
    title: "Moisture budget",
    group: "Spaces",
    lead: "People, ground and things give off water, outdoor air takes it away: where does the humidity go, and when is the coldest surface wet?",
    fields: &[
        quantity("volume_m3", "Volume of air", &VOLUME, 30.0),
        measured("t_c", "Inside temperature", &TEMPERATURE, 18.0, T_DOUBT),
        measured("start_rh_pct", "Humidity at the start", &PERCENT, 45.0, RH_DOUBT),
        measured("outdoor.t_c", "Outside temperature", &TEMPERATURE, 2.0, T_DOUBT),
        measured("outdoor.rh_pct", "Outside humidity", &PERCENT, 85.0, RH_DOUBT),
        quantity("flow_m3_s", "Outdoor air", &FLOW, 0.008),
        quantity("source_kg_s", "Water given off", &SOURCE, 4e-5),
        quantity("hours", "Look ahead", &HOURS, 12.0),
        measured("surface_c", "Coldest surface", &TEMPERATURE, 8.0, 1.0),
    ],
    results: &[
        figure("end_rh_pct", "humidity at the end", &PERCENT),
        figure("steady_rh_pct", "humidity in the long run", &PERCENT),
        figure("hours_to_dew", "until the coldest surface is wet", &HOURS),
    ],
    formula: &["W(t) = W_ss + (W₀ − W_ss) e^(−t/τ)", "W_ss = W_out + S/ṁ,  τ = M/ṁ,  ṁ = Q/v_out,  M = V/v"],
    source: "Mass balance of a well-mixed zone, constant temperature, no buffering by materials.",
    verdict: |c| match c.got_if("hours_to_dew") {
        Some(0.0) => say!("The coldest surface is wet already.").into(),
        Some(h) => say!("The coldest surface is wet after {time}.", time = HOURS.text(h, c.units)),
        None if c.flag("saturates") == Some(true) => say!("The air itself would saturate in the end.").into(),
        None => say!("It never reaches the dew point of the coldest surface.").into(),
    },
    notes: nothing_to_add,
    draw: course::budget,
};
