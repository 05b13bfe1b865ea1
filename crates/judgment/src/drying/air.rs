//! Air of a drying job: open up or close and dehumidify, what each machine does, and how many are wanted.

use building::drying::{Machine, MachineKind};
use hygrothermal::air::{MoistAir, Over};
use hygrothermal::drying::depression;
use hygrothermal::machine::{Dehumidifier, Rating, relative_capacity};
use hygrothermal::quantity::{AirFlow, DailyWater, Measured, RelativeHumidity, Temperature};
use hygrothermal::space::removal;

/// Least a machine takes from air that passes it while it works, g/kg: 10 gr/lb (common practice).
pub const WORKS: f64 = 1.4;
/// Outdoor air must be so much drier, g/kg, for opening up (common practice).
pub const DRIER: f64 = 1.0;
/// Air dried to where a machine finds little more, % (ours).
const DRY_AIR: f64 = 40.0;
/// Humidity machines are counted to hold while drying, % (ours).
const HELD: f64 = 50.0;
/// Share of its capacity under which a machine has too little to do, and from which it is at its end (ours).
const IDLE: f64 = 0.4;
const FULL: f64 = 0.8;
/// Colder than this a compressor's coil frosts, °C (common practice).
const FROSTS: f64 = 18.0;

/// Why opening up does nothing or harm.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum NoAiring {
    /// Outdoor air is not drier by 1 g/kg.
    NotDrier,
    /// It would wet the coldest surface.
    Wets,
}

/// Which way takes out more.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Better {
    /// Open up.
    OpenUp,
    /// Close, and let machines run.
    Close,
    /// Neither takes anything out.
    Neither,
}

/// Both ways at one hour.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Ways {
    /// L/day by outdoor air with everything open; why not, where it may not be let in.
    pub open: Result<f64, NoAiring>,
    /// L/day by the machines with everything shut, less what leaks in.
    pub closed: f64,
    /// Which is better.
    pub better: Better,
}

/// Opening up against closing and dehumidifying, at one hour.
#[must_use]
pub fn ways(
    inside: &MoistAir,
    outside: &MoistAir,
    coldest: Option<Temperature>,
    [open, shut]: [AirFlow; 2],
    capacity: f64,
) -> Ways {
    let drier = 1000.0 * (inside.humidity_ratio() - outside.humidity_ratio());
    let wets = coldest.zip(outside.dew_point()).is_some_and(|(s, dew)| dew > s);
    let open = match () {
        () if drier < DRIER => Err(NoAiring::NotDrier),
        () if wets => Err(NoAiring::Wets),
        () => Ok(removal(inside, outside, open)),
    };
    let closed = if capacity > 0.0 { capacity + removal(inside, outside, shut) } else { 0.0 };
    let better = match open {
        Ok(liters) if liters >= closed => Better::OpenUp,
        _ if closed > 0.0 => Better::Close,
        Ok(_) => Better::OpenUp,
        Err(_) => Better::Neither,
    };
    Ways { open, closed, better }
}

/// What a machine takes out at its label in this air, L/day; none for one that takes out nothing.
#[must_use]
pub fn capacity(machine: &Machine, air: &MoistAir) -> Option<f64> {
    let rated = machine.rated.filter(|_| machine.kind.dries())?;
    // A wheel takes out nearly the same over this range (common practice).
    if machine.kind == MachineKind::Desiccant {
        return Some(rated);
    }
    let at = if machine.rated_warm { Rating::WARM } else { Rating::COOL };
    let rh = RelativeHumidity::new(air.rh(Over::Water).clamp(0.0, 100.0)).ok()?;
    let unit = Dehumidifier { rated: DailyWater::new(rated).ok()?, at };
    Some(unit.run(air.temperature(), rh, DailyWater::new(0.0).ok()?).capacity)
}

/// A machine as the rounds found it.
pub struct MachineCase<'a> {
    /// The machine.
    pub machine: &'a Machine,
    /// Whether it runs.
    pub running: bool,
    /// Air it draws in.
    pub inlet: Option<MoistAir>,
    /// Air it gives.
    pub outlet: Option<MoistAir>,
    /// Liters a day it collected lately.
    pub liters: Option<f64>,
    /// Whether every point of its space is dry.
    pub all_dry: bool,
    /// Whether a point stopped in its space, and no air moves there.
    pub stalled: bool,
}

/// What to do with a machine.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Turn {
    /// It does what it is there for.
    Keep,
    /// Nothing is left to dry where it stands.
    OffAllDry,
    /// The air it draws is dry already: off, or to where it is wetter.
    OffDryAir,
    /// It takes too little out of damp air: clean its filter, look at its coil and drain.
    Service,
    /// Its coil frosts: a desiccant machine belongs here.
    Frosts,
    /// It stands still where it should run.
    On,
    /// Nobody read its outlet or its liters.
    Read,
}

/// What is said of a machine.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct MachineSaid {
    /// What it takes from each kilogram of dry air, g/kg.
    pub depression: Option<f64>,
    /// What it could take out in the air it draws, L/day.
    pub capacity: Option<f64>,
    /// What to do with it.
    pub turn: Turn,
}

/// What a machine does, and what to do with it.
#[must_use]
pub fn machine(case: &MachineCase<'_>) -> MachineSaid {
    let taken = case.inlet.zip(case.outlet).map(|(i, o)| depression(&i, &o)).filter(|_| case.machine.kind.dries());
    let most = case.inlet.and_then(|a| capacity(case.machine, &a));
    let (t, rh) = case.inlet.map_or((20.0, 50.0), |a| (a.temperature().get(), a.rh(Over::Water)));
    let share = case.liters.zip(most).filter(|(_, m)| *m > 0.0).map(|(l, m)| l / m);
    let dries = case.machine.kind.dries();
    let weak = taken.is_some_and(|d| d < WORKS) || share.is_some_and(|s| s < IDLE);
    let turn = match () {
        () if !case.running => {
            if case.stalled && case.machine.kind.moves_air() {
                Turn::On
            } else {
                Turn::Keep
            }
        }
        () if case.all_dry => Turn::OffAllDry,
        () if !dries => Turn::Keep,
        () if taken.is_none() && case.liters.is_none() => Turn::Read,
        () if weak && rh < DRY_AIR => Turn::OffDryAir,
        () if weak && case.machine.kind == MachineKind::Compressor && t < FROSTS => Turn::Frosts,
        () if weak => Turn::Service,
        () => Turn::Keep,
    };
    MachineSaid { depression: taken, capacity: most, turn }
}

/// How many machines of the kind there a space wants.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Units {
    /// Running.
    pub have: usize,
    /// Wanted to hold 50 % against what comes off.
    pub want: usize,
}

/// How many are wanted: what they collect a day against what each would take out of this air at 50 %. `None` while nobody read liters,
/// or where they are neither at their end nor idle.
#[must_use]
pub fn units(air: &MoistAir, machines: &[(&Machine, f64)]) -> Option<Units> {
    let (have, collected) = (machines.len(), machines.iter().map(|m| m.1).sum::<f64>());
    let now: f64 = machines.iter().filter_map(|(m, _)| capacity(m, air)).sum();
    let rh = air.rh(Over::Water);
    let [held, here] = [HELD, rh.clamp(0.0, 100.0)].map(|rh| RelativeHumidity::new(rh).ok());
    let lower = relative_capacity(air.temperature(), held?) / relative_capacity(air.temperature(), here?);
    let each = now / have.max(1) as f64 * lower.min(1.0);
    let share = collected / now;
    if !(each > 0.0 && share.is_finite()) {
        return None;
    }
    let want = (collected / each - 1e-9).ceil().max(1.0) as usize;
    match () {
        () if share >= FULL && rh > HELD && want > have => Some(Units { have, want }),
        () if share <= IDLE && want < have => Some(Units { have, want }),
        () => None,
    }
}

/// Supply and exit agree so long before a tent is done, ms: two readings a day apart (ours).
const AGREES: i64 = 20 * 3_600_000;

/// What is said of a tent.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct TentSaid {
    /// What its exit holds more than its supply, g/kg, with the band.
    pub gap: Measured,
    /// Since when both agree, ms since 1970.
    pub agrees_since: Option<i64>,
    /// Whether they did for a day.
    pub done: bool,
}

/// What a tent does, by exit less supply (g/kg) at moments, oldest first: drying goes on while the exit holds more.
#[must_use]
pub fn tent(gaps: &[(i64, Measured)]) -> Option<TentSaid> {
    let (last, gap) = *gaps.last()?;
    let agrees = gaps.iter().rev().take_while(|(_, g)| g.value <= g.err).last().map(|g| g.0);
    Some(TentSaid { gap, agrees_since: agrees, done: agrees.is_some_and(|since| last - since >= AGREES) })
}
