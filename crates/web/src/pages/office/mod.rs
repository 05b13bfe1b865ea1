//! Pages beside the jobs: who is here, what all jobs of a practice share, and the calculator.

pub mod bench;
pub mod calculator;
pub mod calendar;
pub mod causes;
pub mod docket;
pub mod exchange;
pub mod join;
pub mod keeping;
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

use language::Language;

/// One line of words, not empty; else what is wrong with it, `asked` where there is nothing.
pub fn one_line(text: &str, longest: usize, asked: &str) -> Result<String, String> {
    one_line_in(Language::English, text, longest, asked)
}

/// The same on a page in a reader’s language, which `asked` is in.
pub fn one_line_in(tongue: Language, text: &str, longest: usize, asked: &str) -> Result<String, String> {
    let (text, length) = (text.trim(), text.trim().chars().count());
    match () {
        () if length == 0 => Err(asked.into()),
        () if length > longest => Err(tongue.say_with("line-long", &[("n", length.into()), ("most", longest.into())])),
        () if text.chars().any(char::is_control) => Err(tongue.say("line-one")),
        () => Ok(text.to_owned()),
    }
}
