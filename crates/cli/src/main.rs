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
use mimalloc::MiMalloc;
use std::process::ExitCode;

/// Facts are many short lists made by several threads at once; this allocator is about a tenth faster at that.
#[global_allocator]
static ALLOCATOR: MiMalloc = MiMalloc;

fn main() -> ExitCode {
    let args = commands::Args::parse();
    let mut ui = ui::Ui::new(&args.common);
    let outcome = commands::run(&mut ui, &args);
    error::exit_code(&mut ui, outcome)
}
