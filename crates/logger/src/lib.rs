//! Files of loggers and weather, read into rows of moments and values: whatever the delimiter, the decimal mark, the language,
//! the order of day and month, the zone and the units.
//!
//! A file is read in passes, so that it needs no more room however long it is: [`survey`] looks at all of it once and works out
//! how it is to be read, each guess with its reason; [`Reading::each`] then gives its rows one by one. A guess can be replaced
//! before that.
//!
//! Pure: no file is opened here. A [`Source`] hands out its bytes as often as asked.

mod cell;
mod columns;
mod delimited;
mod epw;
mod grid;
mod json;
mod matrix;
mod moment;
mod reading;
mod series;
mod sheet;
mod survey;
mod text;
mod value;

pub use columns::{Column, Reads};
pub use epw::station;
pub use grid::{Source, Unreadable};
pub use matrix::{MOST_CELLS, Matrix, MatrixFault, Scale, matrix};
pub use moment::{Order, Zone};
pub use reading::{Reading, Refused, Row, Tally, Values};
pub use series::{Hour, Hours, Point, Spread, dew_c, hour_of};
pub use survey::{Because, ColumnWish, Format, Survey, Wishes, recognize, survey};
