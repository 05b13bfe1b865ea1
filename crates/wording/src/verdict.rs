//! A surface's verdict in sentences, with its working.

use crate::Working;
use building::Surface;
use building::reading::AirState;
use calculator::address;
use drawing::DropMark;
use hygrothermal::air::Over;
use hygrothermal::surface::{Accuracy, Instrument, Judged, MOLD_RH, Verdict};
use judgment::picture::SurfaceRead;
use language::{known, say};
use notation::Show;

/// Headline and sentence of a verdict.
pub struct Told {
    /// Drop mark.
    pub mark: DropMark,
    /// In a few words.
    pub head: &'static str,
    /// In a sentence or two.
    pub text: String,
}

/// What a judged surface means, in words.
pub fn tell(show: &Show, surface: &Surface, read: &SurfaceRead, judged: &Judged) -> Told {
    let mark = DropMark::from(judged.verdict);
    let t = show.temperature(read.t.get());
    let material = known(known(surface.material.words()));
    let limit = show.percent(judged.condensing_rh);
    let (head, text) = match judged.verdict {
        Verdict::Condensing => (
            say!("Water is forming here."),
            say!(
                "The {material}, at {t}, is colder than the dew point of the air beside it, and the band leaves no doubt. It can dry once the air’s humidity stays below {limit}.",
                material,
                t,
                limit
            ),
        ),
        Verdict::Uncertain => (
            say!("Can’t tell."),
            say!(
                "The {material}, at {t}, stands so near the dew point that the band spans it. {improve}",
                material,
                t,
                improve = improve(show, judged, &read.accuracy)
            ),
        ),
        Verdict::MoldRisk => (
            say!("No water yet, but damp enough for growth."),
            say!(
                "Air at the {material} stands at {judged}; mold is a risk where {a} lasts. It would be wet at {limit} in the air.",
                material,
                judged = show.percent(judged.surface_rh),
                a = show.percent(MOLD_RH),
                limit
            ),
        ),
        Verdict::Dry => (
            "Dry.",
            say!(
                "Air at the {material} stands at {judged}. It would get wet at {limit} in the air.",
                material,
                judged = show.percent(judged.surface_rh),
                limit
            ),
        ),
    };
    Told { mark, head, text }
}

/// Which instrument would narrow the band most.
fn improve(show: &Show, judged: &Judged, accuracy: &Accuracy) -> String {
    let of_dew = show.spread(judged.dew.map_or(0.0, |d| d.err));
    match judged.weakest {
        Some(Instrument::SurfaceThermometer) => say!(
            "Most of it ({spread}) comes from the surface thermometer: read again by contact.",
            spread = show.spread(accuracy.surface.get())
        ),
        Some(Instrument::Thermometer) => say!(
            "Most of it comes from the air thermometer (dew point {of_dew}): let it settle, or read with a better one.",
            of_dew
        ),
        Some(Instrument::Hygrometer) | None => say!(
            "Most of it comes from the hygrometer (dew point {of_dew}): salt-check it, or read with a better one.",
            of_dew
        ),
    }
}

/// Label and value of a judged surface.
pub fn figures(show: &Show, read: &SurfaceRead, judged: &Judged) -> Vec<(&'static str, String)> {
    let surface = hygrothermal::quantity::Measured { value: read.t.get(), err: read.accuracy.surface.get() };
    let mut out = vec![(say!("Surface"), show.temperature_band(surface))];
    if let Some(dew) = judged.dew {
        out.push((say!("Dew point of the air"), show.temperature_band(dew)));
    }
    out.push((say!("Humidity at the surface"), show.percent(judged.surface_rh)));
    out.push((say!("Condenses above RH"), show.percent(judged.condensing_rh)));
    out.push((say!("Mold risk above"), show.percent(judged.mold_rh)));
    // Outside 0 to 1 the surface follows something other than the two airs, and the factor says nothing.
    if let Some(f) = read.factor.filter(|f| (0.0..=1.0).contains(&f.0.value)) {
        out.push((say!("Temperature factor f_Rsi"), format!("{:.2} ± {:.2}", f.0.value, f.0.err)));
    }
    out
}

/// The margin's working.
pub fn margin_working(show: &Show, read: &SurfaceRead, judged: &Judged, air_line: &str) -> Working {
    let formula = match (judged.margin, judged.dew) {
        (Some(margin), Some(dew)) => say!(
            "margin = T_surface − T_dew = {degrees} − {degrees2} = {difference_band}",
            degrees = show.degrees(read.t.get()),
            degrees2 = show.degrees(dew.value),
            difference_band = show.difference_band(margin)
        ),
        _ => say!("the air is too dry to have a dew point").to_owned(),
    };
    let a = &read.accuracy;
    Working {
        title: say!("margin above the dew point").into(),
        formula,
        inputs: vec![
            air_line.to_owned(),
            say!(
                "Band: root-sum-square of {spread} air, ± {rh} % RH, {spread2} surface, to first order.",
                spread = show.spread(a.air.get()),
                rh = a.rh.get(),
                spread2 = show.spread(a.surface.get())
            ),
            say!(
                "Humidity at the surface = p_v / p_sat(T_surface) = {judged}.",
                judged = show.percent(judged.surface_rh)
            ),
        ],
        source: say!("ASHRAE Handbook—Fundamentals 2017, ch. 1 eq. 5, 6; ISO 13788:2012 (80 % at the surface).").into(),
        link: read.beside.as_ref().and_then(|air| {
            let figures = [
                ("t_c", air.value.t.get()),
                ("rh_pct", air.air.rh(air.value.over)),
                ("surface_c", read.t.get()),
                ("t_err_c", a.air.get()),
                ("rh_err_pct", a.rh.get()),
                ("surface_err_c", a.surface.get()),
            ];
            address("surface", &figures, &[rh_over(air)], show.units)
        }),
    }
}

/// How a dew point came about.
pub fn dew_working(show: &Show, air: &AirState, air_line: &str) -> Option<Working> {
    let dew = air.dew?;
    Some(Working {
        title: say!("dew point").into(),
        formula: say!(
            "p_v = φ · p_sat(T) = {pressure};  p_sat(T_dew) = p_v at {temperature_band}",
            pressure = show.pressure(air.air.vapor_pressure()),
            temperature_band = show.temperature_band(dew)
        ),
        inputs: vec![
            air_line.to_owned(),
            say!(
                "Band: {spread} air and ± {air} % RH, to first order, root-sum-square.",
                spread = show.spread(air.accuracy.air.get()),
                air = air.accuracy.rh.get()
            ),
        ],
        source: say!("ASHRAE Handbook—Fundamentals 2017, ch. 1 eq. 5, 6 and their inverse.").into(),
        link: address(
            "air",
            &[("t_c", air.value.t.get()), ("rh_pct", air.air.rh(air.value.over))],
            &[rh_over(air)],
            show.units,
        ),
    })
}

/// What the reading's humidity refers to below freezing, as the calculator asks it.
fn rh_over(air: &AirState) -> (&'static str, &'static str) {
    ("rh_over", if air.value.over == Over::Water { "water" } else { "ice" })
}
