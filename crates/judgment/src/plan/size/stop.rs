//! Stopping water: gutters, ground, drains, joints.

use super::{Measure, RECTANGLE, Work, pieces, rectangle};
use hygrothermal::quantity::{Length, Thickness};
use hygrothermal::takeoff::sealant_tubes;

/// Volume of a usual tube of sealant, mL.
const TUBE_ML: f64 = 300.0;
const COMMON: &str = "Common practice.";

pub fn size(w: &mut Work) -> Option<()> {
    match w.fix.id.as_str() {
        "regrade" => regrade(w),
        "gutters" => gutters(w),
        "divert_rain_now" => divert_rain_now(w),
        "perimeter_drain_sump" => perimeter_drain_sump(w),
        "footing_membrane" => footing_membrane(w),
        "unbridge_dpc" => unbridge_dpc(w),
        "seal_penetrations" | "recaulk_windows" | "seal_cracks" => sealed(w)?,
        "repair_drain" => {
            let run = w.assume("run_m", "Drain to expose and replace", Measure::Length, 3.0, "until it is exposed");
            w.need("drain_pipe_m", run);
            w.need("gravel_m3", run * 0.4 * 0.3);
            w.explain(&["bedding = run × 0.4 m × 0.3 m"], COMMON);
        }
        "repair_leak" => w.need("fittings", 1.0),
        "flash_roof" => {
            let run = w.assume("run_m", "Flashing", Measure::Length, 2.0, "until it is opened");
            w.need("flashing_m", run);
        }
        "replace_trim" => {
            let run = w.assume("run_m", "Trim", Measure::Length, 3.0, "until it is opened");
            w.need("trim_m", run);
        }
        "replace_windows" => {
            let n = w.windows();
            let count = w.drawn("count", "Windows", Measure::Number, n);
            w.need("window", count);
        }
        "repair_cladding" => {
            let area = w.assume("area_m2", "Cladding", Measure::Area, 8.0, "until it is opened");
            w.need("cladding_m2", area);
            w.need("barrier_m2", area * 1.15);
        }
        "drain_on_film" => {
            let (_, width) = rectangle(w.footprint());
            let run = w.assume("run_m", "Way to the sump", Measure::Length, width, "across the short side");
            w.need("drain_pipe_m", run);
        }
        "refer_radon" => w.need("radon_test", 1.0),
        "change_thermostat" | "move_sensor" => w.need("humidistat", 1.0),
        "recheck_seasonally" => w.found("Visits in the year", Measure::Number, 4.0),
        // Work without a size of its own: hours only.
        _ => {}
    }
    Some(())
}

/// Ground that falls away from the wall.
fn regrade(w: &mut Work) {
    let (length, _) = rectangle(w.footprint());
    let wall = w.assume("wall_m", "Wall the ground falls to", Measure::Length, length, "the long side");
    let out = w.assume("out_m", "Graded out to", Measure::Length, 3.0, "common practice, from memory");
    let fall = w.assume("fall", "Fall", Measure::Share, 0.05, "common practice, from memory");
    let fill = wall * out * (out * fall) / 2.0;
    w.found("Rise at the wall", Measure::Thickness, out * fall);
    w.found("Fill, compacted", Measure::Volume, fill);
    w.explain(&["fill = wall × out × (out × fall)/2"], COMMON);
    w.need("loam_m3", fill * 1.2);
    w.note("A fifth more is bought than is left after compacting.");
}

/// Gutters and downspouts.
fn gutters(w: &mut Work) {
    let (length, _) = rectangle(w.footprint());
    let whole = if w.site.case.has("gutter_faulty") { length } else { 0.0 };
    let run = w.assume("run_m", "Gutter to repair", Measure::Length, whole, "the long side where it was found faulty");
    let pipes =
        w.assume("pipes", "Downspouts", Measure::Number, pieces(length / 12.0).max(1.0), "one for each 12 m of gutter");
    let out = w.assume("out_m", "Led away from the wall by", Measure::Length, 3.0, "common practice");
    w.found("Fall of the gutter, in all", Measure::Thickness, run * 0.005);
    w.explain(&["fall = 0.5 % of the run;  extensions = downspouts × distance"], COMMON);
    w.need("gutter_m", run);
    w.need("downpipe_m", pipes * out);
}

/// Rain led away at once: hoses, and a tarp where the roof leaks.
fn divert_rain_now(w: &mut Work) {
    let pipes = w.assume("pipes", "Downspouts to extend", Measure::Number, 2.0, "count them");
    let roof = ["roof_defect", "flashing_lifted", "stain_under_roof_defect"].iter().any(|id| w.site.case.has(id));
    w.need("hose_m", pipes * 3.0);
    if roof {
        let tarp = w.assume("tarp_m2", "Tarp", Measure::Area, 12.0, "over the ridge and 1 m past what leaks");
        w.need("tarp_m2", tarp);
    }
    w.explain(&["hose = downspouts × 3 m"], COMMON);
}

/// A drain round the floor, to a sump.
fn perimeter_drain_sump(w: &mut Work) {
    let (length, width) = rectangle(w.footprint());
    let run = w.assume("run_m", "Drain round the floor", Measure::Length, 2.0 * (length + width), RECTANGLE);
    w.explain(&["gravel = run × 0.3 m × 0.4 m;  fabric = run × 1.5 m"], COMMON);
    w.found("Fall of the pipe, in all", Measure::Thickness, run / 2.0 * 0.005);
    w.need("drain_pipe_m", run);
    w.need("gravel_m3", run * 0.3 * 0.4);
    w.need("fleece_m2", run * 1.5);
    w.need("sump_pump", 1.0);
}

/// A membrane on the buried wall.
fn footing_membrane(w: &mut Work) {
    let (length, width) = rectangle(w.footprint());
    let wall = w.assume("wall_m", "Buried wall", Measure::Length, 2.0 * (length + width), RECTANGLE);
    let depth = w.assume("depth_m", "Depth to the footing", Measure::Length, 1.8, "dig to see");
    w.explain(&["membrane = wall × depth, a tenth for laps"], COMMON);
    w.need("membrane_m2", wall * depth * 1.1);
    w.need("drain_board_m2", wall * depth);
}

/// Ground taken away from the damp-proof course.
fn unbridge_dpc(w: &mut Work) {
    let (length, _) = rectangle(w.footprint());
    let wall = w.assume("wall_m", "Wall to clear", Measure::Length, length, "the long side");
    let dig = wall * 0.5 * 0.3;
    w.found("Ground to take away", Measure::Volume, dig);
    w.explain(&["ground = wall × 0.5 m × 0.3 m, so that 150 mm stand free below the course"], COMMON);
    w.need("gravel_m3", wall * 0.5 * 0.1);
}

/// Joints of windows, pipes and cracks.
fn sealed(w: &mut Work) -> Option<()> {
    match w.fix.id.as_str() {
        "seal_penetrations" => {
            let count = w.assume("count", "Penetrations and seams", Measure::Number, 6.0, "count them");
            let girth = "a pipe of 13 cm girth three times";
            let each = w.assume("each_m", "Joint round each", Measure::Length, 0.4, girth);
            joint(w, count * each, 8.0)
        }
        "recaulk_windows" => {
            let n = w.windows();
            let count = w.drawn("count", "Windows", Measure::Number, n);
            let each = w.assume("each_m", "Joint round each", Measure::Length, 4.6, "1.2 m by 1.1 m");
            joint(w, count * each, 6.0)
        }
        _ => {
            let run = w.assume("run_m", "Cracks", Measure::Length, 4.0, "measure them");
            joint(w, run, 5.0)
        }
    }
}

/// Sealant of a square joint, with backing rod.
fn joint(w: &mut Work, run: f64, usual_mm: f64) -> Option<()> {
    let wide = w.assume("wide_m", "Joint’s width and depth", Measure::Thickness, usual_mm / 1000.0, "usual");
    let side = Thickness::new(wide).ok()?;
    let tubes = f64::from(sealant_tubes(Length::new(run).ok()?, side, side, TUBE_ML));
    w.found("Joint", Measure::Length, run);
    w.explain(&["tubes = joint × width × depth × 1.1 / 300 mL, rounded up"], "A tenth for waste (common practice).");
    w.need("sealant_tube", tubes);
    w.need("backing_rod_m", run);
    Some(())
}
