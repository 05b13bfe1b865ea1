//! How a figure runs through the day, and whether weekends differ.

/// Fewest days each hour of the day is known on (ours).
const FEWEST: usize = 4;

/// The mean day of a figure.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct MeanDay {
    /// The hour of the local clock at which it is highest, and lowest.
    pub highest: u32,
    /// The same for lowest.
    pub lowest: u32,
    /// By how much the mean day's highest hour lies above its lowest.
    pub swing: f64,
    /// Mean of Saturdays and Sundays less that of the other days; `None` under two days of either.
    pub weekend: Option<f64>,
}

/// A value with the local hour it was read in (0–23) and whether that was on a weekend.
pub type Clocked = (u32, bool, f64);

/// The mean day of a figure; `None` where some hour of the day is known on fewer than four days.
#[must_use]
pub fn mean_day(values: &[Clocked]) -> Option<MeanDay> {
    let mut hours = [(0.0, 0_usize); 24];
    for (hour, _, value) in values {
        let cell = hours.get_mut(*hour as usize)?;
        *cell = (cell.0 + value, cell.1 + 1);
    }
    if hours.iter().any(|(_, n)| *n < FEWEST) {
        return None;
    }
    let means = || (0..24_u32).zip(hours.iter().map(|(sum, n)| sum / *n as f64));
    let highest = means().max_by(|a, b| a.1.total_cmp(&b.1))?;
    let lowest = means().min_by(|a, b| a.1.total_cmp(&b.1))?;
    let side = |of: bool| {
        let own: Vec<f64> = values.iter().filter(|v| v.1 == of).map(|v| v.2).collect();
        (own.len() >= 48).then(|| own.iter().sum::<f64>() / own.len() as f64)
    };
    let weekend = side(true).zip(side(false)).map(|(end, week)| end - week);
    Some(MeanDay { highest: highest.0, lowest: lowest.0, swing: highest.1 - lowest.1, weekend })
}
