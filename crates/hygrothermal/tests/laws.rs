//! What must always hold of build-ups, budgets, mold, ducts, fits and pictures.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, missing_docs, reason = "tests")]

use hygrothermal::air::{AirReading, MoistAir, Over, dew_point, saturation_pressure};
use hygrothermal::buildup::{BuildUp, Layer, Month, Sides, film, insulation_beyond};
use hygrothermal::drying::drying_fit;
use hygrothermal::instrument::calibrate;
use hygrothermal::mold::{Decline, MonthAt, Sensitivity, hours_to_reach, mold_index, steady_year};
use hygrothermal::quantity::*;
use hygrothermal::space::{Budget, Hour, airing, removal, removal_measured};
use hygrothermal::surface::{
    Accuracy, Apparent, InfraredAccuracy, Room, Scene, ThermalGrid, infrared, infrared_measured,
};
use hygrothermal::vent::{Duct, DuctWall, Exhaust};
use hygrothermal::wood::{equilibrium_moisture, humidity_at};
use proptest::prelude::*;

fn t(celsius: f64) -> Temperature {
    Temperature::new(celsius).unwrap()
}

fn air(celsius: f64, rh: f64) -> MoistAir {
    MoistAir::from_rh(t(celsius), RelativeHumidity::new(rh).unwrap(), Over::Ice, Pressure::STANDARD).unwrap()
}

fn layer(resistance: f64, diffusion: f64) -> Layer {
    Layer {
        resistance: ThermalResistance::new(resistance).unwrap(),
        diffusion: DiffusionThickness::new(diffusion).unwrap(),
    }
}

prop_compose! {
    fn airs()(celsius in -15.0..35.0_f64, rh in 10.0..98.0_f64) -> MoistAir { air(celsius, rh) }
}

prop_compose! {
    /// One to eight layers, some without any resistance to vapor (but never all).
    fn layers()(parts in prop::collection::vec((0.0..3.0_f64, prop_oneof![Just(0.0), 0.01..1.0_f64, 1.0..100.0_f64]), 1..8), last in 0.01..5.0_f64) -> Vec<Layer> {
        parts.into_iter().map(|(r, s)| layer(r, s)).chain([layer(0.1, last)]).collect()
    }
}

prop_compose! {
    /// A picture of up to twelve rows and columns, one cell in ten not read.
    fn picture()(rows in (1..12_usize, 1..12_usize).prop_flat_map(|(r, c)| prop::collection::vec(prop::collection::vec(prop::option::weighted(0.9, 5.0..22.0_f64), c), r))) -> Vec<Vec<Option<f64>>> { rows }
}

prop_compose! {
    fn year()(inside in prop::collection::vec(airs(), 12), outside in prop::collection::vec(airs(), 12)) -> [Month; 12] {
        std::array::from_fn(|i| Month { sides: Sides { inside: inside[i], outside: outside[i] }, days: Days::new(30.0).unwrap() })
    }
}

/// Vapor flowing into and out of a build-up over its profile's end pieces, g/(m²·day).
fn flows(layers: &[Layer], vapor: &[f64]) -> (f64, f64) {
    let through = |i: usize| layers[i].diffusion.get();
    let first = (0..layers.len()).find(|&i| through(i) > 0.0).unwrap();
    let last = (0..layers.len()).rfind(|&i| through(i) > 0.0).unwrap();
    let flow = |i: usize| Permeance::STILL_AIR * (vapor[i] - vapor[i + 1]) / through(i) * 86_400_000.0;
    (flow(first), flow(last))
}

proptest! {
    #[test]
    fn vapor_stays_under_saturation_and_water_is_conserved(layers in layers(), inside in airs(), outside in airs()) {
        let buildup = BuildUp::new(&layers, film::WALL, film::OUTSIDE).unwrap();
        let profile = buildup.profile(&Sides { inside, outside });
        for i in &profile.interfaces {
            prop_assert!(i.vapor <= i.sat * (1.0 + 1e-9) && i.vapor >= 0.0, "{i:?}");
        }
        let vapor: Vec<f64> = profile.interfaces.iter().map(|i| i.vapor).collect();
        let (into, out) = flows(&layers, &vapor);
        let collected: f64 = profile.condensation.iter().filter_map(|c| c.rate).sum();
        prop_assert!(profile.condensation.iter().all(|c| c.rate.is_none_or(|r| r > 0.0)));
        // Rates under 1e-4 are left out of the list.
        prop_assert!((into - out - collected).abs() < 1e-6 * into.abs().max(out.abs()) + 1e-3, "in {into}, out {out}, collected {collected}");
    }

    #[test]
    fn cutting_a_layer_in_two_changes_nothing_else(layers in layers(), at in any::<prop::sample::Index>(), inside in airs(), outside in airs()) {
        let sides = Sides { inside, outside };
        let whole = BuildUp::new(&layers, film::WALL, film::OUTSIDE).unwrap();
        let i = at.index(layers.len());
        let half = layer(layers[i].resistance.get() / 2.0, layers[i].diffusion.get() / 2.0);
        let mut cut = layers.clone();
        cut.splice(i..=i, [half, half]);
        let cut = BuildUp::new(&cut, film::WALL, film::OUTSIDE).unwrap();
        prop_assert!((whole.transmittance() - cut.transmittance()).abs() < 1e-12);
        let (a, b) = (whole.profile(&sides), cut.profile(&sides));
        if !b.condensation.iter().any(|c| c.interface == i + 1) {
            prop_assert_eq!(a.condensation.len(), b.condensation.len());
            prop_assert!((a.interfaces[i].vapor - b.interfaces[i].vapor).abs() < 1e-6 * a.interfaces[i].sat);
        }
    }

    #[test]
    fn a_year_keeps_its_books(layers in layers(), months in year(), start in 0..12_usize) {
        let year = BuildUp::new(&layers, film::WALL, film::OUTSIDE).unwrap().year(&months, Some(start));
        let mut held = 0.0;
        for m in (0..12).map(|i| (start + i) % 12) {
            held += year.months[m].gains.iter().map(|g| g.grams).sum::<f64>();
            prop_assert!(year.months[m].held >= 0.0);
            prop_assert!((held - year.months[m].held).abs() < 1e-6 * held.abs() + 1e-6, "month {m}: {held} against {:?}", year.months[m]);
            prop_assert!(year.months[m].held <= year.peak + 1e-9);
        }
        prop_assert_eq!(year.dries_out, year.months[(start + 11) % 12].held == 0.0);
    }

    #[test]
    fn turning_a_build_up_round_turns_the_answer_round(layers in layers(), inside in airs(), outside in airs()) {
        let there = BuildUp::new(&layers, film::WALL, film::WALL).unwrap().profile(&Sides { inside, outside });
        let turned: Vec<Layer> = layers.iter().rev().copied().collect();
        let back = BuildUp::new(&turned, film::WALL, film::WALL).unwrap().profile(&Sides { inside: outside, outside: inside });
        for (a, b) in there.interfaces.iter().zip(back.interfaces.iter().rev()) {
            prop_assert!((a.vapor - b.vapor).abs() < 1e-6 * a.sat && (a.sat - b.sat).abs() < 1e-6 * a.sat, "{a:?} against {b:?}");
        }
    }

    #[test]
    fn added_insulation_brings_its_plane_to_the_temperature(warm in 10.0..30.0_f64, cold in -30.0..5.0_f64, near in 0.05..4.0_f64, far in 0.05..4.0_f64, keep in 0.0..25.0_f64) {
        let r = |x| ThermalResistance::new(x).unwrap();
        prop_assume!(keep < warm - 0.1);
        let added = insulation_beyond((t(warm), r(near)), (t(cold), r(far)), t(keep)).unwrap();
        let plane = warm - (warm - cold) * near / (near + far + added);
        let meets = if added > 0.0 { (plane - keep).abs() < 1e-9 } else { plane >= keep - 1e-9 };
        prop_assert!(meets, "plane at {plane}, to keep {keep}");
    }

    #[test]
    fn the_budget_reaches_the_dew_point_when_it_says(t_c in 5.0..28.0_f64, rh in 20.0..90.0_f64, outdoor in airs(), flow in prop_oneof![Just(0.0), 0.0005..0.1_f64], source in 0.0..3e-4_f64, surface in 2.0..20.0_f64) {
        let budget = Budget {
            volume: Volume::new(40.0).unwrap(), start: air(t_c, rh), outdoor,
            flow: AirFlow::new(flow).unwrap(), source: WaterFlow::new(source).unwrap(),
        };
        let after = |h: f64| budget.rh_after(Hours::new(h).unwrap());
        prop_assert!((after(0.0) - rh).abs() < 1e-9 * rh);
        if let Some(steady) = budget.steady_rh() {
            let (low, high) = (rh.min(steady) - 1e-6, rh.max(steady) + 1e-6);
            prop_assert!([0.1, 1.0, 10.0, 100.0].iter().all(|&h| (low..=high).contains(&after(h))), "between start and steady");
        }
        let at_surface = 100.0 * saturation_pressure(t(surface)) / saturation_pressure(t(t_c));
        // Taking out what is said to be too much holds the goal: the source less the removal has it as steady state.
        let goal = air(t_c, 40.0);
        let left = source - budget.removal_to_hold(&goal) / 86_400.0;
        if flow > 0.0 && left >= 0.0 && left < source {
            let held = Budget { source: WaterFlow::new(left).unwrap(), ..budget };
            prop_assert!((held.steady_rh().unwrap() - 40.0).abs() < 1e-6);
        }
        match budget.hours_to_dew(t(surface)) {
            Some(0.0) => prop_assert!(rh >= at_surface - 1e-6),
            Some(h) if h < 1e5 => prop_assert!((after(h) - at_surface).abs() < 1e-6 * at_surface, "{} against {at_surface}", after(h)),
            Some(_) => {}
            None => prop_assert!([1.0, 1e3, 1e5].iter().all(|&h| after(h) <= at_surface + 1e-6)),
        }
    }

    #[test]
    fn windows_hold_every_good_hour_and_no_other(inside in airs(), outs in prop::collection::vec(airs(), 1..48), coldest in -5.0..20.0_f64) {
        let hours: Vec<Hour> = outs.iter().map(|&outside| Hour { inside, outside }).collect();
        let found = airing(&hours, AirFlow::new(0.05).unwrap(), Some(t(coldest)));
        for (i, hour) in hours.iter().enumerate() {
            let dries = hour.outside.humidity_ratio() < inside.humidity_ratio();
            let wets_surface = hour.outside.vapor_pressure() > saturation_pressure(t(coldest)) * (1.0 + 1e-9);
            prop_assert_eq!(found.windows.iter().any(|w| w.hours.contains(&i)), dries && !wets_surface, "hour {}", i);
        }
        prop_assert!(found.in_windows_l >= found.always_l.min(0.0) && found.windows.is_sorted_by(|a, b| a.removed_l >= b.removed_l));
    }

    #[test]
    fn wood_takes_up_more_from_damper_air(celsius in -20.0..100.0_f64, rh in 1.0..97.0_f64, more in 0.5..2.0_f64) {
        let at = |h| equilibrium_moisture(t(celsius), RelativeHumidity::new(h).unwrap()).unwrap();
        prop_assert!(at(rh) < at(rh + more));
        prop_assert!((humidity_at(t(celsius), at(rh)).unwrap() - rh).abs() < 1e-6);
    }

    #[test]
    fn mold_never_leaves_its_scale_and_follows_the_damp(hours in prop::collection::vec((-10.0..50.0_f64, 40.0..99.0_f64), 1..400), class in prop::sample::select(&Sensitivity::ALL), start in 0.0..6.0_f64) {
        let series = |more: f64| hours.iter().map(|&(c, h)| (t(c), RelativeHumidity::new(h + more).unwrap())).collect::<Vec<_>>();
        let run = |series: &[_], decline| mold_index(series, class, MoldIndex::new(start).unwrap(), decline).unwrap();
        let grown = run(&series(0.0), Decline::ASHRAE_160);
        prop_assert!((0.0..=6.0).contains(&grown.end) && grown.peak <= 6.0 && grown.peak >= start);
        // Decline begins anew after every favorable hour, so that a damper hour in between can cost a little; and growth
        // slows at M = 1 by less than an hour's worth. Apart from both, damper air never grows less.
        let still = Decline::new(0.0).unwrap();
        let (dry, damp) = (run(&series(0.0), still), run(&series(1.0), still));
        prop_assert!(damp.peak >= dry.peak - 0.002, "{} under {}", damp.peak, dry.peak);
    }

    /// Two routes to one figure: the closed form and the march by hours.
    #[test]
    fn time_to_growth_is_what_the_hours_show(celsius in 5.0..40.0_f64, rh in 88.0..99.9_f64, class in prop::sample::select(&Sensitivity::ALL)) {
        let rh = RelativeHumidity::new(rh).unwrap();
        if let Some(hours) = hours_to_reach(t(celsius), rh, class, MoldIndex::new(1.0).unwrap()) {
            prop_assume!(hours < 20_000.0);
            let series = vec![(t(celsius), rh); hours as usize + hours as usize / 50 + 200];
            let shown = mold_index(&series, class, MoldIndex::CLEAN, Decline::ASHRAE_160).unwrap().first_over_1;
            prop_assert!(shown.is_some_and(|s| (s as f64 - hours).abs() < 2.0 + 0.005 * hours), "{shown:?} against {hours}");
        }
    }

    #[test]
    fn fits_find_what_made_the_points(k in 0.01..1.5_f64, start in 18.0..40.0_f64, e in 6.0..14.0_f64, n in 4..12_u32, slope in 0.7..1.3_f64, offset in -5.0..5.0_f64) {
        let mc = |x| MoistureContent::new(x).unwrap();
        let points: Vec<_> = (0..n).map(|d| (Days::new(f64::from(d)).unwrap(), mc(e + (start - e) * (-k * f64::from(d)).exp()))).collect();
        let fit = drying_fit(&points, mc(e)).unwrap();
        prop_assert!((fit.k - k).abs() < 1e-5 * k + 1e-7, "{} against {k}", fit.k);
        let goal = e + 0.4 * (start - e);
        let day = fit.passes(mc(goal)).unwrap();
        prop_assert!((fit.moisture(day.day) - goal).abs() < 1e-6 && day.low <= day.day && day.day <= day.high);
        let percent = |x: f64| RelativeHumidity::new(x).unwrap();
        let checks: Vec<_> = [20.0, 45.0, 70.0].map(|read| (percent(slope * read + offset), percent(read))).to_vec();
        let found = calibrate(&checks).unwrap();
        prop_assert!((found.slope - slope).abs() < 1e-9 && (found.offset - offset).abs() < 1e-7 && found.max_residual < 1e-8);
    }

    #[test]
    fn an_infrared_band_holds_what_small_errors_do(shown in 0.0..40.0_f64, reflected in -10.0..40.0_f64, e in 0.65..0.98_f64) {
        let seen = |x: f64| Apparent { shown: t(x), set_emissivity: Emissivity::new(0.95).unwrap(), set_reflected: t(20.0) };
        let scene = |e: f64, r: f64| Scene { emissivity: Emissivity::new(e).unwrap(), reflected: t(r) };
        let object = |x: f64, e: f64, r: f64| infrared(&seen(x), &scene(e, r)).unwrap().get();
        let d = 1e-4;
        let none = TemperatureAccuracy::new(0.0).unwrap();
        let small = TemperatureAccuracy::new(d).unwrap();
        let base = object(shown, e, reflected);
        for (accuracy, moved) in [
            (InfraredAccuracy { shown: small, reflected: none, emissivity: 0.0 }, object(shown + d, e, reflected)),
            (InfraredAccuracy { shown: none, reflected: small, emissivity: 0.0 }, object(shown, e, reflected + d)),
            (InfraredAccuracy { shown: none, reflected: none, emissivity: d }, object(shown, e + d, reflected)),
        ] {
            let band = infrared_measured(&seen(shown), &scene(e, reflected), &accuracy).unwrap().err;
            prop_assert!((band - (moved - base).abs()).abs() < 1e-3 * band + 1e-8, "{band} against {}", moved - base);
        }
    }

    /// Months taken as one state each against every hour of them.
    #[test]
    fn a_year_of_months_grows_what_its_hours_grow(states in prop::collection::vec((-10.0..30.0_f64, 60.0..100.0_f64), 12), class in prop::sample::select(&Sensitivity::ALL)) {
        let months: [MonthAt; 12] = std::array::from_fn(|m| MonthAt { celsius: states[m].0, rh: states[m].1, days: 30.0 });
        let hours: Vec<_> = months.iter().flat_map(|m| [(t(m.celsius), RelativeHumidity::new(m.rh).unwrap()); 720]).collect();
        let ends = steady_year(&months, class, Decline::ASHRAE_160, 1);
        let mut month = 0.0;
        for (m, end) in ends.iter().enumerate() {
            let so_far = mold_index(&hours[..720 * (m + 1)], class, MoldIndex::CLEAN, Decline::ASHRAE_160).unwrap().end;
            // Two spells that follow each other are one to the hours.
            prop_assert!((so_far - end).abs() < 0.06, "month {m}: {end} against {so_far}");
            month = so_far.max(month);
        }
        let again = steady_year(&months, class, Decline::ASHRAE_160, 3);
        prop_assert!(again[11] >= ends[11] - 1e-9, "what grew is there when the next year begins");
    }

    #[test]
    fn every_cold_cell_lies_in_one_patch(rows in picture(), rh in 30.0..80.0_f64) {
        let grid = ThermalGrid::from_rows(&rows).unwrap();
        let room = air(21.0, rh);
        let said = grid.read(&Room { air: room, outdoor: None, design: None });
        prop_assert_eq!((said.read, grid.missing()), (rows.iter().flatten().flatten().count(), rows.iter().flatten().filter(|c| c.is_none()).count()));
        prop_assume!(said.read > 0);
        let in_patches: usize = said.patches.iter().map(|p| p.cells).sum();
        prop_assert!((in_patches as f64 / said.read as f64 - said.mold_share.unwrap()).abs() < 1e-12 && said.wet_share <= said.mold_share);
        let line = dew_point(room.vapor_pressure() / 0.8).unwrap().get();
        let below = rows.iter().flatten().flatten().filter(|c| **c <= line).count();
        prop_assert_eq!(in_patches, below);
        let lowest = rows.iter().flatten().flatten().copied().fold(f64::MAX, f64::min);
        prop_assert!((said.coldest.unwrap().celsius - lowest).abs() < 1e-12);
        for patch in &said.patches {
            let (spot, mean) = (patch.coldest, patch.mean);
            prop_assert!((patch.rows.0..=patch.rows.1).contains(&spot.row) && (patch.columns.0..=patch.columns.1).contains(&spot.column));
            prop_assert!(spot.celsius <= mean && mean <= line + 1e-9);
        }
    }

    /// A line of one temperature parts the cells above it from those at or under it: from any warm cell's center to any cold
    /// neighbor's there is one crossing, and every point of the lines is one of them.
    #[test]
    fn a_contour_parts_warm_cells_from_cold_ones(rows in picture(), level in 6.0..21.0_f64) {
        let grid = ThermalGrid::from_rows(&rows).unwrap();
        let lines = grid.contour(level);
        let mut crossed: Vec<[f32; 2]> = lines.iter().flat_map(|l| if l.first() == l.last() { &l[1..] } else { &l[..] }).copied().collect();
        let square = |r: isize, c: isize| r >= 0 && c >= 0 && [(0, 0), (0, 1), (1, 0), (1, 1)].iter().all(|(dr, dc)| {
            rows.get(r as usize + dr).and_then(|row| row.get(c as usize + dc)).is_some_and(Option::is_some)
        });
        let mut wanted = Vec::new();
        let mut look = |at: [usize; 2], step: [usize; 2], squares: [(isize, isize); 2]| {
            let cell = |[r, c]: [usize; 2]| rows.get(r).and_then(|row| row.get(c)).copied().flatten();
            let Some((from, to)) = cell(at).zip(cell([at[0] + step[0], at[1] + step[1]])) else { return };
            if (from > level) != (to > level) && squares.iter().any(|&(r, c)| square(r, c)) {
                let part = ((level - from) / (to - from)) as f32;
                wanted.push([at[1] as f32 + 0.5 + part * step[1] as f32, at[0] as f32 + 0.5 + part * step[0] as f32]);
            }
        };
        for r in 0..rows.len() {
            for c in 0..rows[0].len() {
                let (row, column) = (r as isize, c as isize);
                look([r, c], [0, 1], [(row - 1, column), (row, column)]);
                look([r, c], [1, 0], [(row, column - 1), (row, column)]);
            }
        }
        let order = |a: &[f32; 2], b: &[f32; 2]| a.partial_cmp(b).unwrap();
        crossed.sort_by(order);
        wanted.sort_by(order);
        prop_assert_eq!(crossed.len(), wanted.len());
        for (got, want) in crossed.iter().zip(&wanted) {
            prop_assert!((got[0] - want[0]).abs() + (got[1] - want[1]).abs() < 1e-3, "{got:?} {want:?}");
        }
    }

    /// Two routes to one band: the derivatives written out and the differences taken.
    #[test]
    fn a_propagated_band_is_the_analytic_one(celsius in 1.0..40.0_f64, rh in 20.0..95.0_f64, other in 25.0..90.0_f64) {
        let read = |rh: f64| AirReading::new((t(celsius), Accuracy::TYPICAL.air), (RelativeHumidity::new(rh).unwrap(), Accuracy::TYPICAL.rh), Over::Ice);
        let by_differences = read(rh).figure(|a| a.dew_point().map(Temperature::get)).unwrap();
        prop_assume!(by_differences.value.abs() > 0.1);
        let written_out = Accuracy::TYPICAL.dew_point(&air(celsius, rh), Over::Ice).unwrap();
        prop_assert!((by_differences.err - written_out.err).abs() < 1e-4 * written_out.err, "{by_differences:?} against {written_out:?}");
        // What two readings leave of a removal is more than either alone leaves, and nothing for exact instruments.
        let flow = AirFlow::new(0.05).unwrap();
        let both = removal_measured(&read(rh), &read(other), flow).unwrap();
        let ratio = |rh: f64| read(rh).figure(|a| Some(a.humidity_ratio())).unwrap();
        prop_assert!((both.value - removal(&air(celsius, rh), &air(celsius, other), flow)).abs() < 1e-9);
        let share = flow.get() / air(celsius, other).specific_volume() * 86_400.0;
        // The outdoor thermometer also moves the volume a little, which the ratios alone do not know.
        let by_ratios = share * ratio(rh).err.hypot(ratio(other).err);
        prop_assert!((both.err - by_ratios).abs() < 0.08 * by_ratios, "{both:?} against {by_ratios}");
    }

    #[test]
    fn states_close_at_any_altitude(z in -400.0..5000.0_f64, celsius in -40.0..60.0_f64, rh in 1.0..100.0_f64) {
        let p = Pressure::at_altitude(Altitude::new(z).unwrap());
        let first = MoistAir::from_rh(t(celsius), RelativeHumidity::new(rh).unwrap(), Over::Ice, p).unwrap();
        let by_wet = MoistAir::from_wet_bulb(t(celsius), first.wet_bulb().unwrap(), p).unwrap();
        prop_assert!((by_wet.rh(Over::Ice) - rh).abs() < 1e-6 * rh.max(1.0) + 1e-6, "{} against {rh}", by_wet.rh(Over::Ice));
    }
}

proptest! {
    // A run of a duct takes thousands of steps: fewer cases do.
    #![proptest_config(ProptestConfig::with_cases(32))]

    #[test]
    fn a_warmer_duct_clears_sooner_and_never_makes_water(damp in 50.0..95.0_f64, around in -20.0..15.0_f64, flow in 0.005..0.05_f64, r in 0.0..2.0_f64) {
        let run = |r: f64| {
            let wall = DuctWall { mass: ArealMass::new(2.0).unwrap(), heat: HeatCapacity::new(500.0).unwrap(), insulation: ThermalResistance::new(r).unwrap() };
            let duct = Duct { diameter: Diameter::new(0.1).unwrap(), length: Length::new(5.0).unwrap(), wall };
            Exhaust::new(air(23.0, damp), t(around), AirFlow::new(flow).unwrap(), duct).unwrap().run(Minutes::new(20.0).unwrap())
        };
        let (bare, better) = (run(r), run(r + 0.5));
        prop_assert!(better.steady_end >= bare.steady_end && better.condensate_ml <= 1.02 * bare.condensate_ml + 0.01);
        let vapor_ml = air(23.0, damp).absolute_humidity() * flow * 1200.0 * 1000.0;
        prop_assert!((0.0..=vapor_ml).contains(&bare.condensate_ml));
        if let (Some(a), Some(b)) = (bare.minutes_to_clear, better.minutes_to_clear) {
            prop_assert!(b <= a + 1e-6);
        }
        prop_assert!(bare.wall.is_sorted_by(|a, b| a >= b), "it cools along the run");
    }
}

#[test]
fn touching_cells_make_one_patch_and_corners_do_not() {
    let rows = [[18.0, 8.0, 18.0, 18.0], [8.0, 18.0, 7.0, 7.5], [8.0, 18.0, 18.0, 18.0]].map(|r| r.map(Some));
    let said = ThermalGrid::from_rows(rows).unwrap().read(&Room { air: air(20.0, 50.0), outdoor: None, design: None });
    let sizes: Vec<usize> = said.patches.iter().map(|p| p.cells).collect();
    assert_eq!(sizes, [2, 2, 1]);
    let spot = said.coldest.unwrap();
    assert_eq!((spot.row, spot.column), (1, 2));
    assert!((said.wet_share.unwrap() - 5.0 / 12.0).abs() < 1e-12);
    let ragged = ThermalGrid::from_rows([vec![Some(1.0), None], vec![Some(3.0)]]).unwrap_err();
    assert_eq!(ragged.to_string(), "row 2 must have 2 cells like the first, got 1");
    assert!(ThermalGrid::from_rows([[Some(20.0), Some(f64::NAN)]]).is_err());
}
