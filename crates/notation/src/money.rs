//! Money: hundredths of one currency, so that sums add up to the cent.

use crate::number::{plain_number, written};

/// Dearest amount of a price book, in whole units of its currency.
const DEAREST: f64 = 1e7;

/// An amount with its currency: `1 240.50 EUR`.
#[must_use]
pub fn money(cents: i64, currency: &str) -> String {
    let digits = (cents / 100).abs().to_string();
    let mut grouped = String::new();
    for (i, c) in digits.chars().enumerate() {
        if i > 0 && (digits.len() - i).is_multiple_of(3) {
            grouped.push('\u{202f}');
        }
        grouped.push(c);
    }
    let (sign, rest) = (if cents < 0 { "−" } else { "" }, (cents % 100).abs());
    format!("{sign}{} {currency}", written(format!("{grouped}.{rest:02}"))).trim_end().to_owned()
}

/// A price as typed, in hundredths; `per` is how many of the units it is typed for make one it is kept for.
///
/// # Errors
/// What to change, when it is no number or outside 0 to 10 million.
pub fn cents(text: &str, per: f64) -> Result<i64, &'static str> {
    let kept = plain_number(text).map(|x| x * 100.0 / per);
    match kept {
        Ok(x) if (0.0..=DEAREST * 100.0).contains(&x) => Ok(x.round() as i64),
        _ => Err("A price is a number from 0 to 10 million, like 12.50."),
    }
}

#[cfg(test)]
#[allow(clippy::disallowed_macros, reason = "tests")]
mod tests {
    use super::*;

    #[test]
    fn money_is_read_as_it_is_written() {
        assert_eq!(money(124_050, "EUR"), "1\u{202f}240.50 EUR");
        assert_eq!((money(-5, ""), money(0, "")), ("−0.05".into(), "0.00".into()));
        assert_eq!((cents("1\u{202f}240.50", 1.0), cents("12,5", 1.0)), (Ok(124_050), Ok(1250)));
        assert!(["-1", "10000001", "cheap", "12 m"].iter().all(|t| cents(t, 1.0).is_err()));
    }
}
