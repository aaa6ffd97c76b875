use crate::args::Common;
use crate::error::{CommandError, Outcome};
use crate::session::Session;
use crate::snippet;
use crate::ui::{Style, Ui, clean, count, shown};
use clap::Args;
use ferngate_core::findings::{ALSO, Finding, Place};
use ferngate_core::map::Severity;
use ferngate_facts::languages::language_names;
use ferngate_model::{LineIndex, Position, ProjectPath, ReadOptions, Span};
use std::collections::BTreeMap;

/// How many findings of one sort are shown unless all are asked for.
const SHOWN: usize = 12;

/// Options of `check`.
#[derive(Debug, Args)]
pub struct CheckArgs {
    /// Show all findings instead of the first of each sort
    #[arg(long)]
    all: bool,
    /// Look only for these findings (see `ferngate explain`)
    #[arg(long, value_name = "NAME")]
    only: Vec<String>,
}

/// Reports everything that is not as the map says.
pub fn cmd_check(ui: &mut Ui, common: &Common, args: &CheckArgs) -> Result<Outcome, CommandError> {
    for name in &args.only {
        super::explain::known(name)?;
    }
    let session = Session::load(ui, common, ReadOptions::default())?;
    let meaning = session.understand(ui)?;
    let mut found = session.check(ui, &meaning);
    if !args.only.is_empty() {
        found.retain(|finding| args.only.iter().any(|name| name == finding.check));
    }
    let errors = found.iter().filter(|finding| finding.severity == Severity::Error).count();
    let outcome = if errors > 0 { Outcome::Findings } else { Outcome::Clean };
    let mut texts = Texts { session: &session, texts: BTreeMap::new() };
    let code = || session.project.files.iter().filter_map(|file| file.facts.as_deref());
    let (files, lines) = (code().count(), code().map(|facts| u64::from(facts.lines)).sum::<u64>());
    if ui.json {
        let findings: Vec<_> = found.iter().map(|finding| texts.json(finding)).collect();
        let warnings = found.len() - errors;
        ui.answer(&serde_json::json!({
            "schema": "ferngate/check/1", "errors": errors, "warnings": warnings,
            "files": files, "lines": lines, "modules": meaning.modules.list.len(), "findings": findings,
        }))?;
        return Ok(outcome);
    }
    let looked = format!(
        "{}, {} in {}",
        count(files as u64, "file", "files"),
        count(lines, "line", "lines"),
        count(meaning.modules.list.len() as u64, "module", "modules")
    );
    if files == 0 {
        let head = ui.paint(Style::Doubt, &format!("{}: nothing to check", session.name()));
        ui.line(format!("{head}: no file here is in a language that is read ({})", language_names()))?;
        return Ok(outcome);
    }
    let verdict = if found.is_empty() {
        ui.paint(Style::Good, &format!("{}: all as it should be", session.name()))
    } else {
        let warnings = found.len() - errors;
        let mut parts = Vec::new();
        if errors > 0 {
            parts.push(count(errors as u64, "error", "errors"));
        }
        if warnings > 0 {
            parts.push(count(warnings as u64, "warning", "warnings"));
        }
        let style = if errors > 0 { Style::Bad } else { Style::Doubt };
        ui.paint(style, &format!("{}: {}", session.name(), parts.join(", ")))
    };
    ui.line(format!("{verdict} ({looked})"))?;
    print_findings(ui, &found, args.all, &mut texts)?;
    match (found.first(), session.has_map) {
        (Some(first), true) => {
            ui.next(&format!("ferngate explain {}", first.check), "what it means, and ways out")?
        }
        (_, false) => ui.next("ferngate init", "write a map, so that rules can be checked")?,
        (None, true) => {}
    }
    Ok(outcome)
}

fn print_findings(ui: &mut Ui, found: &[Finding], all: bool, texts: &mut Texts) -> Result<(), CommandError> {
    let mut at = 0;
    while at < found.len() {
        let check = found[at].check;
        let end =
            found[at..].iter().position(|finding| finding.check != check).map_or(found.len(), |n| at + n);
        let group = &found[at..end];
        let style = if group[0].severity == Severity::Error { Style::Bad } else { Style::Doubt };
        let head = ui.paint(style, check);
        ui.line(format!("\n{head}  {}", group.len()))?;
        let shown = shown(group.len(), SHOWN, all);
        let mut heading = "";
        for (at_in_group, finding) in group[..shown].iter().enumerate() {
            if finding.heading != heading {
                heading = &finding.heading;
                let in_pair = group.iter().filter(|other| other.heading == heading).count();
                ui.line(format!(
                    "  {}  {}",
                    ui.paint(Style::Heading, heading),
                    count(in_pair as u64, "place", "places")
                ))?;
            }
            print_finding(ui, finding, all, texts)?;
            // What several findings in a row share is said once, behind the last of them.
            let same = |other: &Finding| {
                other.heading == finding.heading
                    && other.rule == finding.rule
                    && other.way_out == finding.way_out
            };
            if !group[..shown].get(at_in_group + 1).is_some_and(same) {
                let (rule, out) = (ui.paint(Style::Faint, "rule:"), ui.paint(Style::Faint, "way out:"));
                ui.line(format!("      {rule} {}", clean(&finding.rule)))?;
                ui.line(format!("      {out} {}", clean(&finding.way_out)))?;
            }
        }
        ui.left_out("  ", group.len() - shown, "")?;
        at = end;
    }
    Ok(())
}

/// How many further places of the same sort are shown.
const SHOWN_ALSO: usize = 2;

fn print_finding(ui: &mut Ui, finding: &Finding, all: bool, texts: &mut Texts) -> Result<(), CommandError> {
    let place = finding.place.as_ref().map(|place| format!("{}  ", texts.place(place))).unwrap_or_default();
    ui.line(format!("  {}{}", clean(&place), clean(&finding.message)))?;
    let also = finding.related.iter().filter(|(_, word)| word == ALSO).count();
    if finding.related.len() == also {
        for line in texts.snippet(finding) {
            let line = ui.paint(Style::Faint, &line);
            ui.line(line)?;
        }
    }
    let left = also - shown(also, SHOWN_ALSO, all);
    for (place, word) in &finding.related[..finding.related.len() - left] {
        ui.line(format!("      {}  {}", clean(word), clean(&texts.place(place))))?;
    }
    ui.left_out("      ", left, "")?;
    Ok(())
}

/// Texts of the files that findings point at, read when first needed.
struct Texts<'s> {
    session: &'s Session,
    texts: BTreeMap<ProjectPath, (Vec<u8>, LineIndex)>,
}

impl Texts<'_> {
    fn get(&mut self, path: &ProjectPath) -> &(Vec<u8>, LineIndex) {
        self.texts.entry(path.clone()).or_insert_with(|| {
            let text = match path.as_str() {
                ferngate_core::map::MAP_FILE => std::fs::read(&self.session.map_path).unwrap_or_default(),
                _ => self.session.text(path),
            };
            let lines = LineIndex::new(&text);
            (text, lines)
        })
    }

    fn position(&mut self, place: &Place) -> Option<Position> {
        let offset = place.offset?;
        let (text, lines) = self.get(&place.path);
        Some(lines.position(text, offset))
    }

    /// `path:line:column`
    fn place(&mut self, place: &Place) -> String {
        match self.position(place) {
            Some(at) => format!("{}:{}:{}", place.path, at.line, at.column),
            None => place.path.to_string(),
        }
    }

    fn snippet(&mut self, finding: &Finding) -> Vec<String> {
        let Some(Place { path, offset: Some(offset) }) = &finding.place else { return Vec::new() };
        let (text, _) = self.get(path);
        let start = *offset as usize;
        let length = marked_length(text, start);
        snippet::lines(text, Span::new(start, start + length), 2)
    }

    fn json(&mut self, finding: &Finding) -> serde_json::Value {
        let mut place = |place: &Place| {
            let at = self.position(place);
            serde_json::json!({ "path": place.path.as_str(), "line": at.map(|at| at.line), "column": at.map(|at| at.column) })
        };
        let related: Vec<_> = finding
            .related
            .iter()
            .map(|(at, word)| serde_json::json!({ "place": place(at), "what": word }))
            .collect();
        serde_json::json!({
            "finding": finding.check,
            "severity": if finding.severity == Severity::Error { "error" } else { "warning" },
            "message": finding.message, "place": finding.place.as_ref().map(place), "related": related,
            "rule": finding.rule, "way_out": finding.way_out,
        })
    }
}

/// How much of `text` from `start` on a finding there marks: what stands between quotes, else a name or path.
fn marked_length(text: &[u8], start: usize) -> usize {
    let behind = &text[start.min(text.len())..];
    let quote = start.checked_sub(1).and_then(|before| text.get(before));
    if let Some(quote) = quote.filter(|quote| matches!(quote, b'"' | b'\'' | b'`'))
        && let Some(end) = behind.iter().position(|byte| byte == quote || *byte == b'\n')
        && behind[end] == *quote
    {
        return end;
    }
    let of_name = |byte: &u8| {
        byte.is_ascii_alphanumeric() || matches!(byte, b'_' | b'.' | b'\\' | b'/') || *byte >= 0x80
    };
    let length = |more: &[u8]| behind.iter().take_while(|byte| of_name(byte) || more.contains(byte)).count();
    let name = length(b"");
    if behind[..name].contains(&b'/') { length(b"+-@~") } else { name }
}
