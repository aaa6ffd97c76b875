//! The first map of a project, as its code stands.

use crate::cycles::Cycle;
use crate::findings::Finding;
use crate::graph::Graph;
use crate::map::{Modules, Pattern, is_test_path};
use std::collections::BTreeMap;
use std::fmt::Write;

/// The text of a map for the code as it stands: modules with their folders, layers by what uses what, and findings
/// switched off where the project plainly follows another convention.
pub fn first_map(
    modules: &Modules,
    graph: &Graph,
    cycles: &[Cycle],
    found: &[Finding],
    name: &str,
) -> String {
    let names = short_names(modules);
    let mut text = String::new();
    // Writing to a string cannot fail.
    let shown = name.replace(char::is_control, " ");
    let _ = writeln!(text, "# The map of {shown}: which parts there are, and which may use which.");
    let _ = writeln!(
        text,
        "# `ferngate check` holds the code against it; `ferngate explain` says what each finding means."
    );
    let _ = writeln!(text, "\nname = {}", quote(name));
    layers(&mut text, modules, graph, cycles, &names);
    let _ = writeln!(
        text,
        "\n# Sentences such as \"visits may use catalogue\", \"kind:feature must not use each other\","
    );
    let _ = writeln!(text, "# \"only storage-* may use package:Npgsql because …\".");
    let _ = writeln!(text, "rules = [\n]\n");
    let _ = writeln!(text, "[modules]");
    let width = names.iter().map(|name| key(name).chars().count()).max().unwrap_or(0);
    for (module, name) in modules.list.iter().zip(&names) {
        let folder = if module.folder.is_empty() { "." } else { &module.folder };
        let _ = writeln!(text, "{:width$} = {}", key(name), quote(&Pattern::meaning(folder)));
    }
    checks(&mut text, found);
    text
}

fn layers(text: &mut String, modules: &Modules, graph: &Graph, cycles: &[Cycle], names: &[String]) {
    let depths = graph.depths();
    let mut layers: BTreeMap<usize, Vec<&str>> = BTreeMap::new();
    for (at, module) in modules.list.iter().enumerate() {
        let tied = graph.uses(at).next().is_some() || graph.used_by(at).next().is_some();
        if tied && !is_test_path(&format!("{}/x", module.folder)) {
            layers.entry(depths[at]).or_default().push(&names[at]);
        }
    }
    if layers.len() < 2 {
        return;
    }
    let _ = writeln!(
        text,
        "\n# From the core outwards, as the code stands: a module may use its own layer and those before it."
    );
    if !cycles.is_empty() {
        let _ = writeln!(text, "# Modules of a cycle share a layer until the cycle is opened.");
    }
    let _ = writeln!(text, "layers = [");
    for layer in layers.values() {
        let _ = writeln!(text, "  {},", quote(&layer.join(", ")));
    }
    let _ = writeln!(text, "]");
}

/// Findings of which there are so many that they state a convention, not mistakes.
const CONVENTION: usize = 40;

fn checks(text: &mut String, found: &[Finding]) {
    let mut counts: BTreeMap<&str, usize> = BTreeMap::new();
    for finding in found {
        *counts.entry(finding.check).or_default() += 1;
    }
    let conventions = ["name-mismatch", "root-namespace", "unused-dependency"];
    let many: Vec<(&str, usize)> = conventions
        .into_iter()
        .filter_map(|check| Some((check, *counts.get(check)?)))
        .filter(|(_, count)| *count > CONVENTION)
        .collect();
    if many.is_empty() {
        return;
    }
    let _ = writeln!(text, "\n[checks]");
    for (check, count) in many {
        let _ = writeln!(
            text,
            "{check} = \"off\"  # {count} places differ today: another convention, or work for later"
        );
    }
}

/// A name as a TOML key: bare where it can be.
fn key(name: &str) -> String {
    let bare = name.chars().all(|c| c.is_ascii_alphanumeric() || c == '-' || c == '_');
    if bare { name.to_owned() } else { quote(name) }
}

fn quote(text: &str) -> String {
    let mut out = String::from("\"");
    for c in text.chars() {
        match c {
            '\\' | '"' => out.extend(['\\', c]),
            c if c.is_control() => out.push_str(&format!("\\u{:04X}", c as u32)),
            c => out.push(c),
        }
    }
    out + "\""
}

/// Names that mean something else in sentences.
const TAKEN: &[&str] = &["rest", "nothing", "anything"];

/// Names in lower case without the start that all share: `Mossgrove.Visits` becomes `visits`.
pub fn short_names(modules: &Modules) -> Vec<String> {
    let own: Vec<&str> = modules.list.iter().map(|module| module.name.as_str()).collect();
    let start = shared_start(&own);
    let mut names: Vec<String> = own
        .iter()
        .map(|name| {
            let short = name.strip_prefix(start.as_str()).unwrap_or(name).trim_start_matches(['.', '-', '_']);
            let short = if short.is_empty() { name } else { short };
            let mut out = String::new();
            for c in short.chars() {
                let c = if c.is_alphanumeric() || c == '_' { c } else { '-' };
                out.extend(c.to_lowercase());
            }
            let out = out.trim_matches('-');
            if TAKEN.contains(&out) { format!("{out}-code") } else { out.to_owned() }
        })
        .collect();
    for at in 0..names.len() {
        let mut further = 2;
        while names[..at].contains(&names[at]) {
            names[at] = format!("{}-{further}", names[at]);
            further += 1;
        }
    }
    names
}

/// The start that at least two thirds of several names share: `Mossgrove.`, `@mossgrove/`.
fn shared_start(names: &[&str]) -> String {
    let mut counts: BTreeMap<&str, usize> = BTreeMap::new();
    for name in names {
        let end = if name.starts_with('@') { name.find('/') } else { name.find('.') };
        if let Some(end) = end {
            *counts.entry(&name[..=end]).or_default() += 1;
        }
    }
    match counts.into_iter().max_by_key(|(_, count)| *count) {
        Some((start, count)) if count * 3 >= names.len() * 2 && names.len() > 1 => start.to_owned(),
        _ => String::new(),
    }
}
