//! Programs let in as somebody by a token of theirs, and what they were answered.

use super::people::{SignedIn, hash, known};
use crate::entity::api_token;
use crate::error::StoreError;
use crate::record::{ApiToken, Cell, TokenScope, records};
use crate::scope::{Scope, Store};
use chrono::{DateTime, Duration, Utc};
use sea_orm::sea_query::Expr;
use sea_orm::{
    ColumnTrait, ConnectionTrait, EntityTrait, IntoActiveModel, PaginatorTrait, QueryFilter, QueryOrder, Statement,
};
use serde_json::Value;
use uuid::Uuid;

/// Most tokens of somebody that hold.
const MOST: u64 = 20;
/// A token says that it was used no more often than this.
const USED: Duration = Duration::minutes(10);
/// For how long an answer is kept for whoever asks again.
pub(super) const ANSWER_DAYS: Duration = Duration::days(2);

/// Somebody, by a token of theirs.
#[derive(Debug, Clone)]
pub struct Token {
    /// The token: not what it says.
    pub id: Uuid,
    /// Whose it is.
    pub person: SignedIn,
    /// What it lets a program do.
    pub scopes: Vec<TokenScope>,
}

/// What was answered to a request with a name of its own.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Answered {
    /// What was asked, hashed: under the same name, something else is refused.
    pub request: String,
    /// HTTP status.
    pub status: u16,
    /// Headers that belong to the answer: names and values.
    pub headers: Vec<(String, String)>,
    /// JSON.
    pub body: String,
}

impl Store {
    /// Whose token this is, while it holds, and the revision of the job they ask about.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn token(
        &self,
        secret: &str,
        now: DateTime<Utc>,
        about: Option<Uuid>,
    ) -> Result<Option<Token>, StoreError> {
        let values = [hash(secret).into(), now.into(), about.into()];
        let asked = "select * from known_by_token($1, $2, $3)";
        let asked = Statement::from_sql_and_values(self.db.get_database_backend(), asked, values);
        let Some(row) = self.db.query_one_raw(asked).await? else { return Ok(None) };
        let person = known(&row)?;
        let token = Token { id: person.session_id, person, scopes: Cell::read(row.try_get::<String>("", "scopes")?)? };
        let used: Option<DateTime<Utc>> = row.try_get("", "seen_at")?;
        if used.is_none_or(|at| now - at > USED) {
            let scope = self.practice(token.person.practice_id).await?;
            scope.set_on_token(token.id, None, api_token::Column::UsedAt, now).await?;
            scope.commit().await?;
        }
        Ok(Some(token))
    }
}

impl Scope {
    /// Makes a token by what it says; `false` when somebody has enough of them.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn make_token(&self, token: ApiToken, secret: &str) -> Result<bool, StoreError> {
        self.turn(&format!("tokens {}", token.consultant_id)).await?;
        if self.own_tokens(token.consultant_id).count(&self.txn).await? >= MOST {
            return Ok(false);
        }
        let row = api_token::Model { key_hash: hash(secret), ..token.row(self.practice) };
        self.insert_once(row.into_active_model()).await?;
        Ok(true)
    }

    /// Tokens of somebody that were not ended, the latest first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn tokens_of(&self, consultant: Uuid) -> Result<Vec<ApiToken>, StoreError> {
        records(self.own_tokens(consultant).order_by_desc(api_token::Column::Id).all(&self.txn).await?)
    }

    /// Ends a token of somebody; `false` when there is none.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn end_token(&self, consultant: Uuid, id: Uuid, at: DateTime<Utc>) -> Result<bool, StoreError> {
        self.set_on_token(id, Some(consultant), api_token::Column::EndedAt, at).await
    }

    /// Ends every token of somebody that holds, and says how many.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn end_tokens_of(&self, consultant: Uuid, at: DateTime<Utc>) -> Result<u64, StoreError> {
        let ended = api_token::Entity::update_many()
            .col_expr(api_token::Column::EndedAt, Expr::value(at))
            .filter(api_token::Column::PracticeId.eq(self.practice))
            .filter(api_token::Column::ConsultantId.eq(consultant))
            .filter(api_token::Column::EndedAt.is_null());
        Ok(ended.exec(&self.txn).await?.rows_affected)
    }

    /// What was answered under a name, if anything. Whoever asks under it at the same time waits.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn answered(&self, token: Uuid, key: &str) -> Result<Option<Answered>, StoreError> {
        self.turn(&format!("answer {token} {key}")).await?;
        let ask = "select request_hash, status, headers, body from answered where practice_id = $1 and token_id = $2 and key = $3";
        let values = [self.practice.into(), token.into(), key.into()];
        let asked = Statement::from_sql_and_values(self.txn.get_database_backend(), ask, values);
        let Some(row) = self.txn.query_one_raw(asked).await? else { return Ok(None) };
        let headers: Value = row.try_get("", "headers")?;
        Ok(Some(Answered {
            request: row.try_get("", "request_hash")?,
            status: row.try_get::<i16>("", "status")?.unsigned_abs(),
            headers: serde_json::from_value(headers).map_err(|e| StoreError::Corrupt(e.to_string()))?,
            body: row.try_get("", "body")?,
        }))
    }

    /// Keeps an answer under a name.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_answer(
        &self,
        token: Uuid,
        key: &str,
        said: &Answered,
        at: DateTime<Utc>,
    ) -> Result<(), StoreError> {
        let backend = self.txn.get_database_backend();
        let keep = "insert into answered values ($1, $2, $3, $4, $5, $6, $7, $8)";
        let values = [
            self.practice.into(),
            token.into(),
            key.into(),
            said.request.clone().into(),
            said.status.cast_signed().into(),
            serde_json::to_value(&said.headers).unwrap_or_default().into(),
            said.body.clone().into(),
            at.into(),
        ];
        self.txn.execute_raw(Statement::from_sql_and_values(backend, keep, values)).await?;
        Ok(())
    }

    fn own_tokens(&self, consultant: Uuid) -> sea_orm::Select<api_token::Entity> {
        api_token::Entity::find()
            .filter(api_token::Column::PracticeId.eq(self.practice))
            .filter(api_token::Column::ConsultantId.eq(consultant))
            .filter(api_token::Column::EndedAt.is_null())
    }

    async fn set_on_token(
        &self,
        id: Uuid,
        of: Option<Uuid>,
        column: api_token::Column,
        at: DateTime<Utc>,
    ) -> Result<bool, StoreError> {
        let all = api_token::Entity::update_many()
            .col_expr(column, Expr::value(at))
            .filter(api_token::Column::PracticeId.eq(self.practice))
            .filter(api_token::Column::EndedAt.is_null())
            .filter(api_token::Column::Id.eq(id));
        let of = of.into_iter().fold(all, |all, of| all.filter(api_token::Column::ConsultantId.eq(of)));
        Ok(of.exec(&self.txn).await?.rows_affected > 0)
    }
}
