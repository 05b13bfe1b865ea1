//! Bytes into text: the encoding of a file.

use crate::grid::{Source, Unreadable};
use encoding_rs::{Encoding, UTF_8, UTF_16BE, UTF_16LE, WINDOWS_1252};
use std::borrow::Cow;
use std::io::Read;

/// Longest line, bytes: one row of very many sensors.
const LONGEST_LINE: usize = 1 << 20;
/// Bytes looked at to recognize a file.
const LOOKED_AT: usize = 64 << 10;

/// The beginning of a file.
pub fn beginning(source: &(impl Source + ?Sized)) -> Result<Vec<u8>, Unreadable> {
    let mut head = Vec::new();
    source.open()?.take(LOOKED_AT as u64).read_to_end(&mut head)?;
    Ok(head)
}

/// What a file is if it is no text, by its first bytes.
pub fn not_text(head: &[u8]) -> Option<&'static str> {
    let known: [(&[u8], &str); 9] = [
        (b"\xff\xd8\xff", "a photo"),
        (b"\x89PNG", "a picture"),
        (b"GIF8", "a picture"),
        (b"RIFF", "a picture or a sound"),
        (b"%PDF", "a PDF"),
        (b"\x1f\x8b", "a packed file: unpack it first"),
        (b"\x7fELF", "a program"),
        (b"MZ\x90", "a program"),
        (b"\xd0\xcf\x11\xe0", "an old spreadsheet: save it as XLSX or CSV"),
    ];
    known.iter().find(|(mark, _)| head.starts_with(mark)).map(|(_, what)| *what)
}

/// The encoding of a text: by its byte order mark, by the zeros UTF-16 leaves, as UTF-8 where it is that, else as Latin-1 in its
/// usual extension.
pub fn encoding(head: &[u8]) -> &'static Encoding {
    if let Some((encoding, _)) = Encoding::for_bom(head) {
        return encoding;
    }
    let zeros = |odd: usize| head.iter().skip(odd).step_by(2).take(200).filter(|b| **b == 0).count();
    match (zeros(0), zeros(1)) {
        (0..=4, 50..) => UTF_16LE,
        (50.., 0..=4) => UTF_16BE,
        _ => match std::str::from_utf8(head) {
            Ok(_) => UTF_8,
            // A character cut in two at the end of what was looked at is none that cannot be.
            Err(e) if e.error_len().is_none() => UTF_8,
            Err(_) => WINDOWS_1252,
        },
    }
}

/// Reads as UTF-8 what is in some encoding.
pub struct Decoded<R> {
    bytes: R,
    decoder: encoding_rs::Decoder,
    raw: Vec<u8>,
    from: usize,
    until: usize,
    out: Vec<u8>,
    given: usize,
    ended: bool,
}

impl<R: Read> Decoded<R> {
    pub fn new(bytes: R, encoding: &'static Encoding) -> Self {
        Self {
            bytes,
            decoder: encoding.new_decoder_with_bom_removal(),
            raw: vec![0; 1 << 15],
            from: 0,
            until: 0,
            out: Vec::new(),
            given: 0,
            ended: false,
        }
    }

    fn refill(&mut self) -> std::io::Result<()> {
        if self.from == self.until {
            (self.from, self.until) = (0, self.bytes.read(&mut self.raw)?);
        }
        let last = self.until == 0;
        let raw = &self.raw[self.from..self.until];
        let most = self.decoder.max_utf8_buffer_length(raw.len()).unwrap_or(raw.len() * 3 + 16);
        self.out.resize(most, 0);
        let (_, read, written, _) = self.decoder.decode_to_utf8(raw, &mut self.out, last);
        self.from += read;
        self.out.truncate(written);
        self.given = 0;
        self.ended = last;
        Ok(())
    }
}

impl<R: Read> Read for Decoded<R> {
    fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
        while self.given == self.out.len() {
            if self.ended {
                return Ok(0);
            }
            self.refill()?;
        }
        let length = into.len().min(self.out.len() - self.given);
        into[..length].copy_from_slice(&self.out[self.given..self.given + length]);
        self.given += length;
        Ok(length)
    }
}

/// Lines of a text with their numbers, however they end: as on Unix, Windows or old Macs.
pub struct Lines<R> {
    text: R,
    /// What was read and not yet handed out, from `from` on.
    held: Vec<u8>,
    from: usize,
    number: u64,
    ended: bool,
    /// Whether the last line ended in a carriage return: a line feed behind it is part of that.
    returned: bool,
}

impl<R: Read> Lines<R> {
    pub fn new(text: R) -> Self {
        Self { text, held: Vec::new(), from: 0, number: 0, ended: false, returned: false }
    }

    /// The next line and its number.
    ///
    /// # Errors
    /// [`Unreadable`] for a line too long to be one, or where the text stops being readable.
    pub fn next_line(&mut self) -> Result<Option<(u64, Cow<'_, str>)>, Unreadable> {
        let mut looked = self.from;
        let end = loop {
            if self.returned && self.held.get(self.from) == Some(&b'\n') {
                self.from += 1;
                looked = looked.max(self.from);
            }
            if self.from < self.held.len() {
                self.returned = false;
            }
            if let Some(i) = self.held[looked..].iter().position(|b| matches!(b, b'\n' | b'\r')) {
                break looked + i;
            }
            if self.ended {
                break self.held.len();
            }
            if self.held.len() - self.from > LONGEST_LINE {
                let long = format!("line {} is longer than {} kB", self.number + 1, LONGEST_LINE >> 10);
                return Err(Unreadable::Damaged(long));
            }
            self.held.drain(..self.from);
            looked = self.held.len();
            self.from = 0;
            self.held.resize(looked + (1 << 16), 0);
            let read = self.text.read(&mut self.held[looked..])?;
            self.held.truncate(looked + read);
            self.ended = read == 0;
        };
        if end == self.held.len() && self.from == end {
            return Ok(None);
        }
        let start = std::mem::replace(&mut self.from, (end + 1).min(self.held.len()));
        self.returned = self.held.get(end) == Some(&b'\r');
        self.number += 1;
        Ok(Some((self.number, String::from_utf8_lossy(&self.held[start..end]))))
    }
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used, reason = "tests")]

    use super::*;

    #[test]
    fn every_encoding_a_logger_writes_is_read() {
        let said = "Außen;°C\r\n2026-01-02;−3,5\r\n".repeat(80);
        let utf16 = |be: bool, mark: bool| {
            let units = mark.then_some(0xfeff).into_iter().chain(said.encode_utf16());
            units.flat_map(|u| if be { u.to_be_bytes() } else { u.to_le_bytes() }).collect::<Vec<u8>>()
        };
        let latin: Vec<u8> = said.replace('−', "-").chars().map(|c| c as u8).collect();
        let marked = [b"\xef\xbb\xbf".as_slice(), said.as_bytes()].concat();
        for bytes in
            [said.clone().into_bytes(), marked, utf16(false, true), utf16(true, true), utf16(false, false), latin]
        {
            let mut text = String::new();
            Decoded::new(&*bytes, encoding(&bytes)).read_to_string(&mut text).unwrap();
            assert_eq!(text.replace('−', "-"), said.replace('−', "-"));
        }
    }
}
