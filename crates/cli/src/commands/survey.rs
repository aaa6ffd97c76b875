use crate::args::Common;
use crate::error::{CommandError, Outcome};
use crate::session::{Meaning, Session};
use crate::table::{Align, table};
use crate::ui::{Style, Ui, clean, count, number, shown};
use clap::Args;
use ferngate_core::survey::{Survey, survey};
use ferngate_facts::languages::language_names;
use ferngate_model::ReadOptions;
use unicode_width::UnicodeWidthStr as _;

/// How many rows of each table are shown unless all are asked for.
const SHOWN: usize = 25;

/// Options of `survey`.
#[derive(Debug, Args)]
pub struct SurveyArgs {
    /// Look at this folder only
    path: Option<std::path::PathBuf>,
    /// Show all rows
    #[arg(long)]
    all: bool,
}

/// Shows what is here.
pub fn cmd_survey(ui: &mut Ui, common: &Common, args: &SurveyArgs) -> Result<Outcome, CommandError> {
    let mut common = common.clone();
    if let Some(path) = &args.path {
        let base = common.directory.clone().unwrap_or_default();
        common.directory = Some(base.join(path));
    }
    let load = if args.path.is_some() { Session::load_folder } else { Session::load };
    let session = load(ui, &common, ReadOptions::default())?;
    let meaning = session.understand(ui)?;
    let survey = survey(&meaning.world, &meaning.modules, &meaning.graph, &meaning.ties, &meaning.cycles);
    if ui.json {
        let answer = json(&session, &meaning, &survey);
        ui.answer(&answer)?;
        return Ok(Outcome::Clean);
    }
    verdict(ui, &session, &meaning, &survey)?;
    if survey.total.files == 0 {
        ui.line(format!("No file here is in a language that is read: {}.", language_names()))?;
        return Ok(Outcome::Clean);
    }
    modules(ui, &meaning, &survey, args.all)?;
    ties(ui, &meaning, args.all)?;
    cycles(ui, &meaning, args.all)?;
    apart(ui, &session, &meaning, &survey, args.all)?;
    if !survey.advice.is_empty() {
        ui.heading("advice")?;
        for advice in &survey.advice {
            ui.line(format!("  - {}", clean(advice)))?;
        }
    }
    match (&args.path, session.has_map) {
        (Some(_), _) => ui.next("ferngate survey", "look at all that is here")?,
        (None, true) => ui.next("ferngate check", "hold the code against the map")?,
        (None, false) => ui.next("ferngate init", "write a map of these modules")?,
    }
    Ok(Outcome::Clean)
}

fn verdict(ui: &mut Ui, session: &Session, meaning: &Meaning, survey: &Survey) -> Result<(), CommandError> {
    let head = ui.paint(Style::Verdict, &clean(&session.name()));
    let cycles = match meaning.cycles.len() {
        0 => "no cycles".to_owned(),
        some => count(some as u64, "cycle", "cycles"),
    };
    let source = if session.has_map { "of the map" } else { "by default" };
    ui.line(format!(
        "{head}: {}, {}, {} {source}, {cycles}",
        count(survey.total.files as u64, "file", "files"),
        count(survey.total.lines, "line", "lines"),
        count(meaning.modules.list.len() as u64, "module", "modules"),
    ))?;
    let parts: Vec<String> = survey
        .languages
        .iter()
        .map(|(name, size)| {
            format!(
                "{name} {} in {}",
                count(size.lines, "line", "lines"),
                count(size.files as u64, "file", "files")
            )
        })
        .collect();
    let manifests: Vec<String> =
        survey.manifests.iter().map(|(kind, found)| format!("{found} {kind}")).collect();
    for line in packed(&parts).into_iter().chain(packed(&manifests)) {
        let line = ui.paint(Style::Faint, &line);
        ui.line(line)?;
    }
    Ok(())
}

/// As many parts on a line as go without wrapping in a terminal of a hundred columns.
fn packed(parts: &[String]) -> Vec<String> {
    let mut lines: Vec<String> = Vec::new();
    for part in parts {
        match lines.last_mut() {
            Some(line) if line.width() + part.width() < 95 => {
                line.push_str(" · ");
                line.push_str(part);
            }
            _ => lines.push(part.clone()),
        }
    }
    lines
}

fn modules(ui: &mut Ui, meaning: &Meaning, survey: &Survey, all: bool) -> Result<(), CommandError> {
    let heads = [
        ("module", Align::Left),
        ("files", Align::Right),
        ("lines", Align::Right),
        ("names", Align::Right),
        ("uses", Align::Right),
        ("used by", Align::Right),
        ("folder", Align::Left),
        ("namespace", Align::Left),
    ];
    let mut rows: Vec<_> = survey.modules.iter().collect();
    rows.sort_by_key(|row| (std::cmp::Reverse(row.size.lines), row.module));
    let shown = shown(rows.len(), SHOWN, all);
    let cells: Vec<Vec<String>> = rows[..shown]
        .iter()
        .map(|row| {
            let module = &meaning.modules.list[row.module];
            let others = row.namespaces.iter().filter(|other| row.namespace.as_ref() != Some(other)).count();
            let namespace =
                match (&row.namespace, row.namespaces.iter().filter(|text| !text.is_empty()).count()) {
                    (Some(around), _) if others > 0 => format!("{around} + {others}"),
                    (Some(around), _) => around.clone(),
                    (None, 0) => String::new(),
                    (None, several) => count(several as u64, "namespace", "namespaces"),
                };
            let folder = if module.folder.is_empty() { "." } else { &module.folder };
            vec![
                clean(&module.name),
                number(row.size.files as u64),
                number(row.size.lines),
                number(row.size.names as u64),
                row.uses.to_string(),
                row.used_by.to_string(),
                clean(folder),
                clean(&namespace),
            ]
        })
        .collect();
    ui.line("")?;
    for (at, line) in table(&heads, &cells).into_iter().enumerate() {
        let line = if at == 0 { ui.paint(Style::Heading, &line) } else { line };
        ui.line(line)?;
    }
    ui.left_out("", rows.len() - shown, " modules")?;
    if survey.rest.files > 0 {
        ui.line(format!(
            "rest: {} and {} in no module",
            count(survey.rest.files as u64, "file", "files"),
            count(survey.rest.lines, "line", "lines")
        ))?;
    }
    Ok(())
}

fn ties(ui: &mut Ui, meaning: &Meaning, all: bool) -> Result<(), CommandError> {
    if meaning.graph.ties.is_empty() {
        return Ok(());
    }
    let mut ties: Vec<_> = meaning.graph.ties.iter().collect();
    ties.sort_by_key(|tie| (std::cmp::Reverse(tie.weight), tie.from, tie.to));
    let shown = shown(ties.len(), 8, all);
    ui.heading(&format!("heaviest of {}", count(ties.len() as u64, "tie", "ties")))?;
    let heads = [
        ("uses", Align::Left),
        ("", Align::Left),
        ("used", Align::Left),
        ("references", Align::Right),
        ("files", Align::Right),
    ];
    let cells: Vec<Vec<String>> = ties[..shown]
        .iter()
        .map(|tie| {
            let name = |module: usize| clean(&meaning.modules.list[module].name);
            let both = meaning.graph.tie(tie.to, tie.from).is_some();
            let arrow = if both { "⇄" } else { "→" };
            let mut files: Vec<u32> = tie.files.iter().map(|tie| tie.from).collect();
            files.dedup();
            vec![
                name(tie.from),
                arrow.to_owned(),
                name(tie.to),
                number(u64::from(tie.weight)),
                number(files.len() as u64),
            ]
        })
        .collect();
    let lines = table(&heads, &cells);
    let (head, rows) = lines.split_first().map_or(("", &[][..]), |(head, rows)| (head.as_str(), rows));
    let head = ui.paint(Style::Faint, head);
    ui.line(format!("  {head}"))?;
    for line in rows {
        ui.line(format!("  {line}"))?;
    }
    Ok(())
}

fn cycles(ui: &mut Ui, meaning: &Meaning, all: bool) -> Result<(), CommandError> {
    if meaning.cycles.is_empty() {
        return Ok(());
    }
    ui.heading("cycles")?;
    let shown = shown(meaning.cycles.len(), 5, all);
    for cycle in &meaning.cycles[..shown] {
        let name = |module: &usize| clean(&meaning.modules.list[*module].name);
        let way: Vec<String> = cycle.way.iter().chain(cycle.way.first()).map(name).collect();
        ui.line(format!("  {:>3} modules: {}", cycle.modules.len(), way.join(" → ")))?;
    }
    Ok(ui.left_out("  ", meaning.cycles.len() - shown, " cycles")?)
}

fn apart(
    ui: &mut Ui,
    session: &Session,
    meaning: &Meaning,
    survey: &Survey,
    all: bool,
) -> Result<(), CommandError> {
    if survey.apart.is_empty() && survey.unreferred.is_empty() {
        return Ok(());
    }
    ui.heading("what stands apart")?;
    if !survey.apart.is_empty() {
        let names: Vec<String> = survey.apart.iter().map(|&m| clean(&meaning.modules.list[m].name)).collect();
        let shown = shown(names.len(), 8, all);
        let rest = if shown < names.len() {
            format!(" … and {} more", names.len() - shown)
        } else {
            String::new()
        };
        ui.line(format!("  without any tie: {}{rest}", names[..shown].join(", ")))?;
    }
    if !survey.unreferred.is_empty() {
        let files = survey.unreferred.len();
        let line = format!("  {} whose types no other file refers to:", count(files as u64, "file", "files"));
        ui.line(line)?;
        let shown = shown(files, 5, all);
        for file in &survey.unreferred[..shown] {
            ui.line(format!("    {}", clean(session.project.files[*file as usize].path.as_str())))?;
        }
        ui.left_out("    ", files - shown, "")?;
    }
    Ok(())
}

fn json(session: &Session, meaning: &Meaning, survey: &Survey) -> serde_json::Value {
    let name = |module: usize| meaning.modules.list[module].name.as_str();
    let languages: Vec<_> = survey
        .languages
        .iter()
        .map(|(name, size)| serde_json::json!({ "language": name, "files": size.files, "lines": size.lines, "names": size.names }))
        .collect();
    let modules: Vec<_> = survey
        .modules
        .iter()
        .map(|row| {
            serde_json::json!({
                "module": name(row.module), "folder": meaning.modules.list[row.module].folder,
                "files": row.size.files, "lines": row.size.lines, "names": row.size.names,
                "uses": row.uses, "used_by": row.used_by, "namespace": row.namespace, "namespaces": row.namespaces,
            })
        })
        .collect();
    let ties: Vec<_> = meaning
        .graph
        .ties
        .iter()
        .map(
            |tie| serde_json::json!({ "from": name(tie.from), "to": name(tie.to), "references": tie.weight }),
        )
        .collect();
    let cycles: Vec<Vec<&str>> =
        meaning.cycles.iter().map(|cycle| cycle.modules.iter().map(|&m| name(m)).collect()).collect();
    let unreferred: Vec<&str> =
        survey.unreferred.iter().map(|&file| session.project.files[file as usize].path.as_str()).collect();
    serde_json::json!({
        "schema": "ferngate/survey/1", "project": session.name(), "map": session.has_map,
        "files": survey.total.files, "lines": survey.total.lines, "names": survey.total.names,
        "languages": languages, "manifests": survey.manifests, "modules": modules, "ties": ties,
        "cycles": cycles, "unreferred": unreferred, "advice": survey.advice,
    })
}
