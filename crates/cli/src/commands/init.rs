use crate::args::Common;
use crate::error::{CommandError, Outcome};
use crate::session::Session;
use crate::ui::{Style, Ui, clean, count};
use clap::Args;
use ferngate_core::init::first_map;
use ferngate_core::map::Map;
use ferngate_facts::languages::language_names;
use ferngate_model::ReadOptions;

/// Options of `init`.
#[derive(Debug, Args)]
pub struct InitArgs {
    /// Print the map instead of writing it
    #[arg(long)]
    print: bool,
    /// Replace a map that exists
    #[arg(long)]
    force: bool,
}

/// Writes a first map.
pub fn cmd_init(ui: &mut Ui, common: &Common, args: &InitArgs) -> Result<Outcome, CommandError> {
    let mut session = Session::load(ui, common, ReadOptions::default())?;
    if session.has_map && !args.print && !args.force {
        return Err(CommandError::call_hint(
            format!("there is a map already: {}", session.map_path.display()),
            "--print shows a new one, --force replaces it",
        ));
    }
    (session.map, session.has_map) = (Map::default(), false);
    let meaning = session.understand(ui)?;
    if meaning.modules.list.is_empty() {
        return Err(CommandError::call_hint(
            "there is no code here that could be mapped",
            format!("the languages that are read are {}", language_names()),
        ));
    }
    let found = session.check(ui, &meaning);
    let text = first_map(&meaning.modules, &meaning.graph, &meaning.cycles, &found, &session.name());
    let modules = meaning.modules.list.len();
    if !args.print {
        std::fs::write(&session.map_path, &text)
            .map_err(|error| CommandError::file("written", &session.map_path, &error))?;
    }
    if ui.json {
        ui.answer(&serde_json::json!({
            "schema": "ferngate/init/1", "map": session.map_path.display().to_string(),
            "written": !args.print, "text": text, "modules": modules, "cycles": meaning.cycles.len(),
        }))?;
        return Ok(Outcome::Clean);
    }
    if args.print {
        ui.bytes(text.as_bytes())?;
        return Ok(Outcome::Clean);
    }
    let name = session.map_path.file_name().unwrap_or_default().to_string_lossy().into_owned();
    let head = ui.paint(Style::Good, &format!("{} written", clean(&name)));
    let cycles = match meaning.cycles.len() {
        0 => "no cycles".to_owned(),
        some => count(some as u64, "cycle", "cycles"),
    };
    ui.line(format!("{head}: {}, {cycles}", count(modules as u64, "module", "modules")))?;
    ui.next("ferngate check", "hold the code against it")?;
    Ok(Outcome::Clean)
}
