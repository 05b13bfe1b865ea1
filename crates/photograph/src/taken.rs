//! When the camera says a picture was taken.

use chrono::{DateTime, FixedOffset, NaiveDateTime, Utc};
use exif::{Exif, In, Reader, Tag, Value};
use std::io::Cursor;

/// A camera's moment.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Taken {
    /// It said its offset from UTC.
    At(DateTime<Utc>),
    /// By its own clock, wherever that was.
    Clock(NaiveDateTime),
}

/// The moment in a file's Exif, if it has one that can be read.
pub fn taken(file: &[u8]) -> Option<Taken> {
    let exif = Reader::new().read_from_container(&mut Cursor::new(file)).ok()?;
    let clock = text(&exif, Tag::DateTimeOriginal).or_else(|| text(&exif, Tag::DateTime))?;
    let clock = NaiveDateTime::parse_from_str(clock.trim(), "%Y:%m:%d %H:%M:%S").ok()?;
    let offset = text(&exif, Tag::OffsetTimeOriginal).or_else(|| text(&exif, Tag::OffsetTime));
    let zoned =
        offset.and_then(|o| o.trim().parse::<FixedOffset>().ok()).and_then(|o| clock.and_local_timezone(o).single());
    Some(zoned.map_or(Taken::Clock(clock), |t| Taken::At(t.to_utc())))
}

fn text(exif: &Exif, tag: Tag) -> Option<String> {
    match &exif.get_field(tag, In::PRIMARY)?.value {
        Value::Ascii(lines) => lines.first().map(|l| String::from_utf8_lossy(l).into_owned()),
        _ => None,
    }
}
