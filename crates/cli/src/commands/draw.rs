use crate::args::Common;
use crate::error::{CommandError, Outcome};
use crate::ui::Ui;
use clap::Args;

/// Options of `draw`.
#[derive(Debug, Args)]
pub struct DrawArgs {}

/// Draws.
pub fn cmd_draw(_ui: &mut Ui, _common: &Common, _args: &DrawArgs) -> Result<Outcome, CommandError> {
    Ok(Outcome::Clean)
}
