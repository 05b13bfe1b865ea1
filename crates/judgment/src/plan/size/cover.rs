//! Covering, sealing and insulating.

use super::{FigureOrigin, Measure, RECTANGLE, Work, pieces, rectangle};
use crate::advice::{InsulationCall, advise};
use building::{Side, Space, SpaceKind};
use hygrothermal::buildup::PipeCover;
use hygrothermal::quantity::{
    Area, Conductivity, Diameter, Factor, Length, SpreadRate, Temperature, ThermalResistance, Thickness,
};
use hygrothermal::surface::{Target, added_insulation};
use hygrothermal::takeoff::{Coating, Dilution, GroundFilm, boards, pipe_cover_length, sealant_tubes};

/// Boards of 1.2 m by 2.4 m, m².
const BOARD: f64 = 2.88;
/// Thinnest board worth fixing, m.
const THINNEST: f64 = 0.02;
/// Outdoor air up to this tells of the design night, °C.
const COLD_WEATHER: f64 = 10.0;
/// Thicknesses pipe cover is sold in, m.
const PIPE_COVERS: [f64; 6] = [0.009, 0.013, 0.019, 0.025, 0.032, 0.040];
const OVER_GROUND: [SpaceKind; 2] = [SpaceKind::Crawl, SpaceKind::UnderFloor];

pub fn ground(w: &mut Work) -> Option<()> {
    let over: f64 = w.spaces(&OVER_GROUND).iter().map(|s| s.area_m2).sum();
    let over = if over > 0.0 { over } else { w.footprint() };
    let (long, wide) = rectangle(over);
    let length = w.assume("length_m", "Ground, longer side", Measure::Length, long, RECTANGLE);
    let width = w.assume("width_m", "Ground, shorter side", Measure::Length, wide, RECTANGLE);
    let sheet = w.assume("sheet_m", "Sheet’s width", Measure::Length, 4.0, "a usual roll");
    let lap = w.assume("lap_m", "Lap", Measure::Length, 0.3, "0.15 to 0.3 m (common practice)");
    let up = w.assume("up_m", "Turned up the walls", Measure::Length, 0.3, "usual");
    let piers = w.assume("piers", "Piers", Measure::Number, 0.0, "count them");
    let girth = w.assume("girth_m", "Girth of a pier", Measure::Length, 1.6, "40 cm square");
    let m = |x: f64| Length::new(x).ok();
    let film = GroundFilm {
        length: m(length)?,
        width: m(width)?,
        sheet: m(sheet)?,
        lap: m(lap)?,
        turn_up: m(up)?,
        piers: piers.clamp(0.0, 1000.0) as u32,
        pier_girth: m(girth)?,
    };
    let need = film.need()?;
    w.explain(
        &[
            "sheets = 1 + (width + 2 up − sheet)/(sheet − lap), rounded up",
            "film = (length + 2 up)(width + 2 up + laps) + piers × girth × up;  tape = laps × (length + 2 up) + piers × girth",
        ],
        "Take-off; laps common practice.",
    );
    w.found("Sheets side by side", Measure::Number, f64::from(need.sheets));
    w.found("Edge fixed to the walls", Measure::Length, need.edge);
    if w.fix.id == "ground_film" {
        w.found("Film with laps and turn-ups", Measure::Area, need.film);
        w.need("ground_film_m2", need.film);
    }
    w.need("tape_m", need.tape);
    w.need("edge_strip_m", need.edge);
    w.need("sealant_tube", pieces(need.edge / 8.0));
    Some(())
}

pub fn coating(w: &mut Work) -> Option<()> {
    let (length, width) = rectangle(w.footprint());
    let height = w.space(&[SpaceKind::Garage, SpaceKind::Basement, SpaceKind::Room]).map_or(2.4, |s| s.height_m);
    let wall = w.assume("wall_m", "Wall, round", Measure::Length, 2.0 * (length + width), RECTANGLE);
    let height = w.drawn("height_m", "Wall above the ground", Measure::Length, height);
    let open = w.assume("open", "Doors and windows", Measure::Share, 0.15, "a rough share");
    let coats = w.assume("coats", "Coats", Measure::Number, 2.0, "common practice");
    let outside = w.fix.id == "breathable_repellent";
    let spread = if outside { (7.9, "1:4 on block (common practice)") } else { (3.0, "rough block, from memory") };
    let spread = w.assume("spread", "A liter covers once", Measure::Spread, spread.0, spread.1);
    let area = wall * height * (1.0 - open.clamp(0.0, 1.0));
    let part = |x| Factor::new(x).ok();
    let dilution = if outside { Some(Dilution { concentrate: part(1.0)?, water: part(4.0)? }) } else { None };
    let coats = coats.clamp(1.0, 10.0).round();
    let coating =
        Coating { area: Area::new(area).ok()?, coats: coats as u32, spread: SpreadRate::new(spread).ok()?, dilution };
    let need = coating.need();
    w.found("Wall to coat", Measure::Area, area);
    w.found("Mixed", Measure::Liters, need.liters);
    let mut same = vec![("area_m2", area), ("coats", coats), ("spread_m2_l", spread)];
    if let Some((concentrate, water)) = need.parts {
        w.found("Concentrate", Measure::Liters, concentrate);
        w.found("Water", Measure::Liters, water);
        w.found("Batches of 9.5 L", Measure::Number, pieces(need.liters / 9.5));
        w.need("repellent_concentrate_l", concentrate);
        same.extend([("concentrate_parts", 1.0), ("water_parts", 4.0)]);
    } else {
        w.need("sealer_l", need.liters);
    }
    w.explain(&["liters = area × coats / spread"], "Common practice; the label’s figure goes before it.");
    w.same("coverage", &same, &[]);
    w.note("Surface 10 °C or more, above the dew point, clean and dry; on the outside no rain for a day.");
    Some(())
}

/// What a surface would need on the design night, by its own readings or by its build-up.
struct Lack {
    r_now: f64,
    r_si: f64,
    place: String,
}

pub fn insulation(w: &mut Work) -> Option<()> {
    let kinds: &[SpaceKind] = match w.fix.id.as_str() {
        "insulate_rim" => &[SpaceKind::Crawl, SpaceKind::Basement],
        "insulate_attic" => &[SpaceKind::Room],
        _ => &[SpaceKind::Room, SpaceKind::VehicleCabin, SpaceKind::BoatCabin, SpaceKind::Tent, SpaceKind::Basement],
    };
    let space = w.space(kinds)?;
    let materials: &[&str] = match w.fix.id.as_str() {
        "insulate_attic" => &["cellulose_loose", "glass_wool", "stone_wool"],
        "insulate_rim" => &["xps", "pir_foil", "eps", "stone_wool_dense"],
        _ => &["xps", "pir_foil", "stone_wool", "wood_fiber_soft", "closed_cell_rubber"],
    };
    let chosen = w.pick("material", "Material", materials)?;
    let lack = lack(w, space);
    let (inside, origin) = winter_air(w, space)?;
    let t = w.give("t", "Air on the warm side", Measure::Temperature, inside[0], origin.clone());
    let rh = w.give("rh", "Its relative humidity", Measure::Percent, inside[1], origin);
    let out = w.give(
        "out_t",
        "Design outdoor temperature",
        Measure::Temperature,
        w.site.design_outdoor_c,
        FigureOrigin::Building,
    );
    let now =
        w.give("r_now", "Resistance now, films in", Measure::Resistance, lack.r_now, FigureOrigin::Read(lack.place));
    let r_si = w.assume("r_si", "Film inside", Measure::Resistance, lack.r_si, "ISO 6946, by the face");
    let air = super::moist(t, rh)?;
    let r = |x| ThermalResistance::new(x).ok();
    let outside = Temperature::new(out).ok()?;
    let added = |target| added_insulation(&air, outside, r(now)?, r(r_si)?, target).added;
    let (dry, mold) = (added(Target::NoCondensation), added(Target::NoMold));
    w.explain(
        &[
            "T_si = T_i − (T_i − T_e) R_si/R, solved for R at the dew point, and at 80 % RH on the surface",
            "thickness = R × λ",
        ],
        "ISO 6946, ISO 13788:2012.",
    );
    w.same(
        "insulation_for",
        &[("inside.t_c", t), ("inside.rh_pct", rh), ("outside_c", out), ("r_existing_m2k_w", now), ("r_si", r_si)],
        &[("target", if mold.is_some() { "no_mold" } else { "no_condensation" })],
    );
    let Some(dry) = dry else {
        w.note("No insulation keeps this surface dry in so humid an air: dry the air first.");
        return Some(());
    };
    w.found("To add against condensation", Measure::Resistance, dry);
    match mold {
        Some(mold) => w.found("To add against mold (80 % at the surface)", Measure::Resistance, mold),
        None => w.note("No insulation holds this surface under 80 % in so humid an air: hold the air drier as well."),
    }
    let most = mold.unwrap_or(dry);
    let thickness = (most * chosen.lambda).max(if most > 0.0 { THINNEST } else { 0.0 });
    w.found(format!("Thickness of {}", chosen.name), Measure::Thickness, thickness);
    if most <= 0.0 {
        w.note(
            "By these figures it stays dry on the design night as it is: insulation saves heat, it is not the cure.",
        );
    }
    insulate_how_much(w, space, chosen.id.as_str(), thickness)
}

fn insulate_how_much(w: &mut Work, space: &Space, material: &str, thickness: f64) -> Option<()> {
    let (length, width) = rectangle(space.area_m2);
    let loose = material == "cellulose_loose" || material == "glass_wool" || material == "stone_wool";
    match w.fix.id.as_str() {
        "insulate_rim" => {
            let run = w.assume("run_m", "Rim", Measure::Length, 2.0 * (length + width), RECTANGLE);
            let height = w.assume("height_m", "Its height", Measure::Length, 0.3, "a usual joist");
            let count = f64::from(boards(Area::new(run * height).ok()?, Area::new(BOARD).ok()?));
            w.found("Rim to cover", Measure::Area, run * height);
            w.need("foam_board", count);
            w.need("sealant_tube", tubes(run * 3.0, 0.006)?);
        }
        "insulate_attic" => {
            let attic: f64 = w.spaces(&[SpaceKind::Attic]).iter().map(|s| s.area_m2).sum();
            let area =
                w.drawn("area_m2", "Attic floor", Measure::Area, if attic > 0.0 { attic } else { space.area_m2 });
            let (eave, _) = rectangle(area);
            w.need("loose_insulation_m3", area * thickness.max(0.1));
            w.need("baffle", pieces(2.0 * eave / 0.6));
        }
        _ => {
            let area =
                w.assume("area_m2", "Cold spots to cover", Measure::Area, 3.0, "from the thermal picture: measure it");
            if loose {
                w.need("batt_m2", area * 1.1);
            } else {
                w.need("foam_board", f64::from(boards(Area::new(area).ok()?, Area::new(BOARD).ok()?)));
            }
            w.need("sealant_tube", tubes(area.sqrt() * 4.0, 0.006)?);
        }
    }
    Some(())
}

/// The worst surface of a space that faces outdoors: by its temperature factor where it was read in cold weather, else by
/// its build-up.
fn lack(w: &Work, space: &Space) -> Lack {
    let site = w.site;
    let advice = advise(site.building, site.picture, space, Temperature::new(site.design_outdoor_c).ok());
    let night = advice.insulation.iter().filter_map(|i| match &i.call {
        InsulationCall::Add(n)
        | InsulationCall::Open(n)
        | InsulationCall::StaysDry(n)
        | InsulationCall::Otherwise(n, _)
        | InsulationCall::DryTheAir(n) => Some((i.surface_id, n)),
        InsulationCall::CantTell(_) => None,
    });
    let glass = |id: uuid::Uuid| site.building.surface(id).is_some_and(|s| s.material == building::Material::Glass);
    let worst = night.filter(|(id, _)| !glass(*id)).min_by(|a, b| a.1.r_now.total_cmp(&b.1.r_now));
    if let Some((id, n)) = worst {
        let place = site.building.surface(id).map_or_else(String::new, |s| s.name.clone());
        return Lack { r_now: n.r_now, r_si: n.r_si, place };
    }
    let outward = site.building.boundaries_of(space.id).filter(|b| b.beyond == Side::Outdoors);
    let built = outward.filter_map(|b| Some((b, site.building.construction(b)?)));
    let worst = built.min_by(|a, b| a.1.combined.resistance().total_cmp(&b.1.combined.resistance()));
    worst.map_or(Lack { r_now: 0.5, r_si: 0.13, place: "an uninsulated wall, assumed".into() }, |(b, c)| Lack {
        r_now: c.combined.resistance(),
        r_si: c.films[0].get(),
        place: format!("build-up of {}", b.name),
    })
}

/// Air on the warm side on the design night: as read, if that was in cold weather; summer’s moisture says nothing of it.
fn winter_air(w: &Work, space: &Space) -> Option<([f64; 2], FigureOrigin)> {
    let cold = w.site.picture.outdoor.is_some_and(|o| o.value.t.get() <= COLD_WEATHER);
    if let Some(a) = w.air_of(space).filter(|_| cold) {
        let rh = a.air.rh(hygrothermal::air::Over::Ice).min(100.0);
        return Some(([a.value.t.get(), rh], FigureOrigin::Read(space.name.clone())));
    }
    if space.kind.kept_warm() {
        return Some(([20.0, 50.0], FigureOrigin::Assumed("rooms in winter; it was not read in cold weather")));
    }
    let ceiling = w.site.choices.percent("rh_ceiling")?;
    let from = FigureOrigin::Assumed("closed up in winter, at its ceiling; it was not read in cold weather");
    Some(([10.0, ceiling], from))
}

pub fn pipes(w: &mut Work) -> Option<()> {
    let space = w.space(&[SpaceKind::Basement, SpaceKind::Crawl, SpaceKind::Attic, SpaceKind::Room])?;
    let air = w.inside_air(Some(space), [24.0, 75.0], "a humid summer day")?;
    let [t, _] = w.figures(["t", "rh"])?;
    let cold = w.assume("cold_t", "What runs in it", Measure::Temperature, 10.0, "mains water");
    let pipe = w.assume("pipe_m", "Pipe’s outside diameter", Measure::Thickness, 0.022, "a usual supply pipe");
    let run = w.assume("run_m", "Length to cover", Measure::Length, 8.0, "measure it");
    let chosen = w.pick("material", "Cover", &["closed_cell_rubber", "cellular_glass"])?;
    let cover = PipeCover {
        pipe: Diameter::new(pipe).ok()?,
        contents: Temperature::new(cold).ok()?,
        around: Temperature::new(t).ok()?,
        conductivity: Conductivity::new(chosen.lambda).ok()?,
        film: ThermalResistance::new(0.125).ok()?,
    };
    let keep = air.dew_point()?;
    w.explain(
        &["q = (T_air − T_pipe)/(ln(r₂/r₁)/λ + R_film/r₂);  T_skin = T_air − q R_film/r₂, held at the dew point"],
        "Cylindrical conduction; film 0.125 m²K/W of still air.",
    );
    w.found("Dew point of this air", Measure::Temperature, keep.get());
    let Some(thickness) = cover.thickness_for(keep) else {
        w.note("No cover keeps its skin dry in this air: dry the air as well.");
        return Some(());
    };
    w.found("Least thickness", Measure::Thickness, thickness);
    let sold = PIPE_COVERS.into_iter().find(|d| *d >= thickness).unwrap_or_else(|| (thickness * 100.0).ceil() / 100.0);
    w.found("Next thickness sold", Measure::Thickness, sold);
    w.found("Its skin then", Measure::Temperature, cover.skin(sold));
    w.need("pipe_cover_2m", f64::from(pipe_cover_length(Length::new(run).ok()?, Length::new(2.0).ok()?)));
    Some(())
}

pub fn sealing(w: &mut Work) -> Option<()> {
    match w.fix.id.as_str() {
        "air_seal_rim" => {
            let space = w.space(&[SpaceKind::Crawl, SpaceKind::Basement])?;
            let (length, width) = rectangle(space.area_m2);
            let run = w.assume("run_m", "Rim", Measure::Length, 2.0 * (length + width), RECTANGLE);
            w.found("Joints, sill and subfloor", Measure::Length, 2.0 * run);
            w.need("sealant_tube", tubes(2.0 * run, 0.006)?);
        }
        "air_seal_bypasses" => {
            let run =
                w.assume("run_m", "Joints at chases, lights and pipes", Measure::Length, 12.0, "count them with smoke");
            let hatch = w.assume("hatch_m", "Hatch and fan box, round", Measure::Length, 3.0, "a usual hatch");
            w.need("sealant_tube", tubes(run, 0.008)?);
            w.need("gasket_m", hatch);
            w.need("foam_board", 1.0);
        }
        _ => {
            let joints = w.assume("joints", "Joints and boots", Measure::Number, 10.0, "count them");
            let round = w.assume("round_m", "Round each", Measure::Length, 0.8, "a boot of 25 by 15 cm");
            w.found("Foil tape", Measure::Length, joints * round);
            w.need("foil_tape_m", joints * round * 1.1);
            w.explain(&["tape = joints × round each × 1.1"], "Common practice.");
            return Some(());
        }
    }
    w.explain(&["tubes = joint × width × depth × 1.1 / 300 mL, rounded up"], "A tenth for waste (common practice).");
    Some(())
}

fn tubes(run: f64, side: f64) -> Option<f64> {
    let side = Thickness::new(side).ok()?;
    Some(f64::from(sealant_tubes(Length::new(run).ok()?, side, side, 300.0)))
}

pub fn membrane(w: &mut Work) -> Option<()> {
    let space = w.space(&[SpaceKind::Room, SpaceKind::Tent, SpaceKind::VehicleCabin, SpaceKind::BoatCabin])?;
    let (length, width) = rectangle(space.area_m2);
    let wall = w.assume("wall_m", "Outside wall", Measure::Length, length + width, "two sides of the room");
    let height = w.drawn("height_m", "Height", Measure::Length, space.height_m);
    let area = wall * height;
    w.found("Face", Measure::Area, area);
    w.explain(&["face = wall × height;  membrane a seventh more for laps"], "Common practice.");
    match w.fix.id.as_str() {
        "reclad_then_fill" => {
            w.need("cladding_m2", area);
            w.need("barrier_m2", area * 1.15);
            w.need("batt_m2", area);
        }
        "interior_retarder" => {
            w.need("retarder_m2", area * 1.15);
            w.need("tape_m", wall * 2.0 + height * 4.0);
        }
        _ => w.need("open_membrane_m2", area * 1.15),
    }
    Some(())
}
