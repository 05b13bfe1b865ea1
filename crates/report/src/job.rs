//! The open job: one JSON document, written and read a part at a time.
//!
//! ```json
//! {"format": "gutteral job", "version": 1, "exported_at": "…", "job": "…", "name": "…",
//!  "parts": [{"table": "space", "rows": [{…}, …]}, …], "whole": true}
//! ```
//!
//! `docs/job.schema.json` describes every table. Whoever writes keeps their order; whoever reads may rely on it.

use serde::de::{DeserializeSeed, Deserializer, Error, IgnoredAny, MapAccess, SeqAccess, Visitor};
use serde::{Deserialize, Serialize};
use serde_json::value::RawValue;
use std::fmt;
use std::io::Read;

/// What such a document is called in itself.
pub const FORMAT: &str = "gutteral job";

/// What a document begins with.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Head<'a> {
    /// Which format.
    pub format: &'a str,
    /// Which version of it.
    pub version: u32,
    /// When it was written, RFC 3339.
    pub exported_at: &'a str,
    /// The job’s id where it was written.
    pub job: &'a str,
    /// The job’s name.
    pub name: &'a str,
}

impl Head<'_> {
    /// The beginning of a document, up to its parts.
    #[must_use]
    pub fn written(&self) -> String {
        let head = serde_json::to_string(self).unwrap_or_default();
        format!("{},\n\"parts\": [", head.trim_end_matches('}'))
    }
}

/// What a document ends with: without it, it was cut off.
pub const END: &str = "\n],\n\"whole\": true}\n";

/// A part: rows of a table, JSON objects. Every part but the first has a comma before it.
#[must_use]
pub fn part(first: bool, table: &str, rows: &[String]) -> String {
    let comma = if first { "\n" } else { ",\n" };
    format!("{comma}{{\"table\": \"{table}\", \"rows\": [\n{}\n]}}", rows.join(",\n"))
}

/// Why a document cannot be read.
#[derive(Debug, thiserror::Error)]
pub enum Unreadable {
    /// It is another kind of file.
    #[error("this is no job: it does not say “{FORMAT}”")]
    NoJob,
    /// Of another version.
    #[error("this is version {0} of the format, and this program reads version {1}")]
    Version(u64, u32),
    /// It ends in the middle.
    #[error("the file is cut off: its end is missing")]
    CutOff,
    /// It is no JSON, or not of this form.
    #[error("the file cannot be read: {0}")]
    Malformed(String),
    /// Whoever took its parts had enough.
    #[error("{0}")]
    Refused(String),
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Part {
    table: String,
    rows: Box<RawValue>,
}

/// Reads a document and gives its parts away one by one: the table, and its rows as a JSON array. No more than a part is held.
///
/// # Errors
/// [`Unreadable`] where it is none, or `take` refuses a part.
pub fn read(
    from: impl Read,
    version: u32,
    mut take: impl FnMut(String, String) -> Result<(), String>,
) -> Result<(), Unreadable> {
    let mut refused = None;
    let mut seen = Seen::default();
    let mut from = ToEnd { from, ended: false };
    let mut de = serde_json::Deserializer::from_reader(&mut from);
    let document = Document { version, take: &mut take, refused: &mut refused, seen: &mut seen };
    let done = document.deserialize(&mut de).and_then(|()| de.end());
    if let Some(why) = refused {
        return Err(Unreadable::Refused(why));
    }
    match (done, &seen) {
        (_, Seen { other: Some(found), .. }) => Err(Unreadable::Version(*found, version)),
        (_, Seen { job: Some(false), .. }) => Err(Unreadable::NoJob),
        (Err(_), _) if from.ended => Err(if seen.job.is_some() { Unreadable::CutOff } else { Unreadable::NoJob }),
        (Err(_), Seen { job: None, .. }) => Err(Unreadable::NoJob),
        (Err(e), _) => Err(Unreadable::Malformed(e.to_string())),
        (Ok(()), Seen { job: None, .. }) => Err(Unreadable::NoJob),
        (Ok(()), Seen { whole: false, .. }) => Err(Unreadable::CutOff),
        (Ok(()), _) => Ok(()),
    }
}

/// A reader that remembers whether its end was met: cut within a number, a file is no less cut off than anywhere else.
struct ToEnd<R> {
    from: R,
    ended: bool,
}

impl<R: Read> Read for ToEnd<R> {
    fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
        let n = self.from.read(into)?;
        self.ended |= n == 0 && !into.is_empty();
        Ok(n)
    }
}

/// What was seen of a document so far.
#[derive(Default)]
struct Seen {
    /// Whether it says that it is a job.
    job: Option<bool>,
    /// Its version, where it is another.
    other: Option<u64>,
    known_version: bool,
    whole: bool,
}

struct Document<'a, T> {
    version: u32,
    take: &'a mut T,
    refused: &'a mut Option<String>,
    seen: &'a mut Seen,
}

impl<'de, T: FnMut(String, String) -> Result<(), String>> DeserializeSeed<'de> for Document<'_, T> {
    type Value = ();
    fn deserialize<D: Deserializer<'de>>(self, from: D) -> Result<(), D::Error> {
        from.deserialize_map(self)
    }
}

impl<'de, T: FnMut(String, String) -> Result<(), String>> Visitor<'de> for Document<'_, T> {
    type Value = ();

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("a job")
    }

    fn visit_map<M: MapAccess<'de>>(self, mut map: M) -> Result<(), M::Error> {
        let stop = || M::Error::custom("not read further");
        while let Some(key) = map.next_key::<String>()? {
            match key.as_str() {
                "format" => {
                    let job = map.next_value::<String>()? == FORMAT;
                    self.seen.job = Some(job);
                    if !job {
                        return Err(stop());
                    }
                }
                "version" => {
                    let found: u64 = map.next_value()?;
                    self.seen.known_version = true;
                    if found != u64::from(self.version) {
                        self.seen.other = Some(found);
                        return Err(stop());
                    }
                }
                // Nothing is taken before it is known what it is.
                "parts" if self.seen.job == Some(true) && self.seen.known_version => {
                    map.next_value_seed(Parts { take: &mut *self.take, refused: &mut *self.refused })?;
                }
                "parts" => return Err(stop()),
                "whole" => self.seen.whole = map.next_value()?,
                _ => drop(map.next_value::<IgnoredAny>()?),
            }
        }
        Ok(())
    }
}

struct Parts<'a, T> {
    take: &'a mut T,
    refused: &'a mut Option<String>,
}

impl<'de, T: FnMut(String, String) -> Result<(), String>> DeserializeSeed<'de> for Parts<'_, T> {
    type Value = ();
    fn deserialize<D: Deserializer<'de>>(self, from: D) -> Result<(), D::Error> {
        from.deserialize_seq(self)
    }
}

impl<'de, T: FnMut(String, String) -> Result<(), String>> Visitor<'de> for Parts<'_, T> {
    type Value = ();

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("parts of a job")
    }

    fn visit_seq<S: SeqAccess<'de>>(self, mut parts: S) -> Result<(), S::Error> {
        while let Some(Part { table, rows }) = parts.next_element::<Part>()? {
            if let Err(why) = (self.take)(table, rows.get().to_owned()) {
                *self.refused = Some(why);
                return Err(S::Error::custom("refused"));
            }
        }
        Ok(())
    }
}

#[cfg(test)]
#[allow(clippy::unwrap_used, reason = "tests")]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn written(parts: &[(String, Vec<String>)]) -> String {
        let head =
            Head { format: FORMAT, version: 1, exported_at: "2026-12-01T00:00:00Z", job: "j", name: "A “job” }" };
        let mut all = head.written();
        for (i, (table, rows)) in parts.iter().enumerate() {
            all += &part(i == 0, table, rows);
        }
        all + END
    }

    fn parts(text: &str) -> Result<Vec<(String, String)>, Unreadable> {
        let mut all = Vec::new();
        read(text.as_bytes(), 1, |table, rows| {
            all.push((table, rows));
            Ok(())
        })
        .map(|()| all)
    }

    #[test]
    fn what_is_no_whole_job_of_this_version_is_named() {
        let whole = written(&[("space".into(), vec!["{\"a\": 0.1}".into()])]);
        assert!(parts(&whole).is_ok());
        let said = |text: &str| parts(text).unwrap_err().to_string();
        for text in ["", "\u{feff}", "[]", "{}", "PK\u{3}\u{4}", "{\"format\": \"else\"}", "{\"parts\": []}"] {
            assert!(said(text).contains("no job"), "{text}: {}", said(text));
        }
        assert!(said(&whole.replace("\"version\":1", "\"version\":7")).contains("version 7"));
        assert!(said(&whole.replace("\"whole\": true", "\"whole\": false")).contains("cut off"));
        assert!(said(&whole.replace("\"rows\"", "\"lines\"")).contains("cannot be read"));
        let begun = whole.find("\"parts\"").unwrap();
        for cut in begun..whole.len() - 2 {
            assert!(said(&whole[..cut]).contains("cut off"), "{}: {}", &whole[..cut], said(&whole[..cut]));
        }
        let refusing = read(whole.as_bytes(), 1, |_, _| Err("no".into())).unwrap_err();
        assert_eq!(refusing.to_string(), "no");
    }

    proptest! {
        #[test]
        fn parts_come_as_they_were_written(
            all in prop::collection::vec(("[a-z_]{1,12}", prop::collection::vec(any::<f64>().prop_filter("a number", |x| x.is_finite()), 0..6)), 0..8)
        ) {
            let row = |x: &f64| serde_json::json!({ "x": x, "said": "\"}]" }).to_string();
            let all: Vec<(String, Vec<String>)> = all.iter().map(|(t, xs)| (t.clone(), xs.iter().map(row).collect())).collect();
            let back = parts(&written(&all)).unwrap();
            prop_assert_eq!(back.len(), all.len());
            for ((table, rows), (was, were)) in back.iter().zip(&all) {
                prop_assert_eq!(table, was);
                let rows: Vec<serde_json::Value> = serde_json::from_str(rows).unwrap();
                let were: Vec<serde_json::Value> = were.iter().map(|r| serde_json::from_str(r).unwrap()).collect();
                prop_assert_eq!(rows, were);
            }
        }
    }
}
