use crate::apply;
use crate::args::Common;
use crate::error::{CommandError, Outcome};
use crate::ui::{Style, Ui, clean, count};
use clap::Args;
use std::path::PathBuf;

/// Options of `undo`.
#[derive(Debug, Args)]
pub struct UndoArgs {
    /// Take the move back even where files have changed since
    #[arg(long)]
    force: bool,
}

/// Takes back the last move.
pub fn cmd_undo(ui: &mut Ui, common: &Common, args: &UndoArgs) -> Result<Outcome, CommandError> {
    let start = common.directory.clone().unwrap_or_else(|| PathBuf::from("."));
    let start = std::fs::canonicalize(&start).map_err(|error| CommandError::file("found", &start, &error))?;
    let root = start.ancestors().find(|folder| folder.join(".ferngate").is_dir()).unwrap_or(&start);
    let undone = apply::undo(root, args.force)?;
    if ui.json {
        let (title, files) =
            undone.as_ref().map_or((None, 0), |undone| (Some(undone.title.as_str()), undone.files));
        ui.answer(&serde_json::json!({ "schema": "ferngate/undo/1", "undone": title, "files": files }))?;
        return Ok(Outcome::Clean);
    }
    match undone {
        Some(undone) => {
            let head = ui.paint(Style::Good, "taken back");
            let files = count(undone.files as u64, "file is", "files are");
            ui.line(format!("{head}: {}; {files} as before", clean(&undone.title)))?;
        }
        None => ui.line("there is no move to take back")?,
    }
    Ok(Outcome::Clean)
}
