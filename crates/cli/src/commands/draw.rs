use crate::args::Common;
use crate::error::{CommandError, Outcome};
use crate::session::{Meaning, Session};
use crate::ui::{Style, Ui, clean, clean_lines, count};
use clap::{Args, ValueEnum};
use ferngate_core::survey::survey;
use ferngate_draw::{Shape, Sketch, Tie, to_dot, to_png, to_svg, to_text};
use ferngate_model::ReadOptions;
use std::collections::BTreeSet;
use std::path::PathBuf;

/// Options of `draw`.
#[derive(Debug, Args)]
pub struct DrawArgs {
    /// The format; by default that of the output file's ending, else text
    #[arg(long = "as", value_name = "FORMAT")]
    format: Option<Format>,
    /// Write to this file instead of standard output
    #[arg(short, long, value_name = "FILE")]
    output: Option<PathBuf>,
    /// Draw only what is tied to this module
    #[arg(long, value_name = "MODULE")]
    around: Option<String>,
    /// How many ties away from that module
    #[arg(long, value_name = "N", default_value_t = 1, requires = "around")]
    depth: usize,
    /// Draw only modules that are part of a cycle
    #[arg(long)]
    cycles: bool,
    /// Leave out ties of fewer references than this
    #[arg(long, value_name = "N", default_value_t = 1)]
    at_least: u32,
}

/// A format of pictures.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub enum Format {
    /// Lines of text.
    Text,
    /// A vector picture.
    Svg,
    /// A bitmap.
    Png,
    /// The DOT language.
    Dot,
}

/// Draws the graph of modules.
pub fn cmd_draw(ui: &mut Ui, common: &Common, args: &DrawArgs) -> Result<Outcome, CommandError> {
    let format = format_of(args)?;
    let session = Session::load(ui, common, ReadOptions::default())?;
    let meaning = session.understand(ui)?;
    let shown = selection(&meaning, args)?;
    let sketch = sketch(&session, &meaning, &shown, args.at_least);
    if ui.json {
        let shapes: Vec<_> = sketch
            .shapes
            .iter()
            .map(
                |shape| serde_json::json!({ "module": shape.name, "shelf": shape.shelf, "note": shape.note }),
            )
            .collect();
        let ties: Vec<_> = sketch
            .ties
            .iter()
            .map(|tie| {
                let (from, to) = (&sketch.shapes[tie.from].name, &sketch.shapes[tie.to].name);
                serde_json::json!({ "from": from, "to": to, "references": tie.weight, "upwards": sketch.runs_upwards(tie), "cycle": tie.in_cycle })
            })
            .collect();
        ui.answer(&serde_json::json!({ "schema": "ferngate/draw/1", "modules": shapes, "ties": ties }))?;
        return Ok(Outcome::Clean);
    }
    let bytes = match format {
        Format::Svg => to_svg(&sketch).into_bytes(),
        Format::Dot => to_dot(&sketch).into_bytes(),
        Format::Png => to_png(&sketch, 1.0).map_err(|error| CommandError::call(error.to_string()))?,
        Format::Text => {
            let head = ui.paint(Style::Verdict, &clean(&sketch.title));
            format!("{head}\n\n{}", clean_lines(&to_text(&sketch))).into_bytes()
        }
    };
    match &args.output {
        Some(path) => {
            std::fs::write(path, bytes).map_err(|error| CommandError::file("written", path, &error))?;
            ui.remark(&format!("{} drawn to {}", clean(&sketch.title), path.display()));
        }
        None => ui.bytes(&bytes)?,
    }
    Ok(Outcome::Clean)
}

fn format_of(args: &DrawArgs) -> Result<Format, CommandError> {
    let ending =
        args.output.as_ref().and_then(|path| path.extension()).map(|ending| ending.to_string_lossy());
    match (args.format, ending.as_deref()) {
        (Some(format), _) => Ok(format),
        (None, None | Some("txt")) => Ok(Format::Text),
        (None, Some("svg")) => Ok(Format::Svg),
        (None, Some("png")) => Ok(Format::Png),
        (None, Some("dot" | "gv")) => Ok(Format::Dot),
        (None, Some(other)) => Err(CommandError::call_hint(
            format!("a file ending in .{other} does not say in which format to draw"),
            "say it: --as text, svg, png or dot",
        )),
    }
}

/// The modules that are drawn.
fn selection(meaning: &Meaning, args: &DrawArgs) -> Result<BTreeSet<usize>, CommandError> {
    let holds_code: BTreeSet<usize> = meaning.modules.of_file.iter().flatten().copied().collect();
    let mut shown = match &args.around {
        None => holds_code,
        Some(name) => {
            let mut near = BTreeSet::from([meaning.module(name)?]);
            for _ in 0..args.depth {
                let tied = meaning
                    .graph
                    .ties
                    .iter()
                    .filter(|tie| near.contains(&tie.from) || near.contains(&tie.to));
                let further: Vec<usize> = tied.flat_map(|tie| [tie.from, tie.to]).collect();
                near.extend(further);
            }
            near
        }
    };
    if args.cycles {
        shown.retain(|module| meaning.cycles.iter().any(|cycle| cycle.modules.contains(module)));
    }
    Ok(shown)
}

fn sketch(session: &Session, meaning: &Meaning, shown: &BTreeSet<usize>, at_least: u32) -> Sketch {
    let survey = survey(&meaning.world, &meaning.modules, &meaning.graph, &meaning.ties, &meaning.cycles);
    let list: Vec<usize> = shown.iter().copied().collect();
    let place = |module: usize| list.binary_search(&module).ok();
    let layered = !session.map.layers.is_empty();
    let depths = meaning.graph.depths();
    let outermost = session.map.layers.len();
    let shapes = list
        .iter()
        .map(|&module| {
            let size = survey.modules[module].size;
            let own = &meaning.modules.list[module];
            let shelf = if layered { own.layer.unwrap_or(outermost) } else { depths[module] };
            let files = count(size.files as u64, "file", "files");
            Shape {
                name: own.name.clone(),
                note: format!("{files}, {}", count(size.lines, "line", "lines")),
                shelf,
            }
        })
        .collect();
    let ties = meaning.graph.ties.iter().filter(|tie| tie.weight >= at_least || tie.weight == 0);
    let ties: Vec<Tie> = ties
        .filter_map(|tie| {
            let in_cycle = meaning
                .cycles
                .iter()
                .any(|cycle| cycle.modules.contains(&tie.from) && cycle.modules.contains(&tie.to));
            Some(Tie { from: place(tie.from)?, to: place(tie.to)?, weight: tie.weight, in_cycle })
        })
        .collect();
    let modules = count(list.len() as u64, "module", "modules");
    let tied = count(ties.len() as u64, "tie", "ties");
    Sketch { title: format!("{}: {modules}, {tied}", session.name()), shapes, ties }
}
