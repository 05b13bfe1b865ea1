//! Quantities inside sentences: `laps 0.3 m taped` for one person, `laps 1 ft taped` for another.
//!
//! The tables of the trade are written in metric units. A figure is taken for a quantity where one of a few units follows
//! it; of a range (`15 to 20 cm`, `1.2 by 2.4 m`) both figures are turned. `°C` is a temperature, `K` a difference.

use crate::number::without_zeros;
use crate::unit::{AREA, DAILY, DIFFERENCE, Kind, LENGTH, LITERS, TEMPERATURE, THICKNESS, Units};
use language::{say, spoken};
use std::borrow::Cow;

/// A unit of the tables, what it measures, and how many of its SI (or of the kind's first unit) it is.
static UNITS: [(&str, &Kind, f64); 9] = [
    ("L/day", &DAILY, 1.0),
    ("mm", &THICKNESS, 0.001),
    ("cm", &THICKNESS, 0.01),
    ("m²", &AREA, 1.0),
    ("m", &LENGTH, 1.0),
    ("°C", &TEMPERATURE, 1.0),
    ("K", &DIFFERENCE, 1.0),
    ("L", &LITERS, 1.0),
    ("km", &LENGTH, 1000.0),
];

/// A sentence with its quantities in a person's units.
///
/// # Examples
/// ```
/// # use notation::{Units, prose};
/// assert_eq!(prose("150 mm stay free over 3 m", Units::Us), "6 in stay free over 10 ft");
/// ```
#[must_use]
pub fn prose(text: &str, units: Units) -> Cow<'_, str> {
    if units == Units::Metric {
        return Cow::Borrowed(text);
    }
    let mut out = String::new();
    let mut rest = text;
    while let Some(at) = rest.find(|c: char| c.is_ascii_digit()) {
        // A figure within a word (`U2`, `m2`) is part of it.
        let inside = rest[..at].chars().next_back().is_some_and(|c| c.is_alphanumeric() || spoken().mark().contains(c));
        let minus = rest[..at].ends_with('−');
        let start = if minus { at - '−'.len_utf8() } else { at };
        match Quantity::at(&rest[start..]).filter(|_| !inside) {
            Some(q) => {
                out.push_str(&rest[..start]);
                out.push_str(&q.said(units, rest[..start].ends_with(say!("about "))));
                rest = &rest[start + q.length..];
            }
            None => {
                let end = at + number(&rest[at..]).max(1);
                out.push_str(&rest[..end]);
                rest = &rest[end..];
            }
        }
    }
    if out.is_empty() {
        return Cow::Borrowed(text);
    }
    out.push_str(rest);
    Cow::Owned(out)
}

/// One figure, or two with a word between them, and their unit.
struct Quantity<'a> {
    figures: [Option<f64>; 2],
    between: &'a str,
    kind: &'static Kind,
    factor: f64,
    /// Bytes of the sentence it takes.
    length: usize,
}

impl<'a> Quantity<'a> {
    fn at(text: &'a str) -> Option<Self> {
        let (first, mut length) = figure(text)?;
        let mut figures = [Some(first), None];
        let mut between = "";
        for word in [say!(" to "), say!(" by ")] {
            if let Some((second, used)) = text[length..].strip_prefix(word).and_then(figure) {
                figures[1] = Some(second);
                between = word;
                length += word.len() + used;
            }
        }
        let (name, kind, factor) = UNITS.iter().find(|(name, ..)| {
            let after = text[length..].strip_prefix(' ').and_then(|t| t.strip_prefix(name));
            // `m` must not be the beginning of `mL` or `m²K/W`.
            after.is_some_and(|t| !t.starts_with(|c: char| c.is_alphanumeric() || matches!(c, '/' | '²' | '³' | '·')))
        })?;
        Some(Self { figures, between, kind, factor: *factor, length: length + 1 + name.len() })
    }

    /// In a person's units; a figure that is `about` so much is no finer there than here.
    fn said(&self, units: Units, about: bool) -> String {
        let is = |kind: &'static Kind| std::ptr::eq(self.kind, kind);
        if is(&THICKNESS)
            && let [Some(x), None] = self.figures
            && let Some(small) = small(x * self.factor)
        {
            return small;
        }
        let whole = is(&TEMPERATURE) || is(&DIFFERENCE);
        let shown = |x: f64| {
            let x = self.kind.shown(x * self.factor, units);
            match x.abs() {
                5.0.. if whole => format!("{x:.0}"),
                size if about && size < 20.0 && (is(&LENGTH) || is(&AREA)) => {
                    let step = 10_f64.powf(size.log10().floor());
                    without_zeros(format!("{:.1}", (x / step).round() * step))
                }
                _ => round(x),
            }
        };
        let figures: Vec<String> = self.figures.iter().flatten().map(|x| shown(*x).replace('-', "−")).collect();
        format!("{} {}", figures.join(self.between), self.kind.unit(units).name())
    }
}

/// A film in mils and a crack or a joint in parts of an inch, as they are bought and measured; `None` from 20 mm on.
fn small(meters: f64) -> Option<String> {
    let inches = meters / 0.0254;
    if meters < 0.000_5 {
        return Some(format!("{:.0} mil", inches * 1000.0));
    }
    if meters >= 0.02 {
        return None;
    }
    let mut parts = if meters < 0.003 { 32 } else { 16 };
    let mut count = (inches * f64::from(parts)).round() as i32;
    while count % 2 == 0 && count > 0 {
        (count, parts) = (count / 2, parts / 2);
    }
    Some(format!("{count}/{parts} in"))
}

/// Bytes of the number a text begins with.
fn number(text: &str) -> usize {
    let mark = spoken().mark();
    let digits = text.find(|c: char| !(c.is_ascii_digit() || mark.contains(c))).unwrap_or(text.len());
    text[..digits].trim_end_matches(mark).len()
}

fn figure(text: &str) -> Option<(f64, usize)> {
    let plain = text.strip_prefix('−');
    let digits = plain.unwrap_or(text);
    let length = number(digits);
    let x: f64 = digits[..length].replace(spoken().mark(), ".").parse().ok()?;
    Some((if plain.is_some() { -x } else { x }, text.len() - digits.len() + length))
}

/// To the half that a rule of thumb means (150 mm is 6 in), else to two figures.
fn round(x: f64) -> String {
    let half = (2.0 * x).round() / 2.0;
    let near = if half != 0.0 && (x / half - 1.0).abs() < 0.03 { half } else { x };
    if near == 0.0 {
        return "0".into();
    }
    let size = near.abs().log10().floor() as i32;
    let digits = (1 - size).clamp(0, 4) as usize;
    without_zeros(format!("{near:.digits$}"))
}

#[cfg(test)]
#[allow(clippy::disallowed_macros, reason = "tests")]
mod tests {
    use super::prose;
    use crate::unit::Units;
    use language::{Language, aloud};

    #[test]
    fn quantities_in_sentences_follow_the_reader() {
        let us = |text| prose(text, Units::Us);
        assert_eq!(
            us("Soil, 15 cm lower 3 m out; 150 mm stay free (5 % over 3 m)."),
            "Soil, 6 in lower 10 ft out; 6 in stay free (5 % over 10 ft)."
        );
        assert_eq!(us("laps 0.15 to 0.3 m"), "laps 0.5 to 1 ft");
        assert_eq!(us("Foam board, 1.2 by 2.4 m"), "Foam board, 4 by 8 ft");
        assert_eq!(us("under 22 °C, by 10 K or −5 °C"), "under 72 °F, by 18 °F difference or 23 °F");
        assert_eq!(us("margin 0.4 K, over 1 m² of it; 9.5 L"), "margin 0.72 °F difference, over 11 ft² of it; 2.5 gal");
        assert_eq!(
            us("0.2 mm film; cracks under about 1 mm; a 6 mm board"),
            "8 mil film; cracks under about 1/32 in; a 1/4 in board"
        );
        assert_eq!(
            us("over about 1 m² of growth, about 1 m up, about 3 m off"),
            "over about 10 ft² of growth, about 3 ft up, about 10 ft off"
        );
        // Nothing else that looks like one.
        for same in ["R 2 m²K/W", "8 m²/L", "300 mL", "24 to 48 h", "2 meters", "ISO 13788", "the 3 m2 text", ""] {
            assert_eq!(us(same), same);
        }
        assert_eq!(prose("laps 0.3 m", Units::Metric), "laps 0.3 m");
        let spanish = aloud(Language::Spanish, || us("solapes de 0,15 a 0,3 m, unos 3 m").into_owned());
        assert_eq!(spanish, "solapes de 0,5 a 1 ft, unos 10 ft");
    }
}
