//! Vents, fans, ducts and airing.

use super::{FigureOrigin, Measure, RECTANGLE, Work, pieces, rectangle};
use building::SpaceKind;
use hygrothermal::air::MoistAir;
use hygrothermal::quantity::{
    AirFlow, Area, ArealMass, Diameter, HeatCapacity, Length, Minutes, Temperature, ThermalResistance, Volume,
    WaterFlow,
};
use hygrothermal::space::{Budget, moisture_source};
use hygrothermal::vent::{
    AtticRatio, BathExhaust, Duct, DuctCourse, DuctRun, DuctWall, Exhaust, Fitting, Lining, attic_vents, bath_exhaust,
    crawl_vents, net_free_area, sealed_crawl, vent_cover,
};

/// Free area of a soffit vent of 40 by 10 cm, m².
const SOFFIT_VENT: f64 = 0.02;
/// Share of the free area that is high up, and the least of it: 40 to 50 % are asked for.
const HIGH: f64 = 0.45;
const LEAST_HIGH: f64 = 0.4;
/// Minutes of a shower with the fan on.
const SHOWER: f64 = 15.0;
const LIVED_IN: [SpaceKind; 4] = [SpaceKind::Room, SpaceKind::VehicleCabin, SpaceKind::BoatCabin, SpaceKind::Tent];

pub fn attic(w: &mut Work) -> Option<()> {
    let attic: f64 = w.spaces(&[SpaceKind::Attic]).iter().map(|s| s.area_m2).sum();
    let drawn = if attic > 0.0 { attic } else { w.footprint() };
    let area = w.drawn("area_m2", "Attic floor", Measure::Area, drawn);
    let floor = Area::new(area).ok()?;
    let need = attic_vents(floor, AtticRatio::R300, None, None).required;
    let origin = match w.site.case.has("no_eave_intake") {
        true => FigureOrigin::Read("finding".into()),
        false => FigureOrigin::Assumed("none counted: add the vents up"),
    };
    let low = w.give("low_m2", "Free area at the eaves now", Measure::FreeArea, 0.0, origin);
    let high = w.assume(
        "high_m2",
        "Free area high up now",
        Measure::FreeArea,
        0.0,
        "none counted: of the one kind that stays",
    );
    // What is there counts; the smaller part follows the larger until 40 to 45 % are high.
    let low_then = low.max(need * (1.0 - HIGH)).max(high * (1.0 - HIGH) / HIGH);
    let high_then = high.max(need * HIGH).max(low_then * LEAST_HIGH / (1.0 - LEAST_HIGH));
    w.found("Net free area in all, 1/300", Measure::FreeArea, need);
    if low + high > 0.0 {
        w.found("High share now", Measure::Share, high / (low + high));
    }
    w.found("To open at the eaves", Measure::FreeArea, low_then - low);
    w.found("To open high up", Measure::FreeArea, high_then - high);
    w.found(
        "Unbalanced it would take, 1/150",
        Measure::FreeArea,
        attic_vents(floor, AtticRatio::R150, None, None).required,
    );
    w.explain(
        &["net free area = floor/300, 40 to 50 % of it high; floor/150 without that balance"],
        "IRC R806, from memory.",
    );
    let then = [("area_m2", area), ("high_m2", high_then), ("low_m2", low_then)];
    w.same("attic_vents", &then, &[("ratio", "300")]);
    let (eave, _) = rectangle(area);
    if w.fix.id == "attic_intake" {
        let vents = pieces((low_then - low) / SOFFIT_VENT / 2.0) * 2.0;
        w.need("soffit_vent", vents);
        w.need("baffle", pieces(2.0 * eave / 0.6));
        w.note("The same on both eaves, so that air crosses.");
    } else {
        w.found("Ridge it takes at 0.02 m² of free area each 1 m", Measure::Length, need * HIGH / 0.02);
        w.need("vent_cover", 2.0);
    }
    w.note("1/300 also asks for a vapor retarder on the warm side in cold climates: local code governs.");
    Some(())
}

pub fn under_floor(w: &mut Work) -> Option<()> {
    let under: f64 = w.spaces(&[SpaceKind::Crawl, SpaceKind::UnderFloor]).iter().map(|s| s.area_m2).sum();
    let drawn = if under > 0.0 { under } else { w.footprint() };
    let area = w.drawn("area_m2", "Floor above it", Measure::Area, drawn);
    let bare = w.site.case.has("soil_bare") || w.site.case.has("film_loose");
    let floor = Area::new(area).ok()?;
    let (now, covered) = (crawl_vents(floor, false).required, crawl_vents(floor, true).required);
    w.found(
        if bare { "Net free area, ground bare as it is, 1/150" } else { "Net free area over bare ground, 1/150" },
        Measure::FreeArea,
        now,
    );
    w.found("Over ground covered with a class I film, 1/1500", Measure::FreeArea, covered);
    let gross = w.assume("gross_m2", "One opening, gross", Measure::FreeArea, 0.08, "40 by 20 cm");
    let cover = vent_cover("louver_metal_screen")?;
    let each = net_free_area(Area::new(gross).ok()?, &[cover]);
    // Two by each corner, four at least, matched on opposite sides.
    let planned = if w.site.case.lacks("soil_bare") || w.site.case.has("soil_bare") { covered } else { now };
    let count = (pieces(planned / each.max(1e-6) / 4.0) * 4.0).max(4.0);
    w.found("One opening behind louver and screen, net", Measure::FreeArea, each);
    w.found("Openings, the same number on each side", Measure::Number, count);
    w.found("Farthest from a corner", Measure::Length, crawl_vents(floor, true).corner_distance);
    w.explain(
        &["net free area = floor/150; /1500 over a class I cover;  openings = area / net of one, rounded up to fours"],
        "IRC R408, from memory; local code governs.",
    );
    w.need("vent_cover", count);
    Some(())
}

pub fn covers(w: &mut Work) -> Option<()> {
    let count = w.assume("count", "Vents to close", Measure::Number, 4.0, "count them");
    w.need("vent_cover", count);
    Some(())
}

pub fn soil_gas(w: &mut Work) -> Option<()> {
    let area: f64 = w.spaces(&[SpaceKind::Crawl]).iter().map(|s| s.area_m2).sum();
    let (length, width) = rectangle(if area > 0.0 { area } else { w.footprint() });
    let run =
        w.assume("loop_m", "Perforated loop under the film", Measure::Length, 2.0 * (length + width) * 0.8, RECTANGLE);
    let height: f64 = w.site.building.spaces.iter().filter(|s| s.column == 0).map(|s| s.height_m).sum();
    let riser = w.assume(
        "riser_m",
        "Riser to above the roof",
        Measure::Length,
        height + 1.0,
        "through the house, 30 cm over the roof",
    );
    w.explain(&["pipe = loop + riser"], "Common practice; licensed work.");
    w.need("vent_pipe_m", run + riser);
    w.need("inline_fan", 1.0);
    Some(())
}

pub fn supply(w: &mut Work) -> Option<()> {
    let area: f64 = w.spaces(&[SpaceKind::Crawl]).iter().map(|s| s.area_m2).sum();
    let drawn = if area > 0.0 { area } else { w.footprint() };
    let area = w.drawn("area_m2", "Crawl space", Measure::Area, drawn);
    let (flow, water) = sealed_crawl(Area::new(area).ok()?);
    w.found("Conditioned air, or continuous exhaust", Measure::Flow, flow?.get());
    w.found("The same duty by dehumidifier, by rule", Measure::Daily, water?.get());
    w.explain(
        &["flow = 1 cfm for each 50 ft²;  dehumidifier = 70 pints/day for each 1000 ft²"],
        "IRC R408.3, from memory.",
    );
    w.need("register", 1.0);
    Some(())
}

/// A duct and what a shower does in it on the design night.
pub(super) struct DuctNight {
    pub course: DuctCourse,
    pub pressure: f64,
}

/// The two kinds of duct: mass per area, heat capacity, lining.
pub(super) const fn duct_kind(school: &str) -> (f64, f64, Lining) {
    if matches!(school.as_bytes(), b"smooth_metal") {
        (3.9, 460.0, Lining::SmoothMetal)
    } else {
        (0.3, 1000.0, Lining::FlexStretched)
    }
}

pub(super) fn duct_night(
    air: &MoistAir,
    around: f64,
    [flow, diameter, length, r]: [f64; 4],
    school: &str,
) -> Option<DuctNight> {
    let (mass, heat, lining) = duct_kind(school);
    let wall = DuctWall {
        mass: ArealMass::new(mass).ok()?,
        heat: HeatCapacity::new(heat).ok()?,
        insulation: ThermalResistance::new(r).ok()?,
    };
    let duct = Duct { diameter: Diameter::new(diameter).ok()?, length: Length::new(length).ok()?, wall };
    let flow = AirFlow::new(flow).ok()?;
    let course = Exhaust::new(*air, Temperature::new(around).ok()?, flow, duct).ok()?.run(Minutes::new(SHOWER).ok()?);
    let run = DuctRun {
        diameter: duct.diameter,
        length: duct.length,
        lining,
        fittings: vec![Fitting::Bend90, Fitting::TerminalWithFlap],
    };
    Some(DuctNight { course, pressure: run.pressure_drop(flow, air) })
}

/// Length of the run by outlet, m.
pub(super) fn duct_length(w: &Work, outlet: &str) -> f64 {
    let (_, width) = rectangle(w.footprint());
    let attic = w.spaces(&[SpaceKind::Attic]).first().map_or(1.5, |s| s.height_m);
    if outlet == "roof" { attic + 0.4 } else { width / 2.0 }
}

/// The terminal, by whichever step counts it.
fn terminal(w: &mut Work, led_out: bool) {
    match w.fix.id.as_str() {
        "exhaust_flap" if led_out => w.note("Its terminal is counted with leading the exhaust outdoors."),
        "exhaust_flap" => w.need("flap_terminal", 1.0),
        _ => {
            w.need("flap_terminal", 1.0);
            w.note("The duct itself is counted with the insulated exhaust duct.");
        }
    }
}

pub fn exhaust_duct(w: &mut Work) -> Option<()> {
    // One duct, one terminal, whichever of the steps names them.
    let led_out = w.site.case.has("exhaust_ends_in_attic");
    if ["exhaust_flap", "exhaust_to_outside"].contains(&w.fix.id.as_str()) {
        terminal(w, led_out);
        return Some(());
    }
    let outlet = w.site.choices.get("exhaust_outlet")?;
    let school = w.site.choices.get("exhaust_duct")?;
    let length = duct_length(w, outlet);
    let why = if outlet == "roof" {
        "straight up through the attic"
    } else {
        "half the house’s width to the gable or wall"
    };
    let length = w.assume("length_m", "Length of the run", Measure::Length, length, why);
    let flow = w.assume(
        "flow",
        "Fan",
        Measure::Flow,
        bath_exhaust(BathExhaust::OnDemand).get(),
        "50 cfm on demand (ASHRAE 62.2, from memory)",
    );
    let diameter = w.assume("diameter_m", "Inside diameter", Measure::Thickness, 0.1, "a usual fan’s collar");
    let r = w.assume("r", "Insulation round it", Measure::Resistance, 1.06, "R-6 (US)");
    let t = w.assume("t", "Air into the duct", Measure::Temperature, 24.0, "a shower");
    let rh = w.assume("rh", "Its relative humidity", Measure::Percent, 70.0, "a shower");
    let around =
        w.give("around", "Air round the duct", Measure::Temperature, w.site.design_outdoor_c, FigureOrigin::Building);
    let air = super::moist(t, rh)?;
    let night = duct_night(&air, around, [flow, diameter, length, r], school)?;
    match night.course.minutes_to_clear {
        Some(m) => w.found("Minutes until its outlet is warm enough", Measure::Minutes, m),
        None => w.note("Its outlet never gets warm enough on the design night: shorter, or more insulation."),
    }
    w.found("Water left in it after a shower of 15 minutes", Measure::Milliliters, night.course.condensate_ml);
    w.found("Pressure the fan must give, a bend and a flap in", Measure::Pressure, night.pressure);
    w.explain(
        &[
            "t_air(x) = t_a + (t₀ − t_a) e^(−NTU x/L);  wall between film and insulation, warming by its mass",
            "Δp = f L_eq/D · ρ v²/2",
        ],
        "Gnielinski 1976, Petukhov, Lewis relation, Haaland 1983 (from memory).",
    );
    let (mass, heat, _) = duct_kind(school);
    w.same(
        "exhaust_duct",
        &[
            ("air.t_c", t),
            ("air.rh_pct", rh),
            ("around_c", around),
            ("flow_m3_s", flow),
            ("diameter_m", diameter),
            ("length_m", length),
            ("r_m2k_w", r),
            ("wall_kg_m2", mass),
            ("wall_c_j_kgk", heat),
            ("minutes", SHOWER),
        ],
        &[],
    );
    w.need(if school == "smooth_metal" { "metal_duct_m" } else { "insulated_duct_m" }, length);
    if !led_out {
        w.need("flap_terminal", 1.0);
    }
    Some(())
}

pub fn fan(w: &mut Work) -> Option<()> {
    let space = w.space(&LIVED_IN)?;
    let usual = if space.kind == SpaceKind::Room {
        bath_exhaust(BathExhaust::OnDemand)
    } else {
        bath_exhaust(BathExhaust::Continuous)
    };
    let inside = w.inside_air(Some(space), [20.0, 60.0], "not read yet")?;
    let outside = w.outdoor_air()?;
    let flow = w.assume(
        "flow",
        "Fan",
        Measure::Flow,
        usual.get(),
        "50 cfm on demand, 20 all the time (ASHRAE 62.2, from memory)",
    );
    let quantity = AirFlow::new(flow).ok()?;
    w.found("All the air is changed in", Measure::Minutes, space.volume_m3() / flow.max(1e-6) / 60.0);
    w.exchange(space, (&inside, &outside), quantity)?;
    w.need("exhaust_fan", 1.0);
    w.need("flap_terminal", 1.0);
    w.need("co_alarm", 1.0);
    Some(())
}

/// People, and the water they give off in a day.
fn people(w: &mut Work) -> Option<(f64, f64)> {
    let said = w.site.case.figure_of("occupants");
    let origin =
        said.map_or(FigureOrigin::Assumed("somebody lives there"), |_| FigureOrigin::Read("finding or call".into()));
    let count = w.give("people", "People", Measure::Number, said.unwrap_or(1.0), origin);
    let each = moisture_source("adult_day").or_else(|| moisture_source("person_day")).map_or(2.25, |s| s.liters);
    let each = w.assume("each", "Each gives off", Measure::Daily, each, "2.0 to 2.5 L a day (common practice)");
    Some((count, count * each))
}

pub fn sources(w: &mut Work) -> Option<()> {
    let (_, water) = people(w)?;
    w.found("People give off", Measure::Daily, water);
    if w.site.case.has("unvented_flame") {
        let gas = w.assume("gas", "Gas burned in a day, kg", Measure::Number, 0.3, "two hours of a ring");
        w.found("Its flame gives off", Measure::Daily, gas * 1.6);
    }
    if w.site.case.has("snow_brought_in") {
        let snow = w.assume("snow", "Brought in on boots and coats", Measure::Daily, 0.5, "rough");
        w.found("Dried inside", Measure::Daily, snow);
    }
    w.explain(
        &["1.6 kg of water for each kg of propane: C₃H₈ + 5 O₂ → 3 CO₂ + 4 H₂O, 72/44"],
        "Stoichiometry; people: common practice.",
    );
    Some(())
}

pub fn airing(w: &mut Work) -> Option<()> {
    let space = w.space(&LIVED_IN)?;
    let volume = w.drawn("volume_m3", "Space", Measure::Volume, space.volume_m3());
    let inside = w.inside_air(Some(space), [18.0, 65.0], "not read yet")?;
    let outside = w.outdoor_air()?;
    let changes = space.kind.air_changes();
    let open = w.assume(
        "ach",
        "Air changes an hour, open",
        Measure::Number,
        changes.open,
        "low on one side, high on the other; rough",
    );
    let shut = w.assume("shut", "Air changes an hour, shut", Measure::Number, changes.closed, "rough");
    let (_, water) = people(w)?;
    // Nine tenths of the difference are gone after ln 10 air changes.
    w.found("Open for, to change nine tenths of the air", Measure::Minutes, 10.0_f64.ln() / open.max(0.01) * 60.0);
    let kg = volume / inside.specific_volume() * (inside.humidity_ratio() - outside.humidity_ratio()) * 0.9;
    w.found("Water gone with each airing", Measure::Liters, kg.max(0.0));
    if kg > 0.0 {
        w.found("Airings a day to keep up with people", Measure::Number, water / kg);
    }
    let flow = AirFlow::from_air_changes(shut, volume).ok()?;
    let source = WaterFlow::new(water / 86_400.0).ok()?;
    let budget = Budget {
        volume: Volume::new(volume).ok()?,
        start: outside_warmed(&outside, &inside)?,
        outdoor: outside,
        flow,
        source,
    };
    let coldest = w.coldest(space);
    if let Some(surface) = coldest {
        match budget.hours_to_dew(surface) {
            Some(h) => w.found("Shut again, the coldest surface is wet after", Measure::Hours, h),
            None => w.note("Shut again, the coldest surface stays dry."),
        }
    }
    w.explain(
        &["minutes = 60 ln 10 / air changes;  water = 0.9 V/v (W_in − W_out);  afterwards W(t) = W_ss + (W₀ − W_ss) e^(−t/τ)"],
        "Mass balance of a well-mixed space; people: common practice.",
    );
    let [t, out_t, out_rh] = w.figures(["t", "out_t", "out_rh"])?;
    let start = budget.start.rh(hygrothermal::air::Over::Ice);
    w.same(
        "budget",
        &[
            ("volume_m3", volume),
            ("t_c", t),
            ("outdoor.t_c", out_t),
            ("outdoor.rh_pct", out_rh),
            ("flow_m3_s", flow.get()),
            ("source_kg_s", source.get()),
            ("start_rh_pct", start),
            ("hours", 8.0),
            ("surface_c", coldest.map_or(t - 8.0, Temperature::get)),
        ],
        &[],
    );
    if kg <= 0.0 {
        w.note("Outdoor air is the wetter one now: do not open up.");
    }
    Some(())
}

/// The room's air right after an airing: a tenth of the difference is left, warmed up again.
fn outside_warmed(outside: &MoistAir, inside: &MoistAir) -> Option<MoistAir> {
    let ratio = outside.humidity_ratio() + 0.1 * (inside.humidity_ratio() - outside.humidity_ratio());
    let vapor = hygrothermal::air::vapor_pressure_of_ratio(ratio, hygrothermal::quantity::Pressure::STANDARD);
    let dew = hygrothermal::air::dew_point(vapor)?;
    let t = if dew > inside.temperature() { dew } else { inside.temperature() };
    MoistAir::from_dew_point(t, dew, hygrothermal::quantity::Pressure::STANDARD).ok()
}
