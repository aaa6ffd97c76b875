use crate::ui::Ui;
use ferngate_core::map::{AssignError, MapError};
use std::io;
use std::path::{Path, PathBuf};
use std::process::ExitCode;

/// How a command ended that ran to its end.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Outcome {
    /// As it should be.
    Clean,
    /// There are findings.
    Findings,
}

/// Why a command did not run to its end.
#[derive(Debug)]
pub enum CommandError {
    /// The call or the map is wrong.
    Call {
        /// What is wrong.
        message: String,
        /// What to do.
        hint: Option<String>,
    },
    /// The map is wrong.
    Map {
        /// The map's file as the user would name it.
        path: PathBuf,
        /// Its text.
        text: String,
        /// What is wrong in it.
        errors: Vec<MapError>,
    },
    /// The machine failed.
    Machine(String),
    /// Nobody reads the answer any more.
    ClosedPipe,
}

impl CommandError {
    /// A wrong call.
    pub fn call(message: impl Into<String>) -> Self {
        Self::Call { message: message.into(), hint: None }
    }

    /// A wrong call, with what to do.
    pub fn call_hint(message: impl Into<String>, hint: impl Into<String>) -> Self {
        Self::Call { message: message.into(), hint: Some(hint.into()) }
    }

    /// Something that could not be done with a file.
    pub fn file(what: &str, path: &Path, error: &io::Error) -> Self {
        Self::Machine(format!("{} could not be {what}: {}", path.display(), plain(error)))
    }
}

/// An error of the system in a few words.
pub fn plain(error: &io::Error) -> String {
    let text = error.to_string();
    let text = text.split(" (os error").next().unwrap_or_default();
    let mut letters = text.chars();
    letters.next().map_or_else(String::new, |first| first.to_lowercase().chain(letters).collect())
}

impl From<io::Error> for CommandError {
    fn from(error: io::Error) -> Self {
        match error.kind() {
            io::ErrorKind::BrokenPipe => Self::ClosedPipe,
            _ => Self::Machine(format!("the answer could not be written: {}", plain(&error))),
        }
    }
}

impl From<AssignError> for CommandError {
    fn from(error: AssignError) -> Self {
        Self::call_hint(
            error.to_string(),
            "make one pattern longer, or take the file out of the other with `!`",
        )
    }
}

/// Prints what went wrong, in the one place where this is done, and gives the exit status.
pub fn exit_code(ui: &mut Ui, outcome: Result<Outcome, CommandError>) -> ExitCode {
    let outcome = outcome.and_then(|outcome| ui.finish().map(|()| outcome).map_err(CommandError::from));
    match outcome {
        Ok(Outcome::Clean) | Err(CommandError::ClosedPipe) => ExitCode::SUCCESS,
        Ok(Outcome::Findings) => ExitCode::from(1),
        Err(CommandError::Call { message, hint }) => {
            ui.complain(&message, hint.as_deref());
            ExitCode::from(2)
        }
        Err(CommandError::Map { path, text, errors }) => {
            for error in &errors {
                ui.complain_at(&path.display().to_string(), text.as_bytes(), error.span, &error.message);
                if let Some(hint) = &error.hint {
                    ui.hint(hint);
                }
            }
            ExitCode::from(2)
        }
        Err(CommandError::Machine(message)) => {
            ui.complain(&message, None);
            ExitCode::from(3)
        }
    }
}
