//! Before against after, in sentences.

mod beside;

pub use beside::{PairRow, PairTable, closing, duty, pair_rows, pairs_said, seasons_said, thermal_said};

use building::Climate;
use hygrothermal::proof::{Change, Proof, ProofDay, Reason, Verdict};
use judgment::climate::year;
use language::say;
use notation::number::fixed;
use notation::{Show, months};

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
    months()[nearest.unwrap_or(0)]
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
        say!(
            "95 % band {pascals} to {pascals2}",
            pascals = pascals(c.low.abs().min(c.high.abs())),
            pascals2 = pascals(c.low.abs().max(c.high.abs()))
        )
    };
    match (said.verdict, &said.change) {
        (Verdict::Improved, Some(c)) => [
            if sure(c) { say!("It worked.") } else { say!("It seems to have worked: log longer to be sure.") }.into(),
            say!(
                "{space} holds {pascals} less over outdoors at like weather than before ({band}).",
                space,
                pascals = pascals(-c.value),
                band = band(c)
            ),
        ],
        (Verdict::Worse, Some(c)) => [
            if sure(c) { say!("It got worse.") } else { say!("It seems to have got worse: log longer to be sure.") }
                .into(),
            say!(
                "{space} holds {pascals} more over outdoors at like weather than before ({band}).",
                space,
                pascals = pascals(c.value),
                band = band(c)
            ),
        ],
        (Verdict::NoChange, Some(c)) => [
            say!("Nothing changed.").into(),
            say!(
                "{space} holds as much over outdoors at like weather as before: between {pascals} less and {pascals2} more.",
                space,
                pascals = pascals((-c.low).max(0.0)),
                pascals2 = pascals(c.high.max(0.0))
            ),
        ],
        (_, None) => [
            say!("Can’t tell yet.").into(),
            say!(
                "{days} and {days2} days are known of both airs; five on each side are the least. Let the loggers stand on.",
                days = days[0].len(),
                days2 = days[1].len()
            ),
        ],
        (_, Some(c)) if said.reasons.contains(&Reason::SeasonsDoNotOverlap) => {
            let (was, is) = (mean(days[0]), mean(days[1]));
            [
                say!("Can’t tell until {month_like}.", month_like = month_like(climate, was, now)),
                say!(
                    "Outdoors was {was} before and {is} since: only {said} % of the days lie in weather both spans know, and what followed the weather cannot be told from what was done. Log until it is like before again. As it stands the change would be {pascals}.",
                    was = show.temperature(was),
                    is = show.temperature(is),
                    said = fixed(100.0 * said.overlap, 0),
                    pascals = pascals(c.value)
                ),
            ]
        }
        (_, Some(c)) => [
            say!("Can’t tell yet.").into(),
            say!(
                "The change lies between {pascals} and {pascals2}. These days could have shown a change of {pascals3}: log longer, or hold more fixed.",
                pascals = pascals(c.low),
                pascals2 = pascals(c.high),
                pascals3 = pascals(c.detectable)
            ),
        ],
    }
}

/// How much the days say.
#[must_use]
pub fn weight(c: &Change, days: [usize; 2]) -> String {
    say!(
        "{days} days before and {days2} after follow one another so much that they say as much as {effective_days} and {effective_days2} that knew nothing of each other. The smallest change they could have shown is {pascals}.",
        days = days[0],
        days2 = days[1],
        effective_days = fixed(c.effective_days[0], 0),
        effective_days2 = fixed(c.effective_days[1], 0),
        pascals = pascals(c.detectable)
    )
}
