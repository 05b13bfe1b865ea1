//! Both sides of a question, computed for this building.

use super::air::{duct_length, duct_night};
use super::machine::Held;
use super::{Found, Measure, Site, Sizing, Work};
use crate::climate::DAYS;
use crate::construction::{Outdoors, around};
use crate::hours::MoistureClass;
use crate::plan::school::Question;
use crate::plan::table::fix;
use building::construction::{Course, Substance, Variant};
use building::{Boundary, Side, SpaceKind};
use hygrothermal::air::Over;
use hygrothermal::buildup::{BuildUp, Layer, Year};
use hygrothermal::machine::{Dehumidifier, Rating};
use hygrothermal::mold::{Sensitivity, hours_to_reach};
use hygrothermal::quantity::{
    AirFlow, Area, DailyWater, DiffusionThickness, MoldIndex, RelativeHumidity, ThermalResistance,
};
use hygrothermal::space::removal;
use hygrothermal::vent::{BathExhaust, bath_exhaust, sealed_crawl};
use hygrothermal::wood::humidity_at;

/// A class II retarder of 1 US perm, m of still air.
const CLASS_II: f64 = 3.5;
/// A usual drying machine's label, L/day.
const MACHINE: f64 = 30.0;

/// What a school comes to here.
#[derive(Debug, Clone, PartialEq)]
pub struct SideOf {
    /// Id of the school.
    pub school: &'static str,
    /// Its figures.
    pub figures: Vec<Found>,
}

/// A question with all its sides.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct BothSides {
    /// One for each school, in the question's order; none where nothing can be computed.
    pub sides: Vec<SideOf>,
    /// What it was computed from, in words.
    pub basis: String,
    /// The school the figures point to, where they decide.
    pub points_to: Option<&'static str>,
}

/// Computes every school's consequences; `None` where the readings it needs are missing.
#[must_use]
pub fn both_sides(site: &Site, question: &'static Question) -> Option<BothSides> {
    let w = Work { site, fix: fix("monitor")?, out: Sizing::default() };
    match question.id.as_str() {
        "crawl_space" => crawl(&w, question),
        "sealed_control" => sealed(&w, question),
        "rh_ceiling" => ceilings(&w, question),
        "wood_goal" => goals(&w, question),
        "wet_structure" => wet(&w, question),
        "exhaust_duct" | "exhaust_outlet" => ducts(&w, question),
        "interior_retarder" => retarder(&w, question),
        "old_walls" => walls(&w, question),
        "stained_sheathing" => sheathing(&w, question),
        _ => None,
    }
}

fn figure(name: impl Into<String>, measure: Measure, value: f64) -> Found {
    Found { name: name.into(), measure, value }
}

fn sides(question: &'static Question, figures: Vec<Vec<Found>>) -> Vec<SideOf> {
    question.schools.iter().zip(figures).map(|(s, figures)| SideOf { school: &s.id, figures }).collect()
}

const CLIMATE: &str = "the climate’s monthly means (from memory)";

fn crawl(w: &Work, question: &'static Question) -> Option<BothSides> {
    let space = w.space(&[SpaceKind::Crawl])?;
    let year = w.year();
    let worst = (0..12)
        .max_by(|a, b| (year.dew[*a] - year.under_floor(*a)).total_cmp(&(year.dew[*b] - year.under_floor(*b))))?;
    let vented = vec![
        figure(
            "Months in which outdoor air stands at 80 % and more at the joists",
            Measure::Number,
            year.damp_months() as f64,
        ),
        figure("Worst month: outdoor dew point", Measure::Temperature, year.dew[worst]),
        figure("Joists then", Measure::Temperature, year.under_floor(worst)),
    ];
    let changes = space.kind.air_changes().closed;
    let t = w.air_of(space).map_or(15.0, |a| a.value.t.get());
    let ceiling = w.site.choices.percent("rh_ceiling")?;
    let (liters, most) = Held::new(w, space, [t, ceiling, changes], year.ground(year.most_humid()))?.year(w)?;
    let sealed = vec![
        figure("To take out in the worst month", Measure::Daily, most),
        figure("In a year", Measure::Liters, liters),
        figure("Energy", Measure::YearlyEnergy, liters / 1.6),
    ];
    Some(BothSides {
        sides: sides(question, vec![vented, sealed]),
        basis: format!("{CLIMATE}; a film well laid, {ceiling} % at {t:.0} °C"),
        points_to: None,
    })
}

fn sealed(w: &Work, question: &'static Question) -> Option<BothSides> {
    let area: f64 = w.spaces(&[SpaceKind::Crawl]).iter().map(|s| s.area_m2).sum();
    let (flow, water) = sealed_crawl(Area::new(area).ok()?);
    let (flow, water) = (flow?.get(), water?.get());
    let year = w.year();
    // Air drawn from the rooms is made up by outdoor air that must be warmed: 0.34 Wh/(m³K).
    let hours = |m: usize| (20.0 - year.t[m]).max(0.0) * DAYS[m] * 24.0;
    let heat = 0.34e-3 * flow * 3600.0 * (0..12).map(hours).sum::<f64>();
    let space = w.space(&[SpaceKind::Crawl])?;
    let changes = space.kind.air_changes().closed;
    let t = w.air_of(space).map_or(15.0, |a| a.value.t.get());
    let ceiling = w.site.choices.percent("rh_ceiling")?;
    let (liters, _) = Held::new(w, space, [t, ceiling, changes], year.ground(year.most_humid()))?.year(w)?;
    let machine = vec![figure("By rule", Measure::Daily, water), figure("Energy", Measure::YearlyEnergy, liters / 1.6)];
    let air = vec![
        figure("Flow by rule", Measure::Flow, flow),
        figure("Heat for the air made up", Measure::YearlyEnergy, heat),
    ];
    Some(BothSides { sides: sides(question, vec![machine, air]), basis: CLIMATE.into(), points_to: None })
}

fn closable(w: &Work) -> Option<&'static [SpaceKind]> {
    let kinds: &[SpaceKind] = &[
        SpaceKind::Crawl,
        SpaceKind::Basement,
        SpaceKind::Garage,
        SpaceKind::Room,
        SpaceKind::VehicleCabin,
        SpaceKind::BoatCabin,
    ];
    (!w.spaces(kinds).is_empty()).then_some(kinds)
}

fn ceilings(w: &Work, question: &'static Question) -> Option<BothSides> {
    let space = w.space(closable(w)?)?;
    let t = w.air_of(space)?.value.t.get();
    let year = w.year();
    let one = |rh: f64| {
        let held = Held::new(w, space, [t, rh, space.kind.air_changes().closed], year.ground(year.most_humid()))?;
        let (liters, most) = held.year(w)?;
        let dew = super::moist(t, rh)?.dew_point()?.get();
        Some(vec![
            figure("Dew point to hold", Measure::Temperature, dew),
            figure("To take out in the worst month", Measure::Daily, most),
            figure("Energy", Measure::YearlyEnergy, liters / 1.6),
        ])
    };
    let figures: Option<Vec<_>> = question.schools.iter().map(|s| one(s.id.parse().ok()?)).collect();
    Some(BothSides {
        sides: sides(question, figures?),
        basis: format!("{} at {t:.0} °C, shut; {CLIMATE}", space.name),
        points_to: None,
    })
}

fn goals(w: &Work, question: &'static Question) -> Option<BothSides> {
    let spaces = w.site.building.spaces.iter();
    let (space, air) = spaces.filter_map(|s| Some((s, w.air_of(s)?))).find(|(s, _)| s.kind != SpaceKind::Attic)?;
    let now = w.site.case.figure_of("wood_mc_pct");
    let one = |goal: f64| {
        let mut out = vec![figure("Air must stay under", Measure::Percent, humidity_at(air.value.t, goal).ok()?)];
        out.extend(now.map(|mc| figure("The wettest wood is over it by", Measure::Percent, (mc - goal).max(0.0))));
        Some(out)
    };
    let figures: Option<Vec<_>> = question.schools.iter().map(|s| one(s.id.parse().ok()?)).collect();
    Some(BothSides {
        sides: sides(question, figures?),
        basis: format!("{} at {:.0} °C; Wood Handbook eq. 4-5", space.name, air.value.t.get()),
        points_to: None,
    })
}

fn wet(w: &Work, question: &'static Question) -> Option<BothSides> {
    let read = w.site.building.spaces.iter().filter_map(|s| Some((s, w.air_of(s)?)));
    let (space, inside) = read.max_by(|a, b| a.1.air.vapor_pressure().total_cmp(&b.1.air.vapor_pressure()))?;
    let outside = w.site.picture.outdoor?;
    let flow = AirFlow::from_air_changes(space.kind.air_changes().open, space.volume_m3()).ok()?;
    let by_air = removal(&inside.air, &outside.air, flow);
    let machine = Dehumidifier { rated: DailyWater::new(MACHINE).ok()?, at: Rating::COOL };
    let rh = RelativeHumidity::new(inside.air.rh(Over::Ice).clamp(0.0, 100.0)).ok()?;
    let by_machine = machine.run(inside.value.t, rh, DailyWater::new(0.0).ok()?).capacity;
    let open = vec![figure("Water out, opened up now", Measure::Daily, by_air)];
    let shut = vec![figure("One machine of 30 L/day takes out here", Measure::Daily, by_machine)];
    let better = usize::from(by_machine > by_air);
    Some(BothSides {
        sides: sides(question, vec![open, shut]),
        basis: format!("{} and outdoor air as read; the room kept at its humidity", space.name),
        points_to: question.schools.get(better).map(|s| s.id.as_str()),
    })
}

fn ducts(w: &Work, question: &'static Question) -> Option<BothSides> {
    let (outlet, duct) = (w.site.choices.get("exhaust_outlet")?, w.site.choices.get("exhaust_duct")?);
    let air = super::moist(24.0, 70.0)?;
    let around = w.site.design_outdoor_c;
    let flow = bath_exhaust(BathExhaust::OnDemand).get();
    let nights: Option<Vec<_>> = question
        .schools
        .iter()
        .map(|s| {
            let (outlet, duct) =
                if question.id == "exhaust_duct" { (outlet, s.id.as_str()) } else { (s.id.as_str(), duct) };
            let length = duct_length(w, outlet);
            let night = duct_night(&air, around, [flow, 0.1, length, 1.06], duct)?;
            let mut out = vec![figure("Run", Measure::Length, length)];
            out.extend(night.course.minutes_to_clear.map(|m| figure("Warm enough after", Measure::Minutes, m)));
            out.push(figure("Water left by a shower", Measure::Milliliters, night.course.condensate_ml));
            out.push(figure("Pressure", Measure::Pressure, night.pressure));
            Some((night.course.condensate_ml, out))
        })
        .collect();
    let nights = nights?;
    let least = nights.iter().enumerate().min_by(|a, b| a.1.0.total_cmp(&b.1.0)).map(|(i, _)| i)?;
    Some(BothSides {
        points_to: question.schools.get(least).map(|s| s.id.as_str()),
        sides: sides(question, nights.into_iter().map(|n| n.1).collect()),
        basis: "a shower of 15 minutes on the design night, 50 cfm, 100 mm, R-6".into(),
    })
}

/// The year of a boundary's build-up between ordinary rooms and the climate.
fn year_of(w: &Work, boundary: &Boundary, built: &BuildUp) -> Option<Year> {
    let months = around(w.site.building, boundary, MoistureClass::Ordinary).months(&Outdoors::of(w.year()))?;
    Some(built.year(&months, None))
}

/// The first outside wall of which is said how it stands, where that satisfies something.
fn wall<'a>(w: &Work<'a>, holds: impl Fn(&Variant) -> bool) -> Option<(&'a Boundary, Variant)> {
    let building = w.site.building;
    let upright = building.boundaries.iter().filter(|b| b.beyond == Side::Outdoors && b.face.upright());
    let known = upright.filter_map(|b| Some((b, building.variants_of(b).into_iter().next()?)));
    known.into_iter().find(|(_, variant)| holds(variant))
}

fn built(w: &Work, boundary: &Boundary, variant: &Variant) -> Option<BuildUp> {
    Some(w.site.building.stock().construct(variant, boundary.face).ok()?.between)
}

fn carried(year: &Year) -> Vec<Found> {
    let left: f64 = year.months[(year.start + 11) % 12].held;
    vec![
        figure("Most water held, g/m²", Measure::Number, year.peak),
        figure("Left after the year, g/m²", Measure::Number, left),
    ]
}

const ROOMS: &str = "ordinary rooms (ISO 13788, annex A)";

fn retarder(w: &Work, question: &'static Question) -> Option<BothSides> {
    let (boundary, variant) = wall(w, |_| true)?;
    let bare = w.site.building.stock().construct(&variant, boundary.face).ok()?;
    let mut layers = vec![Layer {
        resistance: ThermalResistance::new(0.0).ok()?,
        diffusion: DiffusionThickness::new(CLASS_II).ok()?,
    }];
    layers.extend(bare.plies.iter().map(|p| p.layer));
    let held = BuildUp::new(&layers, bare.films[0], bare.films[1]).ok()?;
    let (none, class_ii) = (year_of(w, boundary, &bare.between)?, year_of(w, boundary, &held)?);
    let better = usize::from(class_ii.peak < none.peak - 1.0);
    Some(BothSides {
        sides: sides(question, vec![carried(&none), carried(&class_ii)]),
        basis: format!("{}, {ROOMS}, {CLIMATE}; diffusion only (ISO 13788)", boundary.name),
        points_to: question.schools.get(better).map(|s| s.id.as_str()),
    })
}

fn walls(w: &Work, question: &'static Question) -> Option<BothSides> {
    let fill = Substance::from_id("glass_wool")?;
    let (boundary, empty) = wall(w, |v| v.courses.iter().any(|c| c.of == Substance::ClosedGap))?;
    let filled = |c: &Course| if c.of == Substance::ClosedGap { Course { of: fill, ..*c } } else { *c };
    let full = Variant { courses: empty.courses.iter().map(filled).collect(), ..empty.clone() };
    let side = |variant: &Variant| {
        let built = built(w, boundary, variant)?;
        let year = year_of(w, boundary, &built)?;
        let mut out = vec![figure("Whole resistance", Measure::Resistance, built.resistance())];
        out.extend(carried(&year));
        Some(out)
    };
    Some(BothSides {
        sides: sides(question, vec![side(&empty)?, side(&full)?]),
        basis: format!(
            "{}, {ROOMS}, {CLIMATE}; diffusion only, no rain: rain is what the gate asks for",
            boundary.name
        ),
        points_to: None,
    })
}

fn sheathing(w: &Work, question: &'static Question) -> Option<BothSides> {
    let attic = w.spaces(&[SpaceKind::Attic]).into_iter().next()?;
    let state = w.site.picture.space(attic.id)?;
    let read = state.surfaces.iter().filter_map(|s| s.read.as_ref());
    let worst = read.filter_map(|r| Some((r.t, r.judged?.surface_rh))).max_by(|a, b| a.1.total_cmp(&b.1))?;
    let rh = RelativeHumidity::new(worst.1.clamp(0.0, 100.0)).ok()?;
    let days = |class: Sensitivity| hours_to_reach(worst.0, rh, class, MoldIndex::new(1.0).ok()?).map(|h| h / 24.0);
    let side = |class: Sensitivity| {
        let mut out = vec![figure("Surface as read", Measure::Percent, worst.1)];
        out.extend(days(class).map(|d| figure("Growth begins after, if it lasted", Measure::Days, d)));
        out
    };
    Some(BothSides {
        sides: sides(question, vec![side(Sensitivity::VerySensitive), side(Sensitivity::Medium)]),
        basis: format!(
            "{} as read; bare pine against a coated face (mold index, Hukka and Viitanen 1999, from memory)",
            attic.name
        ),
        points_to: None,
    })
}
