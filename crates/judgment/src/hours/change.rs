//! Whether something that happened changed what a space holds against outdoors.

use hygrothermal::proof::{ProofDay, proof};
use hygrothermal::quantity::Measured;

/// Hours of a day, and how many of them must be known for it to count.
const DAY: usize = 24;

/// What an event changed.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Change {
    /// Moisture excess after it less that before it, Pa, at like weather, with its 95 % band.
    pub excess_pa: Measured,
    /// Days on each side.
    pub days: [usize; 2],
}

/// Compares the moisture excess of the days before an event with those after it, as [`proof`] does. `inside` and `outside` are vapor
/// pressures, Pa; the event lies at an hour of them, and what happens within a day of it is its own course. `None` under five days on
/// either side.
#[must_use]
pub fn change(inside: &[Option<f64>], outside: &[Option<f64>], at: usize) -> Option<Change> {
    let days = |from: usize, until: usize| -> Vec<ProofDay> {
        let both = inside.iter().zip(outside).skip(from).take(until.saturating_sub(from));
        let both: Vec<Option<(f64, f64)>> = both.map(|(i, e)| Some(((*e)?, (*i)? - (*e)?))).collect();
        let day = |(i, day): (usize, &[Option<(f64, f64)>])| {
            let known: Vec<(f64, f64)> = day.iter().flatten().copied().collect();
            let mean = |of: fn(&(f64, f64)) -> f64| known.iter().map(of).sum::<f64>() / known.len() as f64;
            (2 * known.len() >= DAY).then(|| ProofDay {
                at: ((from / DAY) + i) as i64,
                excess: mean(|k| k.1),
                // Of the weather only its vapor is known here.
                outdoor_t: 0.0,
                outdoor_p: mean(|k| k.0),
            })
        };
        both.chunks(DAY).enumerate().filter_map(day).collect()
    };
    let [before, after] = [days(at % DAY, at), days(at + DAY, inside.len())];
    let found = proof(&before, &after, 0.0).change?;
    let err = (found.high - found.value).max(found.value - found.low);
    Some(Change { excess_pa: Measured { value: found.value, err }, days: [before.len(), after.len()] })
}
