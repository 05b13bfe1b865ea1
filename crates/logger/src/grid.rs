//! A file as lines of cells, whatever it is made of.

use crate::cell::Line;
use std::io::Read;
use std::ops::ControlFlow;

/// Bytes of a file, from the beginning, as often as asked.
pub trait Source {
    /// Opens it anew.
    ///
    /// # Errors
    /// Where it can no longer be read.
    fn open(&self) -> std::io::Result<Box<dyn Read + '_>>;
}

impl Source for [u8] {
    fn open(&self) -> std::io::Result<Box<dyn Read + '_>> {
        Ok(Box::new(self))
    }
}

impl Source for std::path::Path {
    fn open(&self) -> std::io::Result<Box<dyn Read + '_>> {
        Ok(Box::new(std::io::BufReader::with_capacity(1 << 16, std::fs::File::open(self)?)))
    }
}

/// Why nothing of a file can be read.
#[derive(Debug, thiserror::Error)]
pub enum Unreadable {
    /// Nothing in it.
    #[error("the file is empty")]
    Empty,
    /// Not what it is called: a picture, an archive, a program.
    #[error("this is {0}, not a table of readings")]
    NotATable(&'static str),
    /// A spreadsheet or JSON that is broken.
    #[error("the file is damaged: {0}")]
    Damaged(String),
    /// No column holds moments.
    #[error("no column holds dates and times")]
    NoTime,
    /// No column holds readings.
    #[error("no column holds readings: {0}")]
    NoValues(String),
    /// It stopped being readable.
    #[error("the file cannot be read: {0}")]
    Io(#[from] std::io::Error),
}

/// A file as lines of cells.
pub trait Grid {
    /// Hands out its lines in order until told to stop.
    ///
    /// # Errors
    /// [`Unreadable`] where the file stops being one.
    fn each(&self, take: &mut dyn FnMut(Line) -> ControlFlow<()>) -> Result<(), Unreadable>;
}
