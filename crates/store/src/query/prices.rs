//! A practice's price book, its currency and the schools it works by; every change of them is kept and can be undone.

use crate::entity::{material, own_source, practice, practice_change, practice_school, price, text_block, weather};
use crate::error::StoreError;
use crate::record::TaskKind;
use crate::scope::Scope;
use chrono::{DateTime, SubsecRound, TimeDelta, Utc};
use sea_orm::{ActiveModelTrait, ColumnTrait, EntityTrait, IntoActiveModel, QueryFilter, QueryOrder, QuerySelect, Set};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use uuid::Uuid;

/// Changes looked back on.
const LOOKED_BACK: u64 = 50;

/// Prices and how they are written.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct PriceBook {
    /// What stands behind an amount; empty while nobody has said.
    pub currency: String,
    /// Hundredths by item.
    pub cents: BTreeMap<String, i64>,
}

/// How long after settling for how long something is kept what is older goes.
const LOOKED_AT: TimeDelta = TimeDelta::hours(24);

/// Something a practice settles once for all its jobs.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(tag = "of", content = "id", rename_all = "snake_case")]
pub enum Setting {
    /// What stands behind an amount.
    Currency,
    /// Hundredths for an item.
    Price(String),
    /// The school for a question.
    School(String),
    /// A material of the practice's own, as JSON.
    Material(Uuid),
    /// A source of water of the practice's own, as JSON.
    Source(Uuid),
    /// A weather file of the practice's own, as JSON.
    Weather(Uuid),
    /// A block of text of the practice's own, as JSON.
    TextBlock(Uuid),
    /// For how many days single readings of loggers are kept.
    LogDays,
    /// For how many days jobs taken off the docket are kept.
    RemovedDays,
    /// For how many days archived jobs are kept.
    ArchivedDays,
    /// For how many days sign-ins are kept.
    SignInDays,
    /// What the practice is called.
    PracticeName,
    /// Where it is reached.
    Address,
    /// Whose days and clock are meant: an IANA time zone.
    Zone,
    /// The units newcomers begin with.
    Units,
    /// The language newcomers begin with, its tag.
    Language,
}

/// A setting as it was and as it became; `None` is unsettled.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Settled {
    /// What.
    pub setting: Setting,
    /// Before.
    pub before: Option<String>,
    /// After.
    pub after: Option<String>,
}

/// Who changes settings, when, under the id it was decided with: sent twice it is done once.
#[derive(Debug, Clone, Copy)]
pub struct PracticeAct {
    /// Identity.
    pub id: Uuid,
    /// Who.
    pub by: Uuid,
    /// When.
    pub at: DateTime<Utc>,
}

/// A change as kept.
#[derive(Debug, Clone, PartialEq)]
pub struct PracticeChange {
    /// Identity.
    pub id: Uuid,
    /// Who.
    pub by: Uuid,
    /// When.
    pub at: DateTime<Utc>,
    /// What.
    pub rows: Vec<Settled>,
    /// The change it undid.
    pub undoes: Option<Uuid>,
    /// Whether another change undid it.
    pub undone: bool,
}

/// Writes something of the practice's own that is kept as JSON, or takes it away.
macro_rules! own {
    ($scope:ident, $module:ident, $id:expr, $after:ident, $by:ident, $at:ident) => {{
        $module::Entity::delete_by_id(($scope.practice, $id)).exec(&$scope.txn).await?;
        if let Some(text) = $after {
            let said = serde_json::from_str(text).map_err(|e| StoreError::Corrupt(e.to_string()))?;
            let row = $module::Model { practice_id: $scope.practice, id: $id, said, updated_by: $by, updated_at: $at };
            let row = row.into_active_model().reset_all();
            $module::Entity::insert(row).exec_without_returning(&$scope.txn).await?;
        }
    }};
}

impl Scope {
    /// The practice's prices.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn price_book(&self) -> Result<PriceBook, StoreError> {
        let rows = price::Entity::find().filter(price::Column::PracticeId.eq(self.practice)).all(&self.txn).await?;
        let own = practice::Entity::find_by_id(self.practice).one(&self.txn).await?;
        Ok(PriceBook {
            currency: own.map(|p| p.currency).unwrap_or_default(),
            cents: rows.into_iter().map(|r| (r.item, r.cents)).collect(),
        })
    }

    /// Schools the practice works by, unless a job says otherwise: question and school.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn practice_schools(&self) -> Result<BTreeMap<String, String>, StoreError> {
        let own = practice_school::Column::PracticeId.eq(self.practice);
        let rows = practice_school::Entity::find().filter(own).all(&self.txn).await?;
        Ok(rows.into_iter().map(|r| (r.question, r.choice)).collect())
    }

    /// Where the practice is reached.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn practice_address(&self) -> Result<String, StoreError> {
        let own = practice::Entity::find_by_id(self.practice).one(&self.txn).await?;
        Ok(own.map(|p| p.address).unwrap_or_default())
    }

    /// The units and the language newcomers begin with.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn newcomers(&self) -> Result<[String; 2], StoreError> {
        let own = practice::Entity::find_by_id(self.practice).one(&self.txn).await?.ok_or(StoreError::Gone)?;
        Ok([own.units, own.language])
    }

    /// What the practice is called, and its time zone.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn practice_named(&self) -> Result<(String, String), StoreError> {
        let own = practice::Entity::find_by_id(self.practice).one(&self.txn).await?;
        Ok(own.map(|p| (p.name, p.time_zone)).unwrap_or_default())
    }

    /// Changes settings; an empty one is no longer settled. What stays as it was is no change.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a price is no number.
    pub async fn settle(&self, act: PracticeAct, changes: BTreeMap<Setting, Option<String>>) -> Result<(), StoreError> {
        self.turn("settings").await?;
        let now = self.settings().await?;
        let one = |(setting, after): (Setting, Option<String>)| {
            let before = now.get(&setting).cloned();
            Settled { setting, before, after }
        };
        let rows: Vec<Settled> = changes.into_iter().map(one).filter(|r| r.before != r.after).collect();
        self.write_settings(act, rows, None).await
    }

    /// The latest changes, newest first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn practice_changes(&self) -> Result<Vec<PracticeChange>, StoreError> {
        let own = practice_change::Column::PracticeId.eq(self.practice);
        let rows = practice_change::Entity::find().filter(own).order_by_desc(practice_change::Column::At);
        let rows = rows.order_by_desc(practice_change::Column::Id).limit(LOOKED_BACK).all(&self.txn).await?;
        let undone: Vec<Uuid> = rows.iter().filter_map(|r| r.undoes).collect();
        rows.into_iter()
            .map(|r| {
                let read = serde_json::from_value(r.rows).map_err(|e| StoreError::Corrupt(e.to_string()))?;
                let undone = undone.contains(&r.id);
                Ok(PracticeChange { id: r.id, by: r.consultant_id, at: r.at, rows: read, undoes: r.undoes, undone })
            })
            .collect()
    }

    /// Puts back what a change replaced; gives what was settled otherwise since, and then does nothing. `None` where
    /// there is no such change among the latest.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn undo_practice_change(
        &self,
        act: PracticeAct,
        change: Uuid,
    ) -> Result<Option<Vec<Setting>>, StoreError> {
        self.turn("settings").await?;
        let known = self.practice_changes().await?;
        let Some(found) = known.into_iter().find(|c| c.id == change) else { return Ok(None) };
        if found.undone {
            return Ok(Some(Vec::new()));
        }
        let now = self.settings().await?;
        let since = found.rows.iter().filter(|r| now.get(&r.setting) != r.after.as_ref());
        let since: Vec<Setting> = since.map(|r| r.setting.clone()).collect();
        if since.is_empty() {
            let back = |r: Settled| Settled { setting: r.setting, before: r.after, after: r.before };
            self.write_settings(act, found.rows.into_iter().map(back).collect(), Some(change)).await?;
        }
        Ok(Some(since))
    }

    /// Everything settled.
    async fn settings(&self) -> Result<BTreeMap<Setting, String>, StoreError> {
        let book = self.price_book().await?;
        let schools = self.practice_schools().await?.into_iter().map(|(q, s)| (Setting::School(q), s));
        let prices = book.cents.into_iter().map(|(item, cents)| (Setting::Price(item), cents.to_string()));
        let currency = Some((Setting::Currency, book.currency)).filter(|(_, c)| !c.is_empty());
        let own = practice::Entity::find_by_id(self.practice).one(&self.txn).await?;
        let own = own.into_iter().flat_map(|p| {
            let kept = [
                (Setting::LogDays, p.log_days),
                (Setting::RemovedDays, p.removed_days),
                (Setting::ArchivedDays, p.archived_days),
                (Setting::SignInDays, p.sign_in_days),
            ];
            let kept = kept.into_iter().filter_map(|(of, days)| Some((of, days?.to_string())));
            let said = [
                (Setting::PracticeName, p.name),
                (Setting::Address, p.address),
                (Setting::Zone, p.time_zone),
                (Setting::Units, p.units),
                (Setting::Language, p.language),
            ];
            said.into_iter().filter(|(_, text)| !text.is_empty()).chain(kept)
        });
        let mut all: BTreeMap<Setting, String> = schools.chain(prices).chain(currency).chain(own).collect();
        macro_rules! owned {
            ($read:ident, $setting:ident) => {
                for own in self.$read().await? {
                    let text = serde_json::to_string(&own).map_err(|e| StoreError::Corrupt(e.to_string()))?;
                    all.insert(Setting::$setting(own.id), text);
                }
            };
        }
        owned!(materials, Material);
        owned!(own_sources, Source);
        owned!(weathers, Weather);
        owned!(text_blocks, TextBlock);
        Ok(all)
    }

    async fn write_settings(
        &self,
        act: PracticeAct,
        rows: Vec<Settled>,
        undoes: Option<Uuid>,
    ) -> Result<(), StoreError> {
        let known = practice_change::Entity::find_by_id((self.practice, act.id)).one(&self.txn).await?.is_some();
        if rows.is_empty() || known {
            return Ok(());
        }
        let at = act.at.trunc_subsecs(6);
        for row in &rows {
            self.write_setting(&row.setting, row.after.as_deref(), act.by, at).await?;
        }
        let row = practice_change::Model {
            practice_id: self.practice,
            id: act.id,
            consultant_id: act.by,
            at,
            rows: serde_json::to_value(&rows).map_err(|e| StoreError::Corrupt(e.to_string()))?,
            undoes,
        };
        practice_change::Entity::insert(row.into_active_model().reset_all()).exec_without_returning(&self.txn).await?;
        Ok(())
    }

    async fn write_setting(
        &self,
        setting: &Setting,
        after: Option<&str>,
        by: Uuid,
        at: DateTime<Utc>,
    ) -> Result<(), StoreError> {
        match setting {
            Setting::Currency => {
                let row = practice::ActiveModel {
                    practice_id: Set(self.practice),
                    currency: Set(after.unwrap_or_default().to_owned()),
                    ..Default::default()
                };
                row.update(&self.txn).await?;
            }
            Setting::PracticeName | Setting::Address | Setting::Zone | Setting::Units | Setting::Language => {
                let text = after.unwrap_or_default().to_owned();
                let mut row = practice::ActiveModel { practice_id: Set(self.practice), ..Default::default() };
                match setting {
                    Setting::PracticeName => row.name = Set(text),
                    Setting::Zone => row.time_zone = Set(text),
                    Setting::Units => row.units = Set(text),
                    Setting::Language => row.language = Set(text),
                    _ => row.address = Set(text),
                }
                row.update(&self.txn).await?;
            }
            Setting::LogDays | Setting::RemovedDays | Setting::ArchivedDays | Setting::SignInDays => {
                let days =
                    after.map(|d| d.parse().map_err(|_| StoreError::Corrupt(format!("{d} is no number of days"))));
                let days: Option<i32> = days.transpose()?;
                let mut row = practice::ActiveModel { practice_id: Set(self.practice), ..Default::default() };
                match setting {
                    Setting::RemovedDays => row.removed_days = Set(days),
                    Setting::ArchivedDays => row.archived_days = Set(days),
                    Setting::SignInDays => row.sign_in_days = Set(days),
                    _ => row.log_days = Set(days),
                }
                row.update(&self.txn).await?;
                // Not at once: it may be undone until then.
                self.ask_later(TaskKind::Retain, self.practice, at + LOOKED_AT).await?;
            }
            Setting::Price(item) => {
                price::Entity::delete_by_id((self.practice, item.clone())).exec(&self.txn).await?;
                if let Some(text) = after {
                    let cents = text.parse().map_err(|_| StoreError::Corrupt(format!("{text} is no price")))?;
                    let (practice_id, item) = (self.practice, item.clone());
                    let row = price::Model { practice_id, item, cents, updated_by: by, updated_at: at };
                    price::Entity::insert(row.into_active_model().reset_all())
                        .exec_without_returning(&self.txn)
                        .await?;
                }
            }
            Setting::Material(id) => own!(self, material, *id, after, by, at),
            Setting::Source(id) => own!(self, own_source, *id, after, by, at),
            Setting::Weather(id) => own!(self, weather, *id, after, by, at),
            Setting::TextBlock(id) => own!(self, text_block, *id, after, by, at),
            Setting::School(question) => {
                practice_school::Entity::delete_by_id((self.practice, question.clone())).exec(&self.txn).await?;
                if let Some(choice) = after {
                    let row = practice_school::Model {
                        practice_id: self.practice,
                        question: question.clone(),
                        choice: choice.to_owned(),
                        updated_by: by,
                        updated_at: at,
                    };
                    let row = row.into_active_model().reset_all();
                    practice_school::Entity::insert(row).exec_without_returning(&self.txn).await?;
                }
            }
        }
        Ok(())
    }
}
