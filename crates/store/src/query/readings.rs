//! Readings: append-only; a correction is a new row that names the one it replaces.

use crate::convert;
use crate::entity::reading;
use crate::error::StoreError;
use crate::record::{Instrument, ReadingRecord, records};
use crate::scope::Scope;
use building::ReadingKind;
use building::entry::AirEntry;
use building::infrared::InfraredValue;
use building::reading::{Collected, Reading, WoodValue};
use chrono::{DateTime, Utc};
use hygrothermal::quantity::{ScaleReading, Temperature};
use sea_orm::sea_query::Expr;
use sea_orm::{ColumnTrait, EntityTrait, IntoActiveModel, NotSet, QueryFilter, QueryOrder, QuerySelect, Select, Value};
use std::collections::{HashMap, HashSet};
use uuid::Uuid;

/// What a new reading says.
#[derive(Debug, Clone, Copy)]
pub enum NewValue {
    /// Air, raw and corrected.
    Air(AirEntry),
    /// Surface temperature.
    Surface(Temperature),
    /// Wood moisture by pins.
    Wood(WoodValue),
    /// A relative scale.
    Relative(ScaleReading),
    /// Surface temperature by infrared.
    Infrared(InfraredValue),
    /// Water collected by a dehumidifier.
    Water(Collected),
    /// Air moved, m³/s.
    Airflow(f64),
    /// Rain of the two days before, mm.
    Rain(f64),
    /// Only the words typed.
    Note,
    /// The reading it replaces was a mistake and nothing takes its place.
    Withdrawn,
}

/// A reading to append. Its id is made where it is typed, so that sending it twice stores it once.
#[derive(Debug, Clone)]
pub struct NewReading {
    /// Identity.
    pub id: Uuid,
    /// Job.
    pub job_id: Uuid,
    /// Visit.
    pub visit_id: Uuid,
    /// Station.
    pub station_id: Uuid,
    /// Instrument.
    pub instrument_id: Uuid,
    /// Who read it.
    pub consultant_id: Uuid,
    /// What it says.
    pub value: NewValue,
    /// As typed.
    pub as_typed: String,
    /// Doubts raised at entry and kept despite, in words.
    pub questions: String,
    /// The reading it corrects, and why.
    pub replaces: Option<(Uuid, String)>,
    /// When it was read.
    pub taken_at: DateTime<Utc>,
}

impl NewReading {
    /// The record it becomes.
    fn record(&self) -> ReadingRecord {
        let (kind, t, air) = match self.value {
            NewValue::Air(a) => (ReadingKind::Air, Some((a.raw_t, a.value.t.get())), Some(a)),
            NewValue::Surface(t) => (ReadingKind::Surface, Some((t.get(), t.get())), None),
            NewValue::Wood(_) => (ReadingKind::Wood, None, None),
            NewValue::Relative(_) => (ReadingKind::Relative, None, None),
            NewValue::Infrared(i) => (ReadingKind::Surface, Some((i.shown.get(), i.own.value)), None),
            NewValue::Water(_) => (ReadingKind::Water, None, None),
            NewValue::Airflow(_) => (ReadingKind::Airflow, None, None),
            NewValue::Rain(_) => (ReadingKind::Rain, None, None),
            NewValue::Note => (ReadingKind::Note, None, None),
            NewValue::Withdrawn => (ReadingKind::Withdrawn, None, None),
        };
        let (raw_value, value, wood) = match self.value {
            NewValue::Wood(w) => (Some(w.shown.get()), convert::percent(w.value), Some(w)),
            NewValue::Relative(shown) => (Some(shown.get()), Some(shown.get()), None),
            NewValue::Water(w) => (Some(w.liters), Some(w.per_day()), None),
            NewValue::Airflow(flow) => (Some(flow), Some(flow), None),
            NewValue::Rain(mm) => (Some(mm), Some(mm), None),
            _ => (None, None, None),
        };
        let infrared = if let NewValue::Infrared(i) = self.value { Some(i) } else { None };
        let hours = if let NewValue::Water(w) = self.value { Some(w.hours) } else { None };
        let (replaces, reason) = self.replaces.clone().unzip();
        ReadingRecord {
            id: self.id,
            job_id: self.job_id,
            visit_id: self.visit_id,
            station_id: self.station_id,
            instrument_id: self.instrument_id,
            consultant_id: self.consultant_id,
            kind,
            as_typed: self.as_typed.clone(),
            raw_t_c: t.map(|(raw, _)| raw),
            t_c: t.map(|(_, corrected)| corrected),
            raw_humidity: air.map(|a| a.raw_humidity),
            humidity_kind: air.map(|a| a.humidity),
            rh_pct: air.map(|a| a.value.rh.get()),
            rh_over: air.map(|a| convert::over_id(a.value.over).to_owned()),
            raw_value,
            value,
            species: wood.map(|w| w.species.to_owned()),
            wood_t_c: wood.map(|w| w.at.get()),
            emissivity: infrared.map(|i| i.emissivity.get()),
            reflected_c: infrared.map(|i| i.reflected.get()),
            hours,
            questions: self.questions.clone(),
            replaces,
            reason: reason.unwrap_or_default(),
            taken_at: self.taken_at,
            stored_at: self.taken_at,
        }
    }
}

/// How keeping a reading went.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Kept {
    /// Stored now.
    Stored,
    /// Stored before under the same id: the same form sent twice.
    Already,
    /// Someone corrected the same reading first.
    CorrectedByOther,
}

impl Scope {
    /// Appends a reading.
    ///
    /// # Errors
    /// [`StoreError::IdTaken`] for the id of another station's reading, [`StoreError`] when the database does not answer.
    pub async fn keep_reading(&self, new: &NewReading) -> Result<Kept, StoreError> {
        // When it was stored is for the database to say.
        let row = reading::ActiveModel { stored_at: NotSet, ..new.record().row(self.practice).into_active_model() };
        if self.insert_once(row).await? {
            return Ok(Kept::Stored);
        }
        match reading::Entity::find_by_id((self.practice, new.id)).one(&self.txn).await? {
            Some(r) if (r.job_id, r.station_id) != (new.job_id, new.station_id) => Err(StoreError::IdTaken(new.id)),
            Some(_) => Ok(Kept::Already),
            None => Ok(Kept::CorrectedByOther),
        }
    }

    /// Every row of a job, superseded ones too, oldest first.
    pub(crate) fn readings_of(&self, job: Uuid) -> Select<reading::Entity> {
        reading::Entity::find()
            .filter(reading::Column::PracticeId.eq(self.practice))
            .filter(reading::Column::JobId.eq(job))
            .order_by_asc(reading::Column::TakenAt)
            .order_by_asc(reading::Column::Id)
    }

    /// Every row of the given visits, superseded ones too, oldest first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn reading_rows(&self, visits: &[Uuid]) -> Result<Vec<ReadingRecord>, StoreError> {
        let rows = reading::Entity::find()
            .filter(reading::Column::PracticeId.eq(self.practice))
            .filter(reading::Column::VisitId.is_in(visits.to_vec()))
            .order_by_asc(reading::Column::TakenAt)
            .order_by_asc(reading::Column::Id);
        records(rows.all(&self.txn).await?)
    }

    /// Some of a job's rows in the order they were read, superseded ones too: those after a moment and an id.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn readings_page(
        &self,
        job: Uuid,
        visit: Option<Uuid>,
        after: Option<(DateTime<Utc>, Uuid)>,
        most: u64,
    ) -> Result<Vec<ReadingRecord>, StoreError> {
        let all = reading::Entity::find()
            .filter(reading::Column::PracticeId.eq(self.practice))
            .filter(reading::Column::JobId.eq(job))
            .order_by_asc(reading::Column::TakenAt)
            .order_by_asc(reading::Column::Id)
            .limit(most);
        let all = visit.into_iter().fold(all, |all, visit| all.filter(reading::Column::VisitId.eq(visit)));
        let later = |(at, id)| Expr::cust_with_values("(taken_at, id) > ($1, $2)", [Value::from(at), Value::from(id)]);
        let rows = after.into_iter().fold(all, |all, after| all.filter(later(after)));
        records(rows.all(&self.txn).await?)
    }

    /// One row.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn reading_row(&self, id: Uuid) -> Result<Option<ReadingRecord>, StoreError> {
        let row = reading::Entity::find_by_id((self.practice, id)).one(&self.txn).await?;
        row.map(TryInto::try_into).transpose()
    }
}

/// The readings that stand: superseded and withdrawn ones left out.
///
/// # Errors
/// [`StoreError::Corrupt`] when a row cannot be read.
pub fn effective(rows: &[ReadingRecord], instruments: &[Instrument]) -> Result<Vec<Reading>, StoreError> {
    let replaced: HashSet<Uuid> = rows.iter().filter_map(|r| r.replaces).collect();
    let by_id: HashMap<Uuid, &Instrument> = instruments.iter().map(|i| (i.id, i)).collect();
    let mut out = Vec::new();
    for row in rows.iter().filter(|r| !replaced.contains(&r.id)) {
        let instrument =
            by_id.get(&row.instrument_id).ok_or_else(|| StoreError::Corrupt("reading of no instrument".into()))?;
        out.extend(convert::reading(row, instrument)?);
    }
    Ok(out)
}
