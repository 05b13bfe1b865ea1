//! What a camera says in its Exif that is of use: which side is up, and when the picture was taken.

use chrono::{DateTime, FixedOffset, NaiveDateTime, Utc};
use exif::{Exif, In, Reader, Tag, Value};
use image::metadata::Orientation;
use std::io::Cursor;

/// A camera's moment.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Taken {
    /// It said its offset from UTC.
    At(DateTime<Utc>),
    /// By its own clock, wherever that was.
    Clock(NaiveDateTime),
}

/// Which side of a file's picture is up, and its moment, as far as its Exif can be read.
pub fn said(file: &[u8]) -> (Orientation, Option<Taken>) {
    let Ok(exif) = Reader::new().read_from_container(&mut Cursor::new(file)) else {
        return (Orientation::NoTransforms, None);
    };
    let up = exif.get_field(Tag::Orientation, In::PRIMARY).and_then(|f| f.value.get_uint(0));
    let up = up.and_then(|v| Orientation::from_exif(u8::try_from(v).ok()?));
    (up.unwrap_or(Orientation::NoTransforms), taken(&exif))
}

fn taken(exif: &Exif) -> Option<Taken> {
    let clock = text(exif, Tag::DateTimeOriginal).or_else(|| text(exif, Tag::DateTime))?;
    let clock = NaiveDateTime::parse_from_str(clock.trim(), "%Y:%m:%d %H:%M:%S").ok()?;
    let offset = text(exif, Tag::OffsetTimeOriginal).or_else(|| text(exif, Tag::OffsetTime));
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
