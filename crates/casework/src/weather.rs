//! A weather file of a practice's own, read into a typical year.

use building::Weather;
use chrono::{Datelike, Timelike};
use hygrothermal::air::saturation_pressure;
use hygrothermal::quantity::Temperature;
use logger::{Format, Reading, Reads, Wishes, Zone, station, survey};
use std::ops::ControlFlow;
use uuid::Uuid;

/// Least readings of an hour of a month: of fewer the mean is that of a few days' weather.
const ENOUGH: usize = 20;

/// Reads an EPW file into means by month and hour of the day.
///
/// # Errors
/// What is wrong with the file, in a sentence.
pub fn read_weather(bytes: &[u8], id: Uuid, name: &str) -> Result<Weather, String> {
    let found = survey(bytes, &Wishes::default()).map_err(|e| e.to_string())?;
    let (Format::Epw, &Zone::Fixed(offset)) = (found.format, &found.zone) else {
        return Err("It is no EPW weather file: its first line says LOCATION, and an hour has 35 columns".into());
    };
    let station = station(bytes, &found).map_err(|e| e.to_string())?;
    let mut sums = [[(0_usize, 0.0, 0.0); 24]; 12];
    let reading = Reading { source: bytes, survey: &found };
    let each = reading.each(&mut |row| {
        let Ok(row) = row else { return ControlFlow::Continue(()) };
        let value = |kind| row.values.iter().find(|(reads, _)| *reads == kind).and_then(|(_, x)| *x);
        let air = value(Reads::OutdoorTC).zip(value(Reads::OutdoorRhPct));
        let Some((t, rh)) = air.filter(|(_, rh)| (0.0..=110.0).contains(rh)) else { return ControlFlow::Continue(()) };
        let Ok(celsius) = Temperature::new(t) else { return ControlFlow::Continue(()) };
        // A row carries the end of its hour, and its hour is that of local standard time.
        let began = row.at + chrono::TimeDelta::seconds(i64::from(offset)) - chrono::TimeDelta::hours(1);
        let sum = &mut sums[began.month0() as usize][began.hour() as usize];
        *sum = (sum.0 + 1, sum.1 + t, sum.2 + rh.min(100.0) / 100.0 * saturation_pressure(celsius));
        ControlFlow::Continue(())
    });
    each.map_err(|e| e.to_string())?;
    let thin = sums.iter().position(|day| day.iter().any(|(n, ..)| *n < ENOUGH));
    if let Some(month) = thin {
        return Err(format!(
            "{} has fewer than {ENOUGH} readings of an hour of the day: a typical year needs every month",
            notation::months()[month]
        ));
    }
    let mean = |of: fn(&(usize, f64, f64)) -> f64| sums.map(|day| day.map(|s| of(&s) / s.0 as f64));
    let name = if name.is_empty() { station.clone() } else { name.to_owned() };
    let name = if name.is_empty() { "Weather file".to_owned() } else { name };
    Ok(Weather { id, name, station, celsius: mean(|s| s.1), vapor: mean(|s| s.2) })
}

#[cfg(test)]
#[allow(clippy::unwrap_used, reason = "tests")]
mod tests {
    use super::*;

    /// A file whose temperature is month + hour / 100, at 50 % relative humidity, of so many days in its last month.
    fn epw(zone: &str, last: u32) -> String {
        let mut text = format!("LOCATION,Reed Mere,-,Nowhere,made,0,52.0,5.0,{zone},1.0\n");
        text.push_str(&"HEAD\n".repeat(7));
        for month in 1..=12 {
            for day in 1..=if month == 12 { last } else { 28 } {
                for hour in 1..=24 {
                    let t = f64::from(month) + f64::from(hour - 1) / 100.0;
                    let rest = ["0"; 26].join(",");
                    text.push_str(&format!("1999,{month},{day},{hour},60,?,{t},0.0,50,101325,{rest}\n"));
                }
            }
        }
        text
    }

    #[test]
    fn a_weather_file_becomes_a_typical_year_by_its_own_clock() {
        // Whatever its zone, an hour stays the hour the file says, by its beginning.
        for zone in ["0.0", "-7.0", "5.5"] {
            let w = read_weather(epw(zone, 28).as_bytes(), Uuid::nil(), "").unwrap();
            assert_eq!((w.name.as_str(), w.station.as_str()), ("Reed Mere, Nowhere", "Reed Mere, Nowhere"));
            for (m, h) in [(0, 0), (0, 23), (6, 12), (11, 23)] {
                let t = (m + 1) as f64 + h as f64 / 100.0;
                assert!((w.celsius[m][h] - t).abs() < 1e-9, "{zone} {m} {h}: {}", w.celsius[m][h]);
                let vapor = 0.5 * saturation_pressure(Temperature::new(t).unwrap());
                assert!((w.vapor[m][h] - vapor).abs() < 1e-9);
            }
            assert!((w.months()[0][3] - 4.115).abs() < 1e-9);
        }
        let thin = read_weather(epw("0.0", 9).as_bytes(), Uuid::nil(), "").unwrap_err();
        assert!(thin.starts_with("December"), "{thin}");
        let log = b"time,temp C\n2026-01-02 03:00,4.5\n2026-01-02 04:00,4.6\n";
        assert!(read_weather(log, Uuid::nil(), "").unwrap_err().contains("LOCATION"));
    }
}
