//! One night of readings in every dress a logger's software gives them: the same must come out of each.
#![allow(clippy::unwrap_used, clippy::panic, clippy::too_many_lines, missing_docs, reason = "tests")]

use chrono::{DateTime, TimeDelta, Utc};
use logger::{Order, Reading, Reads, Survey, Wishes, Zone, survey};
use std::io::Write;
use std::ops::ControlFlow;

/// What the sensor measured: when, °C, %.
type Measured = (DateTime<Utc>, f64, f64);

/// From the evening of the 11th of February past noon of the 13th, so that no month has as many days as the days have figures.
fn night() -> Vec<Measured> {
    let start: DateTime<Utc> = "2026-02-11T22:00:00Z".parse().unwrap();
    (0..80)
        .map(|i| {
            let wave = (f64::from(i) / 13.0).sin();
            let round = |x: f64| (x * 10.0).round() / 10.0;
            (start + TimeDelta::minutes(30 * i64::from(i)), round(2.3 + 4.0 * wave), round(71.0 - 12.0 * wave))
        })
        .collect()
}

/// How a file shows what was measured.
struct Dress {
    name: &'static str,
    /// Lines before the first row.
    head: &'static str,
    /// Between cells.
    mark: &'static str,
    /// The clock, as `strftime` writes it.
    clock: &'static str,
    /// Hours the file's clock is ahead of UTC.
    ahead: i64,
    /// A figure of °C as it stands in the file.
    t: fn(f64) -> String,
    /// A figure of %.
    rh: fn(f64) -> String,
    /// A whole line, if it is more than its cells.
    line: fn(usize, String) -> String,
    /// After the last row.
    foot: &'static str,
    /// The text as bytes.
    bytes: fn(&str) -> Vec<u8>,
    /// What one says beforehand.
    zone: Option<&'static str>,
    order: Option<Order>,
    /// Lines that are no rows and must be named.
    refused: u64,
    /// What must be asked.
    asked: &'static [&'static str],
}

const PLAIN: Dress = Dress {
    name: "plain",
    head: "Time,Temperature (°C),RH (%)\n",
    mark: ",",
    clock: "%Y-%m-%d %H:%M:%S",
    ahead: 0,
    t: one,
    rh: one,
    line: |_, line| line + "\n",
    foot: "",
    bytes: |text| text.as_bytes().to_vec(),
    zone: Some("UTC"),
    order: None,
    refused: 0,
    asked: &[],
};

fn one(x: f64) -> String {
    format!("{x:.1}")
}

fn comma(x: f64) -> String {
    one(x).replace('.', ",")
}

fn utf16(text: &str, order: fn(u16) -> [u8; 2]) -> Vec<u8> {
    text.encode_utf16().flat_map(order).collect()
}

/// The dresses.
fn wardrobe() -> Vec<Dress> {
    vec![
        Dress {
            name: "symbols behind names, units on a line of their own",
            head: "Environmental recorder\nZeit;Keller T;Keller rF\n;°C;%\n",
            mark: ";",
            clock: "%d.%m.%Y %H:%M",
            t: comma,
            rh: comma,
            ..PLAIN
        },
        Dress { name: "only units say what is read", head: "When\tLoft\tLoft\n\t°C\t%\n", mark: "\t", ..PLAIN },
        Dress {
            name: "names that say nothing",
            head: "Time,Alpha,Beta\n",
            asked: &["column:2", "column:3", "unit:Alpha"],
            ..PLAIN
        },
        Dress { ..PLAIN },
        Dress {
            name: "semicolons and decimal commas",
            head: "Zeit;Temperatur [°C];Feuchte [%]\n",
            mark: ";",
            clock: "%d.%m.%Y %H:%M",
            t: comma,
            rh: comma,
            ..PLAIN
        },
        Dress {
            name: "tabs and °F",
            head: "Time\tTemp °F\tRH %\n",
            mark: "\t",
            t: |x| format!("{:.2}", x * 1.8 + 32.0),
            ..PLAIN
        },
        Dress { name: "bars", head: "Time|Temp C|RH %\n", mark: "|", ..PLAIN },
        Dress {
            name: "quoted decimal commas between commas",
            t: |x| format!("\"{}\"", comma(x)),
            rh: |x| format!("\"{}\"", comma(x)),
            ..PLAIN
        },
        Dress {
            name: "every cell quoted",
            head: "\"Time\",\"Temperature (°C)\",\"RH (%)\"\n",
            clock: "\"%Y-%m-%d %H:%M\"",
            t: |x| format!("\"{x:.1}\""),
            rh: |x| format!("\"{x:.1}\""),
            ..PLAIN
        },
        Dress { name: "a line that names the delimiter", head: "sep=;\nTime;Temp (°C);RH (%)\n", mark: ";", ..PLAIN },
        Dress { name: "byte order mark", bytes: |text| ["\u{feff}", text].concat().into_bytes(), ..PLAIN },
        Dress {
            name: "UTF-16, little end first",
            bytes: |text| utf16(&["\u{feff}", text].concat(), u16::to_le_bytes),
            ..PLAIN
        },
        Dress {
            name: "UTF-16, big end first",
            bytes: |text| utf16(&["\u{feff}", text].concat(), u16::to_be_bytes),
            ..PLAIN
        },
        Dress { name: "UTF-16 without a mark", bytes: |text| utf16(text, u16::to_le_bytes), ..PLAIN },
        Dress {
            name: "Latin-1",
            bytes: |text| text.chars().map(|c| u8::try_from(u32::from(c)).unwrap()).collect(),
            ..PLAIN
        },
        Dress { name: "lines end as on Windows", bytes: |text| text.replace('\n', "\r\n").into_bytes(), ..PLAIN },
        Dress { name: "lines end as on old Macs", bytes: |text| text.replace('\n', "\r").into_bytes(), ..PLAIN },
        Dress { name: "blank lines between rows", line: |_, line| line + "\n\n", ..PLAIN },
        Dress { name: "a delimiter at the end of each line", line: |_, line| line + ",\n", ..PLAIN },
        Dress {
            name: "figures lined up with blanks",
            mark: " , ",
            t: |x| format!("{x:>8.1}"),
            rh: |x| format!("{x:>8.1}"),
            ..PLAIN
        },
        Dress {
            name: "titles before the head",
            head: "Data of logger 12\nPlace: crawl space, under the kitchen\nInterval: 30 min\n\nStart,2026-02-11\n\nTime,Temperature (°C),RH (%)\n",
            ..PLAIN
        },
        Dress { name: "a head in two lines", head: "Time,T,RH\nyyyy-mm-dd hh:mm:ss,°C,%\n", ..PLAIN },
        Dress { name: "no head", head: "", asked: &["column:2", "column:3", "unit:column 2"], ..PLAIN },
        Dress {
            name: "the head again every 20 rows",
            line: |i, line| if i % 20 == 19 { line + "\nTime,Temperature (°C),RH (%)\n" } else { line + "\n" },
            ..PLAIN
        },
        Dress {
            name: "totals at the end",
            foot: "\nMinimum,,-1.7,59.0\nMaximum,,6.3,83.0\nAverage,,2.3,71.0\n",
            refused: 3,
            ..PLAIN
        },
        Dress {
            name: "numbered rows",
            head: "#,Time,Temperature (°C),RH (%)\n",
            line: |i, line| format!("{},{line}\n", i + 1),
            ..PLAIN
        },
        Dress {
            name: "battery and messages beside",
            head: "Time,Temperature (°C),RH (%),Battery (V),Stopped\n",
            line: |i, line| format!("{line},3.{},{}\n", i % 10, if i == 79 { "Logged" } else { "" }),
            ..PLAIN
        },
        Dress {
            name: "date and time in two columns",
            head: "Date,Time,Temperature (°C),RH (%)\n",
            clock: "%Y-%m-%d,%H:%M",
            ..PLAIN
        },
        Dress {
            name: "time before date",
            head: "Time,Date,Temperature (°C),RH (%)\n",
            clock: "%H:%M,%m/%d/%Y",
            ..PLAIN
        },
        Dress { name: "am and pm", clock: "%m/%d/%Y %I:%M:%S %p", ..PLAIN },
        Dress { name: "a.m. and p.m. in small letters", clock: "%m/%d/%Y %I:%M %P", ..PLAIN },
        Dress { name: "two-digit years", clock: "%m/%d/%y %H:%M", ..PLAIN },
        Dress { name: "no leading zeros", clock: "%-m/%-d/%Y %-H:%M", ..PLAIN },
        Dress { name: "day before month", clock: "%d/%m/%Y %H:%M", ..PLAIN },
        Dress { name: "day before month with dashes", clock: "%d-%m-%Y %H:%M", ..PLAIN },
        Dress { name: "year first with slashes", clock: "%Y/%m/%d %H:%M", ..PLAIN },
        Dress { name: "months by name", clock: "%d %b %Y %H:%M", ..PLAIN },
        Dress { name: "months by name, the US way", clock: "\"%b %d, %Y %I:%M:%S %p\"", ..PLAIN },
        Dress { name: "ISO with Z", clock: "%Y-%m-%dT%H:%M:%SZ", zone: None, ..PLAIN },
        Dress { name: "ISO with an offset", clock: "%Y-%m-%dT%H:%M:%S+01:00", ahead: 1, zone: None, ..PLAIN },
        Dress { name: "ISO with thousandths", clock: "%Y-%m-%dT%H:%M:%S.000Z", zone: None, ..PLAIN },
        Dress { name: "seconds since 1970", head: "ts,Temperature (°C),RH (%)\n", clock: "%s", zone: None, ..PLAIN },
        Dress {
            name: "thousandths of seconds since 1970",
            head: "timestamp,Temperature (°C),RH (%)\n",
            clock: "%s000",
            zone: None,
            ..PLAIN
        },
        Dress {
            name: "an offset in the head",
            head: "Date Time GMT-06:00,Temp (°C),RH (%)\n",
            ahead: -6,
            zone: None,
            ..PLAIN
        },
        Dress { name: "the site's clock", ahead: -6, zone: Some("America/Chicago"), ..PLAIN },
        Dress { name: "nobody's clock", zone: None, asked: &["zone"], ..PLAIN },
        Dress {
            name: "kelvin",
            head: "Time,Temperature (Kelvin),RH (%)\n",
            t: |x| format!("{:.2}", x + 273.15),
            ..PLAIN
        },
        Dress {
            name: "humidity as a fraction of 1",
            head: "Time,Temperature (°C),Humidity\n",
            rh: |x| format!("{:.3}", x / 100.0),
            ..PLAIN
        },
        Dress {
            name: "units behind the figures",
            head: "Time,Temperature,Humidity\n",
            t: |x| format!("{x:.1} °C"),
            rh: |x| format!("{x:.1} %"),
            ..PLAIN
        },
        Dress { name: "true minus signs", t: |x| one(x).replace('-', "−"), ..PLAIN },
        Dress { name: "a plus before what is above zero", t: |x| format!("{x:+.1}"), ..PLAIN },
        Dress {
            name: "French",
            head: "Horodatage;Température (°C);Humidité (%)\n",
            mark: ";",
            clock: "%d/%m/%Y %H:%M",
            t: comma,
            rh: comma,
            ..PLAIN
        },
        Dress {
            name: "Spanish",
            head: "Fecha y hora;Temperatura (°C);Humedad (%)\n",
            mark: ";",
            clock: "%d/%m/%Y %H:%M",
            t: comma,
            rh: comma,
            ..PLAIN
        },
        Dress {
            name: "a day and month the file never settles, said beforehand",
            clock: "%d/%m/%Y %H:%M",
            order: Some(Order::DayFirst),
            ..PLAIN
        },
        Dress {
            name: "dew point and wet bulb beside",
            head: "Time,Temperature (°C),RH (%),Dew Point (°C),Wet Bulb (°C)\n",
            line: |_, line| line + ",-2.0,1.0\n",
            ..PLAIN
        },
        Dress {
            name: "JSON lines",
            head: "",
            mark: ",",
            clock: "{\"time\":\"%Y-%m-%dT%H:%M:%SZ\"",
            t: |x| format!("\"temp_c\":{x:.1}"),
            rh: |x| format!("\"humidity\":{x:.1}}}"),
            zone: None,
            ..PLAIN
        },
        Dress {
            name: "a list in JSON",
            head: "{\"device\":\"12\",\"data\":[",
            mark: ",",
            clock: "{\"time\":%s",
            t: |x| format!("\"temp_c\":{x:.1}"),
            rh: |x| format!("\"humidity\":{x:.1}}}"),
            line: |i, line| if i == 79 { line } else { line + "," },
            foot: "]}",
            zone: None,
            ..PLAIN
        },
    ]
}

struct Out {
    how: Survey,
    rows: Vec<Measured>,
    refused: u64,
}

fn read(bytes: &[u8], wishes: &Wishes) -> Result<Out, String> {
    let how = survey(bytes, wishes).map_err(|e| e.to_string())?;
    let mut rows = Vec::new();
    let tally = Reading { source: bytes, survey: &how }.each(&mut |row| {
        if let Ok(row) = row {
            let of = |reads| row.values.iter().find(|(r, _)| *r == reads).and_then(|(_, x)| *x).unwrap_or(f64::NAN);
            rows.push((row.at, of(Reads::TC), of(Reads::RhPct)));
        }
        ControlFlow::Continue(())
    });
    let refused = tally.map_err(|e| e.to_string())?.refused;
    Ok(Out { how, rows, refused })
}

impl Dress {
    fn file(&self, night: &[Measured]) -> Vec<u8> {
        let rows = night.iter().enumerate().map(|(i, (at, t, rh))| {
            let clock = (*at + TimeDelta::hours(self.ahead)).format(self.clock).to_string();
            (self.line)(i, [clock, (self.t)(*t), (self.rh)(*rh)].join(self.mark))
        });
        (self.bytes)(&[self.head, &rows.collect::<String>(), self.foot].concat())
    }

    fn wishes(&self) -> Wishes {
        Wishes { zone: self.zone.map(|z| Zone::named(z).unwrap()), order: self.order, ..Wishes::default() }
    }
}

/// What is wrong with what came out, if anything.
fn wrong(out: &Out, night: &[Measured]) -> Option<String> {
    if out.rows.len() != night.len() {
        return Some(format!("{} rows of {}; {:?}", out.rows.len(), night.len(), out.how.because));
    }
    let near = |a: &Measured, b: &Measured| a.0 == b.0 && (a.1 - b.1).abs() < 0.01 && (a.2 - b.2).abs() < 0.06;
    let (got, true_) = out.rows.iter().zip(night).find(|(a, b)| !near(a, b))?;
    Some(format!("{got:?} for {true_:?}; {:?}", out.how.because))
}

#[test]
fn every_dress_gives_the_same_night() {
    let night = night();
    let mut faults = Vec::new();
    for dress in wardrobe() {
        let fault = match read(&dress.file(&night), &dress.wishes()) {
            Err(e) => Some(e),
            Ok(out) => wrong(&out, &night)
                .or_else(|| (out.refused != dress.refused).then(|| format!("{} refused", out.refused)))
                .or_else(|| (out.how.asked != dress.asked).then(|| format!("asks {:?}", out.how.asked))),
        };
        faults.extend(fault.map(|f| format!("{}: {f}", dress.name)));
    }
    assert!(faults.is_empty(), "{}", faults.join("\n"));
}

#[test]
fn the_latest_row_first_is_the_same_night_backward() {
    let mut night = night();
    night.reverse();
    let out = read(&PLAIN.file(&night), &PLAIN.wishes()).unwrap();
    assert_eq!(wrong(&out, &night), None);
}

/// Spreadsheets as an office program saves them.
#[test]
fn spreadsheets_give_the_same_night() {
    let night = night();
    let wishes = PLAIN.wishes();
    let mut book = rust_xlsxwriter::Workbook::new();
    let sheet = book.add_worksheet();
    let when = rust_xlsxwriter::Format::new().set_num_format("m/d/yyyy h:mm");
    sheet.write(0, 0, "Crawl space under the kitchen").unwrap();
    for (i, name) in ["Time", "Temperature (°C)", "RH (%)"].into_iter().enumerate() {
        sheet.write(2, i as u16, name).unwrap();
    }
    for (row, (at, t, rh)) in (3..).zip(&night) {
        sheet.write_with_format(row, 0, &at.naive_utc(), &when).unwrap();
        sheet.write(row, 1, *t).unwrap();
        sheet.write(row, 2, *rh).unwrap();
    }
    let out = read(&book.save_to_buffer().unwrap(), &wishes).unwrap();
    assert_eq!(wrong(&out, &night), None, "XLSX");

    let cells = night.iter().map(|(at, t, rh)| {
        let figure = |x: f64| format!("<table:table-cell office:value-type=\"float\" office:value=\"{x}\"/>");
        let when = at.format("%Y-%m-%dT%H:%M:%S");
        let when = format!("<table:table-cell office:value-type=\"date\" office:date-value=\"{when}\"/>");
        format!("<table:table-row>{when}{}{}</table:table-row>", figure(*t), figure(*rh))
    });
    let names = ["Time", "Temperature (°C)", "RH (%)"]
        .map(|n| format!("<table:table-cell office:value-type=\"string\"><text:p>{n}</text:p></table:table-cell>"));
    let content = format!(
        "<?xml version=\"1.0\"?><office:document-content xmlns:office=\"urn:oasis:names:tc:opendocument:xmlns:office:1.0\" \
         xmlns:table=\"urn:oasis:names:tc:opendocument:xmlns:table:1.0\" \
         xmlns:text=\"urn:oasis:names:tc:opendocument:xmlns:text:1.0\"><office:body><office:spreadsheet>\
         <table:table table:name=\"Log\"><table:table-row>{}</table:table-row>{}</table:table>\
         </office:spreadsheet></office:body></office:document-content>",
        names.concat(),
        cells.collect::<String>()
    );
    let mut file = zip::ZipWriter::new(std::io::Cursor::new(Vec::new()));
    let packed = zip::write::SimpleFileOptions::default();
    let inside = [
        ("mimetype", "application/vnd.oasis.opendocument.spreadsheet"),
        (
            "META-INF/manifest.xml",
            "<manifest:manifest xmlns:manifest=\"urn:oasis:names:tc:opendocument:xmlns:manifest:1.0\"/>",
        ),
        ("content.xml", content.as_str()),
    ];
    for (name, text) in inside {
        file.start_file(name, packed).unwrap();
        file.write_all(text.as_bytes()).unwrap();
    }
    let out = read(file.finish().unwrap().get_ref(), &wishes).unwrap();
    assert_eq!(wrong(&out, &night), None, "ODS");
}
