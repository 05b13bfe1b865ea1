//! What stands beside the moisture excess: the same points on two visits, machines, pictures, seasons; and what a step is closed with.

use super::verdict;
use building::Climate;
use casework::proof::{ALIKE, Compared, Duty, DutyChange, PairKind, PairedPoint, Pairs, Season, ThermalPair};
use hygrothermal::proof::{ProofDay, Verdict};
use language::{known, say};
use notation::Show;
use notation::number::fixed;
use std::collections::BTreeSet;

/// Points compared by one figure.
pub struct PairTable {
    /// By which.
    pub kind: PairKind,
    /// Name of the figure.
    pub name: &'static str,
    /// What it is.
    pub about: &'static str,
    /// What the points say together.
    pub said: String,
    /// Point by point.
    pub rows: Vec<PairRow>,
}

/// A point.
pub struct PairRow {
    /// Where.
    pub name: String,
    /// Before and after.
    pub figures: [String; 2],
    /// As the meter showed, where that is another figure.
    pub shown: String,
    /// Whether it is better or worse beyond its band.
    pub said: &'static str,
}

/// Name and meaning of a figure, decimals, and whether less of it is better.
fn kind(kind: PairKind) -> (&'static str, &'static str, usize, bool) {
    match kind {
        PairKind::Factor => (
            say!("Temperature factor"),
            say!(
                "What a surface keeps of the difference between inside and outdoors: its insulation, whatever the weather."
            ),
            2,
            false,
        ),
        PairKind::WoodOver => (
            say!("Wood over the air’s equilibrium"),
            say!(
                "Percent of moisture over what the air of that day would bring wood to, not against its own past: wood follows its air."
            ),
            1,
            true,
        ),
        PairKind::Relative => (
            say!("Meter’s own scale"),
            say!("The same marked places with the same meter: sign and size count, the figure means nothing."),
            0,
            true,
        ),
    }
}

/// How a point changed, where that is more than both bands together.
fn changed(p: &PairedPoint) -> &'static str {
    let [was, is] = p.both;
    let by = is.value - was.value;
    let less = kind(p.kind).3;
    match () {
        () if by.abs() <= was.err.hypot(is.err) => say!("within its band"),
        () if (by < 0.0) == less => say!("better"),
        () => say!("worse"),
    }
}

/// The points of one figure in rows; empty where there are none.
#[must_use]
pub fn pair_rows(pairs: &Pairs) -> Vec<PairTable> {
    let kinds: BTreeSet<PairKind> = pairs.points.iter().map(|p| p.kind).collect();
    let table = |of: PairKind| {
        let (name, about, decimals, _) = kind(of);
        let own = || pairs.points.iter().filter(move |p| p.kind == of);
        let row = |p: &PairedPoint| PairRow {
            name: p.name.clone(),
            figures: p.both.map(|m| {
                let band = if p.kind == PairKind::Relative {
                    String::new()
                } else {
                    format!(" ± {}", fixed(m.err, decimals))
                };
                format!("{}{band}", fixed(m.value, decimals).replace('-', "−"))
            }),
            shown: p
                .shown
                .map_or_else(String::new, |[a, b]| say!("read {a} and {b} %", a = fixed(a, 1), b = fixed(b, 1))),
            said: changed(p),
        };
        let said = match (of, pairs.relative) {
            (PairKind::Relative, Some(r)) => {
                let band = say!(
                    "on average by {change} (95 % band {high} to {low})",
                    change = fixed(r.change.abs(), 0),
                    high = fixed(-r.high, 0).replace('-', "−"),
                    low = fixed(-r.low, 0).replace('-', "−")
                );
                match r.fell_beyond_doubt() {
                    Some(true) => say!(
                        "{fell} of {count} points fell, {band}: beyond doubt.",
                        fell = r.fell,
                        count = r.count,
                        band
                    ),
                    Some(false) => say!(
                        "{count} of {count2} points rose; they fell {band}: wetter beyond doubt.",
                        count = r.count - r.fell,
                        count2 = r.count,
                        band
                    ),
                    None => say!(
                        "{fell} of {count} points fell, {band}. More marked points, or a later visit, would settle it.",
                        fell = r.fell,
                        count = r.count,
                        band
                    ),
                }
            }
            (PairKind::Relative, None) => {
                say!("Three points are the least that say anything together: mark more, and read them again.").into()
            }
            _ => {
                let count = |what: &str| own().filter(|p| changed(p) == what).count();
                say!(
                    "{count} better, {count2} worse, {count3} within their bands.",
                    count = count(say!("better")),
                    count2 = count(say!("worse")),
                    count3 = count(say!("within its band"))
                )
            }
        };
        PairTable { kind: of, name, about, said, rows: own().map(row).collect() }
    };
    kinds.into_iter().map(table).collect()
}

/// Which visits stand against each other, and what cannot be compared.
#[must_use]
pub fn pairs_said(show: &Show, pairs: &Pairs) -> String {
    let [was, is] = pairs.visits.each_ref().map(|v| show.day(v.started_at));
    let once = match pairs.once {
        0 => String::new(),
        1 => say!(" One place was not read with the same instrument on both and is left out.").into(),
        n => say!(" {n} places were not read with the same instrument on both and are left out.", n),
    };
    say!("The visit of {was} against that of {is}.{once}", was, is, once)
}

/// What a machine did.
#[must_use]
pub fn duty(d: &DutyChange) -> String {
    let (what, unit) = match d.by {
        Duty::Liters => (say!("collects"), say!("L a day")),
        Duty::Energy => (say!("draws"), say!("kWh a day")),
    };
    let one = |x: f64| fixed(x.abs(), 1);
    let Some(c) = d.said.change else {
        return say!(
            "The machine {what} {before} {unit} before; five days on each side tell what changed.",
            what,
            before = fixed(d.before, 1),
            unit
        );
    };
    let (low, high) = (c.low.abs().min(c.high.abs()), c.low.abs().max(c.high.abs()));
    let band = say!("95 % band {one} to {one2}", one = one(low), one2 = one(high));
    match d.said.verdict {
        Verdict::Improved => {
            say!(
                "The machine {what} {one} {unit} less at like weather than before ({band}).",
                what,
                one = one(c.value),
                unit,
                band
            )
        }
        Verdict::Worse => {
            say!(
                "The machine {what} {one} {unit} more at like weather than before ({band}).",
                what,
                one = one(c.value),
                unit,
                band
            )
        }
        Verdict::NoChange => say!(
            "The machine {what} as much at like weather as before: {before} {unit}, within {by}.",
            what,
            before = fixed(d.before, 1),
            unit,
            by = d.by.least()
        ),
        Verdict::CantTell => say!(
            "What the machine {what} can’t be told apart yet: between {one} less and {one2} {unit} more at like weather.",
            what,
            one = one(c.low.min(0.0)),
            one2 = one(c.high.max(0.0)),
            unit
        ),
    }
}

/// Whether two pictures may be set against one another.
#[must_use]
pub fn thermal_said(show: &Show, t: &ThermalPair) -> (bool, String) {
    match t.differences {
        None => (false, say!("In or out is missing on one of them: type both airs first.").into()),
        Some([a, b]) if (a - b).abs() > ALIKE => (
            false,
            say!(
                "Taken at {spread} and {spread2} between in and out: not alike, so the colors cannot be compared. Take it again at about {spread}.",
                spread = show.spread(a),
                spread2 = show.spread(b)
            ),
        ),
        Some([a, b]) => (
            true,
            say!(
                "Taken at {spread} and {spread2} between in and out: alike.",
                spread = show.spread(a),
                spread2 = show.spread(b)
            ),
        ),
    }
}

fn listed(all: &[Season]) -> String {
    all.iter().map(|s| known(known(s.words()))).collect::<Vec<_>>().join(", ")
}

/// Which seasons are known, and which are missing.
#[must_use]
pub fn seasons_said(known: &casework::proof::Seasons, missing: &[Season], trouble: &[Season]) -> String {
    let told = |all: &[Season]| if all.is_empty() { say!("none").into() } else { listed(all) };
    let shows: Vec<Season> = missing.iter().filter(|s| trouble.contains(s)).copied().collect();
    let lacks = match (missing.is_empty(), shows.is_empty()) {
        (true, _) => say!("Nothing is missing.").into(),
        (_, true) => say!("Missing: {listed}.", listed = listed(missing)),
        (_, false) => {
            say!(
                "Missing: {listed}. The trouble shows in {listed2}: that one decides.",
                listed = listed(missing),
                listed2 = listed(&shows)
            )
        }
    };
    say!("Known before: {told}. Since: {told2}. {lacks}", told = told(&known.before), told2 = told(&known.after), lacks)
}

/// What a step is closed with; none while nothing can be told.
#[must_use]
pub fn closing(show: &Show, space: &str, found: &Compared, climate: Climate, now: usize) -> Option<String> {
    let days: [&[ProofDay]; 2] = [&found.days[0], &found.days[1]];
    let air = verdict(show, space, &found.air, days, climate, now).join(" ");
    let count = days.map(<[ProofDay]>::len);
    let meters = found.pairs.as_ref().map(pair_rows).unwrap_or_default();
    let meters = meters.iter().find(|t| t.kind == PairKind::Relative).map(|t| t.said.as_str());
    match found.verdict() {
        Verdict::CantTell => None,
        _ if found.air.verdict != Verdict::CantTell => {
            Some(say!("{air} Days compared: {count} before, {count2} after.", air, count = count[0], count2 = count[1]))
        }
        Verdict::Worse => Some(say!("It got worse by the meter: {meters}", meters = meters?)),
        _ => Some(say!("It worked by the meter: {meters}", meters = meters?)),
    }
}
