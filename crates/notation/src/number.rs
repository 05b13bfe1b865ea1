//! The one place where a number is read from what somebody typed, and the one where it is written.

use language::say;

/// Longest text looked at; a figure is a few characters.
const LONGEST: usize = 40;

/// A number as typed, with what stood behind it.
#[derive(Debug, Clone, PartialEq)]
pub struct Typed<'a> {
    /// The number.
    pub figure: f64,
    /// What stood behind it, without spaces around and without a degree sign; empty where nothing did.
    pub unit: &'a str,
}

/// Why a text is no number.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum NoNumber {
    /// Nothing was typed.
    Empty,
    /// More characters than any figure has: how many.
    TooLong(usize),
    /// It does not begin with a number.
    Words,
}

impl NoNumber {
    /// What is wrong with what was typed, as a sentence.
    #[must_use]
    pub fn said(&self, text: &str) -> String {
        match self {
            Self::Empty => say!("Enter a number.").into(),
            Self::TooLong(_) => say!("“{short}…” is too long for a number.", short = short(text)),
            Self::Words => say!("“{short}” is not a number.", short = short(text)),
        }
    }
}

/// Reads a number with a decimal point or comma, either minus sign and thin spaces within, and what stands behind it.
///
/// # Errors
/// [`NoNumber`] when it is empty, over 40 characters, or does not begin with a finite number.
///
/// ```
/// use notation::number::{NoNumber, Typed, read};
///
/// assert_eq!(read(" 18,2 °C "), Ok(Typed { figure: 18.2, unit: "C" }));
/// assert_eq!(read("warm"), Err(NoNumber::Words));
/// ```
pub fn read(text: &str) -> Result<Typed<'_>, NoNumber> {
    let text = text.trim();
    let length = text.chars().count();
    if text.is_empty() {
        return Err(NoNumber::Empty);
    }
    if length > LONGEST {
        return Err(NoNumber::TooLong(length));
    }
    let end = end(text);
    let (digits, unit) = text.split_at(end);
    let plain: String = digits.chars().filter(|c| !is_gap(*c)).map(plain).collect();
    let figure = plain.parse::<f64>().ok().filter(|x| x.is_finite()).ok_or(NoNumber::Words)?;
    Ok(Typed { figure, unit: unit.trim().trim_start_matches('°').trim() })
}

/// A number with nothing behind it.
///
/// # Errors
/// As [`read`]; [`NoNumber::Words`] also when anything stands behind it.
pub fn plain_number(text: &str) -> Result<f64, NoNumber> {
    let typed = read(text)?;
    if typed.unit.is_empty() { Ok(typed.figure) } else { Err(NoNumber::Words) }
}

/// What somebody typed, short enough for a sentence.
#[must_use]
pub fn short(text: &str) -> String {
    text.trim().chars().take(24).collect()
}

/// Spaces between thousands.
const fn is_gap(c: char) -> bool {
    matches!(c, ' ' | '\u{a0}' | '\u{202f}')
}

const fn plain(c: char) -> char {
    match c {
        '−' => '-',
        ',' => '.',
        c => c,
    }
}

/// Where the number at the beginning of a text ends. An `e` belongs to it only as the exponent of one, spaces only
/// between its digits.
fn end(text: &str) -> usize {
    let mut end = 0;
    let mut signs = text.char_indices().peekable();
    while let Some((at, c)) = signs.next() {
        let next = signs.peek().map(|(_, c)| *c);
        let digit_follows = next.is_some_and(|c| c.is_ascii_digit());
        let exponent = matches!(c, 'e' | 'E') && (digit_follows || matches!(next, Some('-' | '+' | '−')));
        match c {
            '0'..='9' | '.' | ',' | '-' | '+' | '−' => end = at + c.len_utf8(),
            c if end > 0 && exponent => end = at + c.len_utf8(),
            c if is_gap(c) && digit_follows => {}
            c if is_gap(c) && end == 1 => {} // a sign, a space, a figure
            _ => break,
        }
    }
    end
}

/// A figure with the decimal mark of the language spoken.
pub(crate) fn written(figure: String) -> String {
    language::spoken().figure(figure)
}

/// A number to fixed decimals, with a true minus sign and never a negative zero, in the language spoken.
#[must_use]
pub fn fixed(x: f64, decimals: usize) -> String {
    written(bare(x, decimals))
}

fn bare(x: f64, decimals: usize) -> String {
    if x.abs() >= 1e7 {
        return format!("{x:.2e}").replace('-', "−");
    }
    let text = format!("{x:.decimals$}");
    let zero = text.chars().all(|c| matches!(c, '0' | '.' | '-'));
    if zero { text.trim_start_matches('-').to_owned() } else { text.replace('-', "−") }
}

/// A number that adds or takes away: `+1.4`, `−1.4`, and zero with a plus.
#[must_use]
pub fn signed(x: f64, decimals: usize) -> String {
    let text = fixed(x, decimals);
    if text.starts_with('−') { text } else { format!("+{text}") }
}

/// A number to three significant figures, without a row of zeros behind them.
#[must_use]
pub fn significant(x: f64) -> String {
    let decimals = decimals_for(x).saturating_sub(1).min(4);
    without_zeros(bare(x, decimals))
}

/// A figure with as many decimals as mean something on site: 0.42, 4.2, 42.
#[must_use]
pub fn brief(x: f64) -> String {
    let decimals = if x.abs() < 0.995 { 2 } else { usize::from(x.abs() < 9.95) };
    fixed(x, decimals)
}

/// Decimals that leave about four significant figures.
pub(crate) fn decimals_for(x: f64) -> usize {
    if x == 0.0 || !x.is_finite() {
        return 0;
    }
    let size = x.abs().log10().floor() as i32;
    (3 - size).clamp(0, 9) as usize
}

/// Without zeros that only fill.
pub(crate) fn without_zeros(text: String) -> String {
    let full = text.contains('.') && !text.contains('e');
    written(if full { text.trim_end_matches('0').trim_end_matches('.').to_owned() } else { text })
}

#[cfg(test)]
#[allow(clippy::disallowed_macros, reason = "tests")]
mod tests {
    use super::*;

    #[test]
    fn what_people_type_is_read_and_nothing_else() {
        let figure = |text| read(text).map(|t| (t.figure, t.unit.to_owned()));
        for (text, x, unit) in [
            ("64F", 64.0, "F"),
            ("18,2 °C", 18.2, "C"),
            ("−5", -5.0, ""),
            ("1 240.50", 1240.5, ""),
            ("- 4", -4.0, ""),
            ("1.5e-10", 1.5e-10, ""),
            ("12 ft", 12.0, "ft"),
            ("3e", 3.0, "e"),
            (".5%", 0.5, "%"),
            ("+7", 7.0, ""),
        ] {
            assert_eq!(figure(text), Ok((x, unit.into())), "{text}");
        }
        for text in ["", "  "] {
            assert_eq!(figure(text), Err(NoNumber::Empty));
        }
        for text in ["warm", "1.2.3", "--1", "1-2", "inf", "nan", "1e999", "e5", "°", "-"] {
            assert_eq!(figure(text), Err(NoNumber::Words), "{text}");
        }
        assert_eq!(figure(&"9".repeat(41)), Err(NoNumber::TooLong(41)));
        assert_eq!((plain_number("12"), plain_number("12 m")), (Ok(12.0), Err(NoNumber::Words)));
    }

    #[test]
    fn numbers_are_written_with_what_they_mean() {
        assert_eq!((fixed(-0.04, 1), fixed(-1.26, 1)), ("0.0".into(), "−1.3".into()));
        assert_eq!([signed(1.26, 1), signed(-1.26, 1), signed(-0.04, 1)], ["+1.3", "−1.3", "+0.0"]);
        assert_eq!(
            (significant(12.0), significant(0.012_34), significant(1234.5)),
            ("12".into(), "0.0123".into(), "1234".into())
        );
        assert_eq!((brief(0.421), brief(4.21), brief(42.1)), ("0.42".into(), "4.2".into(), "42".into()));
    }
}
