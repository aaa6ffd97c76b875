use super::{About, Check, Finding, Place, View};
use crate::map::Severity;
use crate::permission::{Decision, End, Permission, Reason};
use crate::resolve::{ImportTarget, UseTarget, short_name};
use ferngate_model::ImportKind;
use rustc_hash::FxHashMap;

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
        let packages = permission.speaks_of_packages();
        let mut memo: FxHashMap<(Option<usize>, Option<usize>, bool, bool), Decision> = FxHashMap::default();
        let by_file = view.map.rules.iter().any(|rule| !rule.only_from.is_empty());
        for file in 0..view.world.project.files.len() {
            self.code(view, &permission, file, (!by_file).then_some(&mut memo), found);
            if packages {
                self.packages(view, &permission, file, found);
            }
        }
    }
}

type Memo = FxHashMap<(Option<usize>, Option<usize>, bool, bool), Decision>;

impl NotPermitted {
    fn code(
        &self,
        view: &View,
        permission: &Permission,
        file: usize,
        mut memo: Option<&mut Memo>,
        found: &mut Vec<Finding>,
    ) {
        let (from, test) = (view.modules.of_file[file], view.modules.tests[file]);
        let path = view.path(file).as_str();
        let mut seen: Vec<(UseTarget, usize)> = Vec::new();
        for used_here in view.world.strong_uses(file) {
            for &to_file in &used_here.files {
                let to_file = to_file as usize;
                if to_file == file {
                    continue;
                }
                let (to, to_test) = (view.modules.of_file[to_file], view.modules.tests[to_file]);
                if from == to && test == to_test {
                    continue;
                }
                let user = End::Code { module: from, path: Some(path), test };
                let used = End::Code { module: to, path: Some(view.path(to_file).as_str()), test: to_test };
                let key = (from, to, test, to_test);
                let decision = match memo.as_mut().and_then(|memo| memo.get(&key).cloned()) {
                    Some(known) => known,
                    None => permission.decide(&user, &used),
                };
                if let Some(memo) = memo.as_mut() {
                    memo.insert(key, decision.clone());
                }
                let target = to.unwrap_or(usize::MAX);
                if decision.permitted || seen.contains(&(used_here.target, target)) {
                    continue;
                }
                seen.push((used_here.target, target));
                let name = view.world.use_text(used_here.target);
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

    fn finding(&self, view: &View, decision: &Decision, ends: &(String, String), name: &str) -> Finding {
        let (from, to) = ends;
        let short = short_name(name);
        let message = if to.starts_with("package:") {
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
            _ if to.starts_with("package:") => {
                format!("use it where it is permitted, or add \"{from} may use {to} because …\" to the rules")
            }
            _ => format!(
                "move `{short}` to a module that `{from}` may use, or add \"{from} may use {to} because …\" to the rules"
            ),
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
