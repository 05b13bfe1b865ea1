//! Advice in sentences, each with its working.

use crate::Working;
use building::{Building, Space};
use calculator::address;
use hygrothermal::air::Over;
use judgment::advice::{
    AirAdvice, AirCall, AirComparison, DesignNight, Drying, DryingCall, DryingLoad, FromBelow, InsulationCall,
    RH_CEILING, Remedy, SpaceAdvice, WhyNot,
};
use judgment::cautions::{self, Caution};
use notation::Show;
use uuid::Uuid;

/// One piece of advice.
#[derive(Clone, Debug)]
pub struct Line {
    /// In a few words.
    pub head: String,
    /// In a sentence or two.
    pub text: String,
    /// Whether it asks for nothing or cannot be told: shown quieter.
    pub quiet: bool,
    /// How it came about.
    pub working: Option<Working>,
    /// The surface it is about, where it is about one.
    pub about: Option<Uuid>,
}

/// A space's advice with its cautions.
pub struct SpaceLines {
    /// Id.
    pub id: Uuid,
    /// Name.
    pub name: String,
    /// Lines.
    pub lines: Vec<Line>,
    /// What can hurt.
    pub cautions: Vec<&'static Caution>,
}

/// Everything advised for a space, in words, each line with its working.
#[must_use]
pub fn tell(show: &Show, building: &Building, space: &Space, advice: &SpaceAdvice) -> SpaceLines {
    told(show, building, space, advice, true)
}

/// The same without the workings: they are most of the writing.
#[must_use]
pub fn tell_in_short(show: &Show, building: &Building, space: &Space, advice: &SpaceAdvice) -> SpaceLines {
    told(show, building, space, advice, false)
}

fn told(show: &Show, building: &Building, space: &Space, advice: &SpaceAdvice, work: bool) -> SpaceLines {
    let fed = advice.from_below.as_ref().and_then(|f| from_below(show, building, f));
    let mut lines: Vec<Line> = fed.into_iter().chain([air(show, building, &advice.air, work)]).collect();
    lines.extend(advice.drying.as_ref().and_then(|d| drying(show, building, space, d, work)));
    lines.extend(advice.insulation.iter().filter_map(|i| insulation(show, building, i.surface_id, &i.call, work)));
    let cautions = cautions::cautions(space.kind, &advice.work()).collect();
    SpaceLines { id: space.id, name: space.name.clone(), lines, cautions }
}

/// A wet space under a roof, fed by the rooms.
fn from_below(show: &Show, building: &Building, from: &FromBelow) -> Option<Line> {
    let room = lower_first(&building.space(from.space_id)?.name);
    Some(Line {
        head: "It is wet from below.".into(),
        text: format!(
            "The air of the {room} holds more vapor, by {}, and outdoor air less: room air comes up through the ceiling. \
             Look for bypasses, the hatch and exhausts that end here before adding vents.",
            show.pressure_band(from.drive)
        ),
        quiet: false,
        working: None,
        about: None,
    })
}

fn quiet(head: &str, text: impl Into<String>) -> Line {
    Line { head: head.into(), text: text.into(), quiet: true, working: None, about: None }
}

fn surface_name(building: &Building, id: Uuid) -> String {
    building.surface(id).map_or_else(String::new, |s| lower_first(&s.name))
}

fn lower_first(text: &str) -> String {
    let mut chars = text.chars();
    chars.next().map_or_else(String::new, |c| c.to_lowercase().chain(chars).collect())
}

fn air(show: &Show, building: &Building, advice: &AirAdvice, work: bool) -> Line {
    let compared = match advice {
        AirAdvice::NotRead { outdoor_missing: true } => {
            return quiet(
                "Can’t tell whether to ventilate.",
                "Outdoor air has not been read on this visit: log it first.",
            );
        }
        AirAdvice::NotRead { outdoor_missing: false } => {
            return quiet("Can’t tell whether to ventilate.", "This space’s air has not been read on this visit.");
        }
        AirAdvice::Compared(c) => c,
    };
    let water = show.water_per_day(compared.removal_l_day.abs());
    let flow = show.airflow(compared.flow.get());
    let dew = |s: &building::reading::AirState| s.dew.map_or_else(String::new, |d| show.temperature(d.value));
    let (head, text) = match compared.call {
        AirCall::Ventilate => (
            "Ventilate now.",
            format!(
                "Outdoor air is drier (dew point {}): at {flow} it carries out about {water}.",
                dew(&compared.outside)
            ),
        ),
        AirCall::NotNeeded => (
            "No need to ventilate.",
            format!(
                "Nothing read here is wet or near it, and the air is not over {RH_CEILING:.0} % RH. Outdoor air would be drier \
                 (dew point {}).",
                dew(&compared.outside)
            ),
        ),
        AirCall::KeepClosed => (
            "Keep it closed.",
            format!(
                "Outdoor air carries more water (dew point {}): at {flow} it would bring in about {water}.",
                dew(&compared.outside)
            ),
        ),
        AirCall::CantTell => (
            "Can’t tell whether to ventilate.",
            format!(
                "The dew points inside and out differ by {}, less than the band. A better hygrometer, or other weather, settles it.",
                show.difference_band(compared.difference)
            ),
        ),
    };
    let text = text + &condenses(building, compared);
    Line {
        head: head.into(),
        text,
        quiet: matches!(compared.call, AirCall::CantTell | AirCall::NotNeeded),
        working: work.then(|| air_working(show, compared)),
        about: None,
    }
}

fn condenses(building: &Building, c: &AirComparison) -> String {
    match c.condenses {
        Some((true, id)) if c.call == AirCall::Ventilate => format!(
            " It would still condense on the {}: ventilating alone leaves that wet, so add drying or warm it.",
            surface_name(building, id)
        ),
        Some((true, _)) if c.call == AirCall::NotNeeded => String::new(),
        Some((true, id)) => format!(" It would condense on the {}.", surface_name(building, id)),
        _ => String::new(),
    }
}

fn air_working(show: &Show, c: &AirComparison) -> Working {
    Working {
        title: "ventilate or not".into(),
        formula: format!(
            "removal = ṁ · (W_in − W_out) = {} / {:.3} m³/kg · ({} − {}) = {}",
            show.airflow(c.flow.get()),
            c.outside.air.specific_volume(),
            show.humidity_ratio(c.inside.air.humidity_ratio()),
            show.humidity_ratio(c.outside.air.humidity_ratio()),
            show.water_per_day(c.removal_l_day)
        ),
        inputs: vec![
            format!("Dew point inside less outside: {}.", show.difference_band(c.difference)),
            format!("Flow assumed: {} air changes an hour with openings open (common practice).", c.air_changes),
        ],
        source: "ASHRAE Handbook—Fundamentals 2017, ch. 1; the two airs compared by humidity ratio, never by RH."
            .into(),
        link: address(
            "compare_air",
            &[
                ("inside.t_c", c.inside.value.t.get()),
                ("inside.rh_pct", c.inside.air.rh(Over::Ice)),
                ("outside.t_c", c.outside.value.t.get()),
                ("outside.rh_pct", c.outside.air.rh(Over::Ice)),
                ("flow_m3_s", c.flow.get()),
            ],
            &[],
            show.units,
        ),
    }
}

fn drying(show: &Show, building: &Building, space: &Space, d: &Drying, work: bool) -> Option<Line> {
    let target = show.temperature(d.target.dew);
    let why = d.target.surface_id.map_or_else(
        || format!("{RH_CEILING:.0} % RH in the air"),
        |id| format!("below 80 % RH at the {}", surface_name(building, id)),
    );
    Some(match &d.call {
        DryingCall::NotNeeded => {
            quiet("No drying needed.", format!("The dew point is already below {target} ({why})."))
        }
        DryingCall::VentilateInstead => quiet(
            "No dehumidifier while outdoor air is this dry.",
            format!("Outdoor air alone can reach a dew point of {target} ({why})."),
        ),
        DryingCall::CantTell { outdoor_missing: true } => quiet(
            "Can’t tell how much to dry.",
            "Outdoor air has not been read on this visit, so its share of the load is unknown.",
        ),
        DryingCall::CantTell { outdoor_missing: false } => quiet(
            "Can’t tell whether drying is needed.",
            format!("The dew point stands within the band of the goal, {target} ({why})."),
        ),
        DryingCall::Dehumidify(load) => Line {
            head: format!("Dehumidify about {}, closed up.", show.water_per_day(load.total())),
            text: format!(
                "To hold a dew point of {target} ({why}). With the band: {}. People, cooking and liquid leaks come on top.",
                show.water_range(load.low, load.high)
            ),
            quiet: false,
            working: work.then(|| load_working(show, space, d, load)),
            about: None,
        },
    })
}

fn load_working(show: &Show, space: &Space, d: &Drying, load: &DryingLoad) -> Working {
    let soil = if load.by_soil > 0.0 {
        format!(
            "Bare damp soil at its own temperature gives {} (film 2.4 W/m²K, Lewis relation).",
            show.water_per_day(load.by_soil)
        )
    } else {
        "Bare soil adds nothing: there is none, its temperature has not been read, or it is too cold to give off water at this goal.".into()
    };
    Working {
        title: "drying load".into(),
        formula: format!(
            "load = leaking air + bare soil = {} + {} = {}",
            show.water_per_day(load.by_air),
            show.water_per_day(load.by_soil),
            show.water_per_day(load.total())
        ),
        inputs: vec![
            format!(
                "Goal: dew point {}; now {} above it.",
                show.temperature(d.target.dew),
                show.difference_band(d.excess)
            ),
            format!(
                "Leaking outdoor air assumed: {} air changes an hour of {} with openings shut (common practice).",
                load.air_changes,
                show.volume(space.volume_m3())
            ),
            soil,
        ],
        source:
            "ṁ (W_out − W_goal) for air; g = β (p_sat(T_soil) − p_v) for soil. ISO 13788:2012 for 80 % at the surface."
                .into(),
        link: address(
            "dehumidifier",
            &[
                ("rated_l_day", 20.0),
                ("t_c", d.inside.temperature().get()),
                ("rh_pct", d.inside.rh(Over::Ice)),
                ("load_l_day", load.total()),
            ],
            &[],
            show.units,
        ),
    }
}

fn insulation(show: &Show, building: &Building, id: Uuid, call: &InsulationCall, work: bool) -> Option<Line> {
    let name = building.surface(id)?.name.clone();
    let low = lower_first(&name);
    let predicted = |n: &DesignNight| (show.temperature_band(n.surface), show.temperature(n.dew.value));
    let (night, quiet, head, text) = match call {
        InsulationCall::CantTell(WhyNot::NotRead) => return None,
        InsulationCall::CantTell(why) => {
            let head = format!("{name} on the design night: can’t tell.");
            return Some(Line { about: Some(id), ..self::quiet(&head, why_not(*why)) });
        }
        InsulationCall::StaysDry(n) => {
            let (surface, dew) = predicted(n);
            let head = format!("{name} stays above the dew point at {}.", show.temperature(n.outdoor));
            (n, true, head, format!("Predicted {surface} against a dew point of {dew}."))
        }
        InsulationCall::Open(n) => {
            let (surface, dew) = predicted(n);
            let head = format!("{name} at {}: can’t tell.", show.temperature(n.outdoor));
            (n, true, head, format!("Predicted {surface}; the band spans the dew point, {dew}."))
        }
        InsulationCall::Add(n) => {
            let amount = n.r_added.map_or_else(String::new, |r| show.resistance(r));
            let mold = n.r_added_mold.map(|r| format!(" {} keeps it below 80 % RH too.", show.resistance(r)));
            let outdoor = show.temperature(n.outdoor);
            let text = format!("To stay above the dew point at {outdoor} outside, with today’s air inside.");
            (n, false, format!("The {low} needs {amount} more insulation."), text + &mold.unwrap_or_default())
        }
        InsulationCall::Otherwise(n, remedy) => {
            let (surface, dew) = predicted(n);
            let head = format!("The {low} will be wet at {}.", show.temperature(n.outdoor));
            (n, false, head, format!("Predicted {surface} against a dew point of {dew}. {}", remedy_words(*remedy)))
        }
        InsulationCall::DryTheAir(n) => {
            let text = "The air is nearly saturated at its own temperature: dry it first.".to_owned();
            (n, false, format!("No insulation keeps the {low} dry in this air."), text)
        }
    };
    let working = work.then(|| night_working(show, night));
    Some(Line { head, text: text + weak(night), quiet, working, about: Some(id) })
}

const fn remedy_words(remedy: Remedy) -> &'static str {
    match remedy {
        Remedy::Glass => "Keep the air drier, cover it snugly at night, or fit better glazing with a warm edge.",
        Remedy::Metal => "Metal carries the cold through: a thermal break or a cover without metal, and drier air.",
        Remedy::Membrane => {
            "Keep the air drier, or change to a membrane that lets vapor out; insulation inside would hide the frost."
        }
        Remedy::Hatch => "Gasket and latch it, put an insulated cover on its cold side, and keep the air drier.",
        Remedy::Crown => "Open the crown while cooking and sleeping, cover it at night, and keep the air drier.",
    }
}

fn why_not(why: WhyNot) -> &'static str {
    match why {
        WhyNot::TooLittleDifference => {
            "Indoors and outdoors lie within 5 K. Read again with at least 10 K between them."
        }
        WhyNot::WarmerOutside => {
            "Outdoors is warmer than indoors today. Read again in cold weather, with at least 10 K of difference."
        }
        WhyNot::NotByOutdoorAir => {
            "It does not lie between the indoor and outdoor temperatures, so it follows something else: ground, sun or stored heat."
        }
        WhyNot::NotRead => "",
    }
}

fn weak(n: &DesignNight) -> &'static str {
    if n.weak {
        " Less than 10 K between indoors and outdoors today: read again in colder weather before spending."
    } else {
        ""
    }
}

fn night_working(show: &Show, n: &DesignNight) -> Working {
    let range = match n.r_range {
        (low, Some(high)) => format!("{} to {}", show.resistance(low), show.resistance(high)),
        (low, None) => format!("{} or more; the wet end of the band cannot be met by insulation", show.resistance(low)),
    };
    Working {
        title: "design night".into(),
        formula: format!(
            "T_si = T_e + f_Rsi (T_i − T_e) = {};  R = R_si / (1 − f_Rsi) = {}",
            show.temperature_band(n.surface),
            show.resistance(n.r_now)
        ),
        inputs: vec![
            format!("f_Rsi = {:.2} ± {:.2} from today’s three temperatures.", n.factor.0.value, n.factor.0.err),
            format!("Design outdoor temperature {}; dew point {}.", show.temperature(n.outdoor), show.temperature_band(n.dew)),
            format!("Inside film R_si {} m²K/W. Within the band: {range}.", n.r_si),
        ],
        source: "ISO 13788:2012 (temperature factor), ISO 6946 (films). The factor belongs to the construction, not to the weather.".into(),
        link: address(
            "insulation_for",
            &[
                ("inside.t_c", n.inside.temperature().get()),
                ("inside.rh_pct", n.inside.rh(Over::Ice)),
                ("outside_c", n.outdoor),
                ("r_existing_m2k_w", n.r_now),
                ("r_si", n.r_si),
            ],
            &[("target", "no_condensation")],
            show.units,
        ),
    }
}
