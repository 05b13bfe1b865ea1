//! Coordinates as they are written into a drawing.

use std::fmt;

/// A coordinate in a drawing's own units, written to a tenth: finer than a screen or a printer shows, and without the
/// digits that only tell how it was computed.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Px(pub f64);

impl fmt::Display for Px {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        // A drawing has hundreds of them: whole numbers are written many times faster than fractions.
        let tenths = (self.0 * 10.0).round() as i64;
        if tenths < 0 {
            f.write_str("-")?;
        }
        let (whole, tenth) = (tenths.unsigned_abs() / 10, tenths.unsigned_abs() % 10);
        if tenth == 0 { write!(f, "{whole}") } else { write!(f, "{whole}.{tenth}") }
    }
}

#[cfg(test)]
mod tests {
    use super::Px;

    #[test]
    fn a_coordinate_is_written_to_a_tenth() {
        let written = [0.0, -0.04, 12.0, 12.34, -7.06, 199.96, 0.05].map(|x| Px(x).to_string());
        assert_eq!(written, ["0", "0", "12", "12.3", "-7.1", "200", "0.1"]);
    }
}
