//! Pages beside the jobs: who is here, what all jobs of a practice share, and the calculator.

pub mod bench;
pub mod calculator;
pub mod calendar;
pub mod causes;
pub mod docket;
pub mod exchange;
pub mod materials;
pub mod me;
pub mod people;
pub mod practice;
pub mod preferences;
pub mod prices;
pub mod programs;
pub mod queue;
pub mod salt;
pub mod sign_in;
pub mod sources;
pub mod weather;

/// One line of words, not empty; else what is wrong with it, `asked` where there is nothing.
pub fn one_line(text: &str, longest: usize, asked: &str) -> Result<String, String> {
    let (text, length) = (text.trim(), text.trim().chars().count());
    match () {
        () if length == 0 => Err(asked.into()),
        () if length > longest => Err(format!("{length} characters; {longest} at most.")),
        () if text.chars().any(char::is_control) => Err("It is one line.".into()),
        () => Ok(text.to_owned()),
    }
}
