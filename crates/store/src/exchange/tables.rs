//! The tables of a job, in the order in which each needs only those before it.

use crate::error::StoreError;
use crate::scope::Scope;
use sea_orm::{ConnectionTrait, Statement};
use std::collections::HashMap;

/// A table whose rows leave with a job.
#[derive(Debug, Clone, Copy)]
pub struct Table {
    /// Its name.
    pub name: &'static str,
    /// What a row of it is.
    pub what: &'static str,
    /// Which of its rows are a job's.
    pub(super) of: Of,
    /// In which order.
    pub(super) order: &'static str,
    /// Rows to a part.
    pub(super) most: usize,
}

/// Which rows are a job's.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Of {
    /// Of the practice, and named by some row of the job.
    Named,
    /// The job itself.
    Itself,
    /// Those with its id.
    Job,
    /// Those whose column names a row of another of its tables.
    Within(&'static str, &'static str),
}

const fn of_job(name: &'static str, order: &'static str, what: &'static str) -> Table {
    Table { name, what, of: Of::Job, order, most: 500 }
}

const fn named(name: &'static str, order: &'static str, what: &'static str) -> Table {
    Table { name, what, of: Of::Named, order, most: 500 }
}

const fn within(
    name: &'static str,
    (column, table): (&'static str, &'static str),
    order: &'static str,
    most: usize,
    what: &'static str,
) -> Table {
    Table { name, what, of: Of::Within(column, table), order, most }
}

/// Every table of a job. Links, tokens, letters and what only waits to be done stay at home.
const TABLES: [Table; 49] = [
    named("consultant", "id", "Somebody who worked on the job: their name only."),
    named("instrument", "id", "An instrument or logger: accuracy in K and %, correction of its last salt check."),
    named("salt_check", "id", "A salt check of an instrument."),
    named("material", "id", "A building material of the practice’s own, used in a build-up."),
    named("own_source", "id", "A source of water of the practice’s own, used in a time table."),
    named("weather", "id", "A weather file of the practice’s own, used in a time table."),
    Table {
        name: "job",
        what: "The job: kind of structure, climate, design temperature, where it stands.",
        of: Of::Itself,
        order: "id",
        most: 1,
    },
    of_job("space", "position, id", "A space: kind, level, floor area in m², height in m."),
    of_job("boundary", "position, id", "A boundary of a space: which face, what lies beyond."),
    of_job("build_up", "boundary_id, position, id", "How a boundary is built: its courses from inside to outside."),
    of_job("surface", "position, id", "A surface in a space, read by touch or infrared."),
    of_job("station", "position, id", "A place where readings are taken."),
    of_job("visit", "started_at, id", "A visit, who made it, and whether a trainee’s was looked through."),
    of_job("reading", "stored_at, id", "A reading, raw and corrected, as typed; °C, % RH, % by mass, L, L/s, mm."),
    of_job("skip", "skipped_at, id", "A station skipped on a visit, and why."),
    of_job("finding", "found_at, id", "Something found at a place, or looked for and not there."),
    of_job("test_run", "started_at, id", "A test, running or read."),
    of_job("photo", "taken_at, id", "A photo: where, marks drawn on it in thousandths of its width."),
    within("photo_file", ("photo_id", "photo"), "photo_id, size", 1, "A photo’s file in one of three sizes, base64."),
    of_job("thermal", "taken_at, id", "A thermal picture: what was set, and what surrounded it."),
    within("thermal_cells", ("thermal_id", "thermal"), "thermal_id", 1, "A thermal picture’s cells, packed, base64."),
    of_job("layout", "id", "How a space lies unfolded: sides in m, openings, fixtures."),
    of_job("placed", "id", "Where a thing lies on an unfolded space."),
    of_job("moisture_map", "started_at, id", "A moisture map: route, scale, spacing in m, dry standard."),
    of_job("map_point", "map_id, n, id", "A reading of a moisture map at its place."),
    of_job("drying", "id", "What got wet, points, machines and sheets of a drying job."),
    of_job("drying_reading", "taken_at, id", "A reading of a drying round."),
    of_job("certificate", "id", "A certificate that a cavity was dry."),
    of_job("call_sheet", "job_id", "What was said on the call."),
    of_job("conclusion", "space_id nulls first, id", "What a consultant concluded, and what was computed then."),
    of_job("plan_step", "fix, id", "What was decided about a step of the plan."),
    of_job("plan_figure", "fix, name, id", "A figure of a step, typed by hand."),
    of_job("school", "question, id", "The approach chosen for a question."),
    of_job("follow_up", "due_on, id", "Something to be looked at again."),
    of_job("coating", "id", "A coating job: product, limits, places before and after."),
    of_job("time_table", "id", "A time table of sources and sinks of water."),
    of_job("alert_rule", "id", "What a log is watched for."),
    of_job("log_file", "sent_at, id", "A logger’s file that was sent, and what became of it."),
    within(
        "log_file_piece",
        ("file_id", "log_file"),
        "file_id, part, position",
        1,
        "A megabyte of such a file, base64.",
    ),
    of_job("bring_in", "kept_at, id", "That a file is part of the log, and where its columns belong."),
    of_job("log_series", "id", "What one sensor reads at one place."),
    of_job("log_mark", "from_at, id", "Something marked in the log."),
    within(
        "log_point",
        ("series_id", "log_series"),
        "series_id, at",
        5000,
        "Single readings: µs since 1970, °C, % RH, other.",
    ),
    within(
        "log_hour",
        ("series_id", "log_series"),
        "series_id, at",
        500,
        "An hour of readings: mean, lowest, highest.",
    ),
    within("log_day", ("series_id", "log_series"), "series_id, at", 500, "A day of readings: mean, lowest, highest."),
    of_job("report", "id", "A report being put together."),
    of_job("report_version", "made_at, id", "A report as it went out."),
    of_job("remark", "at, id", "What people of the practice said about a version or a visit."),
    of_job("change", "at, id", "What was changed, by whom, with the rows before and after."),
];

/// Parts of a version, which follow it.
pub(super) const OF_VERSIONS: [Table; 4] = [
    within("report_text", ("version_id", "report_version"), "version_id", 1, "The pages of a version as HTML."),
    within("report_image", ("version_id", "report_version"), "version_id, n", 1, "A picture of a version, base64."),
    within("report_pdf", ("version_id", "report_version"), "version_id, signed", 1, "A version as printed, base64."),
    of_job("signature", "at, id", "Who signed a version."),
];

/// A column of a table.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Field {
    /// Its name; units are in it.
    pub name: String,
    /// What the database calls its type.
    pub kind: String,
    /// Whether it may be empty.
    pub optional: bool,
}

impl Table {
    /// Every table, in order.
    pub fn all() -> impl Iterator<Item = &'static Self> {
        let (before, change) = TABLES.split_at(TABLES.len() - 1);
        before.iter().chain(&OF_VERSIONS).chain(change)
    }

    /// The table of this name.
    #[must_use]
    pub fn named(name: &str) -> Option<&'static Self> {
        Self::all().find(|t| t.name == name)
    }

    /// The column that names what its rows belong to, and the table that is in.
    pub(super) const fn within(&self) -> Option<(&'static str, &'static str)> {
        match self.of {
            Of::Within(column, table) => Some((column, table)),
            _ => None,
        }
    }

    /// What of it belongs to a job, `$2`, of a practice, `$1`; nothing where rows are the practice’s.
    pub(super) fn of_this_job(&self) -> Option<String> {
        match self.of {
            Of::Job => Some(format!("select count(*) from {} where practice_id = $1 and job_id = $2", self.name)),
            Of::Within(column, table) => Some(format!(
                "select count(*) from {} w join {table} o on o.practice_id = $1 and o.id = w.{column} and o.job_id = $2
                where w.practice_id = $1",
                self.name
            )),
            Of::Itself | Of::Named => None,
        }
    }

    /// Columns that stay at home: whose they are goes without saying, and secrets do not leave.
    pub(super) fn leaves(&self, column: &str) -> bool {
        match self.name {
            "consultant" => matches!(column, "id" | "name"),
            "job" => !matches!(column, "practice_id" | "origin" | "arrived"),
            _ => column != "practice_id",
        }
    }
}

/// The primary keys of the tables of a job, without the practice, by table.
///
/// # Errors
/// [`StoreError`] when the database does not answer.
pub(super) async fn keys(scope: &Scope) -> Result<HashMap<String, Vec<String>>, StoreError> {
    let ask = "select c.relname::text as t, a.attname::text as c from pg_index i join pg_class c on c.oid = i.indrelid
        join pg_attribute a on a.attrelid = c.oid and a.attnum = any (i.indkey)
        where i.indisprimary and c.relnamespace = 'public'::regnamespace and a.attname <> 'practice_id'";
    let rows = scope.txn.query_all_raw(Statement::from_string(scope.txn.get_database_backend(), ask)).await?;
    let mut all: HashMap<String, Vec<String>> = HashMap::new();
    for row in rows {
        let (table, name): (String, String) = (row.try_get("", "t")?, row.try_get("", "c")?);
        all.entry(table).or_default().push(name);
    }
    Ok(all)
}

/// The columns of the tables of a job that leave with it, by table.
///
/// # Errors
/// [`StoreError`] when the database does not answer.
pub async fn fields(scope: &Scope) -> Result<HashMap<String, Vec<Field>>, StoreError> {
    let ask = "select table_name::text as t, column_name::text as c, data_type::text as k, is_nullable::text as n
        from information_schema.columns where table_schema = 'public' order by table_name, ordinal_position";
    let rows = scope.txn.query_all_raw(Statement::from_string(scope.txn.get_database_backend(), ask)).await?;
    let mut all: HashMap<String, Vec<Field>> = HashMap::new();
    for row in rows {
        let (table, name): (String, String) = (row.try_get("", "t")?, row.try_get("", "c")?);
        if Table::named(&table).is_some_and(|t| t.leaves(&name)) {
            let optional = row.try_get::<String>("", "n")? == "YES";
            all.entry(table).or_default().push(Field { name, kind: row.try_get("", "k")?, optional });
        }
    }
    Ok(all)
}
