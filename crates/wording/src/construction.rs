//! What a construction does over the year, in sentences.

use building::construction::Construction;
use drawing::DropMark;
use hygrothermal::material::{Resists, materials};
use hygrothermal::mold::CRITERION;
use hygrothermal::quantity::Permeance;
use judgment::construction::{Answer, LEAK, MOST_HELD, Said, Turn, Water};
use judgment::hours::MoistureClass;
use language::{known, say};
use notation::number::{brief, fixed};
use notation::unit::{FLOW, GAIN, GAIN_RATE, RESISTANCE};
use notation::{Show, Units, months};

/// A criterion, what it came to, and whether it is met.
pub struct Criterion {
    /// What is asked.
    pub name: &'static str,
    /// By which standard.
    pub source: &'static str,
    /// What it came to against its limit.
    pub figure: String,
    /// Whether it is met.
    pub met: bool,
}

/// A variant's answer in words.
pub struct Told {
    /// Its mark.
    pub mark: DropMark,
    /// The answer in a few words.
    pub head: &'static str,
    /// And in a sentence.
    pub sentence: String,
    /// What it rests on.
    pub criteria: Vec<Criterion>,
    /// How sure it is.
    pub sure: String,
    /// What would change it.
    pub levers: Vec<String>,
}

/// An answer's mark and its few words.
#[must_use]
pub fn short(answer: Answer) -> (DropMark, &'static str) {
    let (symbol, few) = match answer {
        Answer::Safe => (say!("dry"), say!("Safe")),
        Answer::Dries => (say!("mold"), say!("Gets wet and dries")),
        Answer::Doubtful => (say!("unsure"), say!("Doubtful")),
        Answer::Accumulates => (say!("wet"), say!("Accumulates water")),
    };
    (DropMark { symbol, word: known(known(answer.words())) }, few)
}

/// What adds as much to its air, in words.
#[must_use]
pub fn moisture(class: MoistureClass) -> &'static str {
    match class {
        MoistureClass::VeryDry => say!("a dry store"),
        MoistureClass::Dry => say!("an office or a dry dwelling"),
        MoistureClass::Ordinary => say!("a dwelling with few people"),
        MoistureClass::Humid => say!("a dwelling with many people or a kitchen"),
        MoistureClass::VeryHumid => say!("a laundry or a pool"),
    }
}

/// How a layer resists vapor: as a thickness of still air, or as a permeance in US perms.
#[must_use]
pub fn tightness(show: &Show, sd: f64) -> String {
    if show.units == Units::Us && sd > 0.0 {
        return format!("{} perm", brief(Permeance::STILL_AIR / sd / Permeance::US_PERM));
    }
    format!("s_d {} m", brief(sd))
}

/// A material's name without what is said behind a comma or in brackets.
fn brief_name(name: &str) -> &str {
    name.split([',', '(']).next().unwrap_or(name).trim()
}

/// A plane by the layers that meet there.
#[must_use]
pub fn plane(of: &Construction, interface: usize) -> String {
    let name = |i: Option<usize>| i.and_then(|i| of.plies.get(i)).map(|p| brief_name(&p.name));
    match (name(interface.checked_sub(1)), name(Some(interface))) {
        (Some(inner), Some(outer)) => say!("between {inner} and {outer}", inner, outer),
        (None, Some(_)) => say!("at the inner surface").into(),
        _ => say!("at the outer surface").into(),
    }
}

/// Everything said of a variant.
#[must_use]
pub fn told(show: &Show, of: &Construction, said: &Said) -> Told {
    let (mark, head) = short(said.answer);
    Told {
        mark,
        head,
        sentence: sentence(show, of, said),
        criteria: criteria(show, of, said),
        sure: sure(said),
        levers: levers(show, of, said),
    }
}

fn sentence(show: &Show, of: &Construction, said: &Said) -> String {
    let at = plane(of, said.levers.plane);
    let peak = GAIN.text(said.year.peak, show.units);
    let grows = || {
        let moldiest = said.moldiest.filter(|p| p.peak() >= CRITERION);
        moldiest.map_or_else(
            || say!("corners and places behind furniture stand over 80 % in the coldest months").to_owned(),
            |p| say!("it stays humid enough for mold {plane}", plane = plane(of, p.interface)),
        )
    };
    match (said.answer, said.water) {
        (Answer::Safe, _) => say!("No water collects in any month.").into(),
        (Answer::Accumulates, _) => {
            let left = GAIN.text(said.left, show.units);
            say!("It gathers water {at}: {left} is still there after a year, up to {peak} on the way.", at, left, peak)
        }
        (Answer::Dries, Water::DriesBy(month)) => {
            say!(
                "Up to {peak} collects {at}; it is dry again by the end of {month}.",
                peak,
                at,
                month = months()[month]
            )
        }
        (Answer::Doubtful, Water::DriesBy(month)) if said.year.peak > MOST_HELD => say!(
            "Up to {peak} collects {at}, more than a plane holds before it runs; it would be dry by the end of {month}.",
            peak,
            at,
            month = months()[month]
        ),
        (Answer::Doubtful, Water::DriesBy(month)) => {
            say!(
                "Up to {peak} collects {at} and is gone by the end of {month}, but {grows}.",
                peak,
                at,
                month = months()[month],
                grows = grows()
            )
        }
        _ => say!("No water collects, but {grows}.", grows = grows()),
    }
}

fn criteria(show: &Show, of: &Construction, said: &Said) -> Vec<Criterion> {
    let mut out = vec![
        Criterion {
            name: say!("Water carried over the year"),
            source: say!("ISO 13788"),
            figure: GAIN.text(said.left, show.units),
            met: said.water != Water::Stays,
        },
        Criterion {
            name: say!("Most water in a plane"),
            source: say!("ISO 13788, from memory"),
            figure: say!(
                "{said} of {units}",
                said = GAIN.figure(said.year.peak, show.units),
                units = GAIN.text(MOST_HELD, show.units)
            ),
            met: said.year.peak <= MOST_HELD,
        },
    ];
    if let Some(p) = said.moldiest {
        out.push(Criterion {
            name: say!("Mold index inside, third year"),
            source: say!("ASHRAE 160, by monthly means"),
            figure: say!("{peak} of {fixed}", peak = fixed(p.peak(), 1), fixed = fixed(CRITERION, 0)),
            met: p.peak() < CRITERION,
        });
    }
    if let (has, Some(needs)) = said.factor {
        out.push(Criterion {
            name: say!("Temperature factor of corners"),
            source: say!("ISO 13788, R_si 0.25"),
            figure: say!("{has} of {needs}", has = fixed(has, 2), needs = fixed(needs, 2)),
            met: has >= needs,
        });
    }
    if of.through.is_some() && of.combined.error() > 0.1 {
        out.push(Criterion {
            name: say!("Framing: error of the resistance"),
            source: say!("ISO 6946"),
            figure: format!("± {} %", fixed(100.0 * of.combined.error(), 0)),
            met: of.combined.error() <= 0.2,
        });
    }
    out
}

fn sure(said: &Said) -> String {
    const TRIED: &str = "outdoors 2 K colder, rooms a quarter wetter, the tightest layer half and twice as tight";
    let s = said.sure;
    if s.same == s.tried {
        return say!("The same in all {tried} cases tried: {tried2}.", tried = s.tried, tried2 = TRIED);
    }
    let turn = s.turns.map_or(say!("several of them together"), |t| match t {
        Turn::Colder => say!("outdoors 2 K colder"),
        Turn::Wetter => say!("rooms a quarter wetter"),
        Turn::Looser => say!("the tightest layer half as tight"),
        Turn::Tighter => say!("the tightest layer twice as tight"),
    });
    say!(
        "The same in {same} of {tried} cases tried ({tried2}); {turn} would change it.",
        same = s.same,
        tried = s.tried,
        tried2 = TRIED,
        turn
    )
}

fn levers(show: &Show, of: &Construction, said: &Said) -> Vec<String> {
    let l = &said.levers;
    let (at, month) = (plane(of, l.plane), months()[l.month]);
    let mut out = Vec::new();
    let is_dry = said.answer == Answer::Safe;
    match l.outside_r {
        Some(r) if r > 0.0 && !is_dry => out.push(say!(
            "Insulation outside of it: {units} keeps the plane {at} above the rooms’ dew point in {month}.",
            units = RESISTANCE.text(r, show.units),
            at,
            month
        )),
        _ => {}
    }
    match l.retarder {
        Some(0.0) => {}
        Some(sd) => {
            // The loosest of the library that is tight enough.
            let known = materials().iter().filter(|m| ["membrane", say!("finish")].contains(&m.group.as_str()));
            let known = known.filter_map(|m| match m.resists() {
                Ok(Resists::AsLayer(own)) if own.get() >= sd => Some((own.get(), &m.name)),
                _ => None,
            });
            let such = known.min_by(|a, b| a.0.total_cmp(&b.0)).map(|(_, name)| say!(", such as {name}", name));
            let such = such.unwrap_or_default();
            out.push(say!(
                "A retarder inside: {tightness} or tighter{such}, and nothing stays.",
                tightness = tightness(show, sd),
                such
            ));
        }
        None => out.push(say!("No retarder inside is tight enough.").into()),
    }
    if let Some((i, sd)) = l.open {
        let name = of.plies.get(i).map_or(say!("outer layer"), |p| brief_name(&p.name));
        out.push(say!(
            "An open layer outside: {tightness} or more open in place of {name}, and nothing stays.",
            tightness = tightness(show, sd),
            name
        ));
    }
    if l.leak.air > 0.0 {
        let flow = FLOW.text(LEAK, show.units);
        let (air, diffusion) = (GAIN_RATE.text(l.leak.air, show.units), GAIN_RATE.text(l.leak.diffusion, show.units));
        out.push(say!("Air sealing: in {month} a leak of {flow} for each m² would bring {air} to the plane {at}; diffusion brings {diffusion}.", month, flow, air, at, diffusion));
    }
    out
}
