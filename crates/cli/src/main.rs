//! The program `ferngate`.

mod apply;
mod args;
mod commands;
mod disk;
mod error;
mod places;
mod session;
mod snippet;
mod table;
mod ui;

use clap::Parser;
use std::process::ExitCode;

fn main() -> ExitCode {
    let args = commands::Args::parse();
    let mut ui = ui::Ui::new(&args.common);
    let outcome = commands::run(&mut ui, &args);
    error::exit_code(&mut ui, outcome)
}
