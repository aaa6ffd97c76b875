use crate::args::Common;
use crate::error::{CommandError, Outcome};
use crate::places::{Used, uses_between, uses_in};
use crate::session::{Meaning, Session};
use crate::ui::{Style, Ui, clean, count, number, shown};
use clap::Args;
use ferngate_core::findings::{View, reason_text};
use ferngate_core::permission::{Decision, End, Permission, Reason, package_matches};
use ferngate_model::{ProjectPath, ReadOptions};

/// How many names are shown unless all are asked for, and how many lines of each.
const NAMES: usize = 12;
const LINES: usize = 3;

/// Options of `why`.
#[derive(Debug, Args)]
pub struct WhyArgs {
    /// The module or file that uses
    from: String,
    /// The module or file that is used, or package:NAME
    to: String,
    /// Show all names and lines
    #[arg(long)]
    all: bool,
}

/// Says whether a module may use another, by which sentence, and where it does.
pub fn cmd_why(ui: &mut Ui, common: &Common, args: &WhyArgs) -> Result<Outcome, CommandError> {
    let session = Session::load(ui, common, ReadOptions::default())?;
    let meaning = session.understand(ui)?;
    match (file_called(&session, &args.from), file_called(&session, &args.to)) {
        (Some(from), Some(to)) => return files_answer(ui, &session, &meaning, [from, to], args.all),
        (Some(_), None) | (None, Some(_)) => {
            let message = "one end is a file and the other is not";
            return Err(CommandError::call_hint(message, "give two modules, or two files"));
        }
        (None, None) => {}
    }
    let from = meaning.module(&args.from)?;
    if let Some(package) = args.to.strip_prefix("package:") {
        return package_answer(ui, &session, &meaning, from, package, args.all);
    }
    let to = meaning.module(&args.to)?;
    let (decision, rule) = decide(&session, &meaning, from, to);
    let used = uses_between(&session, &meaning, from, to);
    let back = meaning.graph.tie(to, from).map_or(0, |tie| tie.weight);
    let way = meaning.graph.shortest_way(from, to).filter(|way| way.len() > 2 || used.is_empty());
    let references: usize = used.iter().map(|used| used.places.len()).sum();
    let breaks = references > 0 && !decision.permitted;
    let outcome = if breaks { Outcome::Findings } else { Outcome::Clean };
    let name = |module: usize| meaning.modules.list[module].name.as_str();
    if ui.json {
        let way: Option<Vec<&str>> = way.map(|way| way.iter().map(|&module| name(module)).collect());
        ui.answer(&serde_json::json!({
            "schema": "ferngate/why/1", "from": name(from), "to": name(to), "permitted": decision.permitted,
            "rule": rule, "references": references, "back": back, "way": way,
            "names": used.iter().map(json).collect::<Vec<_>>(),
        }))?;
        return Ok(outcome);
    }
    let may = if decision.permitted { "may use" } else { "may not use" };
    let does = match (references, decision.permitted) {
        (0, _) => "and does not".to_owned(),
        (some, true) => format!("and does: {}", count(some as u64, "reference", "references")),
        (some, false) => format!("but does: {}", count(some as u64, "reference", "references")),
    };
    let style = if breaks { Style::Bad } else { Style::Good };
    let head = ui.paint(style, &format!("{} {may} {}, {does}", clean(name(from)), clean(name(to))));
    ui.line(head)?;
    ui.line(format!("  decided by: {}", clean(&rule)))?;
    if let Some(because) = because(&session, &decision) {
        ui.line(format!("  because: {}", clean(&because)))?;
    }
    if back > 0 {
        ui.line(format!("  the other way round: {}", count(u64::from(back), "reference", "references")))?;
    }
    if !used.is_empty() {
        print_uses(ui, &used, args.all)?;
    }
    if let Some(way) = way {
        let names: Vec<String> = way.iter().map(|&module| clean(name(module))).collect();
        ui.heading("shortest indirect way")?;
        ui.line(format!("  {}", names.join(" → ")))?;
    }
    if back > 0 {
        ui.next(&format!("ferngate why {} {}", name(to), name(from)), "the other direction")?;
    }
    Ok(outcome)
}

fn decide(session: &Session, meaning: &Meaning, from: usize, to: usize) -> (Decision, String) {
    let end = |module| End::Code { module: Some(module), path: None, test: false };
    decide_ends(session, meaning, &end(from), &end(to))
}

fn decide_ends(session: &Session, meaning: &Meaning, from: &End, to: &End) -> (Decision, String) {
    let permission = Permission { map: &session.map, modules: &meaning.modules };
    let decision = permission.decide(from, to);
    let exists = |_: &ProjectPath| true;
    let view = View {
        world: &meaning.world,
        map: &session.map,
        has_map: session.has_map,
        modules: &meaning.modules,
        graph: &meaning.graph,
        cycles: &meaning.cycles,
        file_ties: &meaning.ties,
        exists: &exists,
    };
    let mut rule = reason_text(&view, &decision.reason);
    if !session.has_map {
        rule = "there is no map, so everything is permitted".to_owned();
    }
    (decision, rule)
}

fn because(session: &Session, decision: &Decision) -> Option<String> {
    match decision.reason {
        Reason::Rule(at) | Reason::Closed(at) | Reason::OnlyFrom(at) => session.map.rules[at].because.clone(),
        _ => None,
    }
}

fn package_answer(
    ui: &mut Ui,
    session: &Session,
    meaning: &Meaning,
    from: usize,
    package: &str,
    all: bool,
) -> Result<Outcome, CommandError> {
    let user = End::Code { module: Some(from), path: None, test: false };
    let (decision, rule) = decide_ends(session, meaning, &user, &End::Package(package));
    let mut files: Vec<&str> = Vec::new();
    for file in meaning.modules.files(from) {
        let source = &session.project.files[file];
        let imports = source.facts.iter().flat_map(|facts| &facts.imports).map(|import| &*import.text);
        let linked = meaning.world.links[file].packages.iter().map(|used| &*used.name);
        if imports.chain(linked).any(|name| package_matches(package, name)) {
            files.push(source.path.as_str());
        }
    }
    let name = &meaning.modules.list[from].name;
    if ui.json {
        ui.answer(&serde_json::json!({
            "schema": "ferngate/why/1", "from": name, "to": format!("package:{package}"),
            "permitted": decision.permitted, "rule": rule, "files": files,
        }))?;
    } else {
        let may = if decision.permitted { "may use" } else { "may not use" };
        let style = if decision.permitted || files.is_empty() { Style::Good } else { Style::Bad };
        let does = count(files.len() as u64, "file imports it", "files import it");
        let head = ui.paint(style, &format!("{name} {may} package {package}; {does}"));
        ui.line(head)?;
        ui.line(format!("  decided by: {}", clean(&rule)))?;
        let shown = shown(files.len(), NAMES, all);
        for file in &files[..shown] {
            ui.line(format!("    {}", clean(file)))?;
        }
        ui.left_out("    ", files.len() - shown, " files")?;
    }
    let breaks = !decision.permitted && !files.is_empty();
    Ok(if breaks { Outcome::Findings } else { Outcome::Clean })
}

/// The file at `path`.
fn file_called(session: &Session, path: &str) -> Option<usize> {
    let path = path.trim_start_matches("./");
    session.project.files.iter().position(|file| file.path.as_str() == path)
}

/// The names that one file uses of another.
fn files_answer(
    ui: &mut Ui,
    session: &Session,
    meaning: &Meaning,
    [from, to]: [usize; 2],
    all: bool,
) -> Result<Outcome, CommandError> {
    let between = |from: usize, to: usize| {
        let used = uses_in(session, meaning, [from], |file| file as usize == to);
        let references: usize = used.iter().map(|used| used.places.len()).sum();
        (used, references)
    };
    let ((used, references), (_, back)) = (between(from, to), between(to, from));
    let path = |file: usize| session.project.files[file].path.as_str();
    if ui.json {
        ui.answer(&serde_json::json!({
            "schema": "ferngate/why/1", "from": path(from), "to": path(to), "references": references,
            "back": back, "names": used.iter().map(json).collect::<Vec<_>>(),
        }))?;
        return Ok(Outcome::Clean);
    }
    let does = match references {
        0 => format!("{} does not use {}", clean(path(from)), clean(path(to))),
        some => {
            let times = count(some as u64, "reference", "references");
            format!("{} uses {}: {times}", clean(path(from)), clean(path(to)))
        }
    };
    let head = ui.paint(Style::Verdict, &does);
    ui.line(head)?;
    if back > 0 {
        ui.line(format!("  the other way round: {}", count(back as u64, "reference", "references")))?;
    }
    if !used.is_empty() {
        print_uses(ui, &used, all)?;
    }
    Ok(Outcome::Clean)
}

fn print_uses(ui: &mut Ui, used: &[Used], all: bool) -> Result<(), CommandError> {
    ui.heading("names that are used, by lines")?;
    let names = shown(used.len(), NAMES, all);
    for used in &used[..names] {
        let head = ui.paint(Style::Verdict, &clean(&used.name));
        let path = used.declared.as_str();
        let mut origin = if used.name == path { String::new() } else { format!("  {}", clean(path)) };
        if let Some(behind) = &used.behind {
            origin.push_str(&format!("  (declared in {})", clean(behind.as_str())));
        }
        ui.line(format!("  {head}  {}{origin}", number(used.places.len() as u64)))?;
        let lines = shown(used.places.len(), LINES, all);
        for place in &used.places[..lines] {
            let at = format!("{}:{}:{}", place.path, place.position.line, place.position.column);
            let line = ui.paint(Style::Faint, &clean(place.line.trim()));
            ui.line(format!("      {}  {line}", clean(&at)))?;
        }
        ui.left_out("      ", used.places.len() - lines, "")?;
    }
    Ok(ui.left_out("  ", used.len() - names, " names")?)
}

fn json(used: &Used) -> serde_json::Value {
    let places: Vec<_> = used
        .places
        .iter()
        .map(|p| serde_json::json!({ "path": p.path.as_str(), "line": p.position.line, "column": p.position.column }))
        .collect();
    serde_json::json!({ "name": used.name, "declared": used.declared.as_str(),
        "behind": used.behind.as_ref().map(ProjectPath::as_str), "places": places })
}
