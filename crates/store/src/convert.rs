//! Rows to domain values; an unknown word in a row is an error, never a guess.

use crate::entity::{
    boundary, build_up, coating, drying, layout, material, own_source, report, space, station, surface, text_block,
    time_table, weather,
};
use crate::error::StoreError;
use crate::record::{Instrument, ReadingRecord};
use building::coating::CoatingJob;
use building::construction::{OwnMaterial, Variant};
use building::drying::DryingItem;
use building::infrared::InfraredValue;
use building::reading::{AirValue, Collected, Observed, Reading, WoodValue};
use building::report::{ReportDraft, TextBlock};
use building::timetable::{OwnSource, TimeTable};
use building::unfold::Layout;
use building::{
    Boundary, Face, Level, Material, Place, ReadingKind, Side, Space, SpaceKind, Station, Surface, Weather,
};
use hygrothermal::air::Over;
use hygrothermal::quantity::{
    Emissivity, HumidityAccuracy, Measured, MoistureContent, OutOfRange, RelativeHumidity, ScaleReading, Temperature,
    TemperatureAccuracy,
};
use hygrothermal::surface::Accuracy;
use hygrothermal::wood::{MeterReading, species_by_id};

fn known<T>(what: &str, id: &str, found: Option<T>) -> Result<T, StoreError> {
    found.ok_or_else(|| StoreError::Corrupt(format!("unknown {what} {id}")))
}

impl From<OutOfRange> for StoreError {
    fn from(e: OutOfRange) -> Self {
        Self::Corrupt(e.to_string())
    }
}

impl TryFrom<space::Model> for Space {
    type Error = StoreError;
    fn try_from(row: space::Model) -> Result<Self, StoreError> {
        Ok(Self {
            id: row.id,
            kind: known("space kind", &row.kind, SpaceKind::from_id(&row.kind))?,
            level: known("level", &row.level, Level::from_id(&row.level))?,
            name: row.name,
            column: row.place,
            area_m2: row.area_m2,
            height_m: row.height_m,
        })
    }
}

impl TryFrom<build_up::Model> for Variant {
    type Error = StoreError;
    fn try_from(row: build_up::Model) -> Result<Self, StoreError> {
        let courses = serde_json::from_value(row.courses).map_err(|e| StoreError::Corrupt(e.to_string()))?;
        let (id, boundary_id, name, framing_pct) = (row.id, row.boundary_id, row.name, row.framing_pct);
        Ok(Self { id, boundary_id, name, courses, framing_pct })
    }
}

impl TryFrom<layout::Model> for Layout {
    type Error = StoreError;
    fn try_from(row: layout::Model) -> Result<Self, StoreError> {
        let corrupt = |e: serde_json::Error| StoreError::Corrupt(e.to_string());
        Ok(Self {
            space_id: row.id,
            shape: serde_json::from_value(row.shape).map_err(corrupt)?,
            fixtures: serde_json::from_value(row.fixtures).map_err(corrupt)?,
        })
    }
}

impl TryFrom<material::Model> for OwnMaterial {
    type Error = StoreError;
    fn try_from(row: material::Model) -> Result<Self, StoreError> {
        serde_json::from_value(row.said).map_err(|e| StoreError::Corrupt(e.to_string()))
    }
}

impl TryFrom<time_table::Model> for TimeTable {
    type Error = StoreError;
    fn try_from(row: time_table::Model) -> Result<Self, StoreError> {
        serde_json::from_value(row.said).map_err(|e| StoreError::Corrupt(e.to_string()))
    }
}

impl TryFrom<drying::Model> for DryingItem {
    type Error = StoreError;
    fn try_from(row: drying::Model) -> Result<Self, StoreError> {
        serde_json::from_value(row.said).map_err(|e| StoreError::Corrupt(e.to_string()))
    }
}

impl TryFrom<coating::Model> for CoatingJob {
    type Error = StoreError;
    fn try_from(row: coating::Model) -> Result<Self, StoreError> {
        serde_json::from_value(row.said).map_err(|e| StoreError::Corrupt(e.to_string()))
    }
}

impl TryFrom<report::Model> for ReportDraft {
    type Error = StoreError;
    fn try_from(row: report::Model) -> Result<Self, StoreError> {
        serde_json::from_value(row.said).map_err(|e| StoreError::Corrupt(e.to_string()))
    }
}

impl TryFrom<text_block::Model> for TextBlock {
    type Error = StoreError;
    fn try_from(row: text_block::Model) -> Result<Self, StoreError> {
        serde_json::from_value(row.said).map_err(|e| StoreError::Corrupt(e.to_string()))
    }
}

impl TryFrom<own_source::Model> for OwnSource {
    type Error = StoreError;
    fn try_from(row: own_source::Model) -> Result<Self, StoreError> {
        serde_json::from_value(row.said).map_err(|e| StoreError::Corrupt(e.to_string()))
    }
}

impl TryFrom<weather::Model> for Weather {
    type Error = StoreError;
    fn try_from(row: weather::Model) -> Result<Self, StoreError> {
        serde_json::from_value(row.said).map_err(|e| StoreError::Corrupt(e.to_string()))
    }
}

impl TryFrom<boundary::Model> for Boundary {
    type Error = StoreError;
    fn try_from(row: boundary::Model) -> Result<Self, StoreError> {
        let beyond = match (row.beyond.as_str(), row.beyond_space_id) {
            ("space", Some(id)) => Some(Side::Space(id)),
            ("outdoors", None) => Some(Side::Outdoors),
            ("ground", None) => Some(Side::Ground),
            _ => None,
        };
        Ok(Self {
            id: row.id,
            beyond: known("side", &row.beyond, beyond)?,
            face: known("face", &row.face, Face::from_id(&row.face))?,
            name: row.name,
            space_id: row.space_id,
            bare_soil: row.bare_soil,
            buildup: row.buildup,
        })
    }
}

impl TryFrom<surface::Model> for Surface {
    type Error = StoreError;
    fn try_from(row: surface::Model) -> Result<Self, StoreError> {
        Ok(Self {
            id: row.id,
            material: known("material", &row.material, Material::from_id(&row.material))?,
            boundary_id: row.boundary_id,
            space_id: row.space_id,
            name: row.name,
            short: row.short,
        })
    }
}

impl From<station::Model> for Station {
    fn from(row: station::Model) -> Self {
        let place = match (row.space_id, row.surface_id) {
            (_, Some(id)) => Place::Surface(id),
            (Some(id), None) => Place::Space(id),
            (None, None) => Place::Outdoors,
        };
        Self { id: row.id, place }
    }
}

/// Accuracy of an instrument.
pub(crate) fn accuracy(row: &Instrument) -> Result<Accuracy, StoreError> {
    Ok(Accuracy {
        air: TemperatureAccuracy::new(row.air_err_k)?,
        rh: HumidityAccuracy::new(row.rh_err_pct)?,
        surface: TemperatureAccuracy::new(row.surface_err_k)?,
    })
}

/// Id of a phase in storage.
pub(crate) const fn over_id(over: Over) -> &'static str {
    match over {
        Over::Ice => "ice",
        Over::Water => "water",
    }
}

/// Per cent of a corrected meter reading; none over fiber saturation.
pub(crate) const fn percent(value: MeterReading) -> Option<f64> {
    match value {
        MeterReading::Percent(m) => Some(m.value),
        MeterReading::Wet => None,
    }
}

/// The domain's reading behind a row; `None` for a withdrawal.
pub(crate) fn reading(row: &ReadingRecord, by: &Instrument) -> Result<Option<Reading>, StoreError> {
    let mut accuracy = accuracy(by)?;
    let missing = |what: &str| StoreError::Corrupt(format!("{} reading without {what}", row.kind.id()));
    let temperature = || Ok::<_, StoreError>(Temperature::new(row.t_c.ok_or_else(|| missing("temperature"))?)?);
    let shown = || row.raw_value.ok_or_else(|| missing("a figure"));
    let observed = match row.kind {
        ReadingKind::Withdrawn => return Ok(None),
        ReadingKind::Surface => {
            if let Some(read) = infrared(row, accuracy)? {
                accuracy.surface = read.accuracy().unwrap_or(accuracy.surface);
            }
            Observed::Surface(temperature()?)
        }
        ReadingKind::Air => Observed::Air(AirValue {
            t: temperature()?,
            rh: RelativeHumidity::new(row.rh_pct.ok_or_else(|| missing("humidity"))?)?,
            over: if row.rh_over.as_deref() == Some("ice") { Over::Ice } else { Over::Water },
        }),
        ReadingKind::Wood => Observed::Wood(wood(row, shown()?)?.by_meter(by.wood_err_pct)),
        ReadingKind::Relative => Observed::Relative(ScaleReading::new(shown()?)?),
        ReadingKind::Water => {
            let hours = row.hours.ok_or_else(|| missing("hours"))?;
            Observed::Water(Collected { liters: shown()?, hours })
        }
        ReadingKind::Airflow => Observed::Airflow(shown()?),
        ReadingKind::Rain => Observed::Rain(shown()?),
        ReadingKind::Note => Observed::Note,
    };
    let taken_ms = row.taken_at.timestamp_millis();
    Ok(Some(Reading {
        id: row.id,
        station_id: row.station_id,
        instrument_id: row.instrument_id,
        taken_ms,
        observed,
        accuracy,
    }))
}

/// What an infrared reading was corrected from; its band is wider than the instrument's own.
fn infrared(row: &ReadingRecord, accuracy: Accuracy) -> Result<Option<InfraredValue>, StoreError> {
    let (Some(shown), Some(e), Some(reflected)) = (row.raw_t_c, row.emissivity, row.reflected_c) else {
        return Ok(None);
    };
    let (shown, reflected) = (Temperature::new(shown)?, Temperature::new(reflected)?);
    let read = InfraredValue::corrected(shown, Emissivity::new(e)?, reflected, accuracy.surface);
    read.map(Some).map_err(|e| StoreError::Corrupt(e.to_string()))
}

/// Wood moisture as it was corrected when it was read: a later table does not change it.
fn wood(row: &ReadingRecord, shown: f64) -> Result<WoodValue, StoreError> {
    let id = row.species.as_deref().unwrap_or_default();
    let species = known("wood", id, species_by_id(id))?;
    let at = Temperature::new(row.wood_t_c.unwrap_or(f64::NAN))?;
    let percent = |value| MeterReading::Percent(Measured { value, err: species.doubt });
    let value = row.value.map_or(MeterReading::Wet, percent);
    Ok(WoodValue { shown: MoistureContent::new(shown)?, species: &species.id, at, value })
}
