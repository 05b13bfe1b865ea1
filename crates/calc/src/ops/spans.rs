//! Spans of days and hours: whether a fix worked, and when the weather allows outside work.

use super::Answer;
use super::hours::{air, alike};
use crate::input::{Fault, Input};
use hygrothermal::air::Over;
use hygrothermal::proof::{self, ProofDay, Reason, Verdict};
use hygrothermal::quantity::Temperature;
use hygrothermal::takeoff::{CoatingHour, CoatingLimits, WhyNot, coating_window as window};
use serde_json::{Map, Value};

/// Longest span of a coating's own hours.
const LONGEST: u32 = 2000;
/// Most rain of an hour, mm.
const WETTEST: f64 = 1000.0;

/// Numbers of an entry of a list, exactly so many.
fn entry<const N: usize>(input: &Input, key: &str, i: usize, value: &Value) -> Result<[f64; N], Fault> {
    let read =
        value.as_array().filter(|a| a.len() == N).and_then(|a| a.iter().map(Value::as_f64).collect::<Option<Vec<_>>>());
    let read = read.and_then(|all| <[f64; N]>::try_from(all).ok());
    read.ok_or_else(|| input.fault(&format!("{key}[{i}]"), format!("must be {N} numbers, got {value}")))
}

fn days(input: &Input, key: &str, over: Over) -> Result<Vec<ProofDay>, Fault> {
    let one = |(i, value): (usize, &Value)| {
        let [t_i, rh_i, t_e, rh_e] = entry(input, key, i, value)?;
        let (inside, outside) = (air(input, key, i, t_i, rh_i, over)?, air(input, key, i, t_e, rh_e, over)?);
        Ok(ProofDay {
            at: i as i64,
            excess: inside.vapor_pressure() - outside.vapor_pressure(),
            outdoor_t: t_e,
            outdoor_p: outside.vapor_pressure(),
        })
    };
    let list = input.list(key)?;
    if list.is_empty() {
        return Err(input.fault(key, format!("{key} is empty")));
    }
    list.iter().enumerate().map(one).collect()
}

/// Moisture excess before and after, at like weather.
pub fn proof(input: &Input) -> Answer {
    input.only(&["before", "after", "min_effect_pa", "rh_over"])?;
    let over = input.over()?;
    let (before, after) = (days(input, "before", over)?, days(input, "after", over)?);
    let least = input.number_in("min_effect_pa", 0.0..=10_000.0)?.unwrap_or(50.0);
    let said = proof::proof(&before, &after, least);
    let reason = |r: &Reason| match r {
        Reason::TooFewDays => "too_few_days",
        Reason::SeasonsDoNotOverlap => "seasons_do_not_overlap",
        Reason::BandTooWide => "band_too_wide",
    };
    let change = said.change;
    Ok(fields!({
        "change_pa": change.map(|c| c.value),
        "low_pa": change.map(|c| c.low),
        "high_pa": change.map(|c| c.high),
        "verdict": match said.verdict {
            Verdict::Improved => "improved",
            Verdict::Worse => "worse",
            Verdict::NoChange => "no_change",
            Verdict::CantTell => "cant_tell",
        },
        "overlap_share": said.overlap,
        "effective_days": change.map(|c| serde_json::json!({"before": c.effective_days[0], "after": c.effective_days[1]})),
        "detectable_pa": change.map(|c| c.detectable),
        "reasons": said.reasons.iter().map(reason).collect::<Vec<_>>(),
    }))
}

/// What a product asks for; common practice where nothing is said.
fn limits(input: &Input) -> Result<CoatingLimits, Fault> {
    let usual = CoatingLimits::default();
    let number = |key, range, usual| Ok::<_, Fault>(input.number_in(key, range)?.unwrap_or(usual));
    let span = |key, least, usual: usize| {
        if input.has(key) { input.whole(key, least, LONGEST).map(|n| n as usize) } else { Ok(usual) }
    };
    let limits = CoatingLimits {
        surface: [
            number("min_c", -100.0..=200.0, usual.surface[0])?,
            number("max_c", -100.0..=200.0, usual.surface[1])?,
        ],
        rh: number("max_rh_pct", 0.0..=100.0, usual.rh)?,
        above_dew: number("dew_margin_k", 0.0..=50.0, usual.above_dew)?,
        hours: [
            span("dry_before_h", 0, usual.hours[0])?,
            span("work_h", 1, usual.hours[1])?,
            span("dry_after_h", 0, usual.hours[2])?,
        ],
    };
    if limits.surface[0] > limits.surface[1] {
        return Err(input.fault("max_c", "max_c lies under min_c"));
    }
    Ok(limits)
}

/// When one could begin coating or sealing outdoors.
pub fn coating_window(input: &Input) -> Answer {
    let spans = ["dry_before_h", "work_h", "dry_after_h"];
    input.only(
        &[["hours", "surface_c", "min_c", "max_c", "max_rh_pct", "dew_margin_k", "rh_over"].as_slice(), &spans]
            .concat(),
    )?;
    let over = input.over()?;
    let limits = limits(input)?;
    let list = input.list("hours")?;
    if list.is_empty() {
        return Err(input.fault("hours", "hours is empty"));
    }
    let surfaces = if input.has("surface_c") { Some(input.list("surface_c")?) } else { None };
    if let Some(surfaces) = surfaces {
        alike(input, "surface_c", list.len(), surfaces.len())?;
    }
    let one = |(i, value): (usize, &Value)| {
        let [t, rh, rain] = entry(input, "hours", i, value)?;
        let air = air(input, "hours", i, t, rh, over)?;
        if !(0.0..=WETTEST).contains(&rain) {
            return Err(
                input.fault(&format!("hours[{i}]"), format!("rain must be between 0 and {WETTEST} mm, got {rain}"))
            );
        }
        let surface = match surfaces.map(|s| &s[i]) {
            None => t,
            Some(value) => {
                let fault = |why: String| input.fault(&format!("surface_c[{i}]"), why);
                let c = value.as_f64().ok_or_else(|| fault(format!("must be a number, got {value}")))?;
                Temperature::new(c).map_err(|e| fault(e.to_string()))?.get()
            }
        };
        Ok(CoatingHour { rh, dew: air.dew_point(), rain, surface })
    };
    let hours: Vec<CoatingHour> = list.iter().enumerate().map(one).collect::<Result<_, Fault>>()?;
    let said = window(&hours, &limits);
    let id = |why: WhyNot| match why {
        WhyNot::Rain => "rain",
        WhyNot::Cold => "cold",
        WhyNot::Hot => "hot",
        WhyNot::Humid => "humid",
        WhyNot::NearDew => "near_dew",
        WhyNot::ColdAfter => "cold_after",
    };
    let why_not: Map<String, Value> =
        WhyNot::ALL.into_iter().zip(said.why_not).map(|(why, n)| (id(why).to_owned(), n.into())).collect();
    Ok(fields!({
        "starts": said.starts,
        "longest_run": said.longest.map(|[first, count]| serde_json::json!({"first": first, "count": count})),
        "why_not": why_not,
    }))
}
