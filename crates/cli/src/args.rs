//! Options of every command.

use clap::{Parser, ValueEnum};
use std::path::PathBuf;

/// Options of every command.
#[derive(Clone, Debug, Parser)]
pub struct Common {
    /// Work in this folder instead of the current one
    #[arg(short = 'C', value_name = "DIR", global = true)]
    pub directory: Option<PathBuf>,
    /// Read this map instead of ferngate.toml
    #[arg(long, value_name = "FILE", global = true)]
    pub map: Option<PathBuf>,
    /// Count mentions in comments and strings as uses too
    #[arg(long, global = true)]
    pub weak: bool,
    /// Answer as one JSON object
    #[arg(long, global = true)]
    pub json: bool,
    /// Colour the answer
    #[arg(long, value_name = "WHEN", default_value = "auto", global = true)]
    pub color: When,
    /// Say only what is asked for
    #[arg(short, long, global = true)]
    pub quiet: bool,
    /// Say what is done, with times and counts, and what is left out
    #[arg(short, long, global = true)]
    pub verbose: bool,
}

/// When to do something that suits terminals.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub enum When {
    /// At a terminal.
    Auto,
    /// In any case.
    Always,
    /// In no case.
    Never,
}
