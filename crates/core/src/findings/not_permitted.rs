use super::{About, Check, Finding, Place, View};
use crate::map::{Severity, Verb};
use crate::permission::{Decision, End, Permission, Reason};
use crate::resolve::{ImportTarget, UseTarget};
use ferngate_model::ImportKind;
use rustc_hash::{FxHashMap, FxHashSet};

/// Code uses what no rule permits it to use.
pub struct NotPermitted;

impl Check for NotPermitted {
    fn about(&self) -> About {
        About {
            name: "not-permitted",
            severity: Severity::Error,
            meaning: "A file uses a name of a module (or a package) that the map's rules or layers do not let it use.",
            example: "layers = [\"catalogue\", \"visits\"]\n\nsrc/Catalogue/Taxon.cs:14:16 uses `Ticket` of `visits`:\nthe core would know what sells its tickets.",
            ways_out: &[
                "move the name to a module that both may use: ferngate move name:Full.Name FOLDER/",
                "turn the use around: let the outer module implement an interface that the inner one declares",
                "grant it, with the reason: add \"A may use B because …\" to `rules` in ferngate.toml",
            ],
        }
    }

    fn find(&self, view: &View, found: &mut Vec<Finding>) {
        if !view.has_map {
            return;
        }
        let permission = Permission { map: view.map, modules: view.modules };
        let by_file = view.map.rules.iter().any(|rule| !rule.only_from.is_empty());
        let mut decisions = Decisions { view, permission, by_file, known: FxHashMap::default() };
        // Most files do only what they may, which their ties show without a look at their names.
        for ties in view.file_ties.chunk_by(|one, next| one.from == next.from) {
            let forbidden =
                ties.iter().any(|tie| !decisions.of(tie.from as usize, tie.to as usize).permitted);
            if let (Some(first), true) = (ties.first(), forbidden) {
                self.code(&mut decisions, first.from as usize, found);
            }
        }
        if permission.speaks_of_packages() {
            for file in 0..view.world.project.files.len() {
                self.packages(view, &permission, file, found);
            }
        }
    }
}

/// A module, if any, and whether its test code is meant.
type Side = (Option<usize>, bool);

/// What the rules say of uses between files, each pair of modules asked for once.
struct Decisions<'v> {
    view: &'v View<'v>,
    permission: Permission<'v>,
    /// Some rule tells files of one module apart.
    by_file: bool,
    known: FxHashMap<(Side, Side), Decision>,
}

impl Decisions<'_> {
    fn of(&mut self, from: usize, to: usize) -> Decision {
        let side = |file: usize| (self.view.modules.of_file[file], self.view.modules.tests[file]);
        let key = (side(from), side(to));
        if key.0 == key.1 {
            return Decision { permitted: true, reason: Reason::Own };
        }
        if let Some(known) = self.known.get(&key).filter(|_| !self.by_file) {
            return known.clone();
        }
        let end = |(module, test): Side, file: usize| End::Code {
            module,
            path: Some(self.view.path(file).as_str()),
            test,
        };
        let decision = self.permission.decide(&end(key.0, from), &end(key.1, to));
        self.known.insert(key, decision.clone());
        decision
    }
}

impl NotPermitted {
    /// What `file` uses without permission, each name of a module once.
    fn code(&self, decisions: &mut Decisions, file: usize, found: &mut Vec<Finding>) {
        let view = decisions.view;
        let from = view.modules.of_file[file];
        let mut seen: FxHashSet<(UseTarget, Option<usize>)> = FxHashSet::default();
        for used_here in view.world.strong_uses(file) {
            for to_file in used_here.files.iter().map(|to| *to as usize).filter(|to| *to != file) {
                let decision = decisions.of(file, to_file);
                let to = view.modules.of_file[to_file];
                if decision.permitted || !seen.insert((used_here.target, to)) {
                    continue;
                }
                let name = view.world.short_use(used_here.target);
                let ends = (end_name(view, from), end_name(view, to));
                let mut finding = self.finding(view, &decision, &ends, &name);
                let offset = Some(used_here.offset);
                finding.place = Some(Place { path: view.path(file).clone(), offset });
                found.push(finding);
                break;
            }
        }
    }

    fn packages(&self, view: &View, permission: &Permission, file: usize, found: &mut Vec<Finding>) {
        let Some(facts) = &view.world.project.files[file].facts else { return };
        let (from, test) = (view.modules.of_file[file], view.modules.tests[file]);
        let user = End::Code { module: from, path: Some(view.path(file).as_str()), test };
        let imports = facts.imports.iter().zip(&view.world.imports[file]);
        let outside = imports.filter(|(import, target)| {
            **target == ImportTarget::Outside && !matches!(import.kind, ImportKind::Alias(_))
        });
        let named = outside.map(|(import, _)| (&*import.text, import.target_span.start));
        let linked = view.world.links[file].packages.iter().map(|package| (&*package.name, package.at));
        for (package, at) in named.chain(linked) {
            let decision = permission.decide(&user, &End::Package(package));
            if !decision.permitted {
                let ends = (end_name(view, from), format!("package:{package}"));
                let mut finding = self.finding(view, &decision, &ends, package);
                finding.place = Some(Place { path: view.path(file).clone(), offset: Some(at) });
                found.push(finding);
            }
        }
    }

    fn finding(&self, view: &View, decision: &Decision, ends: &(String, String), short: &str) -> Finding {
        let (from, to) = ends;
        let is_package = to.starts_with("package:");
        let verb = match decision.reason {
            Reason::Rule(at) => view.map.rules.get(at).map(|rule| rule.verb),
            _ => None,
        };
        let message = if is_package {
            format!("`{from}` may not use {to}")
        } else {
            format!("`{from}` may not use `{short}` of `{to}`")
        };
        let mut finding = view.finding(&self.about(), format!("{from} → {to}"), message);
        finding.rule = reason_text(view, &decision.reason);
        finding.way_out = match &decision.reason {
            Reason::OnlyFrom(_) => "do it in a file that the rule names, and hand the result over".to_owned(),
            Reason::Layers(..) => format!(
                "move `{short}` nearer to the core, or let `{from}` declare an interface that `{to}` implements"
            ),
            _ => {
                let first = if is_package {
                    "use it where it is permitted".to_owned()
                } else {
                    format!("move `{short}` to a module that `{from}` may use")
                };
                // What a rule forbids no further rule grants.
                match verb {
                    Some(Verb::MustNot) => format!("{first}, or change the rule"),
                    Some(Verb::Only) => format!("{first}, or name `{from}` in the rule"),
                    _ => format!("{first}, or add \"{from} may use {to} because …\" to the rules"),
                }
            }
        };
        finding
    }
}

fn end_name(view: &View, module: Option<usize>) -> String {
    module.map_or("rest", |module| view.module_name(module)).to_owned()
}

/// The sentence that decided, quoted, or what stood in its place.
pub fn reason_text(view: &View, reason: &Reason) -> String {
    let quote = |at: &usize| format!("\"{}\"", view.map.rules[*at].text);
    match reason {
        Reason::Rule(at) | Reason::OnlyFrom(at) => quote(at),
        Reason::Closed(at) => format!("{} (what no rule grants it may not use)", quote(at)),
        Reason::Layers(from, to) => {
            // A layer is known by its first modules.
            let layer = |at: &usize| match &view.map.layers[*at][..] {
                [first, second, _, ..] => format!("{first}, {second}, …"),
                few => few.join(", "),
            };
            if from < to {
                format!("layers: \"{}\" is nearer to the core than \"{}\"", layer(from), layer(to))
            } else {
                format!("layers: \"{}\" may use \"{}\"", layer(from), layer(to))
            }
        }
        Reason::Own => "a module may use its own code".to_owned(),
        Reason::Open => "no rule speaks of it, so it is permitted".to_owned(),
    }
}
