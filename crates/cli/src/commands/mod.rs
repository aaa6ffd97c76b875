//! The commands, one file each.

mod check;
mod cycles;
mod demo;
mod draw;
mod explain;
mod export;
mod find;
mod init;
mod move_;
mod survey;
mod undo;
mod why;

use crate::args::Common;
use crate::error::{CommandError, Outcome};
use crate::ui::Ui;
use clap::{Parser, Subcommand};

/// Splits a growing codebase into modules, rules which may use which, and moves code with everything that names it.
#[derive(Debug, Parser)]
#[command(name = "ferngate", version, about, max_term_width = 100, disable_help_subcommand = true)]
pub struct Args {
    /// Options of every command.
    #[command(flatten)]
    pub common: Common,
    /// What to do.
    #[command(subcommand)]
    pub command: Command,
}

/// What to do.
#[derive(Debug, Subcommand)]
pub enum Command {
    /// Show what is here: languages, modules with their size and ties, cycles, first advice
    Survey(survey::SurveyArgs),
    /// Write a first map, ferngate.toml, for the code as it stands
    Init(init::InitArgs),
    /// Report everything that is not as the map says
    Check(check::CheckArgs),
    /// Say where a name lives, by a part of it, and what is around it
    Find(find::FindArgs),
    /// Say whether module A may use module B, and whether and where it does
    Why(why::WhyArgs),
    /// Show each cycle of modules, what holds it together and where to cut
    Cycles(cycles::CyclesArgs),
    /// Draw the graph of modules
    Draw(draw::DrawArgs),
    /// Write the graph as data
    Export(export::ExportArgs),
    /// Move code and everything that names it; shows the plan first
    Move(move_::MoveArgs),
    /// Take back the last move
    Undo(undo::UndoArgs),
    /// Say what a finding means and what to do about it
    Explain(explain::ExplainArgs),
    /// Unpack Mossgrove, an invented garden's software, and walk through the job on it
    Demo(demo::DemoArgs),
}

/// Runs the command.
pub fn run(ui: &mut Ui, args: &Args) -> Result<Outcome, CommandError> {
    let common = &args.common;
    match &args.command {
        Command::Survey(own) => survey::cmd_survey(ui, common, own),
        Command::Init(own) => init::cmd_init(ui, common, own),
        Command::Check(own) => check::cmd_check(ui, common, own),
        Command::Find(own) => find::cmd_find(ui, common, own),
        Command::Why(own) => why::cmd_why(ui, common, own),
        Command::Cycles(own) => cycles::cmd_cycles(ui, common, own),
        Command::Draw(own) => draw::cmd_draw(ui, common, own),
        Command::Export(own) => export::cmd_export(ui, common, own),
        Command::Move(own) => move_::cmd_move(ui, common, own),
        Command::Undo(own) => undo::cmd_undo(ui, common, own),
        Command::Demo(own) => demo::cmd_demo(ui, common, own),
        Command::Explain(own) => explain::cmd_explain(ui, own),
    }
}
