//! Two loggers that changed places.

/// Hours on either side whose means are compared.
const SIDE: usize = 24;
/// Of these, hours that must be there.
const LEAST: usize = 12;
/// Hours they may have been on their way.
const CARRIED: usize = 2;
/// How much nearer the other's figure must be than the own (ours).
const NEARER: f64 = 4.0;
/// How many times its usual change of an hour a figure must leap, and by how much at least, K or % (ours).
const LEAP: (f64, f64) = (6.0, 1.0);

/// Two sensors, by their places in what was asked, and the hour from which each reads what the other read before.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Exchanged {
    /// The one.
    pub one: usize,
    /// The other.
    pub other: usize,
    /// The first hour after.
    pub from: usize,
}

/// Which of some sensors of a kind were exchanged: each reads what the other read before, at once and for the day that follows.
/// All rows begin with the same hour.
#[must_use]
pub fn exchanged(rows: &[Vec<Option<f64>>]) -> Vec<Exchanged> {
    let least: Vec<f64> = rows.iter().map(|row| (LEAP.0 * usual(row)).max(LEAP.1)).collect();
    let length = rows.iter().map(Vec::len).min().unwrap_or(0);
    let mut out: Vec<Exchanged> = Vec::new();
    // What takes no time first: an hour on the way would be found an hour early as well.
    for carried in 0..=CARRIED {
        for from in SIDE..(length + 1).saturating_sub(carried + SIDE) {
            let leaps = |i: &usize| {
                let two = rows[*i][from - 1].zip(rows[*i][from + carried]);
                two.is_some_and(|(before, after)| (after - before).abs() > least[*i])
            };
            // Few leap in any hour: only those are compared with each other.
            let leap: Vec<usize> = (0..rows.len()).filter(leaps).collect();
            for (n, one) in leap.iter().enumerate() {
                for other in &leap[n + 1..] {
                    let known = |e: &Exchanged| (e.one, e.other) == (*one, *other) && e.from.abs_diff(from) < LEAST;
                    if !out.iter().any(known) && swapped([&rows[*one], &rows[*other]], from, carried) {
                        out.push(Exchanged { one: *one, other: *other, from });
                    }
                }
            }
        }
    }
    out.sort_unstable_by_key(|e| (e.from, e.one, e.other));
    out
}

/// Whether what each shows after an hour is what the other showed before, in the hours beside it and in the days.
fn swapped([a, b]: [&[Option<f64>]; 2], from: usize, carried: usize) -> bool {
    let crosses = |[a0, b0]: [f64; 2], [a1, b1]: [f64; 2]| {
        NEARER * ((a1 - b0).abs() + (b1 - a0).abs()) < (a1 - a0).abs() + (b1 - b0).abs()
    };
    let hour = |i: usize| Some([a[i]?, b[i]?]);
    let side = |from: usize| Some([mean(a, from)?, mean(b, from)?]);
    let both = |of: &dyn Fn(usize) -> Option<[f64; 2]>, before, after| of(before).zip(of(after));
    [both(&hour, from - 1, from + carried), both(&side, from - SIDE, from + carried)]
        .into_iter()
        .all(|pair| pair.is_some_and(|(before, after)| crosses(before, after)))
}

/// The middle of how much a figure changes from hour to hour.
fn usual(row: &[Option<f64>]) -> f64 {
    let mut changes: Vec<f64> = row.windows(2).filter_map(|two| Some((two[1]? - two[0]?).abs())).collect();
    changes.sort_by(f64::total_cmp);
    changes.get(changes.len() / 2).copied().unwrap_or(0.0)
}

/// The mean of a day of hours from one on, where enough of them are there.
fn mean(row: &[Option<f64>], from: usize) -> Option<f64> {
    let there: Vec<f64> = row.get(from..from + SIDE)?.iter().flatten().copied().collect();
    (there.len() >= LEAST).then(|| there.iter().sum::<f64>() / there.len() as f64)
}
