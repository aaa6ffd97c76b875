use crate::args::Common;
use crate::error::{CommandError, Outcome};
use crate::ui::{Style, Ui};
use clap::Args;
use include_dir::{Dir, DirEntry, include_dir};
use std::path::{Path, PathBuf};
use std::process::Command;

static MOSSGROVE: Dir<'static> = include_dir!("$CARGO_MANIFEST_DIR/demo/mossgrove");

/// Options of `demo`.
#[derive(Debug, Args)]
pub struct DemoArgs {
    /// The folder to unpack Mossgrove into; it must not exist yet
    #[arg(default_value = "mossgrove-demo")]
    folder: PathBuf,
    /// Only unpack it
    #[arg(long)]
    unpack: bool,
}

/// One step of the walk: what is done, why, and the call.
struct Step {
    what: &'static str,
    why: &'static str,
    call: &'static [&'static str],
}

const STEPS: &[Step] = &[
    Step {
        what: "See what is here",
        why: "Before anything is split: how large each part is, who uses whom. The C# solution first; without a folder all is shown.",
        call: &["survey", "src"],
    },
    Step {
        what: "Hold the code against the map",
        why: "ferngate.toml says which parts there are and which may use which. Here what it does not permit; without `--only` all is said.",
        call: &["check", "--only", "not-permitted"],
    },
    Step {
        what: "Ask why",
        why: "The glasshouse asks for opening hours, though its layer may not know visits. Which rule says so, which lines do it?",
        call: &["why", "glasshouse", "visits"],
    },
    Step {
        what: "Look at a move before it is made",
        why: "Opening hours belong nearer to the core. Everything that names them follows; every count is shown first.",
        call: &["move", "src/Mossgrove/Visits/OpeningHours.cs", "src/Mossgrove/Models/"],
    },
    Step {
        what: "Make the move",
        why: "The same plan, written. A journal makes it all or nothing.",
        call: &[
            "move",
            "--apply",
            "--quiet",
            "--json",
            "src/Mossgrove/Visits/OpeningHours.cs",
            "src/Mossgrove/Models/",
        ],
    },
    Step {
        what: "Check again",
        why: "The broken layer is gone; what else was wrong still is.",
        call: &["check", "--only", "not-permitted"],
    },
    Step { what: "Take it back", why: "One command restores every byte and time.", call: &["undo"] },
    Step {
        what: "Draw the graph",
        why: "The core at the bottom, arrows downwards; what runs upwards or in a circle is dashed.",
        call: &["draw", "--output", "mossgrove.png"],
    },
];

/// Unpacks Mossgrove and walks through the job on it.
pub fn cmd_demo(ui: &mut Ui, common: &Common, args: &DemoArgs) -> Result<Outcome, CommandError> {
    let base = common.directory.clone().unwrap_or_default();
    let folder = base.join(&args.folder);
    if folder.exists() {
        return Err(CommandError::call_hint(
            format!("{} exists already", folder.display()),
            "name another folder: ferngate demo FOLDER",
        ));
    }
    unpack(&MOSSGROVE, &folder)?;
    if ui.json || args.unpack {
        if ui.json {
            let path = folder.display().to_string();
            ui.answer(&serde_json::json!({ "schema": "ferngate/demo/1", "folder": path }))?;
        } else {
            ui.line(format!("Mossgrove unpacked into {}", folder.display()))?;
        }
        return Ok(Outcome::Clean);
    }
    let head = ui.paint(Style::Verdict, "Mossgrove");
    ui.line(format!("{head}: a botanic garden's software, unpacked into {}", folder.display()))?;
    for (number, step) in STEPS.iter().enumerate() {
        walk(ui, common, &folder, number + 1, step)?;
    }
    ui.line(format!(
        "\nThe picture is {}; what is planted in the code is listed in README.md beside it.",
        folder.join("mossgrove.png").display()
    ))?;
    ui.next(&format!("cd {} && ferngate check", folder.display()), "all that is wrong in it")?;
    Ok(Outcome::Clean)
}

fn unpack(dir: &Dir, target: &Path) -> Result<(), CommandError> {
    std::fs::create_dir_all(target).map_err(|error| CommandError::file("made", target, &error))?;
    for entry in dir.entries() {
        let name = entry.path().file_name().unwrap_or_default();
        let path = target.join(name);
        match entry {
            DirEntry::Dir(inner) => unpack(inner, &path)?,
            DirEntry::File(file) => {
                std::fs::write(&path, file.contents())
                    .map_err(|error| CommandError::file("written", &path, &error))?;
            }
        }
    }
    Ok(())
}

fn walk(ui: &mut Ui, common: &Common, folder: &Path, number: usize, step: &Step) -> Result<(), CommandError> {
    let rule = "─".repeat(78);
    let line = ui.paint(Style::Faint, &rule);
    ui.line(format!("\n{line}"))?;
    let head = ui.paint(Style::Heading, &format!("{number}. {}", step.what));
    ui.line(head)?;
    ui.line(step.why)?;
    let shown: Vec<&str> =
        step.call.iter().copied().filter(|word| !matches!(*word, "--quiet" | "--json")).collect();
    let call = ui.paint(Style::Command, &format!("$ ferngate {}", shown.join(" ")));
    ui.line(format!("{call}\n"))?;
    ui.finish()?;
    let program = std::env::current_exe()
        .map_err(|error| CommandError::Machine(format!("the program cannot find itself: {error}")))?;
    let mut command = Command::new(program);
    command.arg("--color").arg(match common.color {
        crate::args::When::Always => "always",
        crate::args::When::Never => "never",
        crate::args::When::Auto => "auto",
    });
    command.args(step.call).current_dir(folder).stdin(std::process::Stdio::null());
    if step.call.contains(&"--json") {
        // The plan was shown one step before: here only what came of it.
        let output = command.output().map_err(|error| CommandError::Machine(error.to_string()))?;
        let answer: serde_json::Value = serde_json::from_slice(&output.stdout).unwrap_or_default();
        let proved = answer["proved"].as_u64().unwrap_or(0);
        let files = answer["renames"].as_array().map_or(0, Vec::len);
        let word = if answer["applied"] == true { Style::Good } else { Style::Bad };
        let head = ui.paint(word, if answer["applied"] == true { "done" } else { "refused" });
        ui.line(format!("{head}: {files} file moved, {proved} references proved to keep their meaning"))?;
    } else {
        command.status().map_err(|error| CommandError::Machine(error.to_string()))?;
    }
    Ok(())
}
