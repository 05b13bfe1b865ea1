//! A job on its way out.

use super::tables::{Field, Of, Table, fields};
use crate::error::StoreError;
use crate::scope::Scope;
use sea_orm::{ConnectionTrait, Statement};
use std::collections::HashMap;
use uuid::Uuid;

/// Columns that name somebody.
const PEOPLE: [&str; 5] = ["consultant_id", "updated_by", "created_by", "made_by", "reviewed_by"];

/// A job on its way out, part by part.
pub struct Departing<'a> {
    scope: &'a Scope,
    job: Uuid,
    fields: HashMap<String, Vec<Field>>,
}

impl<'a> Departing<'a> {
    /// A job of this practice. Whoever wants it as it is at one moment gives a scope that stands still.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn of(scope: &'a Scope, job: Uuid) -> Result<Departing<'a>, StoreError> {
        Ok(Self { scope, job, fields: fields(scope).await? })
    }

    /// Opens a table: its parts come from [`Self::next`].
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn open(&self, table: &Table) -> Result<(), StoreError> {
        let declare = format!("declare departing no scroll cursor for {}", self.query(table));
        self.scope.txn.execute_unprepared(&declare).await?;
        Ok(())
    }

    /// Some more of the open table, as JSON objects; none behind its last, when it is shut.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn next(&self, table: &Table) -> Result<Vec<String>, StoreError> {
        let most = if table.name == "log_point" { 8 } else { table.most };
        let fetch = format!("fetch {most} from departing");
        let rows = Statement::from_string(self.scope.txn.get_database_backend(), fetch);
        let rows = self.scope.txn.query_all_raw(rows).await?;
        if rows.is_empty() {
            self.scope.txn.execute_unprepared("close departing").await?;
        }
        Ok(rows.iter().map(|r| r.try_get("", "j")).collect::<Result<_, _>>()?)
    }

    fn query(&self, table: &Table) -> String {
        let (name, order, own) = (table.name, table.order, self.rows(table, "t"));
        if name == "log_point" {
            // A column of figures for each: as objects they would be four times as long.
            return format!(
                "select json_build_object('series_id', series_id, 'bring_in_id', bring_in_id,
                   'at', json_agg((extract(epoch from at) * 1000000)::bigint order by at), 't_c', json_agg(t_c order by at),
                   'rh_pct', json_agg(rh_pct order by at), 'value', json_agg(value order by at))::text as j
                 from (select *, (row_number() over (partition by series_id, bring_in_id order by at) - 1) / {} as k
                   from log_point t where {own}) p
                 group by series_id, bring_in_id, k order by series_id, bring_in_id, k",
                table.most
            );
        }
        let columns = self.fields.get(name).map_or(&[][..], Vec::as_slice);
        let column = |f: &Field| match f.kind.as_str() {
            "bytea" => format!("'{0}', replace(encode(t.{0}, 'base64'), E'\\n', '')", f.name),
            // JSON in the database has no zero below zero.
            "double precision" => format!("'{0}', t.{0} + 0", f.name),
            _ => format!("'{0}', t.{0}", f.name),
        };
        let columns = columns.iter().map(column).collect::<Vec<_>>().join(", ");
        format!("select json_build_object({columns})::text as j from {name} t where {own} order by {order}")
    }

    /// The condition under which a row of a table leaves with the job.
    fn rows(&self, table: &Table, t: &str) -> String {
        let (practice, job) = (self.scope.practice, self.job);
        let own = format!("{t}.practice_id = '{practice}'");
        match table.of {
            Of::Itself => format!("{own} and {t}.id = '{job}'"),
            Of::Job => format!("{own} and {t}.job_id = '{job}'"),
            Of::Within(column, of) => format!(
                "{own} and {t}.{column} = any(array(select id from {of} where practice_id = '{practice}' and job_id = '{job}'))"
            ),
            Of::Named => format!("{own} and {}", self.named(table.name, t)),
        }
    }

    /// Whether some row of the job names a row of the practice.
    fn named(&self, table: &str, t: &str) -> String {
        let (practice, job) = (self.scope.practice, self.job);
        let of_job = |columns: &[&str]| {
            let all = Table::all().filter(|x| matches!(x.of, Of::Job | Of::Itself)).flat_map(|x| {
                let key = if x.of == Of::Itself { "id" } else { "job_id" };
                let has = |c: &&&str| self.fields.get(x.name).is_some_and(|f| f.iter().any(|f| f.name == ***c));
                columns
                    .iter()
                    .filter(has)
                    .map(move |c| {
                        format!("select {c} from {} where practice_id = '{practice}' and {key} = '{job}'", x.name)
                    })
                    .collect::<Vec<_>>()
            });
            all.collect::<Vec<_>>().join(" union ")
        };
        let instruments = of_job(&["instrument_id"]);
        let words = format!(
            "(select string_agg(courses::text, '') from build_up where practice_id = '{practice}' and job_id = '{job}') ||
             coalesce((select string_agg(said::text, '') from time_table where practice_id = '{practice}' and job_id = '{job}'), '')"
        );
        match table {
            "consultant" => format!(
                "{t}.id in ({} union select consultant_id from salt_check where practice_id = '{practice}' and instrument_id in ({instruments}))",
                of_job(&PEOPLE)
            ),
            "instrument" => format!("{t}.id in ({instruments})"),
            "salt_check" => format!("{t}.instrument_id in ({instruments})"),
            _ => format!("position({t}.id::text in coalesce({words}, '')) > 0"),
        }
    }
}
