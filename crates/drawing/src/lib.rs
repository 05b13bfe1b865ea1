//! Marks and geometry, ready for a template to place: the drop mark, the drawn section, marks on a picture.
//!
//! Geometry is computed here and only here, from judged values; no file, no clock, no address.

pub mod budget;
pub mod construction;
pub mod drying;
pub mod log;
mod mark;
mod picture;
pub mod proof;
mod px;
pub mod section;
pub mod thermal;
pub mod unfolded;

pub use mark::DropMark;
pub use picture::{DrawnMark, drawn};
pub use px::Px;
