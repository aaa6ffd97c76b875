use crate::error::{CommandError, Outcome};
use crate::ui::{Style, Ui};
use clap::Args;
use ferngate_core::findings::{CHECKS, about};
use ferngate_core::map::{Severity, nearest};

/// Options of `explain`.
#[derive(Debug, Args)]
pub struct ExplainArgs {
    /// The finding; without it all are listed
    name: Option<String>,
}

/// Makes sure that there is a finding of this name.
pub fn known(name: &str) -> Result<ferngate_core::findings::About, CommandError> {
    about(name).ok_or_else(|| {
        let names = CHECKS.iter().map(|check| check.about().name);
        let hint = match nearest(name, names) {
            Some(near) => format!("did you mean `{near}`?"),
            None => "`ferngate explain` lists all findings".to_owned(),
        };
        CommandError::call_hint(format!("there is no finding `{name}`"), hint)
    })
}

fn severity(severity: Severity) -> &'static str {
    match severity {
        Severity::Error => "error",
        Severity::Warning => "warning",
        Severity::Off => "off",
    }
}

/// Says what a finding means.
pub fn cmd_explain(ui: &mut Ui, args: &ExplainArgs) -> Result<Outcome, CommandError> {
    let Some(name) = &args.name else { return list(ui) };
    let about = known(name)?;
    if ui.json {
        ui.answer(&serde_json::json!({
            "schema": "ferngate/explain/1", "finding": about.name, "severity": severity(about.severity),
            "meaning": about.meaning, "example": about.example, "ways_out": about.ways_out,
        }))?;
        return Ok(Outcome::Clean);
    }
    let head = ui.paint(Style::Verdict, about.name);
    ui.line(format!("{head} ({}): {}", severity(about.severity), about.meaning))?;
    ui.heading("for example")?;
    for line in about.example.lines() {
        ui.line(format!("  {line}").trim_end())?;
    }
    ui.heading("ways out")?;
    for way in about.ways_out {
        ui.line(format!("  - {way}"))?;
    }
    ui.line("")?;
    ui.line(format!(
        "In ferngate.toml, [checks] sets it to \"error\", \"warning\" or \"off\": {} = \"warning\"",
        about.name
    ))?;
    Ok(Outcome::Clean)
}

fn list(ui: &mut Ui) -> Result<Outcome, CommandError> {
    if ui.json {
        let all: Vec<_> = CHECKS
            .iter()
            .map(|check| check.about())
            .map(|a| serde_json::json!({ "finding": a.name, "severity": severity(a.severity), "meaning": a.meaning }))
            .collect();
        ui.answer(&serde_json::json!({ "schema": "ferngate/explain/1", "findings": all }))?;
        return Ok(Outcome::Clean);
    }
    let head = ui.paint(Style::Verdict, &format!("{} sorts of findings", CHECKS.len()));
    ui.line(head)?;
    ui.line("")?;
    for check in CHECKS {
        let about = check.about();
        let name = ui.paint(Style::Heading, &format!("{:22}", about.name));
        ui.line(format!("  {name} {:8} {}", severity(about.severity), about.meaning))?;
    }
    ui.next("ferngate explain NAME", "an example and ways out")?;
    Ok(Outcome::Clean)
}
