//! Whether a fix worked: days of two spans of a log, the same points on two visits, pictures of one place, seasons known.

mod pairs;
mod seasons;

pub use pairs::{ALIKE, PairKind, PairedPoint, Pairs, ThermalPair, pairs, thermal_pairs};
pub use seasons::{Season, Seasons, trouble};

use crate::file::CaseFile;
use crate::log::is_outdoors;
use building::SensorKind;
use chrono::{DateTime, TimeDelta, Utc};
use hygrothermal::air::saturation_pressure;
use hygrothermal::proof::{Proof, ProofDay, Verdict, proof};
use hygrothermal::quantity::Temperature;
use logger::Hour;
use std::collections::{BTreeMap, HashMap};
use store::{Grain, LogSeries, Scope, StoreError};
use uuid::Uuid;

/// Longest span looked at, days.
pub const LONGEST: i64 = 730;

/// Days beside the spans that tell which seasons are known: a year on each side.
const YEAR: TimeDelta = TimeDelta::days(366);

/// Spaces whose air was logged, in walking order, then those that were only read on visits.
#[must_use]
pub fn spaces(file: &CaseFile) -> Vec<(Uuid, &str)> {
    let logged = |id: Uuid| file.series.iter().any(|s| is_air_of(s, id));
    let visited = |id: Uuid| {
        let here = |place| file.building.space_of(place).is_some_and(|s| s.id == id);
        file.building.stations.iter().any(|s| here(s.place))
    };
    let (first, others): (Vec<_>, Vec<_>) = file.building.spaces.iter().partition(|s| logged(s.id));
    let others = others.into_iter().filter(|s| file.visits.len() > 1 && visited(s.id));
    first.into_iter().chain(others).map(|s| (s.id, s.name.as_str())).collect()
}

fn is_air_of(series: &LogSeries, space: Uuid) -> bool {
    series.reads == SensorKind::Air && series.space_id == Some(space) && series.surface_id.is_none()
}

/// Means of temperature and vapor pressure by day since 1970, of several series together, of the days that begin in a span.
fn by_day(
    rows: &HashMap<Uuid, Vec<Hour>>,
    of: &[Uuid],
    [from, until]: &[DateTime<Utc>; 2],
) -> BTreeMap<i64, (f64, f64)> {
    let mut sums: BTreeMap<i64, (f64, f64, f64)> = BTreeMap::new();
    let within = of.iter().filter_map(|id| rows.get(id)).flatten().filter(|d| d.at >= *from && d.at < *until);
    for day in within {
        let (Some(t), Some(dew)) = (day.t_c, day.dew_c) else { continue };
        let Ok(dew) = Temperature::new(dew.mean) else { continue };
        let sum = sums.entry(day.at.timestamp().div_euclid(86_400)).or_default();
        *sum = (sum.0 + 1.0, sum.1 + t.mean, sum.2 + saturation_pressure(dew));
    }
    sums.into_iter().map(|(day, (n, t, p))| (day, (t / n, p / n))).collect()
}

/// What a machine is judged by.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Duty {
    /// Water it collected, L a day.
    Liters,
    /// What it drew, kWh a day.
    Energy,
}

impl Duty {
    /// Smallest change worth naming (ours).
    #[must_use]
    pub const fn least(self) -> f64 {
        match self {
            Self::Liters => 0.2,
            Self::Energy => 0.3,
        }
    }
}

/// What a machine did, at like weather.
pub struct DutyChange {
    /// By which figure.
    pub by: Duty,
    /// Mean before, a day.
    pub before: f64,
    /// After against before.
    pub said: Proof,
}

/// Two spans compared in every way there is.
pub struct Compared {
    /// Days of each span.
    pub days: [Vec<ProofDay>; 2],
    /// What they say of the moisture excess.
    pub air: Proof,
    /// What its machines did meanwhile.
    pub duty: Vec<DutyChange>,
    /// Seasons known on both sides.
    pub seasons: Seasons,
    /// The same points on two visits.
    pub pairs: Option<Pairs>,
    /// Thermal pictures of one place.
    pub thermals: Vec<ThermalPair>,
}

impl Compared {
    /// What a step is closed with: the air’s verdict; where it cannot tell, that of the meters’ own scales.
    #[must_use]
    pub fn verdict(&self) -> Verdict {
        let meters = || self.pairs.as_ref()?.relative?.fell_beyond_doubt();
        match (self.air.verdict, meters()) {
            (Verdict::CantTell, Some(true)) => Verdict::Improved,
            (Verdict::CantTell, Some(false)) => Verdict::Worse,
            (said, _) => said,
        }
    }
}

/// What is compared: a space, two spans that do not overlap, the moment that parts visits and pictures, and the smallest change of
/// the excess worth naming, Pa.
pub struct Asked {
    /// The space.
    pub space: Uuid,
    /// Before and after.
    pub spans: [[DateTime<Utc>; 2]; 2],
    /// When it was done.
    pub parted: DateTime<Utc>,
    /// Pa.
    pub least: f64,
}

/// Compares them, in one statement.
///
/// # Errors
/// [`StoreError`] when the database does not answer.
pub async fn compare(scope: &Scope, file: &CaseFile, asked: &Asked) -> Result<Compared, StoreError> {
    let Asked { space, spans, parted, least } = *asked;
    let [[from, until], [since, to]] = spans;
    let wide = [[from.min(until - YEAR), until], [since, to.max(since + YEAR)]];
    let logged = Logged::read(scope, file, space, &wide).await?;
    let days = spans.each_ref().map(|span| logged.air(span));
    let duty = [Duty::Liters, Duty::Energy].into_iter().filter_map(|by| {
        let [before, after] = spans.each_ref().map(|span| logged.duty(by, span));
        let mean = before.iter().map(|d| d.excess).sum::<f64>() / before.len() as f64;
        let said = proof(&before, &after, by.least());
        (!before.is_empty() && !after.is_empty()).then_some(DutyChange { by, before: mean, said })
    });
    Ok(Compared {
        air: proof(&days[0], &days[1], least),
        duty: duty.collect(),
        seasons: Seasons::of([&logged.air(&wide[0]), &logged.air(&wide[1])]),
        pairs: pairs(file, space, parted),
        thermals: thermal_pairs(file, space, parted),
        days,
    })
}

/// Days of the series that tell of a space.
struct Logged {
    rows: HashMap<Uuid, Vec<Hour>>,
    inside: Vec<Uuid>,
    outside: Vec<Uuid>,
    water: Vec<Uuid>,
    power: Vec<Uuid>,
}

impl Logged {
    async fn read(
        scope: &Scope,
        file: &CaseFile,
        space: Uuid,
        spans: &[[DateTime<Utc>; 2]; 2],
    ) -> Result<Self, StoreError> {
        let ids = |of: &dyn Fn(&LogSeries) -> bool| -> Vec<Uuid> {
            file.series.iter().filter(|s| of(s)).map(|s| s.id).collect()
        };
        let of = |reads: SensorKind| ids(&|s: &LogSeries| s.reads == reads && s.space_id == Some(space));
        let mut found = Self {
            rows: HashMap::new(),
            inside: ids(&|s| is_air_of(s, space)),
            outside: ids(&is_outdoors),
            water: of(SensorKind::Water),
            power: of(SensorKind::Power),
        };
        if !found.inside.is_empty() && !found.outside.is_empty() {
            let all = [&found.inside, &found.outside, &found.water, &found.power].into_iter().flatten().copied();
            found.rows = scope.log_hours(&all.collect::<Vec<_>>(), Grain::Days, spans).await?;
        }
        Ok(found)
    }

    /// A day’s figure beside its outdoor state; none where that is not known.
    fn days(
        &self,
        span: &[DateTime<Utc>; 2],
        of: impl Fn(&BTreeMap<i64, (f64, f64)>) -> BTreeMap<i64, f64>,
    ) -> Vec<ProofDay> {
        let outside = by_day(&self.rows, &self.outside, span);
        let day = |(at, excess): (i64, f64)| {
            let (outdoor_t, outdoor_p) = *outside.get(&at)?;
            Some(ProofDay { at, excess, outdoor_t, outdoor_p })
        };
        of(&outside).into_iter().filter_map(day).collect()
    }

    /// Moisture excess by day, Pa.
    fn air(&self, span: &[DateTime<Utc>; 2]) -> Vec<ProofDay> {
        let inside = by_day(&self.rows, &self.inside, span);
        let over = |outside: &BTreeMap<i64, (f64, f64)>| {
            inside.iter().filter_map(|(day, (_, p))| Some((*day, p - outside.get(day)?.1))).collect()
        };
        self.days(span, over)
    }

    /// What its machines did by day.
    fn duty(&self, by: Duty, [from, until]: &[DateTime<Utc>; 2]) -> Vec<ProofDay> {
        let of = if by == Duty::Liters { &self.water } else { &self.power };
        let mut sums = BTreeMap::new();
        for day in of.iter().filter_map(|id| self.rows.get(id)).flatten().filter(|d| d.at >= *from && d.at < *until) {
            let Some(value) = day.value else { continue };
            // Collected water is so much each time; power is a mean, W.
            let more = if by == Duty::Liters { value.mean * f64::from(value.n) } else { value.mean * 24.0 / 1000.0 };
            *sums.entry(day.at.timestamp().div_euclid(86_400)).or_insert(0.0) += more;
        }
        self.days(&[*from, *until], |_| sums.clone())
    }
}
