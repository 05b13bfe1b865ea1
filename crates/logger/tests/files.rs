//! Files as loggers write them, and what must come out.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, missing_docs, reason = "tests")]

use chrono::{DateTime, TimeDelta, Utc};
use logger::{Reading, Reads, Refused, Row, Survey, Tally, Unreadable, Wishes, Zone, survey};
use std::ops::ControlFlow;

struct Out {
    how: Survey,
    rows: Vec<Row>,
    refused: Vec<Refused>,
    tally: Tally,
}

fn read_in(bytes: &[u8], zone: Option<&str>) -> Result<Out, Unreadable> {
    let wishes = Wishes { zone: zone.map(|z| Zone::named(z).unwrap()), order: None, ..Wishes::default() };
    let how = survey(bytes, &wishes)?;
    let (mut rows, mut refused) = (Vec::new(), Vec::new());
    let tally = Reading { source: bytes, survey: &how }.each(&mut |row| {
        match row {
            Ok(row) => rows.push(row),
            Err(line) => refused.push(line),
        }
        ControlFlow::Continue(())
    })?;
    Ok(Out { how, rows, refused, tally })
}

fn read(text: &str) -> Out {
    read_in(text.as_bytes(), None).unwrap()
}

impl Out {
    fn at(&self, i: usize) -> String {
        self.rows[i].at.to_rfc3339_opts(chrono::SecondsFormat::Secs, true)
    }

    fn value(&self, i: usize, reads: Reads) -> Option<f64> {
        self.rows[i].values.iter().find(|(r, _)| *r == reads).and_then(|(_, x)| *x)
    }

    fn t(&self, i: usize) -> f64 {
        self.value(i, Reads::TC).unwrap()
    }

    fn why(&self, what: &str) -> String {
        let because = self.how.because.iter().find(|b| b.what.contains(what));
        because.unwrap_or_else(|| panic!("{what}: {:?}", self.how.because)).why.clone()
    }
}

fn near(a: f64, b: f64) -> bool {
    (a - b).abs() < 0.01
}

#[test]
fn the_delimiter_and_the_decimal_mark_are_found() {
    for (text, mark, t) in [
        ("Time,Temperature (°C),RH (%)\n2026-01-02 03:00,20.5,55\n2026-01-02 04:00,20.6,54\n", ',', 20.5),
        ("Zeit;Temperatur [°C];Feuchte [%]\n02.01.2026 03:00;20,5;55,2\n13.01.2026 04:00;20,6;54,0\n", ';', 20.5),
        ("Time\tTemp °F\tRH %\n2026-01-02 03:00\t68.9\t55\n2026-01-02 04:00\t69.0\t54\n", '\t', 20.5),
        ("Time|Temp C|RH %\n2026-01-02 03:00|20.5|55\n2026-01-02 04:00|20.6|54\n", '|', 20.5),
        ("Time,Temp (°C),RH\n2026-01-02 03:00,\"20,5\",\"55,2\"\n2026-01-02 04:00,\"20,6\",\"54,0\"\n", ',', 20.5),
        ("sep=;\nTime;Temp (°C)\n2026-01-02 03:00;20.5\n2026-01-02 04:00;20.6\n", ';', 20.5),
    ] {
        let out = read(text);
        assert_eq!(out.how.delimiter, Some(mark), "{text}");
        assert!(near(out.t(0), t), "{text}: {}", out.t(0));
        assert_eq!((out.tally.rows, out.tally.refused), (2, 0), "{text}");
    }
}

#[test]
fn titles_heads_in_two_lines_repeats_and_totals_are_no_rows() {
    let text = "Plot Title: Crawl space\nSerial 4711\n\nDate;Time;T;RH\n;;(°C);(%)\n01.02.2026;10:00;12,5;80\n\
        01.02.2026;11:00;12,6;81\nDate;Time;T;RH\n13.02.2026;10:00;12,7;82\nMittelwert;;12,6;81\n";
    let out = read(text);
    assert_eq!((out.tally.rows, out.refused.len()), (3, 1));
    assert_eq!(out.refused[0].line, 10);
    assert!(out.refused[0].text.contains("Mittelwert") && out.refused[0].why.contains("date"));
    assert_eq!(out.at(0), "2026-02-01T10:00:00Z");
    assert_eq!(out.how.columns[2].unit, "°C");
}

#[test]
fn which_figure_is_the_day_is_settled_by_what_the_file_holds_else_asked() {
    let file = |days: &[&str], head: &str| {
        let rows = days.iter().map(|d| format!("{d} 10:00,20.1,50\n"));
        format!("{head},Temp (°C),RH (%)\n{}", rows.collect::<String>())
    };
    let late = read(&file(&["01/02/2026", "02/02/2026", "17/02/2026"], "Time"));
    assert_eq!(late.how.order.id(), "dmy");
    assert_eq!(late.why("day before month"), "line 4 says 17");
    let us = read(&file(&["02/01/2026", "02/17/2026"], "Time"));
    assert_eq!((us.how.order.id(), us.at(1).as_str()), ("mdy", "2026-02-17T10:00:00Z"));
    let stated = read(&file(&["01/02/2026", "02/02/2026"], "Time (dd/mm/yyyy hh:mm)"));
    assert_eq!(stated.how.order.id(), "dmy");
    assert!(!stated.how.asked.contains(&"order".to_owned()));
    let daily = read(&file(&["01/02/2026", "02/02/2026", "03/02/2026", "04/02/2026", "05/02/2026"], "Time"));
    assert_eq!(daily.why("day before month"), "only so do the rows follow one another");
    let open = read(&file(&["01/02/2026", "01/02/2026"], "Time"));
    assert_eq!((open.how.order.id(), open.how.asked.contains(&"order".to_owned())), ("mdy", true));
}

#[test]
fn whose_clock_it_is() {
    let rows = "Date Time, GMT-05:00;Temp, °F\n2026-01-02 03:00;50\n2026-01-02 04:00;51\n";
    assert_eq!(read(rows).at(0), "2026-01-02T08:00:00Z");
    let own = "Time,Temp (°C)\n2026-01-02T03:00:00+01:00,20\n2026-01-02T04:00:00+01:00,20\n";
    assert_eq!(read(own).at(0), "2026-01-02T02:00:00Z");
    let epoch = "ts,Temp (°C)\n1772600767,20\n1772604367,20\n";
    assert_eq!(read(epoch).at(0), "2026-03-04T05:06:07Z");
    let bare = "Time,Temp (°C)\n2026-07-02 03:00,20\n2026-07-02 04:00,20\n";
    let utc = read(bare);
    assert!(utc.how.asked.contains(&"zone".to_owned()) && utc.at(0).ends_with("03:00:00Z"));
    assert_eq!(read_in(bare.as_bytes(), Some("America/New_York")).unwrap().at(0), "2026-07-02T07:00:00Z");
}

/// Every half hour of a night, as a clock of a zone shows it.
fn night(from: &str, zone: &str, hours: i64) -> String {
    let start: DateTime<Utc> = from.parse().unwrap();
    let tz = jiff::tz::TimeZone::get(zone).unwrap();
    let row = |i: i64| {
        let at = start + TimeDelta::minutes(30 * i);
        let zoned = jiff::Timestamp::from_second(at.timestamp()).unwrap().to_zoned(tz.clone());
        format!("{},{i}\n", zoned.strftime("%Y-%m-%d %H:%M"))
    };
    format!("Time,Temp (°C)\n{}", (0..2 * hours).map(row).collect::<String>())
}

#[test]
fn autumns_double_hour_goes_by_the_order_of_the_rows_in_both_hemispheres() {
    for (from, zone) in [("2026-11-01T03:00:00Z", "America/New_York"), ("2026-04-04T12:00:00Z", "Australia/Sydney")] {
        let text = night(from, zone, 10);
        let out = read_in(text.as_bytes(), Some(zone)).unwrap();
        let start: DateTime<Utc> = from.parse().unwrap();
        for (i, row) in out.rows.iter().enumerate() {
            assert_eq!(row.at, start + TimeDelta::minutes(30 * i as i64), "{zone} row {i}");
        }
        // The latest row first, as some loggers write it.
        let mut lines: Vec<&str> = text.lines().skip(1).collect();
        lines.reverse();
        let back = read_in(format!("Time,Temp (°C)\n{}\n", lines.join("\n")).as_bytes(), Some(zone)).unwrap();
        let times: Vec<_> = back.rows.iter().rev().map(|r| r.at).collect();
        assert_eq!(times, out.rows.iter().map(|r| r.at).collect::<Vec<_>>(), "{zone} backward");
    }
}

#[test]
fn a_row_in_springs_missing_hour_means_standard_time_all_year() {
    let text = "Time,Temp (°C)\n2026-03-08 01:30,1\n2026-03-08 02:30,2\n2026-07-08 12:00,3\n";
    let out = read_in(text.as_bytes(), Some("America/New_York")).unwrap();
    assert_eq!([out.at(1), out.at(2)], ["2026-03-08T07:30:00Z", "2026-07-08T17:00:00Z"]);
    assert!(out.why("standard time").contains("line 3"));
}

#[test]
fn marks_for_no_reading_are_none_and_a_row_of_them_is_refused() {
    let text = "Time,Temp (°C),RH (%)\n2026-01-02 03:00,20.1,OL\n2026-01-02 04:00,----,N/A\n2026-01-02 05:00,20.3 °C,<10\n\
        ,20.4,55\n2026-01-02 07:00,20.5,55 %\n";
    let out = read(text);
    assert_eq!((out.tally.rows, out.tally.refused), (3, 2));
    assert_eq!(out.value(0, Reads::RhPct), None);
    assert!(near(out.t(1), 20.3) && out.value(1, Reads::RhPct).is_none());
    assert_eq!(out.value(2, Reads::RhPct), Some(55.0));
    assert_eq!(out.refused.iter().map(|r| r.line).collect::<Vec<_>>(), [3, 5]);
}

#[test]
fn several_sensors_side_by_side_or_below_one_another() {
    let beside = "Time,Crawl Temp (°C),Crawl RH (%),Attic Temp (°C),Attic RH (%),Battery (V)\n\
        2026-01-02 03:00,12,80,2,70,3.1\n2026-01-02 04:00,12,81,1,71,3.1\n";
    let out = read(beside);
    assert_eq!(out.rows.iter().map(|r| r.channel.as_str()).collect::<Vec<_>>(), ["Crawl", "Attic", "Crawl", "Attic"]);
    assert_eq!(out.value(1, Reads::RhPct), Some(70.0));
    assert_eq!(out.tally.rows, 2);
    let below = "Time,Sensor,Temperature (°C)\n2026-01-02 03:00,Crawl,12\n2026-01-02 03:00,Attic,2\n";
    let out = read(below);
    assert_eq!(out.rows.iter().map(|r| r.channel.as_str()).collect::<Vec<_>>(), ["Crawl", "Attic"]);
    let apart = "Time,Indoor Temp °C,Outdoor Temp °C,Indoor RH %,Outdoor RH %\n2026-01-02 03:00,20,2,40,80\n2026-01-02 04:00,20,2,40,80\n";
    let out = read(apart);
    let reads = |reads| out.rows.iter().find_map(|r| r.values.iter().find(|(x, _)| *x == reads).and_then(|(_, v)| *v));
    assert_eq!(
        (reads(Reads::TC), reads(Reads::OutdoorTC), reads(Reads::OutdoorRhPct)),
        (Some(20.0), Some(2.0), Some(80.0))
    );
}

#[test]
fn units_no_name_states_are_worked_out_or_asked() {
    let hot =
        read("Time,Temperature,Humidity,Pressure\n2026-01-02 03:00,68,0.55,29.92\n2026-01-02 04:00,70,0.50,29.9\n");
    assert!(near(hot.t(0), 20.0) && hot.how.asked.contains(&"unit:Temperature".to_owned()));
    assert!(near(hot.value(0, Reads::RhPct).unwrap(), 55.0), "a fraction of 1");
    assert!((hot.value(0, Reads::PPa).unwrap() - 101_320.0).abs() < 50.0, "inches of mercury");
    let nameless = read("2026-01-02 03:00,20.1,55\n2026-01-02 04:00,20.2,54\n");
    assert!(near(nameless.t(0), 20.1) && nameless.value(0, Reads::RhPct) == Some(55.0));
    assert!(nameless.how.asked.iter().any(|a| a.starts_with("column:")));
}

#[test]
fn every_quantity_comes_out_in_the_cores_own_unit() {
    // The inch, the US gallon and pint and the standard atmosphere are exact by definition; the figures are from memory.
    for (name, cell, reads, si) in [
        ("Rain (in)", "0.5", Reads::RainMm, 12.7),
        ("Rainfall, mm", "3.2", Reads::RainMm, 3.2),
        ("Condensate (gal)", "1", Reads::Liters, 3.785_412),
        ("Condensate (pints)", "2", Reads::Liters, 0.946_353),
        ("Condensate mL", "250", Reads::Liters, 0.25),
        ("Power (kW)", "0.42", Reads::PowerW, 420.0),
        ("Power, W", "420", Reads::PowerW, 420.0),
        ("Pressure (inHg)", "29.921", Reads::PPa, 101_325.0),
        ("Pressure (hPa)", "1013.25", Reads::PPa, 101_325.0),
        ("Pressure mbar", "1013.25", Reads::PPa, 101_325.0),
        ("Barometer (mmHg)", "760", Reads::PPa, 101_325.0),
        ("Pressure kPa", "101.325", Reads::PPa, 101_325.0),
        ("Dew Point (°F)", "50", Reads::DewC, 10.0),
        ("Surface temperature (°F)", "23", Reads::SurfaceC, -5.0),
        ("Outdoor temperature (°F)", "-40", Reads::OutdoorTC, -40.0),
        ("Outdoor RH (%)", "80", Reads::OutdoorRhPct, 80.0),
        ("Temperature (K)", "273.15", Reads::TC, 0.0),
        ("Wood moisture content (%)", "17.5", Reads::McPct, 17.5),
        ("Relative scale", "47", Reads::Rel, 47.0),
    ] {
        let out = read(&format!("Time;{name}\n2026-01-02 03:00;{cell}\n2026-01-02 04:00;{cell}\n"));
        let got = out.value(0, reads).unwrap_or_else(|| panic!("{name}: {:?}", out.rows[0]));
        assert!((got - si).abs() <= 1e-4 * si.abs().max(1.0), "{name}: {got} for {si}");
        assert!(out.how.asked.iter().all(|a| a == "zone"), "{name}: nothing else is asked: {:?}", out.how.asked);
    }
}

#[test]
fn a_figure_no_instrument_shows_is_no_reading_and_the_rest_of_its_row_stays() {
    let text = "Time,Temp (°C),RH (%),Note\n2026-01-02 03:00,1e400,50,\n2026-01-02 04:00,20.1,#DIV/0!,a door\n\
        2026-01-02 05:00,=A1+B1,51,\n2026-01-02 06:00,over,>100,\n31.02.2026 07:00,20,50,\n";
    let out = read(text);
    let told = |reads| (0..out.rows.len()).map(|i| out.value(i, reads)).collect::<Vec<_>>();
    assert_eq!(told(Reads::TC), [None, Some(20.1), None]);
    assert_eq!(told(Reads::RhPct), [Some(50.0), None, Some(51.0)]);
    let why: Vec<(u64, &str)> = out.refused.iter().map(|r| (r.line, r.why.as_str())).collect();
    assert_eq!(why, [(5, "no reading in it"), (6, "a day that cannot be")]);
}

#[test]
fn json_in_its_three_shapes() {
    let list = r#"{"readings":[{"time":"2026-01-02T03:00:00Z","temp_c":20.1,"humidity":55},{"time":"2026-01-02T04:00:00Z","temp_c":20.2,"humidity":null}]}"#;
    let columns =
        r#"{"time":["2026-01-02T03:00:00Z","2026-01-02T04:00:00Z"],"temp_c":[20.1,20.2],"humidity":[55,null]}"#;
    let lines = "{\"time\":\"2026-01-02T03:00:00Z\",\"temp_c\":20.1,\"humidity\":55}\n{\"time\":\"2026-01-02T04:00:00Z\",\"temp_c\":20.2,\"humidity\":null}\nbroken\n";
    for (text, refused) in [(list, 0), (columns, 0), (lines, 1)] {
        let out = read(text);
        assert_eq!((out.tally.rows, out.tally.refused), (2, refused), "{text}");
        assert!(near(out.t(1), 20.2) && out.value(1, Reads::RhPct).is_none() && out.at(0) == "2026-01-02T03:00:00Z");
    }
}

#[test]
fn weather_files_give_the_end_of_their_hour_in_standard_time() {
    let head = "LOCATION,Ostley,XX,NOW,Invented,000000,51.0,-1.0,-5.0,120.0\nDESIGN CONDITIONS,0\nTYPICAL/EXTREME PERIODS,0\n\
        GROUND TEMPERATURES,0\nHOLIDAYS/DAYLIGHT SAVINGS,No,0,0,0\nCOMMENTS 1,x\nCOMMENTS 2,y\nDATA PERIODS,1,1,Data,Sunday,1/1,12/31\n";
    let row = |hour: u32, t: &str, rh: &str| format!("2001,1,1,{hour},60,A7A7,{t},1.0,{rh},99500{}\n", ",0".repeat(25));
    let out = read(&format!("{head}{}{}{}", row(1, "3.5", "80"), row(24, "99.9", "82"), row(25, "3", "80")));
    assert_eq!((out.tally.rows, out.tally.refused), (2, 1));
    assert_eq!([out.at(0), out.at(1)], ["2001-01-01T06:00:00Z", "2001-01-02T05:00:00Z"]);
    assert_eq!(out.value(0, Reads::OutdoorTC), Some(3.5));
    assert_eq!((out.value(1, Reads::OutdoorTC), out.value(1, Reads::OutdoorRhPct)), (None, Some(82.0)));
}

#[test]
fn a_damaged_row_costs_itself_only_however_short_the_file() {
    for damaged in ["2026-01-01 01:00,\u{1b}[31m5", "2026-01-01 01:00,\u{1}5"] {
        let out = read(&format!("time,temperature\n2026-01-01 00:00,5\n{damaged}\n"));
        assert_eq!((out.tally.rows, out.refused.len()), (1, 1), "{damaged:?}");
        assert_eq!((out.t(0), out.refused[0].line), (5.0, 3));
    }
}

#[test]
fn a_quote_that_is_never_closed_costs_its_line_only() {
    let row = |i: usize| format!("2026-01-01 {:02}:{:02},{}.5,\"fine, dry\"\n", i / 60, i % 60, i % 30);
    let mut text = "Time,Temp (°C),Note\n".to_owned() + &(0..600).map(row).collect::<String>();
    text += "2026-01-01 11:00,7.5,\"left open\n2026-01-01 11:01,8.5,\"a \"\"quoted\"\" word\"\n";
    let out = read(&text);
    assert_eq!((out.tally.rows, out.tally.refused), (602, 0));
    assert_eq!((out.t(600), out.rows[601].line), (7.5, 603));
}

#[test]
fn a_line_without_an_end_is_named_and_not_held() {
    let endless = ["Time,Temp (°C)\n2026-01-02 03:00,5\n", &"x".repeat(3 << 20)].concat();
    let said = read_in(endless.as_bytes(), None).err().expect("refused").to_string();
    assert!(said.contains("line 3 is longer than 1024 kB"), "{said}");
}

#[test]
fn what_is_no_log_is_named() {
    let said = |bytes: &[u8]| read_in(bytes, None).err().expect("refused").to_string();
    assert!(said(b"").contains("empty") && said(b" \n\n").contains("empty"));
    assert!(said(b"\xff\xd8\xff\xe0 a photo renamed").contains("a photo"));
    assert!(said(b"PK\x03\x04 broken").contains("damaged"));
    assert!(said(b"{\"a\": ").contains("damaged"));
    assert!(said(b"name,color\nred,1\nblue,2\n").contains("dates and times"));
    assert!(said(b"Time,Comment\n2026-01-02 03:00,ok\n2026-01-02 04:00,ok\n").contains("dates and times"));
    assert!(said(&[1_u8, 2, 3, 4, 5, 6, 7].repeat(50)).contains("not a table"));
}
