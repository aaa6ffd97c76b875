use crate::args::Common;
use crate::error::{CommandError, Outcome};
use crate::session::{Meaning, Session};
use crate::ui::Ui;
use clap::{Args, ValueEnum};
use ferngate_core::resolve::{Container, EntityId};
use ferngate_model::ReadOptions;
use std::collections::BTreeMap;
use std::path::PathBuf;

/// Options of `export`.
#[derive(Debug, Args)]
pub struct ExportArgs {
    /// What stands at the ends of a tie
    #[arg(long, value_name = "LEVEL", default_value = "module")]
    level: Level,
    /// The format; `--json` is `--as json`
    #[arg(long = "as", value_name = "FORMAT", default_value = "csv")]
    format: Format,
    /// Write to this file instead of standard output
    #[arg(short, long, value_name = "FILE")]
    output: Option<PathBuf>,
}

/// What stands at the ends of a tie.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub enum Level {
    /// Files, by path from the root.
    File,
    /// Namespaces, by full name.
    Namespace,
    /// Modules of the map, or those that a project has without one.
    Module,
}

/// A format of data.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub enum Format {
    /// Comma-separated values: from,to,references
    Csv,
    /// One JSON object.
    Json,
}

/// Writes the graph as data.
pub fn cmd_export(ui: &mut Ui, common: &Common, args: &ExportArgs) -> Result<Outcome, CommandError> {
    let session = Session::load(ui, common, ReadOptions::default())?;
    let meaning = session.understand(ui)?;
    let ties = match args.level {
        Level::File => file_ties(&meaning),
        Level::Namespace => namespace_ties(&meaning),
        Level::Module => module_ties(&meaning),
    };
    let text = if ui.json || args.format == Format::Json { json(args.level, &ties) } else { csv(&ties) };
    match &args.output {
        Some(path) => {
            std::fs::write(path, text).map_err(|error| CommandError::file("written", path, &error))?;
            ui.remark(&format!("{} ties written to {}", ties.len(), path.display()));
        }
        None => ui.bytes(text.as_bytes())?,
    }
    Ok(Outcome::Clean)
}

type Ties = BTreeMap<(String, String), u32>;

fn file_ties(meaning: &Meaning) -> Ties {
    let path = |file: u32| meaning.world.project.files[file as usize].path.to_string();
    meaning.ties.iter().map(|tie| ((path(tie.from), path(tie.to)), tie.references)).collect()
}

fn module_ties(meaning: &Meaning) -> Ties {
    let name = |module: usize| meaning.modules.list[module].name.clone();
    meaning.graph.ties.iter().map(|tie| ((name(tie.from), name(tie.to)), tie.weight)).collect()
}

/// From the namespace of a file's first type to that of each type it uses.
fn namespace_ties(meaning: &Meaning) -> Ties {
    let table = &meaning.world.table;
    let text = |entity: EntityId| {
        let outer = table.outermost(entity);
        match table.entities[outer.index()].container {
            Container::Namespace(id) => table.namespace_text(id),
            Container::Entity(_) => String::new(),
        }
    };
    // Where imports are paths, a folder is what a namespace is elsewhere.
    let folder = |file: usize| meaning.world.project.files[file].path.parent().to_owned();
    let mut ties = Ties::new();
    for file in 0..meaning.world.links.len() {
        for link in meaning.world.links_of(file) {
            let (own, other) = (folder(file), folder(link.to as usize));
            if other != own {
                *ties.entry((own, other)).or_default() += link.count;
            }
        }
    }
    for (file, found) in meaning.world.references.iter().enumerate() {
        let Some(own) = table.declared[file].first().map(|first| text(*first)) else { continue };
        for reference in found.strong() {
            let other = text(reference.entity);
            if other != own {
                *ties.entry((own.clone(), other)).or_default() += reference.count;
            }
        }
    }
    ties
}

fn csv(ties: &Ties) -> String {
    let mut text = String::from("from,to,references\n");
    for ((from, to), references) in ties {
        text.push_str(&format!("{},{},{references}\n", field(from), field(to)));
    }
    text
}

/// A field as RFC 4180 asks for: in quotes where it must be.
fn field(text: &str) -> String {
    if text.contains(['"', ',', '\n', '\r']) {
        format!("\"{}\"", text.replace('"', "\"\""))
    } else {
        text.to_owned()
    }
}

fn json(level: Level, ties: &Ties) -> String {
    let level = match level {
        Level::File => "file",
        Level::Namespace => "namespace",
        Level::Module => "module",
    };
    let rows: Vec<_> = ties
        .iter()
        .map(|((from, to), references)| serde_json::json!({ "from": from, "to": to, "references": references }))
        .collect();
    let value = serde_json::json!({ "schema": "ferngate/export/1", "level": level, "ties": rows });
    format!("{value:#}\n")
}
