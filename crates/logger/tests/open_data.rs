//! Open data: real weather files and measured weather from the registry's packages, read by ours and by others' parsers.
//! `./gutteral test` fetches them.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, missing_docs, reason = "tests")]

use chrono::{DateTime, FixedOffset, TimeDelta, Utc};
use epw_rs::EPWFile;
use hygrothermal::air::{MoistAir, Over};
use hygrothermal::quantity::{Pressure, RelativeHumidity, Temperature};
use logger::{Reading, Reads, Row, Survey, Wishes, survey};
use std::collections::BTreeMap;
use std::io::{BufReader, Read};
use std::ops::ControlFlow;
use std::path::PathBuf;

/// A file of a package: of a wheel, which is an archive, or beside it.
fn open(package: &str, file: &str) -> Vec<u8> {
    let folder = PathBuf::from(std::env::var("OPEN_WEATHER_DATA").expect("run the tests with ./gutteral test"));
    let found = std::fs::read_dir(&folder).unwrap().map(|e| e.unwrap().path());
    let own = found.filter(|p| p.file_name().is_some_and(|n| n.to_string_lossy().starts_with(package)));
    let mut out = Vec::new();
    for path in own {
        if path.is_dir() {
            return std::fs::read(path.join(file)).unwrap();
        }
        if path.extension().is_some_and(|e| e == "whl") {
            let mut archive = zip::ZipArchive::new(std::fs::File::open(path).unwrap()).unwrap();
            archive.by_name(file).unwrap().read_to_end(&mut out).unwrap();
            return out;
        }
    }
    panic!("{package} is not in {}", folder.display())
}

fn read(bytes: &[u8]) -> (Survey, Vec<Row>) {
    let how = survey(bytes, &Wishes::default()).unwrap();
    let mut rows = Vec::new();
    let tally = Reading { source: bytes, survey: &how }.each(&mut |row| {
        rows.extend(row.ok());
        ControlFlow::Continue(())
    });
    assert_eq!(tally.unwrap().refused, 0);
    (how, rows)
}

fn value(row: &Row, reads: Reads) -> Option<f64> {
    row.values.iter().find(|(r, _)| *r == reads).and_then(|(_, x)| *x)
}

/// Amsterdam, a typical year (IWEC), as shipped with pvlib 0.11, against the parser of the crate epw-rs.
#[test]
fn a_real_weather_file_reads_as_another_parser_reads_it() {
    let bytes = open("pvlib", "pvlib/data/NLD_Amsterdam062400_IWEC.epw");
    let (_, rows) = read(&bytes);
    let theirs = EPWFile::from_reader(BufReader::new(bytes.as_slice())).unwrap();
    let (location, theirs) = (theirs.header.location, theirs.data);
    assert_eq!(rows.len(), theirs.timestamp.len());
    assert!((location.time_zone.local_minus_utc() - 3600).abs() < 1);
    let at = |i: usize| -> DateTime<FixedOffset> { theirs.timestamp[i] };
    // They may name an hour by its beginning: the same all year.
    let shift = rows[0].at - at(0).with_timezone(&Utc);
    assert!(shift == TimeDelta::zero() || shift == TimeDelta::hours(1), "{shift}");
    for (i, row) in rows.iter().enumerate() {
        assert_eq!(row.at, at(i).with_timezone(&Utc) + shift, "row {i}");
        assert_eq!(value(row, Reads::OutdoorTC), Some(theirs.dry_bulb_temperature[i]), "row {i}");
        assert_eq!(value(row, Reads::OutdoorRhPct), Some(theirs.relative_humidity[i]), "row {i}");
        assert_eq!(value(row, Reads::PPa), Some(theirs.atmospheric_pressure[i]), "row {i}");
    }
    // And its own dew point agrees with its temperature and humidity, as rounded: whole per cent is up to 0.5 K.
    let off = |i: usize| {
        let t = Temperature::new(theirs.dry_bulb_temperature[i]).ok()?;
        let rh = RelativeHumidity::new(theirs.relative_humidity[i]).ok()?;
        let air = MoistAir::from_rh(t, rh, Over::Water, Pressure::STANDARD).ok()?;
        Some((air.dew_point()?.get() - theirs.dew_point_temperature[i]).abs())
    };
    let warm = (0..rows.len()).filter(|i| theirs.dew_point_temperature[*i] > 0.0);
    let far = warm.filter_map(off).filter(|k| *k > 0.5).count();
    assert!(far * 100 < rows.len(), "{far} hours differ by more than 0.5 K");
}

/// Hourly weather of three airports in 2013 (nycflights13), in °F and without a unit in any name, against the csv crate.
#[test]
fn measured_weather_without_units_is_understood() {
    let bytes = open("nycflights13", "nycflights13/data/weather.csv");
    let (how, rows) = read(&bytes);
    let unit = |name: &str| how.columns.iter().find(|c| c.name == name).map(|c| c.unit.clone()).unwrap();
    assert_eq!((unit("temp"), unit("dewp"), unit("precip")), ("°F".into(), "°F".into(), "in".into()));
    let mut theirs = csv::Reader::from_reader(bytes.as_slice());
    let names: BTreeMap<String, usize> =
        theirs.headers().unwrap().iter().enumerate().map(|(i, n)| (n.to_owned(), i)).collect();
    let records: Vec<csv::StringRecord> = theirs.records().map(Result::unwrap).collect();
    assert_eq!(rows.len(), records.len());
    for (row, record) in rows.iter().zip(&records) {
        let cell = |name: &str| &record[names[name]];
        let figure = |name: &str| cell(name).parse::<f64>().ok();
        assert_eq!(row.at, cell("time_hour").parse::<DateTime<Utc>>().unwrap());
        assert_eq!(row.channel, cell("origin"), "the station names the sensor");
        let close = |a: Option<f64>, b: Option<f64>| match (a, b) {
            (Some(a), Some(b)) => (a - b).abs() < 1e-9,
            (a, b) => a == b,
        };
        assert!(close(value(row, Reads::TC), figure("temp").map(|f| (f - 32.0) / 1.8)), "{record:?}");
        assert!(close(value(row, Reads::RhPct), figure("humid")), "{record:?}");
        assert!(close(value(row, Reads::RainMm), figure("precip").map(|i| 25.4 * i)), "{record:?}");
    }
}

/// Sand Point, Alaska, a typical year (TMY3), as shipped with pvlib 0.11: 71 columns, of which most are none of ours, and an hour 24.
#[test]
fn a_typical_year_with_a_source_beside_each_figure_is_understood() {
    let bytes = open("pvlib", "pvlib/data/703165TY.csv");
    let (how, rows) = read(&bytes);
    let used: Vec<&str> =
        how.columns.iter().filter(|c| c.reads.is_some_and(Reads::is_value)).map(|c| &*c.name).collect();
    assert_eq!(used, ["Dry-bulb (C)", "Dew-point (C)", "RHum (%)", "Pressure (mbar)"]);
    let text = String::from_utf8(bytes).unwrap();
    let mut theirs = csv::ReaderBuilder::new().from_reader(text.split_once('\n').unwrap().1.as_bytes());
    let column = theirs.headers().unwrap().iter().position(|n| n == "Dry-bulb (C)").unwrap();
    let temperatures: Vec<f64> = theirs.records().map(|r| r.unwrap()[column].parse().unwrap()).collect();
    assert_eq!((rows.len(), temperatures.len()), (8760, 8760));
    assert!(rows.iter().zip(&temperatures).all(|(row, t)| value(row, Reads::TC) == Some(*t)));
    // 24:00 is the next day's beginning: hour follows hour within a month.
    let first = rows.windows(2).take(700);
    assert!(first.clone().all(|w| w[1].at - w[0].at == TimeDelta::hours(1)));
}
