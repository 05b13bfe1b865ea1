//! Schema changes, one file each, run in order at start.

mod m20261123_000001_first_slice;
mod m20261123_000002_call_sheet;
mod m20261123_000003_meters;
mod m20261123_000004_history;
mod m20261123_000005_evidence;
mod m20261123_000006_more_readings;
mod m20261123_000007_bench;
mod m20261123_000008_photos;
mod m20261123_000009_conclusion;
mod m20261123_000010_meter_accuracy;
mod m20261124_000011_plan;
mod m20261124_000012_rain_and_places;
mod m20261128_000013_practice_change;
mod m20261128_000014_walls;
mod m20261128_000015_signed_in;
mod m20261128_000016_revision;
mod m20261129_000017_log;
mod m20261130_000018_hours;
mod m20261130_000019_counts;
mod m20261130_000020_build_ups;
mod m20261130_000021_thermal;
mod m20261130_000022_unfolded;
mod m20261201_000023_weather;
mod m20261201_000024_time_table;
mod m20261201_000025_drying;
mod m20261201_000026_coating;
mod m20261201_000027_proof;
mod m20261201_000028_people;
mod m20261201_000029_practice;
mod m20261201_000030_reports;
mod m20261201_000031_exchange;
mod m20261201_000032_docket;
mod m20261201_000033_api;
mod m20261201_000034_language;
mod m20261201_000035_remarks;
mod m20261201_000036_passkeys;
mod m20261201_000037_keeping;
mod m20261201_000038_merging;

use sea_orm_migration::prelude::*;

/// Every schema change.
pub struct Migrator;

impl MigratorTrait for Migrator {
    fn migrations() -> Vec<Box<dyn MigrationTrait>> {
        vec![
            Box::new(m20261123_000001_first_slice::Migration),
            Box::new(m20261123_000002_call_sheet::Migration),
            Box::new(m20261123_000003_meters::Migration),
            Box::new(m20261123_000004_history::Migration),
            Box::new(m20261123_000005_evidence::Migration),
            Box::new(m20261123_000006_more_readings::Migration),
            Box::new(m20261123_000007_bench::Migration),
            Box::new(m20261123_000008_photos::Migration),
            Box::new(m20261123_000009_conclusion::Migration),
            Box::new(m20261123_000010_meter_accuracy::Migration),
            Box::new(m20261124_000011_plan::Migration),
            Box::new(m20261124_000012_rain_and_places::Migration),
            Box::new(m20261128_000013_practice_change::Migration),
            Box::new(m20261128_000014_walls::Migration),
            Box::new(m20261128_000015_signed_in::Migration),
            Box::new(m20261128_000016_revision::Migration),
            Box::new(m20261129_000017_log::Migration),
            Box::new(m20261130_000018_hours::Migration),
            Box::new(m20261130_000019_counts::Migration),
            Box::new(m20261130_000020_build_ups::Migration),
            Box::new(m20261130_000021_thermal::Migration),
            Box::new(m20261130_000022_unfolded::Migration),
            Box::new(m20261201_000023_weather::Migration),
            Box::new(m20261201_000024_time_table::Migration),
            Box::new(m20261201_000025_drying::Migration),
            Box::new(m20261201_000026_coating::Migration),
            Box::new(m20261201_000027_proof::Migration),
            Box::new(m20261201_000028_people::Migration),
            Box::new(m20261201_000029_practice::Migration),
            Box::new(m20261201_000030_reports::Migration),
            Box::new(m20261201_000031_exchange::Migration),
            Box::new(m20261201_000032_docket::Migration),
            Box::new(m20261201_000033_api::Migration),
            Box::new(m20261201_000034_language::Migration),
            Box::new(m20261201_000035_remarks::Migration),
            Box::new(m20261201_000036_passkeys::Migration),
            Box::new(m20261201_000037_keeping::Migration),
            Box::new(m20261201_000038_merging::Migration),
        ]
    }
}
