//! Reports put together for a reader, and their versions, which never change: text, pictures, signatures and printed pages.

use super::history::Act;
use super::prices::{PracticeAct, Setting};
use crate::entity::{
    logo, remark, report, report_image, report_pdf, report_text, report_version, signature, text_block,
};
use crate::error::StoreError;
use crate::record::{Remark, ReportVersion, Signature, TaskKind, records};
use crate::scope::Scope;
use building::report::{MOST_REPORTS, ReportDraft, TextBlock};
use chrono::{DateTime, Utc};
use sea_orm::{ColumnTrait, EntityTrait, IntoActiveModel, PaginatorTrait, QueryFilter, QueryOrder};
use uuid::Uuid;

/// Most remarks about a job.
pub const MOST_REMARKS: u64 = 500;

/// The reports of a job, without the text of their versions.
#[derive(Debug, Clone, Default)]
pub struct ReportRows {
    /// Put together, oldest first.
    pub drafts: Vec<ReportDraft>,
    /// As they went out, oldest first.
    pub versions: Vec<ReportVersion>,
    /// Who signed them, in the order of time.
    pub signatures: Vec<Signature>,
    /// What people of the practice said about versions and visits, in the order of time.
    pub remarks: Vec<Remark>,
    /// What the practice writes again and again.
    pub blocks: Vec<TextBlock>,
    /// Whether the practice has a sign.
    pub has_logo: bool,
}

/// A picture of a version.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ReportImage {
    /// What it is.
    pub media_type: String,
    /// Itself.
    pub bytes: Vec<u8>,
}

impl Scope {
    /// Keeps a report, new or changed, or takes it away. `false` where a new one would be one too many.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_report(&self, act: &Act, draft: &ReportDraft, removed: bool) -> Result<bool, StoreError> {
        let others = report::Entity::find()
            .filter(report::Column::PracticeId.eq(self.practice))
            .filter(report::Column::JobId.eq(act.job))
            .filter(report::Column::RemovedAt.is_null())
            .filter(report::Column::Id.ne(draft.id));
        if !removed && others.count(&self.txn).await? >= MOST_REPORTS as u64 {
            return Ok(false);
        }
        let row = report::Model {
            practice_id: self.practice,
            id: draft.id,
            job_id: act.job,
            said: serde_json::to_value(draft).map_err(|e| StoreError::Corrupt(e.to_string()))?,
            removed_at: removed.then_some(act.at),
        };
        self.keep_one::<report::Entity>(act, row).await.map(|()| true)
    }

    /// A report of a job as it is put together.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or the row cannot be read.
    pub async fn report(&self, job: Uuid, id: Uuid) -> Result<Option<ReportDraft>, StoreError> {
        let row = report::Entity::find_by_id((self.practice, id)).filter(report::Column::JobId.eq(job));
        let row = row.filter(report::Column::RemovedAt.is_null()).one(&self.txn).await?;
        row.map(TryInto::try_into).transpose()
    }

    /// Keeps a version with its text and pictures, and has it printed. Sent twice it is there once.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer, or another version has its number.
    pub async fn keep_version(
        &self,
        version: ReportVersion,
        html: String,
        images: Vec<ReportImage>,
    ) -> Result<(), StoreError> {
        let (id, job, practice_id) = (version.id, version.job_id, self.practice);
        if !self.insert_once(version.row(practice_id).into_active_model()).await? {
            return Ok(());
        }
        let text = report_text::Model { practice_id, version_id: id, html };
        report_text::Entity::insert(text.into_active_model()).exec_without_returning(&self.txn).await?;
        for (n, image) in (1..).zip(images) {
            let ReportImage { media_type, bytes } = image;
            let row = report_image::Model { practice_id, version_id: id, n, media_type, bytes };
            report_image::Entity::insert(row.into_active_model()).exec_without_returning(&self.txn).await?;
        }
        self.ask(TaskKind::Print, id, job).await
    }

    /// A version of a job’s report, with its text.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn version(&self, id: Uuid) -> Result<Option<(ReportVersion, String)>, StoreError> {
        let row = report_version::Entity::find_by_id((self.practice, id)).one(&self.txn).await?;
        let text = report_text::Entity::find_by_id((self.practice, id)).one(&self.txn).await?;
        row.zip(text).map(|(row, text)| Ok((row.try_into()?, text.html))).transpose()
    }

    /// A picture of a version, by its number.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn report_image(&self, version: Uuid, n: i32) -> Result<Option<ReportImage>, StoreError> {
        let row = report_image::Entity::find_by_id((self.practice, version, n)).one(&self.txn).await?;
        Ok(row.map(|r| ReportImage { media_type: r.media_type, bytes: r.bytes }))
    }

    /// The pictures of a version, in order.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn report_images(&self, version: Uuid) -> Result<Vec<ReportImage>, StoreError> {
        let rows = report_image::Entity::find()
            .filter(report_image::Column::PracticeId.eq(self.practice))
            .filter(report_image::Column::VersionId.eq(version))
            .order_by_asc(report_image::Column::N)
            .all(&self.txn)
            .await?;
        Ok(rows.into_iter().map(|r| ReportImage { media_type: r.media_type, bytes: r.bytes }).collect())
    }

    /// Signs a version, and has it printed anew. Nobody signs the same twice.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn sign(&self, signature: Signature) -> Result<(), StoreError> {
        let (version, job) = (signature.version_id, signature.job_id);
        if self.insert_once(signature.row(self.practice).into_active_model()).await? {
            self.ask(TaskKind::Print, version, job).await?;
        }
        Ok(())
    }

    /// Who signed a version, in the order of time.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn signatures(&self, version: Uuid) -> Result<Vec<Signature>, StoreError> {
        let rows = signature::Entity::find()
            .filter(signature::Column::PracticeId.eq(self.practice))
            .filter(signature::Column::VersionId.eq(version))
            .order_by_asc(signature::Column::At)
            .order_by_asc(signature::Column::Id);
        records(rows.all(&self.txn).await?)
    }

    /// Keeps a remark; `false` when there are enough about the job. Sent twice it is there once.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn remark(&self, said: Remark) -> Result<bool, StoreError> {
        self.turn(&format!("remarks {}", said.job_id)).await?;
        let own = remark::Entity::find()
            .filter(remark::Column::PracticeId.eq(self.practice))
            .filter(remark::Column::JobId.eq(said.job_id));
        if own.count(&self.txn).await? >= MOST_REMARKS {
            return Ok(false);
        }
        self.insert_once(said.row(self.practice).into_active_model()).await?;
        Ok(true)
    }

    /// Keeps a version as printed when it had so many signatures; what was printed before stays as it is.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_pdf(&self, version: Uuid, signed: usize, bytes: Vec<u8>) -> Result<(), StoreError> {
        let signed = i32::try_from(signed).unwrap_or(i32::MAX);
        let row =
            report_pdf::Model { practice_id: self.practice, version_id: version, signed, bytes, made_at: Utc::now() };
        self.insert_once(row.into_active_model()).await?;
        Ok(())
    }

    /// A version as printed with so many signatures; nothing while it is not.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn pdf(&self, version: Uuid, signed: usize) -> Result<Option<Vec<u8>>, StoreError> {
        let signed = i32::try_from(signed).unwrap_or(i32::MAX);
        let row = report_pdf::Entity::find_by_id((self.practice, version, signed)).one(&self.txn).await?;
        Ok(row.map(|r| r.bytes))
    }

    /// Whether a version is printed with so many signatures.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn has_pdf(&self, version: Uuid, signed: usize) -> Result<bool, StoreError> {
        let signed = i32::try_from(signed).unwrap_or(i32::MAX);
        let own = report_pdf::Entity::find()
            .filter(report_pdf::Column::PracticeId.eq(self.practice))
            .filter(report_pdf::Column::VersionId.eq(version))
            .filter(report_pdf::Column::Signed.eq(signed));
        Ok(own.count(&self.txn).await? > 0)
    }

    /// The practice’s sign, a JPEG.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn logo(&self) -> Result<Option<Vec<u8>>, StoreError> {
        let row = logo::Entity::find_by_id(self.practice).one(&self.txn).await?;
        Ok(row.map(|r| r.bytes))
    }

    /// Makes a JPEG the practice’s sign, or takes it away.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn set_logo(&self, bytes: Option<Vec<u8>>, by: Uuid, at: DateTime<Utc>) -> Result<(), StoreError> {
        self.turn("logo").await?;
        logo::Entity::delete_by_id(self.practice).exec(&self.txn).await?;
        if let Some(bytes) = bytes {
            let row = logo::Model { practice_id: self.practice, bytes, updated_by: by, updated_at: at };
            logo::Entity::insert(row.into_active_model()).exec_without_returning(&self.txn).await?;
        }
        Ok(())
    }

    /// What the practice writes again and again, by heading.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn text_blocks(&self) -> Result<Vec<TextBlock>, StoreError> {
        let own = text_block::Column::PracticeId.eq(self.practice);
        let mut all: Vec<TextBlock> = records(text_block::Entity::find().filter(own).all(&self.txn).await?)?;
        all.sort_by(|a, b| (&a.heading, a.id).cmp(&(&b.heading, b.id)));
        Ok(all)
    }

    /// Keeps a block of text, new or changed, or takes it away.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_text_block(&self, act: PracticeAct, block: &TextBlock, removed: bool) -> Result<(), StoreError> {
        let text = serde_json::to_string(block).map_err(|e| StoreError::Corrupt(e.to_string()))?;
        self.settle(act, [(Setting::TextBlock(block.id), Some(text).filter(|_| !removed))].into()).await
    }
}
