//! A building read and advised upon.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, missing_docs, reason = "tests")]

use building::reading::{AirValue, Observed, Reading};
use building::{Building, Face, Place, Side, Structure, blueprint, blueprints};
use hygrothermal::air::Over;
use hygrothermal::quantity::{HumidityAccuracy, RelativeHumidity, Temperature, TemperatureAccuracy};
use hygrothermal::surface::{Accuracy, Verdict};
use judgment::advice::{AirAdvice, AirCall, DryingCall, InsulationCall, Remedy, SpaceAdvice, WhyNot, advise};
use judgment::cautions::Work;
use judgment::picture::{Picture, picture};
use judgment::question::{Doubt, questions};
use uuid::Uuid;

struct Case {
    building: Building,
    readings: Vec<Reading>,
    accuracy: Accuracy,
}

impl Case {
    fn new(structure: Structure) -> Self {
        let mut n = 0;
        let building = blueprint(structure).unwrap().build(|| {
            n += 1;
            Uuid::from_u128(n)
        });
        let accuracy = Accuracy {
            air: TemperatureAccuracy::new(0.3).unwrap(),
            rh: HumidityAccuracy::new(2.0).unwrap(),
            surface: TemperatureAccuracy::new(0.5).unwrap(),
        };
        Self { building, readings: Vec::new(), accuracy }
    }

    fn place(&self, name: &str) -> Place {
        self.building.stations.iter().map(|s| s.place).find(|p| self.building.place_name(*p) == name).unwrap()
    }

    fn read(mut self, name: &str, observed: Observed) -> Self {
        let station_id = self.building.station_at(self.place(name)).unwrap().id;
        let n = self.readings.len();
        let (id, taken_ms) = (Uuid::from_u128(9_000 + n as u128), n as i64 * 60_000);
        self.readings.push(Reading {
            id,
            station_id,
            instrument_id: Uuid::nil(),
            taken_ms,
            observed,
            accuracy: self.accuracy,
        });
        self
    }

    fn air(self, name: &str, t: f64, rh: f64) -> Self {
        self.read(name, air_value(t, rh))
    }

    fn surface(self, name: &str, t: f64) -> Self {
        self.read(name, Observed::Surface(Temperature::new(t).unwrap()))
    }

    fn picture(&self) -> Picture {
        picture(&self.building, &self.readings)
    }

    fn advice(&self, space: &str, design: f64) -> SpaceAdvice {
        let space = self.building.spaces.iter().find(|s| s.name == space).unwrap();
        advise(&self.building, &self.picture(), space, Temperature::new(design).ok())
    }
}

fn air_value(t: f64, rh: f64) -> Observed {
    let (t, rh) = (Temperature::new(t).unwrap(), RelativeHumidity::new(rh).unwrap());
    Observed::Air(AirValue { t, rh, over: Over::Water })
}

fn call(advice: &SpaceAdvice) -> AirCall {
    match &advice.air {
        AirAdvice::Compared(c) => c.call,
        AirAdvice::NotRead { .. } => panic!("airs were read"),
    }
}

#[test]
fn a_vented_crawl_space_in_a_humid_july_is_closed_and_dried() {
    let case = Case::new(Structure::CrawlVented)
        .air("Outdoor air", 31.0, 66.0)
        .air("Crawl space", 21.5, 91.0)
        .surface("Rim joist, north", 18.6)
        .surface("Soil", 13.0);
    let rim = case.place("Rim joist, north");
    let Place::Surface(id) = rim else { panic!() };
    let read = case.picture().surface(id).unwrap().read.clone().unwrap();
    assert_eq!(read.judged.unwrap().verdict, Verdict::Condensing);
    let advice = case.advice("Crawl space", -12.0);
    assert_eq!(call(&advice), AirCall::KeepClosed);
    let drying = advice.drying.as_ref().unwrap();
    assert!(
        drying.target.dew > 13.0,
        "60 % in the air sets the goal, not the soil that is always damp: {:?}",
        drying.target
    );
    let DryingCall::Dehumidify(load) = &drying.call else { panic!("{:?}", drying.call) };
    assert!(load.by_air > 0.0 && load.low < load.total() && load.total() < load.high, "{load:?}");
    assert!(advice.insulation.is_empty(), "an unheated space follows the weather: no winter night is predicted for it");
}

#[test]
fn dry_winter_air_ventilates_and_the_design_night_sizes_the_insulation() {
    let case = Case::new(Structure::Vehicle)
        .air("Outdoor air", -6.0, 80.0)
        .air("Cabin", 18.0, 60.0)
        .surface("Roof panel", 8.0);
    let advice = case.advice("Cabin", -15.0);
    assert_eq!(call(&advice), AirCall::Ventilate);
    assert!(matches!(advice.drying.as_ref().unwrap().call, DryingCall::VentilateInstead));
    let InsulationCall::Add(night) = &advice.insulation[0].call else { panic!("{:?}", advice.insulation) };
    // f = (8 + 6)/(18 + 6) = 0.583; at −15 °C the panel would stand at −15 + 0.583·33 = 4.25 °C.
    assert!((night.surface.value - 4.25).abs() < 0.01);
    // R now 0.10/(1 − f) = 0.24; dew point of 18 °C 60 % is 10.12 °C, so R must reach 0.10·33/(18 − 10.12) = 0.4188.
    assert!((night.r_added.unwrap() - (0.4188 - 0.24)).abs() < 0.002, "{night:?}");
    assert!(night.r_added_mold.unwrap() > night.r_added.unwrap());
    assert!(!night.weak, "24 K between in and out");
}

#[test]
fn overlapping_bands_end_as_cannot_tell() {
    let near = Case::new(Structure::Basement).air("Outdoor air", 15.0, 70.0).air("Basement", 15.5, 70.0);
    assert_eq!(call(&near.advice("Basement", -10.0)), AirCall::CantTell);
    let only = Case::new(Structure::Basement).air("Basement", 15.5, 70.0).surface("Slab", 13.0);
    assert_eq!(only.advice("Basement", -10.0).air, AirAdvice::NotRead { outdoor_missing: true });
    let summer = Case::new(Structure::Basement)
        .air("Outdoor air", 31.0, 50.0)
        .air("Living rooms", 24.0, 50.0)
        .surface("Wall, north", 25.0);
    assert_eq!(
        summer.advice("Living rooms", -10.0).insulation[0].call,
        InsulationCall::CantTell(WhyNot::WarmerOutside)
    );
    let mild = Case::new(Structure::Basement)
        .air("Outdoor air", 17.0, 60.0)
        .air("Living rooms", 20.0, 50.0)
        .surface("Wall, north", 18.5);
    assert_eq!(
        mild.advice("Living rooms", -10.0).insulation[0].call,
        InsulationCall::CantTell(WhyNot::TooLittleDifference)
    );
}

#[test]
fn nothing_wet_is_not_told_to_ventilate_and_a_surface_has_its_own_two_sides() {
    let dry = Case::new(Structure::CrawlVented)
        .air("Outdoor air", -2.0, 70.0)
        .air("Living rooms", 20.0, 40.0)
        .surface("Wall, north", 17.0);
    assert_eq!(call(&dry.advice("Living rooms", -10.0)), AirCall::NotNeeded);
    assert!(dry.advice("Living rooms", -10.0).work().is_empty());
    let humid = Case::new(Structure::CrawlVented).air("Outdoor air", -2.0, 70.0).air("Living rooms", 20.0, 65.0);
    assert_eq!(call(&humid.advice("Living rooms", -10.0)), AirCall::Ventilate, "over its ceiling it asks for it");
    // The hatch of an attic stands between the attic's air and the rooms', whatever the weather.
    let attic = Case::new(Structure::Attic)
        .air("Outdoor air", -15.0, 80.0)
        .air("Attic", -5.0, 80.0)
        .air("Rooms below", 20.0, 50.0)
        .surface("Hatch", 0.0);
    let Place::Surface(hatch) = attic.place("Hatch") else { panic!() };
    let factor = |case: &Case| case.picture().surface(hatch).unwrap().read.as_ref().unwrap().factor.map(|f| f.0.value);
    // (0 − 20)/(−5 − 20) = 0.8 between attic and rooms; against outdoors it would be (0 + 15)/(−5 + 15) = 1.5.
    assert!((factor(&attic).unwrap() - 0.8).abs() < 1e-9, "{:?}", factor(&attic));
    let unread =
        Case::new(Structure::Attic).air("Outdoor air", -15.0, 80.0).air("Attic", -5.0, 80.0).surface("Hatch", 0.0);
    assert_eq!(factor(&unread), None, "its far side was not read");
}

#[test]
fn an_attic_wet_from_below_is_told_so_when_the_vapor_pressures_say_it() {
    let attic = |rooms: f64, out: f64| {
        Case::new(Structure::Attic)
            .air("Outdoor air", -8.0, out)
            .air("Attic", -4.0, 92.0)
            .air("Rooms below", 20.0, rooms)
            .surface("Sheathing, north", -6.0)
            .advice("Attic", -15.0)
    };
    let fed = attic(50.0, 70.0).from_below.unwrap();
    // PsychroLib: 20 °C 50 % is 1169 Pa; −4 °C 92 % over water is 418 Pa.
    assert!((fed.drive.value - 751.0).abs() < 15.0, "{fed:?}");
    assert_eq!(attic(17.0, 70.0).from_below, None, "the rooms hold less");
    let damp_outside = Case::new(Structure::Attic)
        .air("Outdoor air", -1.0, 98.0)
        .air("Attic", -4.0, 92.0)
        .air("Rooms below", 20.0, 50.0)
        .surface("Sheathing, north", -6.0);
    assert_eq!(damp_outside.advice("Attic", -15.0).from_below, None, "it may as well blow in");
    let dry = Case::new(Structure::Attic)
        .air("Outdoor air", -8.0, 60.0)
        .air("Attic", 2.0, 45.0)
        .air("Rooms below", 20.0, 50.0)
        .surface("Sheathing, north", 1.0);
    assert_eq!(dry.advice("Attic", -15.0).from_below, None, "nothing is wet");
}

#[test]
fn glass_metal_membranes_hatches_and_crowns_are_never_told_to_get_insulation() {
    for (structure, space, surface, remedy) in [
        (Structure::Basement, "Living rooms", "Window, north", Remedy::Glass),
        (Structure::Vehicle, "Cabin", "Windshield", Remedy::Glass),
        (Structure::Vehicle, "Cabin", "Hatch frame", Remedy::Metal),
        (Structure::RoundTent, "Dwelling", "Membrane inside", Remedy::Membrane),
        (Structure::RoundTent, "Dwelling", "Crown ring", Remedy::Crown),
    ] {
        let case = Case::new(structure).air("Outdoor air", -6.0, 80.0);
        let name = case
            .building
            .spaces
            .iter()
            .find(|s| s.name == space)
            .or(case.building.spaces.first())
            .unwrap()
            .name
            .clone();
        let advice = case.air(&name, 18.0, 65.0).surface(surface, 4.0).advice(&name, -18.0);
        let InsulationCall::Otherwise(_, told) = advice.insulation[0].call else {
            panic!("{surface}: {:?}", advice.insulation)
        };
        assert_eq!(told, remedy, "{surface}");
        assert!(!advice.work().contains(&Work::Insulate));
    }
}

#[test]
fn a_surface_is_judged_by_the_air_read_nearest_in_time() {
    let case = Case::new(Structure::Vehicle)
        .air("Cabin", 18.0, 80.0)
        .surface("Windshield", 12.0)
        .air("Outdoor air", 0.0, 80.0)
        .air("Cabin", 18.0, 40.0);
    let Place::Surface(id) = case.place("Windshield") else { panic!() };
    let read = case.picture().surface(id).unwrap().read.clone().unwrap();
    assert_eq!(read.judged.unwrap().verdict, Verdict::Condensing, "judged by the first air, not the latest");
    let unread = Case::new(Structure::Vehicle).surface("Windshield", 12.0);
    assert!(unread.picture().surface(id).unwrap().read.as_ref().unwrap().judged.is_none(), "no air, no verdict");
}

#[test]
fn vapor_is_driven_from_the_wetter_to_the_drier_side() {
    let case = Case::new(Structure::CrawlVented).air("Outdoor air", 31.0, 66.0).air("Crawl space", 21.5, 91.0).air(
        "Living rooms",
        24.0,
        55.0,
    );
    let picture = case.picture();
    let drive = |name: &str| {
        let b = case.building.boundaries.iter().find(|b| b.name == name).unwrap();
        picture.boundaries.iter().find(|s| s.boundary_id == b.id).unwrap().drive.unwrap().value
    };
    // PsychroLib: 31 °C 66 % is 2967.0 Pa, 21.5 °C 91 % is 2334.2 Pa, 24 °C 55 % is 1641.7 Pa.
    assert!((drive("Crawl wall, north") - 632.8).abs() < 2.0);
    assert!((drive("Floor over the crawl space") - (1641.7 - 2334.2)).abs() < 2.0, "out of the crawl space, up");
}

#[test]
fn odd_values_are_asked_about_and_ordinary_ones_are_not() {
    let case = Case::new(Structure::CrawlVented).air("Outdoor air", 5.0, 80.0).air("Attic", 8.0, 60.0);
    let ask = |name: &str, now: Observed, before: Option<Observed>| {
        questions(&case.building, &case.picture(), case.place(name), &now, before.as_ref())
    };
    let surface = |t| Observed::Surface(Temperature::new(t).unwrap());
    assert!(matches!(ask("Attic", air_value(30.0, 100.0), None)[..], [Doubt::Saturated { .. }]));
    assert!(matches!(ask("Living rooms", air_value(68.0, 50.0), None)[..], [Doubt::LooksFahrenheit { .. }]));
    assert!(matches!(
        ask("Attic", air_value(8.0, 60.0), Some(air_value(30.0, 60.0)))[..],
        [Doubt::TemperatureJump { .. }]
    ));
    assert!(matches!(ask("Roof sheathing, north", surface(25.0), None)[..], [Doubt::SurfaceOutOfPlace { .. }]));
    assert!(matches!(ask("Attic", air_value(-25.0, 90.0), None)[..], [Doubt::BeyondIce { .. }]));
    assert_eq!(ask("Crawl space", air_value(18.0, 99.5), None), [], "saturated crawl spaces are common");
    assert_eq!(ask("Roof sheathing, north", surface(6.0), Some(surface(7.5))), []);
}

#[test]
fn the_starter_buildings_are_whole() {
    assert_eq!(blueprints().len(), Structure::ALL.len());
    for plan in blueprints() {
        let mut n = 0;
        let b = plan.build(|| {
            n += 1;
            Uuid::from_u128(n)
        });
        assert_eq!(b.boundaries.len(), plan.boundaries.len(), "{}: a boundary names an unknown space", plan.name);
        assert_eq!(b.stations.len(), 1 + b.spaces.len() + b.surfaces.len());
        assert_eq!(b.stations[0].place, Place::Outdoors, "outdoors comes first");
        assert_eq!(plan.shell, plan.id.shell());
        let roof = b.boundaries.iter().any(|x| x.face == Face::Ceiling && x.beyond == Side::Outdoors);
        assert!(roof, "{}: nothing overhead", plan.name);
    }
}
