//! Pictures of a job.

use super::history::Act;
use crate::entity::{photo, photo_file};
use crate::error::StoreError;
use crate::record::Photo;
use crate::scope::Scope;
use sea_orm::{ColumnTrait, EntityTrait, IntoActiveModel, QueryFilter};
use uuid::Uuid;

/// The files of a picture.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum PhotoSize {
    /// As it was taken.
    Original,
    /// For a page.
    View,
    /// For a list.
    Thumb,
}

impl PhotoSize {
    const fn id(self) -> &'static str {
        match self {
            Self::Original => "original",
            Self::View => "view",
            Self::Thumb => "thumb",
        }
    }
}

impl Scope {
    /// A file of a picture that is there.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn photo_file(
        &self,
        job: Uuid,
        id: Uuid,
        size: PhotoSize,
    ) -> Result<Option<(Photo, Vec<u8>)>, StoreError> {
        let row = photo::Entity::find_by_id((self.practice, id))
            .filter(photo::Column::JobId.eq(job))
            .filter(photo::Column::RemovedAt.is_null())
            .one(&self.txn)
            .await?;
        let Some(row) = row else { return Ok(None) };
        let file = photo_file::Entity::find_by_id((self.practice, id, size.id().into())).one(&self.txn).await?;
        file.map(|f| Ok((row.try_into()?, f.bytes))).transpose()
    }

    /// Adds a picture with its files. Sent twice it is there once.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn add_photo(&self, act: &Act, photo: Photo, files: [(PhotoSize, Vec<u8>); 3]) -> Result<(), StoreError> {
        let id = photo.id;
        self.keep_photo(act, photo).await?;
        for (size, bytes) in files {
            let file =
                photo_file::Model { practice_id: self.practice, photo_id: id, size: size.id().to_owned(), bytes };
            self.insert_once(file.into_active_model()).await?;
        }
        Ok(())
    }

    /// Keeps what is known of a picture.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_photo(&self, act: &Act, photo: Photo) -> Result<(), StoreError> {
        self.keep_one::<photo::Entity>(act, photo.row(self.practice, act.at)).await
    }
}
