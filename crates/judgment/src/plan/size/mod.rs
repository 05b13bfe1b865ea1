//! How much of it: every fix sized from this job's own figures, with what was assumed said beside what was read.
//!
//! A sizing asks for what it needs by name. What the building or a reading knows is taken from there; what nobody has
//! measured is assumed in words, and anything can be typed over. So the list of what was asked is the working.

mod air;
mod cover;
mod dry;
mod machine;
mod sides;
mod stop;

pub use sides::{BothSides, SideOf, both_sides};

use super::school::Choices;
use super::table::Fix;
use crate::cause::Case;
use crate::climate::{ClimateYear, year};
use crate::picture::Picture;
use building::reading::AirState;
use building::{Building, Climate, Level, Space, SpaceKind};
use hygrothermal::air::MoistAir;
use hygrothermal::material::{Material, material};
use hygrothermal::quantity::{AirFlow, Pressure, Temperature};
use hygrothermal::space::compare_air;
use std::collections::BTreeMap;

/// What a figure measures, and in which SI unit it is given.
#[derive(Debug, Clone, Copy, PartialEq, Eq, serde::Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Measure {
    /// m².
    Area,
    /// Net free area, m².
    FreeArea,
    /// m.
    Length,
    /// m, of layers and diameters.
    Thickness,
    /// m³.
    Volume,
    /// °C.
    Temperature,
    /// %.
    Percent,
    /// 0 to 1.
    Share,
    /// m³/s.
    Flow,
    /// L/day.
    Daily,
    /// L.
    Liters,
    /// mL.
    Milliliters,
    /// m²/L.
    Spread,
    /// m²K/W.
    Resistance,
    /// W/(m·K).
    Conductivity,
    /// Pa.
    Pressure,
    /// min.
    Minutes,
    /// h.
    Hours,
    /// days.
    Days,
    /// kWh in a year.
    YearlyEnergy,
    /// L/kWh.
    Efficiency,
    /// Air changes in an hour, pieces and other plain figures.
    Number,
    /// Plain figures to two decimals.
    Fraction,
    /// K.
    Difference,
    /// Resistance to vapor as still air, m.
    StillAir,
    /// g/m².
    Gain,
}

/// Where a figure comes from.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum FigureOrigin {
    /// From the building as drawn.
    Building,
    /// Read on the visit, at this place.
    Read(String),
    /// Nobody has measured it: why this is taken.
    Assumed(&'static str),
    /// Typed on the plan.
    Typed,
}

/// A figure a sizing rests on.
#[derive(Debug, Clone, PartialEq)]
pub struct Given {
    /// Stable key within the fix.
    pub key: &'static str,
    /// What it is.
    pub name: &'static str,
    /// What it measures.
    pub measure: Measure,
    /// In SI.
    pub value: f64,
    /// Where it comes from.
    pub origin: FigureOrigin,
}

/// A choice a sizing rests on.
#[derive(Debug, Clone, PartialEq)]
pub struct Pick {
    /// Stable key within the fix.
    pub key: &'static str,
    /// What is chosen.
    pub name: &'static str,
    /// Ids and names to choose from.
    pub options: Vec<(&'static str, &'static str)>,
    /// Id of the chosen one.
    pub chosen: &'static str,
}

/// A figure that follows.
#[derive(Debug, Clone, PartialEq)]
pub struct Found {
    /// What it is.
    pub name: String,
    /// What it measures.
    pub measure: Measure,
    /// In SI.
    pub value: f64,
}

/// What to buy.
#[derive(Debug, Clone, PartialEq)]
pub struct Need {
    /// Id of the price book.
    pub item: &'static str,
    /// In the item's unit.
    pub quantity: f64,
}

/// The calculator's page that does the same sum: its operation, and its fields in SI.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct SameSum {
    /// Operation of the headless interface.
    pub op: &'static str,
    /// Field and figure.
    pub figures: Vec<(&'static str, f64)>,
    /// Field and word.
    pub words: Vec<(&'static str, &'static str)>,
}

/// A fix, sized.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Sizing {
    /// What it rests on.
    pub given: Vec<Given>,
    /// What is chosen for it.
    pub picks: Vec<Pick>,
    /// What follows.
    pub found: Vec<Found>,
    /// How, in words and signs.
    pub formula: Vec<&'static str>,
    /// Where that comes from.
    pub source: &'static str,
    /// What to buy.
    pub needs: Vec<Need>,
    /// The same sum in the calculator.
    pub same: Option<SameSum>,
    /// What else to know.
    pub notes: Vec<String>,
    /// Hours of work.
    pub hours: f64,
}

/// What a job is known by when its plan is sized.
#[derive(Debug, Clone, Copy)]
pub struct Site<'a> {
    /// The building.
    pub building: &'a Building,
    /// It, as read on the visit.
    pub picture: &'a Picture,
    /// Wood readings of all visits: station, day, %.
    pub wood: &'a [(uuid::Uuid, f64, f64)],
    /// Its climate.
    pub climate: Climate,
    /// Design outdoor temperature, °C.
    pub design_outdoor_c: f64,
    /// Everything known.
    pub case: &'a Case,
    /// Schools chosen.
    pub choices: &'a Choices,
    /// Figures (SI) and words typed on the plan, by fix and key.
    pub typed: &'a BTreeMap<(String, String), String>,
}

/// A sizing under way.
struct Work<'a> {
    site: &'a Site<'a>,
    fix: &'static Fix,
    out: Sizing,
}

/// Sizes a fix for a site.
#[must_use]
pub fn size(site: &Site, fix: &'static Fix) -> Sizing {
    let mut work = Work { site, fix, out: Sizing::default() };
    let sized = match fix.id.as_str() {
        "refer_mold_pro" | "clean_growth" | "contain_and_filter" | "remove_wet_materials" => {
            dry::growth_and_removal(&mut work)
        }
        "ventilate_now" => dry::ventilate(&mut work),
        "dehumidify_now" => dry::dehumidify(&mut work),
        "dry_out" => dry::dry_out(&mut work),
        "tented_floor_drying" => dry::tent(&mut work),
        "monitor" => dry::monitor(&mut work),
        "ground_film" | "reseal_film" => cover::ground(&mut work),
        "inside_wall_sealer" | "breathable_repellent" => cover::coating(&mut work),
        "insulate_rim" | "insulate_cold_spots" | "insulate_attic" => cover::insulation(&mut work),
        "insulate_pipes" => cover::pipes(&mut work),
        "air_seal_rim" | "air_seal_bypasses" | "seal_ducts" => cover::sealing(&mut work),
        "interior_retarder" | "open_membrane" | "reclad_then_fill" => cover::membrane(&mut work),
        "attic_intake" | "single_high_vent_kind" => air::attic(&mut work),
        "vent_skirting" | "keep_vented" => air::under_floor(&mut work),
        "close_vents" => air::covers(&mut work),
        "exhaust_to_outside" | "insulated_exhaust_duct" | "exhaust_flap" => air::exhaust_duct(&mut work),
        "exhaust_fan" => air::fan(&mut work),
        "open_routine" => air::airing(&mut work),
        "reduce_sources" => air::sources(&mut work),
        "supply_air" => air::supply(&mut work),
        "soil_gas_vent" => air::soil_gas(&mut work),
        "dehumidifier" | "fix_dehumidifier" => machine::dehumidifier(&mut work),
        _ => stop::size(&mut work),
    };
    // A sum that cannot be made for want of a reading leaves what was asked, and says so.
    if sized.is_none() {
        work.out.notes.push(
            "Cannot be sized: a reading it rests on is missing, or a figure lies outside of what can be computed."
                .into(),
        );
    }
    let [base, each] = fix.hours;
    let hours = base + each * work.out.needs.first().map_or(0.0, |n| n.quantity);
    let why = "rough: to set up, and for each unit of its first material";
    work.out.hours = work.assume("work_h", "Hours of work", Measure::Hours, hours, why);
    work.out
}

impl<'a> Work<'a> {
    fn give(
        &mut self,
        key: &'static str,
        name: &'static str,
        measure: Measure,
        value: f64,
        origin: FigureOrigin,
    ) -> f64 {
        let typed = self.typed(key).and_then(|t| t.parse::<f64>().ok()).filter(|x| x.is_finite());
        let (value, origin) = typed.map_or((value, origin), |v| (v, FigureOrigin::Typed));
        self.out.given.push(Given { key, name, measure, value, origin });
        value
    }

    fn typed(&self, key: &str) -> Option<&'a String> {
        self.site.typed.get(&(self.fix.id.clone(), key.to_owned()))
    }

    /// A choice of material, the first if nobody chose.
    fn pick(&mut self, key: &'static str, name: &'static str, ids: &[&'static str]) -> Option<&'static Material> {
        let all: Vec<&'static Material> = ids.iter().filter_map(|id| material(id)).collect();
        let chosen = self.typed(key).and_then(|id| all.iter().find(|m| m.id == *id)).or(all.first()).copied()?;
        let options = all.iter().map(|m| (m.id.as_str(), m.name.as_str())).collect();
        self.out.picks.push(Pick { key, name, options, chosen: &chosen.id });
        Some(chosen)
    }

    /// A figure nobody has measured.
    fn assume(
        &mut self,
        key: &'static str,
        name: &'static str,
        measure: Measure,
        value: f64,
        why: &'static str,
    ) -> f64 {
        self.give(key, name, measure, value, FigureOrigin::Assumed(why))
    }

    /// A figure of the building.
    fn drawn(&mut self, key: &'static str, name: &'static str, measure: Measure, value: f64) -> f64 {
        self.give(key, name, measure, value, FigureOrigin::Building)
    }

    fn found(&mut self, name: impl Into<String>, measure: Measure, value: f64) {
        self.out.found.push(Found { name: name.into(), measure, value });
    }

    fn need(&mut self, item: &'static str, quantity: f64) {
        if quantity > 0.0 {
            self.out.needs.push(Need { item, quantity });
        }
    }

    fn explain(&mut self, formula: &[&'static str], source: &'static str) {
        self.out.formula.extend(formula);
        self.out.source = source;
    }

    fn note(&mut self, text: impl Into<String>) {
        self.out.notes.push(text.into());
    }

    fn same(&mut self, op: &'static str, figures: &[(&'static str, f64)], words: &[(&'static str, &'static str)]) {
        self.out.same = Some(SameSum { op, figures: figures.to_vec(), words: words.to_vec() });
    }

    fn year(&self) -> &'static ClimateYear {
        year(self.site.climate)
    }

    /// Spaces of these kinds; all of the fix's own where none is named.
    fn spaces(&self, kinds: &[SpaceKind]) -> Vec<&'a Space> {
        self.site.building.spaces.iter().filter(|s| kinds.contains(&s.kind)).collect()
    }

    /// The space a fix is for: of the kinds it is done in, the one whose air holds most water against its surfaces.
    fn space(&self, kinds: &[SpaceKind]) -> Option<&'a Space> {
        let margin = |s: &&Space| {
            let state = self.site.picture.space(s.id);
            let of = |s: &crate::picture::SpaceState| {
                let read = s.surfaces.iter().filter_map(|x| x.read.as_ref()?.judged?.margin);
                read.map(|m| m.value).fold(f64::INFINITY, f64::min)
            };
            state.map_or(f64::INFINITY, of)
        };
        let mut all = self.spaces(kinds);
        if all.is_empty() {
            all = self.site.building.spaces.iter().collect();
        }
        all.into_iter().min_by(|a, b| margin(a).total_cmp(&margin(b)))
    }

    fn air_of(&self, space: &Space) -> Option<AirState> {
        self.site.picture.space(space.id)?.air
    }

    /// Air of a space as two figures that can be typed over, read or else assumed.
    fn inside_air(&mut self, space: Option<&Space>, otherwise: [f64; 2], why: &'static str) -> Option<MoistAir> {
        let read = space.and_then(|s| Some((s.name.clone(), self.air_of(s)?)));
        let [t, rh] = match read {
            Some((place, air)) => {
                let rh = air.air.rh(hygrothermal::air::Over::Ice).min(100.0);
                [
                    self.give(
                        "t",
                        "Air there",
                        Measure::Temperature,
                        air.value.t.get(),
                        FigureOrigin::Read(place.clone()),
                    ),
                    self.give("rh", "Its relative humidity", Measure::Percent, rh, FigureOrigin::Read(place)),
                ]
            }
            None => [
                self.assume("t", "Air there", Measure::Temperature, otherwise[0], why),
                self.assume("rh", "Its relative humidity", Measure::Percent, otherwise[1], why),
            ],
        };
        moist(t, rh)
    }

    /// Air changes with openings shut.
    fn changes_shut(&mut self, space: &Space) -> f64 {
        let usual = space.kind.air_changes().closed;
        self.assume("ach", "Air changes an hour, shut", Measure::Number, usual, "closed up, rough")
    }

    /// Outdoor air of the visit as two figures that can be typed over; the climate's mean of its most humid month
    /// where it was not read.
    fn outdoor_air(&mut self) -> Option<MoistAir> {
        let why = "the climate’s most humid month: outdoor air was not read";
        let year = self.year();
        let month = year.most_humid();
        let read = self.site.picture.outdoor;
        let (t, rh, origin) = match read {
            Some(o) => (
                o.value.t.get(),
                o.air.rh(hygrothermal::air::Over::Ice).min(100.0),
                FigureOrigin::Read("Outdoor air".into()),
            ),
            None => (year.t[month], year.air(month)?.rh(hygrothermal::air::Over::Ice), FigureOrigin::Assumed(why)),
        };
        let t = self.give("out_t", "Outdoor air", Measure::Temperature, t, origin.clone());
        let rh = self.give("out_rh", "Its relative humidity", Measure::Percent, rh, origin);
        moist(t, rh)
    }

    /// Figures already given, as they stand after anything typed over.
    fn figures<const N: usize>(&self, keys: [&str; N]) -> Option<[f64; N]> {
        let mut out = [0.0; N];
        for (at, key) in out.iter_mut().zip(keys) {
            *at = self.out.given.iter().find(|g| g.key == key)?.value;
        }
        Some(out)
    }

    /// Temperature of the coldest surface read in a space, bare soil left out.
    fn coldest(&self, space: &Space) -> Option<Temperature> {
        Some(self.site.picture.space(space.id)?.coldest(self.site.building)?.1.t)
    }

    /// Water that outdoor air carries out at a flow; both airs have been given before.
    fn exchange(&mut self, space: &Space, (inside, outside): (&MoistAir, &MoistAir), flow: AirFlow) -> Option<()> {
        let compared = compare_air(inside, outside, flow, self.coldest(space));
        self.found("Water carried out in a day", Measure::Daily, compared.removal_l_day);
        self.explain(&["water = ρ Q (W_in − W_out)"], "Mass balance; ASHRAE Handbook 2017 ch. 1 for the airs.");
        if compared.removal_l_day <= 0.0 {
            self.note("Outdoor air is the wetter one now: keep shut, and open only when its dew point has fallen below the inside’s.");
        }
        if compared.condenses == Some(true) {
            self.note("It would condense on the coldest surface read: ventilating alone leaves that wet.");
        }
        let [t, rh, out_t, out_rh] = self.figures(["t", "rh", "out_t", "out_rh"])?;
        let airs = [("inside.t_c", t), ("inside.rh_pct", rh), ("outside.t_c", out_t), ("outside.rh_pct", out_rh)];
        self.same("compare_air", &[&airs[..], &[("flow_m3_s", flow.get())]].concat(), &[]);
        Some(())
    }

    /// Floor area of the house: its largest story.
    fn footprint(&self) -> f64 {
        let of = |level: Level| -> f64 {
            self.site.building.spaces.iter().filter(|s| s.level == level).map(|s| s.area_m2).sum()
        };
        [Level::Under, Level::Living, Level::Upper].map(of).into_iter().fold(1.0, f64::max)
    }

    /// Surfaces of glass, at least one.
    fn windows(&self) -> f64 {
        let glass = |s: &&building::Surface| s.material == building::Material::Glass;
        self.site.building.surfaces.iter().filter(glass).count().max(1) as f64
    }
}

/// Sides of a rectangle half as long again as it is wide.
fn rectangle(area: f64) -> (f64, f64) {
    let length = (1.5 * area).sqrt();
    (length, area / length)
}

/// Why a floor plan is taken to be one.
const RECTANGLE: &str = "a rectangle half as long again as wide";

fn moist(t: f64, rh: f64) -> Option<MoistAir> {
    let rh = hygrothermal::quantity::RelativeHumidity::new(rh.clamp(0.0, 100.0)).ok()?;
    MoistAir::from_rh(Temperature::new(t).ok()?, rh, hygrothermal::air::Over::Ice, Pressure::STANDARD).ok()
}

/// Rounds up to whole pieces, forgiving rounding of sums.
fn pieces(x: f64) -> f64 {
    (x - 1e-9).ceil().max(0.0)
}
