use crate::apply::{self, Seen, fingerprint};
use crate::args::Common;
use crate::error::{CommandError, Outcome};
use crate::session::Session;
use crate::ui::{Style, Ui, clean, count, number, quoted, shown};
use clap::Args;
use ferngate_core::findings::Finding;
use ferngate_core::map::{AssignError, Map, read_map};
use ferngate_core::moves::{
    Ground, Judge, MoveError, MoveOptions, MovePlan, PlannedPaths, Request, plan_moves,
};
use ferngate_core::resolve::World;
use ferngate_facts::Ignored;
use ferngate_facts::languages::LANGUAGES;
use ferngate_facts::manifests::{MANIFESTS, manifest_of};
use ferngate_model::{ProjectPath, ReadOptions};
use std::mem::ManuallyDrop;
use std::path::PathBuf;
use std::sync::Mutex;

/// How many lines of each list are shown unless all are asked for.
const SHOWN: usize = 10;

/// Options of `move`.
#[derive(Debug, Args)]
pub struct MoveArgs {
    /// Files, folders or name:Full.Type.Name; the last is the target: a new path, or a folder to move into
    #[arg(value_name = "FROM… TO")]
    paths: Vec<String>,
    /// Plan several moves together: a file with lines `FROM -> TO`
    #[arg(long, value_name = "FILE")]
    list: Option<PathBuf>,
    /// Write the move; without it, it is only shown
    #[arg(long)]
    apply: bool,
    /// Show every changed line
    #[arg(long)]
    diff: bool,
    /// Make internal types public where they are now used across a project border
    #[arg(long)]
    widen: bool,
    /// Rewrite mentions in text that are not certain, too
    #[arg(long)]
    mentions: bool,
    /// Write the move though something speaks against it
    #[arg(long)]
    force: bool,
    /// Show all lines of every list
    #[arg(long)]
    all: bool,
}

impl From<MoveError> for CommandError {
    fn from(error: MoveError) -> Self {
        let hint = match &error {
            MoveError::Map(error) => return error.clone().into(),
            MoveError::NoName(_) => {
                Some("write the full name with its namespace: name:Mossgrove.Models.Ticket")
            }
            MoveError::TargetExists(_) => Some("choose another name, or move what is there away first"),
            MoveError::NoSource(_) => Some("paths are taken from the project's root"),
            MoveError::Nested(_) | MoveError::Outside(_) | MoveError::SamePlace(_) => None,
            _ => None,
        };
        match hint {
            Some(hint) => CommandError::call_hint(error.to_string(), hint),
            None => CommandError::call(error.to_string()),
        }
    }
}

/// Moves code and everything that names it.
pub fn cmd_move(ui: &mut Ui, common: &Common, args: &MoveArgs) -> Result<Outcome, CommandError> {
    let requests = requests(args)?;
    let load = |ui: &mut Ui| Session::load(ui, common, ReadOptions { occurrences: false, weak: true });
    let mut session = load(ui)?;
    if let Some(title) = apply::recover(&session.root)? {
        ui.remark(&format!("note: a move that was cut short has been taken back first: {title}"));
        session = load(ui)?;
    }
    let project = std::mem::take(&mut session.project);
    let root = session.root.clone();
    let seen: Mutex<Seen> = Mutex::new(Seen::new());
    let read = |path: &ProjectPath| {
        let bytes = std::fs::read(root.join(path.as_str())).ok()?;
        if let Ok(mut seen) = seen.lock() {
            seen.insert(path.clone(), fingerprint(&bytes));
        }
        Some(bytes)
    };
    let ground = Ground {
        languages: LANGUAGES,
        read: &read,
        read_manifest: &|path, text| manifest_of(path).map(|at| MANIFESTS[at].read(path, text)),
        is_folder: &|path| root.join(path).is_dir(),
        exists: &|path| root.join(path.as_str()).exists(),
    };
    let options = MoveOptions { widen: args.widen, mentions: args.mentions };
    let mut judge = ByMap { session: &mut session, ui };
    let plan = plan_moves(ManuallyDrop::into_inner(project), &ground, &requests, options, &mut judge)?;
    let plan = ManuallyDrop::new(plan);
    let seen = seen.into_inner().unwrap_or_default();
    let title = requests.iter().map(title).collect::<Vec<_>>().join(", ");
    let refused = !plan.refusals.is_empty() && !args.force;
    let applied = !refused && (args.apply || confirm(ui, &plan, args, &session)?);
    if applied {
        apply::apply(&root, &plan, &seen, &title)?;
    }
    if ui.json {
        let answer = json(&plan, applied);
        ui.answer(&answer)?;
    } else if applied && ui.interactive && !args.apply {
        say_applied(ui, &plan)?;
    } else if applied {
        show(ui, &plan, args, true, &session)?;
        say_applied(ui, &plan)?;
    } else if !ui.interactive || refused {
        show(ui, &plan, args, false, &session)?;
        if !refused {
            ui.next(&to_apply(args), "write it; `ferngate undo` takes it back")?;
        }
    } else {
        ui.line("nothing was written")?;
    }
    Ok(if refused { Outcome::Findings } else { Outcome::Clean })
}

/// The call that writes what this one shows.
fn to_apply(args: &MoveArgs) -> String {
    let list = args.list.as_ref().map(|list| format!("--list {} ", quoted(&list.display().to_string())));
    let options = [(args.widen, "--widen "), (args.mentions, "--mentions "), (args.force, "--force ")];
    let options: String = options.iter().filter(|(given, _)| *given).map(|(_, option)| *option).collect();
    let paths: Vec<String> = args.paths.iter().map(|path| quoted(path)).collect();
    format!("ferngate move {}{options}--apply {}", list.unwrap_or_default(), paths.join(" "))
}

fn title(request: &Request) -> String {
    let source = match &request.source {
        ferngate_core::moves::Source::Path(path) => path.clone(),
        ferngate_core::moves::Source::Name(name) => format!("name:{name}"),
    };
    format!("{source} -> {}", request.target)
}

fn requests(args: &MoveArgs) -> Result<Vec<Request>, CommandError> {
    let mut requests = Vec::new();
    if let Some(list) = &args.list {
        let text = std::fs::read_to_string(list).map_err(|error| CommandError::file("read", list, &error))?;
        for (at, line) in text.lines().enumerate() {
            let line = line.trim();
            if line.is_empty() || line.starts_with('#') {
                continue;
            }
            let Some((from, to)) = line.split_once("->") else {
                let message = format!("{}:{}: a line reads `FROM -> TO`", list.display(), at + 1);
                return Err(CommandError::call(message));
            };
            requests.push(Request::new(from.trim(), to.trim()));
        }
    }
    match &args.paths[..] {
        [] if !requests.is_empty() => {}
        [] | [_] => {
            return Err(CommandError::call_hint(
                "say what shall move, and where to",
                "for example: ferngate move src/Models/Ticket.cs src/Visits/",
            ));
        }
        [from, to] => requests.push(Request::new(from, to)),
        [from @ .., to] => {
            let to = if to.ends_with('/') { to.clone() } else { format!("{to}/") };
            requests.extend(from.iter().map(|from| Request::new(from, &to)));
        }
    }
    Ok(requests)
}

/// Judges by the map of a session; once a move is planned, by the map as that leaves it.
struct ByMap<'s> {
    session: &'s mut Session,
    ui: &'s mut Ui,
}

impl Judge for ByMap<'_> {
    fn findings(&mut self, world: World, planned: Option<&MovePlan>) -> Result<Vec<Finding>, AssignError> {
        let Some(plan) = planned else {
            let meaning = self.session.meaning_of(self.ui, world)?;
            return Ok(self.session.check(self.ui, &meaning));
        };
        if let Some(map) = self.planned_map(plan) {
            self.session.map = map;
        }
        let meaning = self.session.meaning_of(self.ui, world)?;
        let (paths, ignored) = (PlannedPaths::new(plan), Ignored::new(&self.session.root));
        let on_disk = |path: &ProjectPath| self.session.root.join(path.as_str()).exists();
        let exists = |path: &ProjectPath| paths.is_there(path, on_disk) || ignored.covers(path);
        Ok(self.session.check_where(self.ui, &meaning, &exists))
    }
}

impl ByMap<'_> {
    /// The map as `plan` leaves it, where it changes it.
    fn planned_map(&self, plan: &MovePlan) -> Option<Map> {
        let path = std::fs::canonicalize(&self.session.map_path).ok()?;
        let path = path.strip_prefix(&self.session.root).ok()?;
        let text = plan.contents.get(&ProjectPath::new(path.to_str()?))?;
        read_map(std::str::from_utf8(text).ok()?).ok()
    }
}

fn confirm(ui: &mut Ui, plan: &MovePlan, args: &MoveArgs, session: &Session) -> Result<bool, CommandError> {
    if !ui.interactive || ui.json {
        return Ok(false);
    }
    show(ui, plan, args, false, session)?;
    Ok(ui.ask("\nMake this move?")?)
}

fn say_applied(ui: &mut Ui, plan: &MovePlan) -> Result<(), CommandError> {
    let head = ui.paint(Style::Good, "done");
    let files =
        plan.contents.len() + plan.renames.iter().filter(|(_, new)| !plan.contents.contains_key(new)).count();
    ui.line(format!("\n{head}: {} written", count(files as u64, "file", "files")))?;
    ui.next("ferngate undo", "takes it back, byte for byte")?;
    Ok(())
}

fn show(
    ui: &mut Ui,
    plan: &MovePlan,
    args: &MoveArgs,
    applied: bool,
    session: &Session,
) -> Result<(), CommandError> {
    let moved = count((plan.renames.len() + plan.created.len()) as u64, "file", "files");
    let touched = count(plan.contents.len() as u64, "file", "files");
    let whose = if plan.proved == 1 { "its" } else { "their" };
    let proof = format!("{} proved to keep {whose} meaning", count(plan.proved, "reference", "references"));
    if plan.refusals.is_empty() {
        let verb = if applied { "moved" } else { "to move" };
        let head = ui.paint(Style::Verdict, &format!("{moved} {verb}, {touched} with changed text"));
        ui.line(format!("{head}; {proof}"))?;
    } else {
        let head = ui.paint(Style::Bad, "this move is refused; nothing was written");
        ui.line(head)?;
        for refusal in &plan.refusals {
            ui.line(format!("  - {}", clean(refusal)))?;
        }
    }
    let renames: Vec<String> = plan.renames.iter().map(|(old, new)| format!("{old} → {new}")).collect();
    section(ui, "files", &renames, args.all)?;
    let made: Vec<String> = plan.created.iter().map(|path| format!("{path} (new)")).collect();
    section(ui, "new files", &made, args.all)?;
    let counts = plan.counts();
    if !counts.is_empty() {
        ui.heading("changes")?;
        for (what, changes, files) in counts {
            let files = count(files as u64, "file", "files");
            ui.line(format!("  {:>6}  {what} in {files}", number(changes as u64)))?;
        }
    }
    let types: Vec<String> = plan.renamed_types.iter().map(|(old, new)| format!("{old} → {new}")).collect();
    section(ui, "new full names", &types, args.all)?;
    let widened: Vec<String> = plan.widened.iter().map(|(name, path)| format!("{name} in {path}")).collect();
    section(ui, "must become public", &widened, args.all)?;
    section(ui, "findings that this ends", &plan.closed, args.all)?;
    section(ui, "findings that this makes", &plan.opened, args.all)?;
    section(ui, "to know", &plan.warnings, args.all)?;
    let mentions: Vec<String> =
        plan.mentions.iter().map(|m| format!("{}:{}  {}", m.path, m.line, m.text)).collect();
    section(ui, "mentions left alone (--mentions rewrites full names)", &mentions, args.all)?;
    if args.diff {
        diff(ui, plan, session, applied)?;
    }
    Ok(())
}

fn section(ui: &mut Ui, title: &str, lines: &[String], all: bool) -> Result<(), CommandError> {
    if lines.is_empty() {
        return Ok(());
    }
    ui.heading(&format!("{title}  {}", lines.len()))?;
    let shown = shown(lines.len(), SHOWN, all);
    for line in &lines[..shown] {
        ui.line(format!("  {}", clean(line)))?;
    }
    Ok(ui.left_out("  ", lines.len() - shown, "")?)
}

/// Changed lines: those of the old text that have gone and those of the new one that have come.
fn diff(ui: &mut Ui, plan: &MovePlan, session: &Session, applied: bool) -> Result<(), CommandError> {
    if applied {
        return Ok(());
    }
    for (path, new) in &plan.contents {
        let old_path = plan.renames.iter().find(|(_, to)| to == path).map_or(path, |(from, _)| from);
        let old = if plan.created.contains(path) { Vec::new() } else { session.text(old_path) };
        ui.heading(path.as_str())?;
        let (old, new) =
            (String::from_utf8_lossy(&old).into_owned(), String::from_utf8_lossy(new).into_owned());
        let changes = similar::TextDiff::from_lines(&old, &new);
        for change in changes.iter_all_changes() {
            let (sign, style) = match change.tag() {
                similar::ChangeTag::Delete => ("-", Style::Bad),
                similar::ChangeTag::Insert => ("+", Style::Good),
                similar::ChangeTag::Equal => continue,
            };
            let line = change.old_index().or(change.new_index()).unwrap_or(0) + 1;
            let text = format!("  {line:>5} {sign} {}", clean(change.value().trim_end()));
            let text = ui.paint(style, &text);
            ui.line(text)?;
        }
    }
    Ok(())
}

fn json(plan: &MovePlan, applied: bool) -> serde_json::Value {
    let pair = |(from, to): &(ProjectPath, ProjectPath)| serde_json::json!({ "from": from.as_str(), "to": to.as_str() });
    let counts: Vec<_> = plan
        .counts()
        .iter()
        .map(|(what, changes, files)| serde_json::json!({ "what": what, "changes": changes, "files": files }))
        .collect();
    let changes: Vec<_> = plan
        .changes
        .iter()
        .map(|c| serde_json::json!({ "path": c.path.as_str(), "what": c.what, "detail": c.detail }))
        .collect();
    serde_json::json!({
        "schema": "ferngate/move/1", "applied": applied, "refused": plan.refusals,
        "renames": plan.renames.iter().map(pair).collect::<Vec<_>>(),
        "created": plan.created.iter().map(ProjectPath::as_str).collect::<Vec<_>>(),
        "counts": counts, "changes": changes, "proved": plan.proved,
        "renamed_types": plan.renamed_types.iter().map(|(from, to)| serde_json::json!({ "from": from, "to": to })).collect::<Vec<_>>(),
        "widened": plan.widened.iter().map(|(name, path)| serde_json::json!({ "name": name, "path": path.as_str() })).collect::<Vec<_>>(),
        "mentions": plan.mentions.iter().map(|m| serde_json::json!({ "path": m.path.as_str(), "line": m.line, "name": m.name })).collect::<Vec<_>>(),
        "findings_made": plan.opened, "findings_ended": plan.closed, "warnings": plan.warnings,
    })
}
