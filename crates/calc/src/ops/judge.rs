//! Judgment: which causes act, and what to do about them in which order.

use super::Answer;
use crate::input::{Fault, Input};
use building::{Climate, Structure};
use building::{SpaceKind, blueprint};
use judgment::cause::{self, Case, Diagnosis};
use judgment::cautions::LOCAL_CODE;
use judgment::limits::Limits;
use judgment::plan::{self, Choices, question};
use serde_json::{Value, json};
use std::collections::BTreeMap;

/// Keys that say what is known.
const KNOWN: [&str; 6] = ["structure", "climate", "season", "trouble_when", "findings", "tests"];

/// Causes ranked, with what speaks for and against each, and the tests that would tell more.
pub fn diagnose(input: &Input) -> Answer {
    input.only(&KNOWN)?;
    let diagnosis = cause::diagnose(&case(input)?);
    let causes: Vec<Value> = diagnosis.causes.iter().map(ranked).collect();
    let next: Vec<Value> = diagnosis.next_tests.iter().map(|t| json!({ "id": t.test.id, "gain": t.gain })).collect();
    let unexplained: Vec<&str> = diagnosis.unexplained.iter().map(|(e, _)| e.id.as_str()).collect();
    Ok(fields!({
        "causes": causes,
        "close_call": diagnosis.close_call,
        "next_tests": next,
        "red_flags": red_flags(&diagnosis),
        "unexplained": unexplained,
    }))
}

fn ranked(r: &cause::Ranked) -> Value {
    let ids = |spoke: &[cause::Spoke]| spoke.iter().map(|s| s.evidence.id.clone()).collect::<Vec<String>>();
    json!({ "id": r.cause.id, "share": r.share, "for": ids(&r.speaks_for), "against": ids(&r.speaks_against) })
}

/// Ids of the fixes that red flags ask for, each once.
fn red_flags(diagnosis: &Diagnosis) -> Vec<&str> {
    let mut out: Vec<&str> = Vec::new();
    for fix in diagnosis.red_flags.iter().flat_map(|f| &f.fixes) {
        if !out.contains(&fix.as_str()) {
            out.push(fix);
        }
    }
    out
}

/// Steps in order with their gates, and what the rules forbid now.
pub fn plan(input: &Input) -> Answer {
    let own = [&KNOWN[..], &["causes", "choices"]].concat();
    input.only(&own)?;
    let case = case(input)?;
    let causes = accepted(input)?;
    let chosen = chosen(input)?;
    let limits = Limits::of(chosen.iter().map(|(q, s)| (*q, *s)));
    let planned = plan::plan(&case, &causes, &Choices::of(&case, &chosen), &[]);
    // Without a building drawn, the spaces such a building usually has say what can hurt.
    let spaces = blueprint(case.structure)
        .map_or_else(|| SpaceKind::ALL.to_vec(), |b| b.spaces.iter().map(|s| s.kind).collect());
    let steps: Vec<Value> = planned.steps.iter().map(|s| step(s, &spaces, &limits)).collect();
    let refused: Vec<Value> = planned.refused.iter().map(|r| json!({ "id": r.fix.id, "why": r.why })).collect();
    Ok(fields!({ "steps": steps, "refused": refused }))
}

fn step(s: &plan::Step, spaces: &[SpaceKind], limits: &Limits) -> Value {
    let cautions = s.cautions(spaces).into_iter().map(|c| c.text.as_str()).chain([LOCAL_CODE]);
    let cautions: Vec<String> = cautions.map(|text| limits.fill(text)).collect();
    json!({
        "id": s.fix.id,
        "phase": s.fix.phase.id(),
        "gate": { "open": s.is_open(), "needs": s.needs() },
        "cautions": cautions,
        "because": s.because,
    })
}

/// Ids of the causes accepted; none when the key is absent.
fn accepted(input: &Input) -> Result<Vec<&'static str>, Fault> {
    if !input.has("causes") {
        return Ok(Vec::new());
    }
    let one = |(i, value): (usize, &Value)| {
        let known = value.as_str().and_then(cause::cause).map(|c| c.id.as_str());
        known.ok_or_else(|| input.fault(&format!("causes[{i}]"), format!("must be the id of a cause, got {value}")))
    };
    input.list("causes")?.iter().enumerate().map(one).collect()
}

/// Schools chosen, by question.
fn chosen(input: &Input) -> Result<BTreeMap<&'static str, &'static str>, Fault> {
    let mut out = BTreeMap::new();
    for (id, value) in input.entries("choices")?.filter(|(_, v)| !v.is_null()) {
        let path = format!("choices.{id}");
        let asked = question(id).ok_or_else(|| input.fault(&path, format!("no question is called {id}")))?;
        // A goal or a ceiling may be given as the figure it is.
        let word = value.as_str().map_or_else(|| value.to_string(), str::to_owned);
        let school = asked.school(&word).ok_or_else(|| {
            let known: Vec<&str> = asked.schools.iter().map(|s| s.id.as_str()).collect();
            input.fault(&path, format!("must be one of {}, got {value}", known.join(", ")))
        })?;
        out.insert(asked.id.as_str(), school.id.as_str());
    }
    Ok(out)
}

/// What is known, from the keys that all judgments share.
fn case(input: &Input) -> Result<Case, Fault> {
    let structures: Vec<(&str, Structure)> = Structure::ALL.iter().map(|s| (s.id(), *s)).collect();
    let climates: Vec<(&str, &str)> = Climate::ALL.iter().map(|c| (c.id(), c.id())).collect();
    let seasons = ["winter", "summer", "shoulder"].map(|s| (s, s));
    let whens = ["after_rain", "in_cold", "in_humid_season", "always", "mornings", "after_event"].map(|w| (w, w));
    let structure = input.word("structure", &structures)?.ok_or_else(|| input.missing("structure"))?;
    let mut case = Case::new(structure);
    let words = [
        ("climate", input.word("climate", &climates)?),
        ("season", input.word("season", &seasons)?),
        ("trouble_when", input.word("trouble_when", &whens)?),
    ];
    for (id, word) in words {
        word.map_or(Ok(()), |w| case.word(id, w)).map_err(|e| input.fault(id, e))?;
    }
    let mut figures = BTreeMap::new();
    for (id, value) in input.entries("findings")? {
        let path = format!("findings.{id}");
        match value {
            Value::Null => {}
            Value::Bool(there) => case.finding(id, *there).map_err(|e| input.fault(&path, e))?,
            Value::Number(n) => {
                let figure = n.as_f64().ok_or_else(|| input.fault(&path, "must be a number"))?;
                Case::takes_figure(id).map_err(|e| input.fault(&path, e))?;
                figures.insert(id.clone(), figure);
            }
            other => return Err(input.fault(&path, format!("must be true, false or a number, got {other}"))),
        }
    }
    case.figures(&figures).map_err(|e| input.fault("findings", e))?;
    for (id, value) in input.entries("tests")? {
        let path = format!("tests.{id}");
        match value {
            Value::Null => {}
            Value::String(result) => case.word(id, result).map_err(|e| input.fault(&path, e))?,
            other => return Err(input.fault(&path, format!("must be a result, got {other}"))),
        }
    }
    Ok(case)
}
