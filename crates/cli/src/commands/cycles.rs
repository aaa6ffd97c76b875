use crate::args::Common;
use crate::error::{CommandError, Outcome};
use crate::places::{Used, uses_between};
use crate::session::Session;
use crate::ui::{Style, Ui, clean, count, shown};
use clap::Args;
use ferngate_core::resolve::short_name;
use ferngate_model::ReadOptions;

/// How many cycles are shown, and how many names of a tie, unless all are asked for.
const CYCLES: usize = 5;
const NAMES: usize = 4;
const CUTS: usize = 6;

/// Options of `cycles`.
#[derive(Debug, Args)]
pub struct CyclesArgs {
    /// Show all cycles, ties and names
    #[arg(long)]
    all: bool,
}

/// Shows each cycle, what holds it together and where to cut.
pub fn cmd_cycles(ui: &mut Ui, common: &Common, args: &CyclesArgs) -> Result<Outcome, CommandError> {
    let session = Session::load(ui, common, ReadOptions::default())?;
    let meaning = session.understand(ui)?;
    let outcome = if meaning.cycles.is_empty() { Outcome::Clean } else { Outcome::Findings };
    let name = |module: usize| meaning.modules.list[module].name.as_str();
    let weight = |from, to| meaning.graph.tie(from, to).map_or(0, |tie| tie.weight);
    if ui.json {
        let cycles: Vec<_> = meaning
            .cycles
            .iter()
            .map(|cycle| {
                let pair = |(from, to): (usize, usize)| serde_json::json!({ "from": name(from), "to": name(to), "references": weight(from, to) });
                serde_json::json!({
                    "modules": cycle.modules.iter().map(|&m| name(m)).collect::<Vec<_>>(),
                    "way": cycle.way.iter().map(|&m| name(m)).collect::<Vec<_>>(),
                    "cheapest": cycle.cheapest,
                    "cuts": cycle.cuts.iter().map(|&cut| pair(cut)).collect::<Vec<_>>(),
                })
            })
            .collect();
        ui.answer(&serde_json::json!({ "schema": "ferngate/cycles/1", "cycles": cycles }))?;
        return Ok(outcome);
    }
    if meaning.cycles.is_empty() {
        let head = ui.paint(Style::Good, "no cycles");
        let modules = match meaning.modules.list.len() {
            0 => ": there is no module".to_owned(),
            1 => ": there is one module only".to_owned(),
            some => format!(" between {}", count(some as u64, "module", "modules")),
        };
        ui.line(format!("{head}{modules}"))?;
        return Ok(outcome);
    }
    let tangled: usize = meaning.cycles.iter().map(|cycle| cycle.modules.len()).sum();
    let total = meaning.modules.list.len();
    let cycles = count(meaning.cycles.len() as u64, "cycle", "cycles");
    let head = ui.paint(Style::Bad, &cycles);
    ui.line(format!(
        "{head}: {tangled} of {} cannot be had without each other",
        count(total as u64, "module", "modules")
    ))?;
    let cycles = shown(meaning.cycles.len(), CYCLES, args.all);
    for (at, cycle) in meaning.cycles[..cycles].iter().enumerate() {
        let names: Vec<String> = cycle.modules.iter().map(|&module| clean(name(module))).collect();
        ui.heading(&format!("{}. {} modules: {}", at + 1, names.len(), names.join(", ")))?;
        let way: Vec<String> = cycle.way.iter().chain(cycle.way.first()).map(|&m| clean(name(m))).collect();
        ui.line(format!("  shortest way round: {}", way.join(" → ")))?;
        for (step, &from) in cycle.way.iter().enumerate() {
            let to = cycle.way[(step + 1) % cycle.way.len()];
            let used = uses_between(&session, &meaning, from, to);
            let references = count(u64::from(weight(from, to)), "reference", "references");
            ui.line(format!("    {} → {}  {references}", clean(name(from)), clean(name(to))))?;
            names_of(ui, &used, args.all)?;
        }
        let cost: u32 = cycle.cuts.iter().map(|&(from, to)| weight(from, to)).sum();
        let references = count(u64::from(cost), "reference", "references");
        let ties = count(cycle.cuts.len() as u64, "tie", "ties");
        let cut = if cycle.cheapest { "cheapest cut:" } else { "cheapest cut found:" };
        let cut = ui.paint(Style::Good, cut);
        ui.line(format!("  {cut} {ties}, {references}"))?;
        let cuts = shown(cycle.cuts.len(), CUTS, args.all);
        for &(from, to) in &cycle.cuts[..cuts] {
            ui.line(format!("    {} → {}  {}", clean(name(from)), clean(name(to)), weight(from, to)))?;
            if !consecutive(&cycle.way, from, to) {
                let used = uses_between(&session, &meaning, from, to);
                names_of(ui, &used, args.all)?;
            }
        }
        ui.left_out("    ", cycle.cuts.len() - cuts, "")?;
    }
    ui.left_out("\n", meaning.cycles.len() - cycles, " cycles")?;
    if let Some(&(from, to)) = meaning.cycles[0].cuts.first() {
        ui.next(&format!("ferngate why {} {}", name(from), name(to)), "every line of the cheapest cut")?;
    }
    Ok(outcome)
}

fn consecutive(way: &[usize], from: usize, to: usize) -> bool {
    (0..way.len()).any(|at| way[at] == from && way[(at + 1) % way.len()] == to)
}

fn names_of(ui: &mut Ui, used: &[Used], all: bool) -> Result<(), CommandError> {
    let names = shown(used.len(), NAMES, all);
    for used in &used[..names] {
        let is_file = used.name == used.declared.as_str();
        let short = if is_file { &used.name } else { short_name(&used.name) };
        let first =
            used.places.first().map(|p| format!("{}:{}:{}", p.path, p.position.line, p.position.column));
        let more = if used.places.len() > 1 {
            format!(" and {} more", used.places.len() - 1)
        } else {
            String::new()
        };
        let line = format!("        {}  {}{more}", clean(short), clean(&first.unwrap_or_default()));
        let line = ui.paint(Style::Faint, &line);
        ui.line(line)?;
    }
    Ok(ui.left_out("        ", used.len() - names, " names")?)
}
