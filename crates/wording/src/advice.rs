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
use language::say;
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
        head: say!("It is wet from below.").into(),
        text: say!(
            "The air of the {room} holds more vapor, by {pressure_band}, and outdoor air less: room air comes up through the ceiling. Look for bypasses, the hatch and exhausts that end here before adding vents.",
            room,
            pressure_band = show.pressure_band(from.drive)
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
                say!("Can’t tell whether to ventilate."),
                say!("Outdoor air has not been read on this visit: log it first."),
            );
        }
        AirAdvice::NotRead { outdoor_missing: false } => {
            return quiet(
                say!("Can’t tell whether to ventilate."),
                say!("This space’s air has not been read on this visit."),
            );
        }
        AirAdvice::Compared(c) => c,
    };
    let water = show.water_per_day(compared.removal_l_day.abs());
    let flow = show.airflow(compared.flow.get());
    let dew = |s: &building::reading::AirState| s.dew.map_or_else(String::new, |d| show.temperature(d.value));
    let (head, text) = match compared.call {
        AirCall::Ventilate => (
            say!("Ventilate now."),
            say!(
                "Outdoor air is drier (dew point {dew}): at {flow} it carries out about {water}.",
                dew = dew(&compared.outside),
                flow,
                water
            ),
        ),
        AirCall::NotNeeded => (
            say!("No need to ventilate."),
            say!(
                "Nothing read here is wet or near it, and the air is not over {rh_ceiling} % RH. Outdoor air would be drier (dew point {dew}).",
                rh_ceiling = format_args!("{:.0}", RH_CEILING),
                dew = dew(&compared.outside)
            ),
        ),
        AirCall::KeepClosed => (
            say!("Keep it closed."),
            say!(
                "Outdoor air carries more water (dew point {dew}): at {flow} it would bring in about {water}.",
                dew = dew(&compared.outside),
                flow,
                water
            ),
        ),
        AirCall::CantTell => (
            say!("Can’t tell whether to ventilate."),
            say!(
                "The dew points inside and out differ by {difference_band}, less than the band. A better hygrometer, or other weather, settles it.",
                difference_band = show.difference_band(compared.difference)
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
        Some((true, id)) if c.call == AirCall::Ventilate => say!(
            " It would still condense on the {surface_name}: ventilating alone leaves that wet, so add drying or warm it.",
            surface_name = surface_name(building, id)
        ),
        Some((true, _)) if c.call == AirCall::NotNeeded => String::new(),
        Some((true, id)) => {
            say!(" It would condense on the {surface_name}.", surface_name = surface_name(building, id))
        }
        _ => String::new(),
    }
}

fn air_working(show: &Show, c: &AirComparison) -> Working {
    Working {
        title: say!("ventilate or not").into(),
        formula: say!(
            "removal = ṁ · (W_in − W_out) = {airflow} / {outside} m³/kg · ({humidity_ratio} − {humidity_ratio2}) = {water_per_day}",
            airflow = show.airflow(c.flow.get()),
            outside = format_args!("{:.3}", c.outside.air.specific_volume()),
            humidity_ratio = show.humidity_ratio(c.inside.air.humidity_ratio()),
            humidity_ratio2 = show.humidity_ratio(c.outside.air.humidity_ratio()),
            water_per_day = show.water_per_day(c.removal_l_day)
        ),
        inputs: vec![
            say!(
                "Dew point inside less outside: {difference_band}.",
                difference_band = show.difference_band(c.difference)
            ),
            say!(
                "Flow assumed: {air_changes} air changes an hour with openings open (common practice).",
                air_changes = c.air_changes
            ),
        ],
        source: say!("ASHRAE Handbook—Fundamentals 2017, ch. 1; the two airs compared by humidity ratio, never by RH.")
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
        || say!("{rh_ceiling} % RH in the air", rh_ceiling = format_args!("{:.0}", RH_CEILING)),
        |id| say!("below 80 % RH at the {surface_name}", surface_name = surface_name(building, id)),
    );
    Some(match &d.call {
        DryingCall::NotNeeded => {
            quiet(say!("No drying needed."), say!("The dew point is already below {target} ({why}).", target, why))
        }
        DryingCall::VentilateInstead => quiet(
            say!("No dehumidifier while outdoor air is this dry."),
            say!("Outdoor air alone can reach a dew point of {target} ({why}).", target, why),
        ),
        DryingCall::CantTell { outdoor_missing: true } => quiet(
            say!("Can’t tell how much to dry."),
            say!("Outdoor air has not been read on this visit, so its share of the load is unknown."),
        ),
        DryingCall::CantTell { outdoor_missing: false } => quiet(
            say!("Can’t tell whether drying is needed."),
            say!("The dew point stands within the band of the goal, {target} ({why}).", target, why),
        ),
        DryingCall::Dehumidify(load) => Line {
            head: say!(
                "Dehumidify about {water_per_day}, closed up.",
                water_per_day = show.water_per_day(load.total())
            ),
            text: say!(
                "To hold a dew point of {target} ({why}). With the band: {water_range}. People, cooking and liquid leaks come on top.",
                target,
                why,
                water_range = show.water_range(load.low, load.high)
            ),
            quiet: false,
            working: work.then(|| load_working(show, space, d, load)),
            about: None,
        },
    })
}

fn load_working(show: &Show, space: &Space, d: &Drying, load: &DryingLoad) -> Working {
    let soil = if load.by_soil > 0.0 {
        say!(
            "Bare damp soil at its own temperature gives {water_per_day} (film 2.4 W/m²K, Lewis relation).",
            water_per_day = show.water_per_day(load.by_soil)
        )
    } else {
        say!("Bare soil adds nothing: there is none, its temperature has not been read, or it is too cold to give off water at this goal.").into()
    };
    Working {
        title: say!("drying load").into(),
        formula: say!(
            "load = leaking air + bare soil = {water_per_day} + {water_per_day2} = {water_per_day3}",
            water_per_day = show.water_per_day(load.by_air),
            water_per_day2 = show.water_per_day(load.by_soil),
            water_per_day3 = show.water_per_day(load.total())
        ),
        inputs: vec![
            say!(
                "Goal: dew point {target}; now {difference_band} above it.",
                target = show.temperature(d.target.dew),
                difference_band = show.difference_band(d.excess)
            ),
            say!(
                "Leaking outdoor air assumed: {load} air changes an hour of {volume} with openings shut (common practice).",
                load = load.air_changes,
                volume = show.volume(space.volume_m3())
            ),
            soil,
        ],
        source: say!(
            "ṁ (W_out − W_goal) for air; g = β (p_sat(T_soil) − p_v) for soil. ISO 13788:2012 for 80 % at the surface."
        )
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
            let head = say!("{name} on the design night: can’t tell.", name);
            return Some(Line { about: Some(id), ..self::quiet(&head, why_not(*why)) });
        }
        InsulationCall::StaysDry(n) => {
            let (surface, dew) = predicted(n);
            let head =
                say!("{name} stays above the dew point at {outdoor}.", name, outdoor = show.temperature(n.outdoor));
            (n, true, head, say!("Predicted {surface} against a dew point of {dew}.", surface, dew))
        }
        InsulationCall::Open(n) => {
            let (surface, dew) = predicted(n);
            let head = say!("{name} at {outdoor}: can’t tell.", name, outdoor = show.temperature(n.outdoor));
            (n, true, head, say!("Predicted {surface}; the band spans the dew point, {dew}.", surface, dew))
        }
        InsulationCall::Add(n) => {
            let amount = n.r_added.map_or_else(String::new, |r| show.resistance(r));
            let mold = n
                .r_added_mold
                .map(|r| say!(" {resistance} keeps it below 80 % RH too.", resistance = show.resistance(r)));
            let outdoor = show.temperature(n.outdoor);
            let text = say!("To stay above the dew point at {outdoor} outside, with today’s air inside.", outdoor);
            (n, false, say!("The {low} needs {amount} more insulation.", low, amount), text + &mold.unwrap_or_default())
        }
        InsulationCall::Otherwise(n, remedy) => {
            let (surface, dew) = predicted(n);
            let head = say!("The {low} will be wet at {outdoor}.", low, outdoor = show.temperature(n.outdoor));
            (
                n,
                false,
                head,
                say!(
                    "Predicted {surface} against a dew point of {dew}. {remedy_words}",
                    surface,
                    dew,
                    remedy_words = remedy_words(*remedy)
                ),
            )
        }
        InsulationCall::DryTheAir(n) => {
            let text = say!("The air is nearly saturated at its own temperature: dry it first.").to_owned();
            (n, false, say!("No insulation keeps the {low} dry in this air.", low), text)
        }
    };
    let working = work.then(|| night_working(show, night));
    Some(Line { head, text: text + weak(night), quiet, working, about: Some(id) })
}

fn remedy_words(remedy: Remedy) -> &'static str {
    match remedy {
        Remedy::Glass => say!("Keep the air drier, cover it snugly at night, or fit better glazing with a warm edge."),
        Remedy::Metal => {
            say!("Metal carries the cold through: a thermal break or a cover without metal, and drier air.")
        }
        Remedy::Membrane => {
            say!(
                "Keep the air drier, or change to a membrane that lets vapor out; insulation inside would hide the frost."
            )
        }
        Remedy::Hatch => say!("Gasket and latch it, put an insulated cover on its cold side, and keep the air drier."),
        Remedy::Crown => say!("Open the crown while cooking and sleeping, cover it at night, and keep the air drier."),
    }
}

fn why_not(why: WhyNot) -> &'static str {
    match why {
        WhyNot::TooLittleDifference => {
            say!("Indoors and outdoors lie within 5 K. Read again with at least 10 K between them.")
        }
        WhyNot::WarmerOutside => {
            say!("Outdoors is warmer than indoors today. Read again in cold weather, with at least 10 K of difference.")
        }
        WhyNot::NotByOutdoorAir => {
            say!(
                "It does not lie between the indoor and outdoor temperatures, so it follows something else: ground, sun or stored heat."
            )
        }
        WhyNot::NotRead => "",
    }
}

fn weak(n: &DesignNight) -> &'static str {
    if n.weak {
        say!(" Less than 10 K between indoors and outdoors today: read again in colder weather before spending.")
    } else {
        ""
    }
}

fn night_working(show: &Show, n: &DesignNight) -> Working {
    let range = match n.r_range {
        (low, Some(high)) => say!(
            "{resistance} to {resistance2}",
            resistance = show.resistance(low),
            resistance2 = show.resistance(high)
        ),
        (low, None) => say!(
            "{resistance} or more; the wet end of the band cannot be met by insulation",
            resistance = show.resistance(low)
        ),
    };
    Working {
        title: say!("design night").into(),
        formula: say!("T_si = T_e + f_Rsi (T_i − T_e) = {temperature_band};  R = R_si / (1 − f_Rsi) = {resistance}", temperature_band = show.temperature_band(n.surface), resistance = show.resistance(n.r_now)),
        inputs: vec![
            say!("f_Rsi = {factor} ± {factor2} from today’s three temperatures.", factor = format_args!("{:.2}", n.factor.0.value), factor2 = format_args!("{:.2}", n.factor.0.err)),
            say!("Design outdoor temperature {outdoor}; dew point {temperature_band}.", outdoor = show.temperature(n.outdoor), temperature_band = show.temperature_band(n.dew)),
            say!("Inside film R_si {r_si} m²K/W. Within the band: {range}.", r_si = n.r_si, range),
        ],
        source: say!("ISO 13788:2012 (temperature factor), ISO 6946 (films). The factor belongs to the construction, not to the weather.").into(),
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
