//! The list of findings and tests, against the ids of the vocabulary.
#![allow(clippy::unwrap_used, missing_docs, reason = "tests")]

use building::{Structure, blueprint};
use judgment::finding::{Whereabouts, finding, findings, test, tests};
use std::collections::HashSet;
use uuid::Uuid;

/// Ids fixed for exchange with others: what is seen outside and inside.
const SEEN: &str = "ground_slopes_to_wall pooling_at_wall gutter_faulty downpipe_at_wall drain_broken ground_above_dpc \
    slab_bridges_dpc dpc_sound crack_hairline crack_stair_step crack_wider_at_top paint_blisters_at_base efflorescence \
    tide_line penetration_unsealed window_seal_failed trim_rotten door_corroded roof_defect flashing_lifted cladding_leaky \
    no_eave_intake mixed_high_vents exhaust_ends_in_attic exhaust_duct_uninsulated exhaust_duct_bare_metal \
    exhaust_duct_long exhaust_flap_missing reroofed_recently masonry_above_grade_absorbs wall_below_grade \
    stain_under_exhaust_duct stain_under_roof_defect one_spot_only whole_space_wet standing_water water_on_top_of_film \
    soil_bare film_loose film_drops_underneath sump_present mold_on_sheathing frost_on_nails bypass_open \
    whole_house_fan_uncovered heat_source_in_attic storage_blocks_airflow glass_wet_mornings snow_brought_in \
    unvented_flame occupants no_ventilation_opening vents_open vents_absent insulation_wet insulation_missing \
    rim_joist_bare warm_ducts_in_space cold_patch_pattern patch_dry_on_meter patch_wet_on_meter pipes_drip cold_pipe_bare \
    register_leaks condensate_line_bare dehumidifier_always_on dehumidifier_no_water dehumidifier_absent \
    sensor_in_wrong_place fan_never_runs flood_event pipe_burst_event ceiling_sags musty_smell rot growth_visible \
    growth_area_m2 white_fluff wallpaper_loose subfloor_damp_one_room mortar_washed_out tight_layer_outside \
    tight_layers_both_sides drips_without_rain_or_snow cavity_filled_recently floor_heated wet_soil_near_water \
    foundation_moving sewage electrics_wet metal_behind_reading reflective_surface smell_gas combustion_appliance \
    old_lead_asbestos_age soil_gas_vented supply_air_there hours_below_dew \
    dehumidifier_rated_l_day wiring_behind_reading rubber_under_meter salts_at_reading masonry_rel_dry";

const TESTS: &str = "plastic_sheet:wet_under,wet_on_top,dry salt_drop:dissolves,stays hose:leaks,tight \
    isolate_supply:stops,continues run_fixture:wets,no_change overnight_vent:improves,same \
    meter_profile:falls_with_height,even,rises smoke_at_bypass:flows,still bead:beads,absorbs thermal_then_pin:wet,dry \
    two_week_log:outdoor_wetter,outdoor_drier open_up:wet_inside,dry_inside level_check:falls_away,falls_to_wall draft_test:drafts,spills";

#[test]
fn every_id_of_the_vocabulary_can_be_ticked_and_every_test_made() {
    let listed: Vec<&str> = findings().iter().map(|f| f.id.as_str()).collect();
    let fixed: HashSet<&str> = SEEN.split_whitespace().collect();
    assert_eq!(listed.iter().copied().collect::<HashSet<_>>(), fixed);
    assert_eq!(listed.len(), fixed.len(), "an id stands twice");
    let made: Vec<String> = tests()
        .iter()
        .map(|t| format!("{}:{}", t.id, t.results.iter().map(|r| r.0.as_str()).collect::<Vec<_>>().join(",")))
        .collect();
    assert_eq!(made, TESTS.split_whitespace().collect::<Vec<_>>());
    for f in findings() {
        assert!(!f.at.is_empty() && f.name.len() < 60 && f.look.ends_with('.'), "{}", f.id);
    }
    for t in tests() {
        assert!(t.minutes > 0 && t.hours.is_none_or(|[from, to]| 0 < from && from <= to) && !t.steps.is_empty());
    }
}

#[test]
fn a_list_offers_what_its_building_can_have() {
    let offered = |structure: Structure| -> HashSet<&str> {
        let building = blueprint(structure).unwrap().build(Uuid::now_v7);
        findings().iter().filter(|f| f.fits(structure, &building)).map(|f| f.id.as_str()).collect()
    };
    let (crawl, bus, tent, slab) = (
        offered(Structure::CrawlVented),
        offered(Structure::Vehicle),
        offered(Structure::RoundTent),
        offered(Structure::Slab),
    );
    for (id, c, v, t, s) in [
        ("soil_bare", true, false, false, false),
        ("frost_on_nails", true, false, false, true),
        ("glass_wet_mornings", true, true, true, true),
        ("gutter_faulty", true, false, false, true),
        ("sewage", true, true, true, true),
    ] {
        assert_eq!([crawl.contains(id), bus.contains(id), tent.contains(id), slab.contains(id)], [c, v, t, s], "{id}");
    }
    assert!(Whereabouts::ALL.iter().all(|w| findings().iter().any(|f| f.at.contains(w))));
    assert!(finding("smell_gas").unwrap().red && !finding("tide_line").unwrap().red);
    assert!(test("hose").unwrap().result("leaks").is_some() && test("hose").unwrap().result("dry").is_none());
}
