//! Judgments in sentences: verdicts, advice, arguments, plans, history and places, in the trade's own words and a person's
//! units. Nothing here knows of a page; where a reader may go next is a value ([`Lead`]) whose address the edge knows.

pub mod advice;
pub mod airing;
pub mod alert;
pub mod argument;
pub mod budget;
pub mod coating;
pub mod conflict;
pub mod construction;
pub mod drying;
pub mod evidence;
pub mod history;
pub mod hours;
pub mod instrument;
pub mod log;
pub mod map;
pub mod meaning;
pub mod meter;
pub mod page_one;
pub mod part;
pub mod picture;
pub mod places;
pub mod plan;
pub mod practice_change;
pub mod proof;
pub mod question;
pub mod report;
pub mod sensor;
pub mod special;
pub mod thermal;
pub mod time;
pub mod verdict;
mod working;

pub use evidence::Lead;
pub use working::Working;
