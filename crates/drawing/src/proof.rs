//! Moisture excess against outdoor temperature, before and after, with both fits.

use crate::Px;
use crate::log::nice;
use hygrothermal::proof::{Change, ProofDay};

const LEFT: f64 = 56.0;
const TOP: f64 = 12.0;
const FOOT: f64 = 44.0;

/// Days of two spans on one field.
pub struct ProofSheet {
    /// Width and height.
    pub size: [Px; 2],
    /// Left, right, top and foot of the field.
    pub field: [Px; 4],
    /// Days before and after.
    pub dots: [Vec<[Px; 2]>; 2],
    /// Fits before and after, from left to right: where the weather of the spans was.
    pub fits: Vec<[Px; 4]>,
    /// Figures beside and below.
    pub beside: Vec<(Px, String)>,
    /// Outdoor temperatures.
    pub below: Vec<(Px, String)>,
}

/// Places them; `turn` gives a temperature as it is shown.
#[must_use]
pub fn proof_sheet(
    width: f64,
    days: [&[ProofDay]; 2],
    change: Option<&Change>,
    turn: impl Fn(f64) -> f64,
) -> ProofSheet {
    let height = (0.52 * width).max(250.0);
    let (right, foot) = (width - 12.0, height - FOOT);
    let all = || days.iter().copied().flatten();
    let span = |of: fn(&ProofDay) -> f64| {
        let (low, high) = all().map(of).fold((f64::INFINITY, f64::NEG_INFINITY), |(l, h), v| (l.min(v), h.max(v)));
        if low > high { (0.0, 1.0) } else { (low - 0.05 * (high - low) - 1e-6, high + 0.05 * (high - low) + 1e-6) }
    };
    let (t, e) = (span(|d| d.outdoor_t), span(|d| d.excess));
    // Nothing more than outdoors belongs on the field.
    let e = (e.0.min(0.0), e.1.max(0.0));
    let x = |v: f64| LEFT + (right - LEFT) * (v - t.0) / (t.1 - t.0);
    let y = |v: f64| foot - (foot - TOP) * (v - e.0) / (e.1 - e.0);
    let fits = change.map_or_else(Vec::new, |c| {
        let at = |v: f64, by: f64| c.level + by + c.slopes[0] * (v - c.at[0]);
        let of = |days: &[ProofDay], by: f64| {
            let ends = days
                .iter()
                .map(|d| d.outdoor_t)
                .fold((f64::INFINITY, f64::NEG_INFINITY), |(l, h), v| (l.min(v), h.max(v)));
            [Px(x(ends.0)), Px(y(at(ends.0, by))), Px(x(ends.1)), Px(y(at(ends.1, by)))]
        };
        vec![of(days[0], 0.0), of(days[1], c.value)]
    });
    let place = |days: &[ProofDay]| days.iter().map(|d| [Px(x(d.outdoor_t)), Px(y(d.excess))]).collect();
    let back = |shown: f64| {
        // Between two temperatures any scale is straight.
        let (a, b) = (turn(t.0), turn(t.1));
        t.0 + (t.1 - t.0) * (shown - a) / (b - a)
    };
    ProofSheet {
        size: [Px(width), Px(height)],
        field: [Px(LEFT), Px(right), Px(TOP), Px(foot)],
        dots: [place(days[0]), place(days[1])],
        fits,
        beside: nice(e.0, e.1, 6).into_iter().map(|(v, words)| (Px(y(v)), words)).collect(),
        below: nice(turn(t.0), turn(t.1), 8).into_iter().map(|(v, words)| (Px(x(back(v))), words)).collect(),
    }
}

/// Points read before and after on one scale.
pub struct PairSheet {
    /// Width and height of a row.
    pub size: [Px; 2],
    /// Each point: its bands before and after, and both values.
    pub rows: Vec<PairMark>,
    /// Figures below.
    pub below: Vec<(Px, String)>,
}

/// A point before and after.
pub struct PairMark {
    /// Where the bands begin and end.
    pub bands: [[Px; 2]; 2],
    /// Where the values lie.
    pub at: [Px; 2],
}

/// Places pairs; each is a value with its ± before and after.
#[must_use]
pub fn pair_sheet(width: f64, pairs: &[[(f64, f64); 2]]) -> PairSheet {
    const SIDE: f64 = 10.0;
    let ends = pairs.iter().flatten().flat_map(|(v, err)| [v - err, v + err]);
    let (low, high) = ends.fold((f64::INFINITY, f64::NEG_INFINITY), |(l, h), v| (l.min(v), h.max(v)));
    let (low, high) = if high - low > 1e-9 { (low, high) } else { (low - 1.0, low + 1.0) };
    let x = |v: f64| Px(SIDE + (width - 2.0 * SIDE) * (v - low) / (high - low));
    let mark = |both: &[(f64, f64); 2]| PairMark {
        bands: both.map(|(v, err)| [x(v - err), x(v + err)]),
        at: both.map(|(v, _)| x(v)),
    };
    PairSheet {
        size: [Px(width), Px(26.0)],
        rows: pairs.iter().map(mark).collect(),
        below: nice(low, high, 5).into_iter().map(|(v, words)| (x(v), words)).collect(),
    }
}
