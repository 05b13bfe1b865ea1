//! The demo's drying job: set up, and read every morning.

use anyhow::{Context, Result, anyhow};
use building::Building;
use building::drying::{
    DryPoint, DryRead, DryingItem, Machine, MachineKind, Run, SheetKind, SheetTest, Taken, WetEvent,
};
use chrono::{DateTime, Duration, NaiveTime, Utc};
use judgment::drying::material;
use stand_ins::{DemoDrying, DemoRound, dryings};
use store::{Act, DryingReading, Instrument, SaltCheck, Scope};
use uuid::Uuid;

/// Hour it got wet at, and minutes until it was stopped.
const HOUR: u32 = 6;
const STOPPED_AFTER: i64 = 40;

/// The moisture meter was held to its block lately.
pub async fn check_meter(scope: &Scope, meter: &Instrument, by: Uuid, now: DateTime<Utc>) -> Result<()> {
    let at = now - Duration::days(46);
    let check = SaltCheck {
        id: Uuid::now_v7(),
        instrument_id: meter.id,
        consultant_id: by,
        salts: vec!["block".into()],
        started_at: at,
        ended_at: Some(at),
        t_c: None,
        shown: Some(serde_json::json!({ "block": 17.8, "reference": 18.0 })),
        // A block corrects nothing.
        rh_slope: Some(1.0),
        rh_offset_pct: Some(0.0),
        max_residual_pct: Some(0.2),
        note: "New battery.".into(),
    };
    Ok(scope.keep_salt_check(check).await?)
}

struct Loading<'a> {
    building: Building,
    demo: &'a DemoDrying,
    wet_at: DateTime<Utc>,
    job: Uuid,
    by: Uuid,
}

impl Loading<'_> {
    fn space(&self, name: &str) -> Result<Uuid> {
        let found = self.building.spaces.iter().find(|s| s.name == name);
        Ok(found.with_context(|| format!("space {name}"))?.id)
    }

    fn at(&self, day: f64) -> DateTime<Utc> {
        self.wet_at + Duration::seconds((day * 86_400.0) as i64)
    }

    fn wet(&self) -> Result<Uuid> {
        self.space(self.demo.spaces.first().context("a space that got wet")?)
    }

    fn points(&self) -> Result<Vec<DryPoint>> {
        let (space_id, of) = (self.wet()?, &self.demo.point);
        (1..)
            .zip(of)
            .map(|(order, p)| {
                let of = material(&p.material).with_context(|| format!("material {}", p.material))?;
                Ok(DryPoint {
                    id: Uuid::now_v7(),
                    space_id,
                    cavity: p.cavity.clone(),
                    name: p.name.clone(),
                    material: of.id.clone(),
                    scale: of.scale,
                    species: of.species.clone(),
                    standard: Some(p.standard),
                    goal: None,
                    cover: p.cover.clone(),
                    tent: None,
                    layer: 0,
                    since: None,
                    order,
                })
            })
            .collect()
    }

    fn machines(&self) -> Result<Vec<Machine>> {
        let space_id = self.wet()?;
        let of = |m: &stand_ins::DemoMachine| Machine {
            id: Uuid::now_v7(),
            kind: m.kind,
            name: m.name.clone(),
            space_id,
            rated: m.rated,
            rated_warm: false,
            watts: Some(m.watts),
            setting: m.setting.clone(),
            runs: vec![Run {
                from: self.at(m.from + 0.2).timestamp_millis(),
                until: m.until.map(|d| self.at(d + 0.15).timestamp_millis()),
            }],
        };
        Ok(self.demo.machine.iter().map(of).collect())
    }

    fn event(&self) -> Result<WetEvent> {
        let spaces: Result<Vec<Uuid>> = self.demo.spaces.iter().map(|s| self.space(s)).collect();
        Ok(WetEvent {
            at: self.wet_at.timestamp_millis(),
            words: self.demo.words.clone(),
            water: self.demo.water,
            spread: self.demo.spread,
            stopped: Some((self.wet_at + Duration::minutes(STOPPED_AFTER)).timestamp_millis()),
            stopped_by: self.demo.stopped_by.clone(),
            growth: false,
            spaces: spaces?,
            unaffected: Some(self.space(&self.demo.unaffected)?),
        })
    }

    fn rest(&self) -> Result<Vec<DryingItem>> {
        let space_id = self.wet()?;
        let taken = self.demo.taken.iter().map(|t| {
            DryingItem::Taken(Taken {
                id: Uuid::now_v7(),
                space_id: Some(space_id),
                what: t.what.clone(),
                amount: t.amount.clone(),
                why: t.why.clone(),
                photo: None,
                at: self.at(t.day + 0.3).timestamp_millis(),
            })
        });
        let sheets = self.demo.sheet.iter().map(|s| {
            let until = self.at(s.day + 0.2);
            DryingItem::Sheet(SheetTest {
                id: Uuid::now_v7(),
                space_id,
                name: s.name.clone(),
                kind: SheetKind::Sheet,
                from: (until - Duration::seconds((s.hours * 3600.0) as i64)).timestamp_millis(),
                until: until.timestamp_millis(),
                area_m2: s.area,
                whole_m2: s.whole,
                grams: Some(s.grams),
                wet_on_top: false,
                depths: None,
                high_month: 2,
            })
        });
        Ok(taken.chain(sheets).collect())
    }

    /// What was read on a round, with its instruments: hygrometer and meter.
    fn readings(
        &self,
        round: &DemoRound,
        (points, machines): (&[DryPoint], &[Machine]),
        [hygrometer, meter]: [&Instrument; 2],
    ) -> Result<Vec<DryingReading>> {
        let (round_id, taken_at) = (Uuid::now_v7(), self.at(round.day));
        let reading =
            |of_id, what, [a, b]: [Option<f64>; 2], as_typed: String, by: Option<&Instrument>| DryingReading {
                id: Uuid::now_v7(),
                job_id: self.job,
                round_id,
                of_id,
                what,
                a,
                b,
                over: false,
                as_typed,
                reason: String::new(),
                instrument_id: by.map(|i| i.id),
                consultant_id: self.by,
                taken_at,
            };
        // The instrument showed less by its offset.
        let air = |of, what, [t, rh]: [f64; 2]| {
            let raw = (rh - hygrometer.rh_offset_pct).round();
            reading(of, what, [Some(t), Some(hygrometer.corrected(raw))], format!("{t} {raw}"), Some(hygrometer))
        };
        let [outside, dry, inside] = round.air;
        let mut all = vec![
            air(self.job, DryRead::Air, outside),
            air(self.space(&self.demo.unaffected)?, DryRead::Air, dry),
            air(self.wet()?, DryRead::Air, inside),
        ];
        for (m, gave) in machines.iter().zip(&round.machines) {
            let Some((outlet, liters)) = gave.filter(|_| m.kind != MachineKind::AirMover) else { continue };
            all.push(air(m.id, DryRead::Outlet, outlet));
            all.push(reading(m.id, DryRead::Liters, [Some(liters), None], liters.to_string(), None));
        }
        let moisture =
            |(p, x): (&DryPoint, &f64)| reading(p.id, DryRead::Moisture, [Some(*x), None], x.to_string(), Some(meter));
        all.extend(points.iter().zip(&round.points).map(moisture));
        Ok(all)
    }
}

/// Keeps the drying of a job.
pub async fn load(
    scope: &Scope,
    name: &str,
    job: Uuid,
    by: Uuid,
    instruments: &[Instrument],
    now: DateTime<Utc>,
) -> Result<()> {
    let all = dryings().map_err(|e| anyhow!("demo drying: {e}"))?;
    for demo in all.iter().filter(|d| d.job == name) {
        let wet_at = (now - Duration::days(demo.days_ago)).date_naive();
        let wet_at = wet_at.and_time(NaiveTime::from_hms_opt(HOUR, 0, 0).context("an hour")?).and_utc();
        let loading = Loading { building: scope.building(job).await?, demo, wet_at, job, by };
        let (points, machines) = (loading.points()?, loading.machines()?);
        let items = points.iter().cloned().map(DryingItem::Point);
        let items = items.chain(machines.iter().cloned().map(DryingItem::Machine));
        let items: Vec<DryingItem> =
            items.chain([DryingItem::Event(loading.event()?)]).chain(loading.rest()?).collect();
        let act = Act::new(Uuid::now_v7(), job, by, loading.at(0.35), "Set up drying");
        scope.keep_drying(&act, &items, &[]).await?;
        let rounds = demo.rounds(super::SEED).context("air of the demo's drying")?;
        let with = [instruments.first().context("a hygrometer")?, instruments.get(2).context("a meter")?];
        for round in &rounds {
            scope.add_drying_readings(loading.readings(round, (&points, &machines), with)?).await?;
        }
    }
    Ok(())
}
