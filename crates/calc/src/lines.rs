//! JSON Lines: many requests, answered in order, on all cores, in flat memory.
//!
//! The caller's thread reads pieces of whole lines, workers answer them, one thread writes them in order. All queues
//! between them are short, so a slow writer slows the reader instead of filling memory.

use crate::Reply;
use crate::input::Fault;
use serde_json::Value;
use std::collections::BTreeMap;
use std::io::{self, BufRead, Write};
use std::sync::mpsc::{Receiver, SyncSender, sync_channel};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread;

/// A line longer than this is refused instead of kept in memory: 150 years of hours for the mold index.
const LONGEST_LINE: usize = 16 << 20;

/// How a run over JSON Lines went.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Outcome {
    /// Every line was answered.
    Answered,
    /// Some line got an error.
    SomeErrors,
    /// No line was JSON at all.
    NotJsonLines,
}

impl Outcome {
    /// Exit status of the command: 0, 1 or 2.
    #[must_use]
    pub const fn exit_code(self) -> u8 {
        match self {
            Self::Answered => 0,
            Self::SomeErrors => 1,
            Self::NotJsonLines => 2,
        }
    }
}

/// How many lines were JSON, and how many got an error.
#[derive(Default, Clone, Copy)]
struct Tally {
    parsed: u64,
    failed: u64,
}

impl Tally {
    const fn outcome(self) -> Outcome {
        match self {
            Self { failed: 0, .. } => Outcome::Answered,
            Self { parsed: 0, .. } => Outcome::NotJsonLines,
            Self { .. } => Outcome::SomeErrors,
        }
    }
}

/// Reads JSON Lines, writes one JSON line per input line in order; blank lines are skipped. Each piece that arrives is
/// answered as soon as it is whole, so that another program may ask line by line.
///
/// # Errors
/// Only when reading or writing fails; bad lines are answered with an error object.
pub fn run_lines(from: impl BufRead, to: impl Write + Send) -> io::Result<Outcome> {
    let workers = thread::available_parallelism().map_or(1, usize::from);
    let (give, pieces) = sync_channel::<(u64, Vec<u8>)>(2 * workers);
    let (done, answers) = sync_channel::<(u64, Vec<u8>, Tally)>(2 * workers);
    // Only the workers hold this end: when the writer gives up and they leave, the reader hears of it.
    let pieces = Arc::new(Mutex::new(pieces));
    thread::scope(|scope| {
        for _ in 0..workers {
            let (pieces, done) = (Arc::clone(&pieces), done.clone());
            scope.spawn(move || work(&pieces, &done));
        }
        drop((pieces, done));
        let writer = scope.spawn(move || write_in_order(&answers, to));
        let read = read_pieces(from, &give);
        drop(give);
        let tally = writer.join().unwrap_or_else(|_| Err(io::Error::other("the writer stopped")))?;
        read.map(|()| tally.outcome())
    })
}

fn read_pieces(mut from: impl BufRead, give: &SyncSender<(u64, Vec<u8>)>) -> io::Result<()> {
    let (mut number, mut rest) = (0, Vec::new());
    loop {
        let arrived = match from.fill_buf() {
            Ok(arrived) => arrived,
            Err(e) if e.kind() == io::ErrorKind::Interrupted => continue,
            Err(e) => return Err(e),
        };
        let length = arrived.len();
        let whole = arrived.iter().rposition(|&b| b == b'\n').map_or(0, |last| last + 1);
        let ended = length == 0;
        if whole > 0 || ended {
            rest.extend_from_slice(&arrived[..whole]);
            let piece = std::mem::replace(&mut rest, arrived[whole..].to_vec());
            if give.send((number, piece)).is_err() {
                return Ok(()); // the writer has failed and says why
            }
            number += 1;
        } else if rest.len() <= LONGEST_LINE {
            // One line longer than the buffer: kept up to the limit, after that only its being too long matters.
            rest.extend_from_slice(arrived);
        }
        if ended {
            return Ok(());
        }
        from.consume(length);
    }
}

fn work(pieces: &Mutex<Receiver<(u64, Vec<u8>)>>, done: &SyncSender<(u64, Vec<u8>, Tally)>) {
    loop {
        let taken = pieces.lock().unwrap_or_else(PoisonError::into_inner).recv();
        let Ok((number, piece)) = taken else { return };
        let mut out = Vec::with_capacity(6 * piece.len());
        let tally = answer_piece(&piece, &mut out);
        if done.send((number, out, tally)).is_err() {
            return;
        }
    }
}

fn answer_piece(piece: &[u8], out: &mut Vec<u8>) -> Tally {
    let mut tally = Tally::default();
    for line in piece.split(|&b| b == b'\n').filter(|line| !line.iter().all(u8::is_ascii_whitespace)) {
        match parse(line) {
            Ok(request) => {
                tally.parsed += 1;
                tally.failed += write(&Reply::to(&request), out);
            }
            Err(message) => tally.failed += write(&Reply::refusal(Fault::new("", &message)), out),
        }
    }
    tally
}

fn parse(line: &[u8]) -> Result<Value, String> {
    if line.len() > LONGEST_LINE {
        return Err(format!("a line must be at most {LONGEST_LINE} bytes"));
    }
    serde_json::from_slice(line).map_err(|e| format!("this line is not JSON: {e}"))
}

/// Writes one answer and says whether it is an error, as 1 or 0.
fn write(reply: &Reply, out: &mut Vec<u8>) -> u64 {
    // Writing JSON into memory does not fail: keys are texts, and a number that is none becomes null.
    let _ = serde_json::to_writer(&mut *out, reply);
    out.push(b'\n');
    u64::from(reply.answer.is_err())
}

fn write_in_order(answers: &Receiver<(u64, Vec<u8>, Tally)>, mut to: impl Write) -> io::Result<Tally> {
    let (mut next, mut early, mut total) = (0, BTreeMap::new(), Tally::default());
    for (number, out, tally) in answers {
        early.insert(number, out);
        total.parsed += tally.parsed;
        total.failed += tally.failed;
        while let Some(out) = early.remove(&next) {
            to.write_all(&out)?;
            next += 1;
        }
        if early.is_empty() {
            to.flush()?;
        }
    }
    to.flush()?;
    Ok(total)
}
