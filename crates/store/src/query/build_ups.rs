//! How boundaries are built, in variants, and a practice's own materials.

use super::history::Act;
use super::prices::{PracticeAct, Setting};
use crate::entity::{build_up, material};
use crate::error::StoreError;
use crate::record::records;
use crate::scope::Scope;
use building::construction::{OwnMaterial, Variant};
use sea_orm::{ColumnTrait, EntityTrait, QueryFilter, QueryOrder};
use uuid::Uuid;

impl Scope {
    /// Makes the variants of a boundary these, in their order; those not among them are removed.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_variants(&self, act: &Act, boundary: Uuid, variants: &[Variant]) -> Result<(), StoreError> {
        if self.acted(act.job, act.id).await? {
            return Ok(());
        }
        let there = build_up::Entity::find()
            .filter(build_up::Column::PracticeId.eq(self.practice))
            .filter(build_up::Column::JobId.eq(act.job))
            .filter(build_up::Column::BoundaryId.eq(boundary))
            .filter(build_up::Column::RemovedAt.is_null())
            .all(&self.txn)
            .await?;
        let mut rows = Vec::new();
        for (position, variant) in (0..).zip(variants) {
            let row = build_up::Model {
                practice_id: self.practice,
                id: variant.id,
                job_id: act.job,
                boundary_id: boundary,
                position,
                name: variant.name.clone(),
                courses: serde_json::to_value(&variant.courses).map_err(|e| StoreError::Corrupt(e.to_string()))?,
                framing_pct: variant.framing_pct,
                removed_at: None,
            };
            self.put::<build_up::Entity>(&mut rows, row).await?;
        }
        for gone in there.into_iter().filter(|row| !variants.iter().any(|v| v.id == row.id)) {
            let removed = build_up::Model { removed_at: Some(act.at), ..gone };
            self.put::<build_up::Entity>(&mut rows, removed).await?;
        }
        self.log(act, rows).await
    }

    /// The practice's own materials, by name.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn materials(&self) -> Result<Vec<OwnMaterial>, StoreError> {
        let own = material::Column::PracticeId.eq(self.practice);
        let rows = material::Entity::find().filter(own).order_by_asc(material::Column::Id).all(&self.txn).await?;
        let mut all: Vec<OwnMaterial> = records(rows)?;
        all.sort_by(|a, b| a.name.cmp(&b.name));
        Ok(all)
    }

    /// Keeps a material of the practice's own, new or changed.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_material(&self, act: PracticeAct, material: &OwnMaterial) -> Result<(), StoreError> {
        let text = serde_json::to_string(material).map_err(|e| StoreError::Corrupt(e.to_string()))?;
        self.settle(act, [(Setting::Material(material.id), Some(text))].into()).await
    }

    /// Removes one. Build-ups that use it say so.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn remove_material(&self, act: PracticeAct, id: Uuid) -> Result<(), StoreError> {
        self.settle(act, [(Setting::Material(id), None)].into()).await
    }
}
