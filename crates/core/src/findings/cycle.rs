use super::{About, Check, Finding, Place, View, references};
use crate::cycles::Cycle;
use crate::graph::Tie;
use crate::map::{MAP_FILE, Severity};
use ferngate_model::ProjectPath;

/// Modules reach each other.
pub struct CycleCheck;

impl Check for CycleCheck {
    fn about(&self) -> About {
        About {
            name: "cycle",
            severity: Severity::Error,
            meaning: "Modules reach each other, so none of them can be read, tested, built or shipped without the others.",
            example: "glasshouse → propagation → glasshouse\n\n  glasshouse  → propagation   Batch at src/Glasshouse/Bench.cs:12:9\n  propagation → glasshouse    Zone at src/Propagation/Batch.cs:8:16",
            ways_out: &[
                "move the names that hold it together: `ferngate cycles` lists them with the cheapest cut",
                "let one module declare an interface that the other implements",
                "make the modules one, if they are always changed together",
            ],
        }
    }

    fn find(&self, view: &View, found: &mut Vec<Finding>) {
        for cycle in view.cycles {
            let names: Vec<&str> =
                cycle.way.iter().chain(cycle.way.first()).map(|&m| view.module_name(m)).collect();
            let message = if cycle.modules.len() == cycle.way.len() {
                format!("{} modules use each other: {}", cycle.modules.len(), names.join(" → "))
            } else {
                format!("{} modules reach each other, among them {}", cycle.modules.len(), names.join(" → "))
            };
            let mut finding = view.finding(&self.about(), String::new(), message);
            if !view.has_map {
                finding.severity = Severity::Warning;
            }
            for (at, &from) in cycle.way.iter().enumerate() {
                let to = cycle.way[(at + 1) % cycle.way.len()];
                if let Some(tie) = view.graph.tie(from, to) {
                    finding.related.extend(first_reference(view, tie).or_else(|| assumed(view, tie)));
                }
            }
            let in_code = finding.related.iter().find(|(place, _)| place.path.as_str() != MAP_FILE);
            finding.place = in_code.or(finding.related.first()).map(|(place, _)| place.clone());
            finding.rule = "modules must not depend on each other in a circle".to_owned();
            finding.way_out = format!("{}`ferngate cycles` lists the names", cheapest_cut(view, cycle));
            found.push(finding);
        }
    }
}

/// How many ties of a cut a finding names; `ferngate cycles` names them all.
const TIES_NAMED: usize = 3;

/// What the cheapest cut takes away, all of it: one tie alone seldom opens the circles of several modules.
fn cheapest_cut(view: &View, cycle: &Cycle) -> String {
    let cut = if cycle.cheapest { "the cheapest cut" } else { "the cheapest cut found" };
    let weight = |&(from, to): &(usize, usize)| view.graph.tie(from, to).map_or(0, |tie| tie.weight);
    let ends =
        |&(from, to): &(usize, usize)| format!("{} → {}", view.module_name(from), view.module_name(to));
    match &cycle.cuts[..] {
        [] => String::new(),
        [only] => format!("{cut} is {} ({}); ", ends(only), references(weight(only))),
        several => {
            let named: Vec<String> = several
                .iter()
                .take(TIES_NAMED)
                .map(|cut| format!("{} ({})", ends(cut), weight(cut)))
                .collect();
            let more = if several.len() > TIES_NAMED { ", …" } else { "" };
            let total = references(several.iter().map(weight).sum());
            format!("{cut} is {} ties with {total}: {}{more}; ", several.len(), named.join(", "))
        }
    }
}

/// Where the map says that a module assumes another.
fn assumed(view: &View, tie: &Tie) -> Option<(Place, String)> {
    let entry = &view.map.modules[view.modules.list[tie.from].entry?];
    let place = Place { path: ProjectPath::new(MAP_FILE), offset: Some(entry.span.start) };
    let ends = format!("{} → {}: assumed", view.module_name(tie.from), view.module_name(tie.to));
    Some((place, ends))
}

/// The first place that a tie is made of, with the ends and the name.
fn first_reference(view: &View, tie: &Tie) -> Option<(Place, String)> {
    let first = tie.files.first()?;
    let file = first.from as usize;
    let used_here = view.world.strong_uses(file);
    let used = used_here.iter().find(|used| used.files.contains(&first.to))?;
    let name = view.world.short_use(used.target);
    let place = Place { path: view.path(file).clone(), offset: Some(used.offset) };
    let ends = format!("{} → {}: {name}", view.module_name(tie.from), view.module_name(tie.to));
    Some((place, ends))
}
