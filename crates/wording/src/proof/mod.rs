//! Before against after, in sentences.

mod beside;

pub use beside::{PairRow, PairTable, closing, duty, pair_rows, pairs_said, seasons_said, thermal_said};

use building::Climate;
use hygrothermal::proof::{Change, Proof, ProofDay, Reason, Verdict};
use judgment::climate::year;
use notation::number::fixed;
use notation::{MONTHS, Show};

fn pascals(p: f64) -> String {
    format!("{} Pa", fixed(p, 0)).replace('-', "−")
}

fn mean(days: &[ProofDay]) -> f64 {
    days.iter().map(|d| d.outdoor_t).sum::<f64>() / days.len().max(1) as f64
}

/// The month from next on whose usual air comes nearest a temperature.
fn month_like(climate: Climate, t: f64, now: usize) -> &'static str {
    let of = year(climate);
    let nearest = (1..=12).map(|i| (now + i) % 12).min_by(|a, b| (of.t[*a] - t).abs().total_cmp(&(of.t[*b] - t).abs()));
    MONTHS[nearest.unwrap_or(0)]
}

/// Fewest days on each side, of such as know nothing of one another, for a plain word (ours).
const PLAIN: f64 = 3.0;

fn sure(c: &Change) -> bool {
    c.effective_days.iter().all(|d| *d >= PLAIN)
}

/// Whether it worked: what stands first, and what follows.
#[must_use]
pub fn verdict(
    show: &Show,
    space: &str,
    said: &Proof,
    days: [&[ProofDay]; 2],
    climate: Climate,
    now: usize,
) -> [String; 2] {
    let band = |c: &Change| {
        format!("95 % band {} to {}", pascals(c.low.abs().min(c.high.abs())), pascals(c.low.abs().max(c.high.abs())))
    };
    match (said.verdict, &said.change) {
        (Verdict::Improved, Some(c)) => [
            if sure(c) { "It worked." } else { "It seems to have worked: log longer to be sure." }.into(),
            format!(
                "{space} holds {} less over outdoors at like weather than before ({}).",
                pascals(-c.value),
                band(c)
            ),
        ],
        (Verdict::Worse, Some(c)) => [
            if sure(c) { "It got worse." } else { "It seems to have got worse: log longer to be sure." }.into(),
            format!("{space} holds {} more over outdoors at like weather than before ({}).", pascals(c.value), band(c)),
        ],
        (Verdict::NoChange, Some(c)) => [
            "Nothing changed.".into(),
            format!(
                "{space} holds as much over outdoors at like weather as before: between {} less and {} more.",
                pascals((-c.low).max(0.0)),
                pascals(c.high.max(0.0))
            ),
        ],
        (_, None) => [
            "Can’t tell yet.".into(),
            format!(
                "{} and {} days are known of both airs; five on each side are the least. Let the loggers stand on.",
                days[0].len(),
                days[1].len()
            ),
        ],
        (_, Some(c)) if said.reasons.contains(&Reason::SeasonsDoNotOverlap) => {
            let (was, is) = (mean(days[0]), mean(days[1]));
            [
                format!("Can’t tell until {}.", month_like(climate, was, now)),
                format!(
                    "Outdoors was {} before and {} since: only {} % of the days lie in weather both spans know, and what followed the \
                     weather cannot be told from what was done. Log until it is like before again. As it stands the change would be {}.",
                    show.temperature(was),
                    show.temperature(is),
                    fixed(100.0 * said.overlap, 0),
                    pascals(c.value)
                ),
            ]
        }
        (_, Some(c)) => [
            "Can’t tell yet.".into(),
            format!(
                "The change lies between {} and {}. These days could have shown a change of {}: log longer, or hold more fixed.",
                pascals(c.low),
                pascals(c.high),
                pascals(c.detectable)
            ),
        ],
    }
}

/// How much the days say.
#[must_use]
pub fn weight(c: &Change, days: [usize; 2]) -> String {
    format!(
        "{} days before and {} after follow one another so much that they say as much as {} and {} that knew nothing of each other. The \
         smallest change they could have shown is {}.",
        days[0],
        days[1],
        fixed(c.effective_days[0], 0),
        fixed(c.effective_days[1], 0),
        pascals(c.detectable)
    )
}
