//! Generalized least squares over every memory the days may have.

use super::mixture::Mixture;
use super::{Change, ProofDay};

/// Unknowns: level, change, slope by temperature, slope by vapor pressure.
const UNKNOWNS: usize = 4;
/// Memories looked at, from none to the longest.
const STEPS: usize = 40;
/// Longest memory from a day to the next.
const LONGEST: f64 = 0.97;
/// A column that the ones before it explain but for this share says nothing of its own.
const OWN: f64 = 1e-6;

/// A row: number of the day, what is known of it, and its excess.
type Row = (i64, [f64; UNKNOWNS], f64);
/// A symmetric matrix of the unknowns.
type Matrix = [[f64; UNKNOWNS]; UNKNOWNS];

/// What the days say if they follow one another so much.
struct Given {
    rho: f64,
    /// Logarithm of its weight.
    log: f64,
    estimate: [f64; UNKNOWNS],
    /// Standard error of the change.
    se: f64,
}

/// What the days say.
pub struct Posterior {
    given: Vec<Given>,
    freedom: f64,
    /// Mean and spread of temperature and of vapor pressure over both spans.
    scale: [[f64; 2]; 2],
}

/// Mean and standard deviation; a spread of one where there is none.
fn spread(all: impl Iterator<Item = f64> + Clone) -> [f64; 2] {
    let n = all.clone().count() as f64;
    let mean = all.clone().sum::<f64>() / n;
    let deviation = (all.map(|x| (x - mean).powi(2)).sum::<f64>() / n).sqrt();
    [mean, if deviation > 1e-9 { deviation } else { 1.0 }]
}

/// The triangle L of A = L Lᵀ over the unknowns kept; an unknown whose column says nothing of its own is not kept.
fn triangle(a: &Matrix, kept: &mut [bool; UNKNOWNS]) -> Matrix {
    let mut l = [[0.0; UNKNOWNS]; UNKNOWNS];
    for i in 0..UNKNOWNS {
        for j in 0..=i {
            let sum: f64 = (0..j).map(|k| l[i][k] * l[j][k]).sum();
            if i != j {
                l[i][j] = if kept[j] { (a[i][j] - sum) / l[j][j] } else { 0.0 };
                continue;
            }
            let own = a[i][i] - sum;
            kept[i] &= own > OWN * a[i][i];
            l[i][i] = if kept[i] { own.sqrt() } else { 1.0 };
        }
        if !kept[i] {
            l[i] = [0.0; UNKNOWNS];
            l[i][i] = 1.0;
        }
    }
    l
}

/// The solution of L Lᵀ x = b.
fn solved(l: &Matrix, mut b: [f64; UNKNOWNS]) -> [f64; UNKNOWNS] {
    for i in 0..UNKNOWNS {
        let sum: f64 = (0..i).map(|k| l[i][k] * b[k]).sum();
        b[i] = (b[i] - sum) / l[i][i];
    }
    for i in (0..UNKNOWNS).rev() {
        let sum: f64 = (i + 1..UNKNOWNS).map(|k| l[k][i] * b[k]).sum();
        b[i] = (b[i] - sum) / l[i][i];
    }
    b
}

/// Weight given beforehand to a memory: a little more to long ones, which short series hide (ours, by the rates of error it gives).
fn prior(rho: f64) -> f64 {
    (1.0 - rho).powf(-0.15)
}

fn fit(sides: &[Vec<Row>; 2], rho: f64, kept: [bool; UNKNOWNS], freedom: f64) -> Given {
    let (mut a, mut b, mut yy, mut log_sigma) = ([[0.0; UNKNOWNS]; UNKNOWNS], [0.0; UNKNOWNS], 0.0, 0.0);
    for rows in sides {
        for (i, (at, x, y)) in rows.iter().enumerate() {
            // What a day says beside the one before it, on the scale of a day that stands alone.
            let (mut x, mut y) = (*x, *y);
            if let Some((at_before, x_before, y_before)) = i.checked_sub(1).map(|i| &rows[i]) {
                let phi = rho.powi(i32::try_from((at - at_before).max(1)).unwrap_or(i32::MAX));
                let own = (1.0 - phi * phi).sqrt();
                for (x, before) in x.iter_mut().zip(x_before) {
                    *x = (*x - phi * before) / own;
                }
                y = (y - phi * y_before) / own;
                log_sigma += 2.0 * own.ln();
            }
            for i in 0..UNKNOWNS {
                for j in 0..=i {
                    a[i][j] += x[i] * x[j];
                }
                b[i] += x[i] * y;
            }
            yy += y * y;
        }
    }
    for i in 0..UNKNOWNS {
        if !kept[i] {
            b[i] = 0.0;
        }
    }
    let l = triangle(&a, &mut { kept });
    let estimate = solved(&l, b);
    let explained: f64 = estimate.iter().zip(&b).map(|(e, b)| e * b).sum();
    // Days without any scatter leave rounding: never less than that.
    let left = (yy - explained).max(1e-12 * yy).max(1e-12);
    let log_a: f64 = (0..UNKNOWNS).filter(|i| kept[*i]).map(|i| 2.0 * l[i][i].ln()).sum();
    let unit: [f64; UNKNOWNS] = std::array::from_fn(|i| f64::from(u8::from(i == 1)));
    let variance = left / freedom * solved(&l, unit)[1];
    Given { rho, log: -0.5 * (log_sigma + log_a + freedom * left.ln()), estimate, se: variance.sqrt() }
}

impl Posterior {
    /// `None` where there are no more days than unknowns.
    pub fn of(before: &[ProofDay], after: &[ProofDay]) -> Option<Self> {
        let all = || before.iter().chain(after);
        let scale = [spread(all().map(|d| d.outdoor_t)), spread(all().map(|d| d.outdoor_p))];
        let rows = |days: &[ProofDay], is_after: f64| -> Vec<Row> {
            let one = |d: &ProofDay| {
                let state = [(d.outdoor_t - scale[0][0]) / scale[0][1], (d.outdoor_p - scale[1][0]) / scale[1][1]];
                (d.at, [1.0, is_after, state[0], state[1]], d.excess)
            };
            days.iter().map(one).collect()
        };
        let sides = [rows(before, 0.0), rows(after, 1.0)];
        let mut kept = [true; UNKNOWNS];
        let mut plain = [[0.0; UNKNOWNS]; UNKNOWNS];
        for (_, x, _) in sides.iter().flatten() {
            for i in 0..UNKNOWNS {
                for j in 0..UNKNOWNS {
                    plain[i][j] += x[i] * x[j];
                }
            }
        }
        triangle(&plain, &mut kept);
        let freedom = (before.len() + after.len()) as f64 - kept.iter().filter(|k| **k).count() as f64;
        if freedom < 1.0 || !kept[1] {
            return None;
        }
        let given = (0..STEPS)
            .map(|i| {
                let rho = LONGEST * i as f64 / (STEPS - 1) as f64;
                let mut given = fit(&sides, rho, kept, freedom);
                given.log += prior(rho).ln();
                given
            })
            .collect();
        Some(Self { given, freedom, scale })
    }

    /// The change and its band.
    pub fn change(&self, before: &[ProofDay], after: &[ProofDay]) -> Change {
        let most = self.given.iter().map(|g| g.log).fold(f64::NEG_INFINITY, f64::max);
        let weights: Vec<f64> = self.given.iter().map(|g| (g.log - most).exp()).collect();
        let whole: f64 = weights.iter().sum();
        let mean =
            |of: &dyn Fn(&Given) -> f64| self.given.iter().zip(&weights).map(|(g, w)| w * of(g)).sum::<f64>() / whole;
        let parts = self.given.iter().zip(&weights).map(|(g, w)| [w / whole, g.estimate[1], g.se]).collect();
        let mixture = Mixture::new(self.freedom, parts);
        let (low, high) = (mixture.quantile(0.025), mixture.quantile(0.975));
        let share = mean(&|g| (1.0 - g.rho) / (1.0 + g.rho));
        Change {
            value: mean(&|g| g.estimate[1]),
            low,
            high,
            effective_days: [before, after].map(|d| (d.len() as f64 * share).max(1.0)),
            detectable: 0.5 * (high - low) * (1.0 + mixture.power()),
            slopes: [2, 3].map(|i| mean(&|g| g.estimate[i]) / self.scale[i - 2][1]),
            level: mean(&|g| g.estimate[0]),
            at: [self.scale[0][0], self.scale[1][0]],
        }
    }
}
