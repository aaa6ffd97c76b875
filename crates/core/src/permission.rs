//! May this use that? The one function that decides, and the sentence that it decided by.

use crate::map::{Map, Modules, Objects, Rule, Selector, Verb, name_matches};
use crate::resolve::glob_matches;

/// One end of a use.
#[derive(Clone, Copy, Debug)]
pub enum End<'e> {
    /// Code of the project.
    Code {
        /// Its module; `None` for the rest.
        module: Option<usize>,
        /// The file, if one is meant.
        path: Option<&'e str>,
        /// Whether it is test code.
        test: bool,
    },
    /// A package by its name.
    Package(&'e str),
}

/// Why a use is permitted or not.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Reason {
    /// A module may use its own code.
    Own,
    /// This rule, by index.
    Rule(usize),
    /// A `may use … only from` rule grants it to other files.
    OnlyFrom(usize),
    /// The user's module is closed by this rule, and nothing grants the use.
    Closed(usize),
    /// The layers: the user's and the used.
    Layers(usize, usize),
    /// No rule speaks of it.
    Open,
}

/// What was decided.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Decision {
    /// Whether the use is permitted.
    pub permitted: bool,
    /// Why.
    pub reason: Reason,
}

/// Decides by the map's rules and layers: `must not` beats `only`, `only` beats `may`, `may` beats layers.
#[derive(Clone, Copy, Debug)]
pub struct Permission<'p> {
    /// The map.
    pub map: &'p Map,
    /// Its modules.
    pub modules: &'p Modules,
}

impl Permission<'_> {
    /// Whether `user` may use `used`.
    pub fn decide(&self, user: &End, used: &End) -> Decision {
        if let (End::Code { module: Some(a), .. }, End::Code { module: Some(b), .. }) = (user, used)
            && a == b
            && !self.separates_own(user, used)
        {
            return Decision { permitted: true, reason: Reason::Own };
        }
        let rules = || self.map.rules.iter().enumerate();
        let about = |rule: &Rule| self.any(&rule.subjects, user);
        let no = |reason| Decision { permitted: false, reason };
        let yes = |reason| Decision { permitted: true, reason };
        if let Some((at, _)) =
            rules().find(|(_, rule)| rule.verb == Verb::MustNot && about(rule) && self.names(rule, used))
        {
            return no(Reason::Rule(at));
        }
        let mut reserved = None;
        for (at, rule) in rules().filter(|(_, rule)| rule.verb == Verb::Only && self.names(rule, used)) {
            if about(rule) {
                return yes(Reason::Rule(at));
            }
            reserved = reserved.or(Some(at));
        }
        if let Some(at) = reserved {
            return no(Reason::Rule(at));
        }
        self.granted(user, used).unwrap_or_else(|| self.by_layers(user, used))
    }

    /// `may use` rules; `None` where none speaks of the use and the user's module is open.
    fn granted(&self, user: &End, used: &End) -> Option<Decision> {
        let (mut closed, mut elsewhere) = (None, None);
        for (at, rule) in self.map.rules.iter().enumerate() {
            if rule.verb != Verb::May || !self.any(&rule.subjects, user) {
                continue;
            }
            if rule.only_from.is_empty() && (matches!(used, End::Code { .. }) || names_packages(rule)) {
                closed = closed.or(Some(at));
            }
            if self.names(rule, used) {
                if self.grants_file(rule, user) {
                    return Some(Decision { permitted: true, reason: Reason::Rule(at) });
                }
                elsewhere = elsewhere.or(Some(at));
            }
        }
        let reason = elsewhere.map(Reason::OnlyFrom).or(closed.map(Reason::Closed))?;
        Some(Decision { permitted: false, reason })
    }

    fn by_layers(&self, user: &End, used: &End) -> Decision {
        let layer = |end: &End| match end {
            End::Code { module: Some(module), .. } => self.modules.list[*module].layer,
            _ => None,
        };
        match (layer(user), layer(used)) {
            (Some(from), Some(to)) => Decision { permitted: to <= from, reason: Reason::Layers(from, to) },
            _ => Decision { permitted: true, reason: Reason::Open },
        }
    }

    /// Within one module, only a rule about tests can forbid.
    fn separates_own(&self, user: &End, used: &End) -> bool {
        let is_test = |end: &End| matches!(end, End::Code { test: true, .. });
        is_test(user) != is_test(used)
            && self
                .map
                .rules
                .iter()
                .flat_map(Rule::selectors)
                .any(|s| matches!(s, Selector::Tests | Selector::TestsOf(_)))
            && self.map.rules.iter().any(|rule| {
                rule.verb == Verb::MustNot && self.any(&rule.subjects, user) && self.names(rule, used)
            })
    }

    /// Whether a file grants: `only from` names files by path below the module or the root, or by name.
    fn grants_file(&self, rule: &Rule, user: &End) -> bool {
        if rule.only_from.is_empty() {
            return true;
        }
        let End::Code { path: Some(path), module, .. } = user else { return false };
        let folder = module.map_or("", |module| self.modules.list[module].folder.as_str());
        let below = path.strip_prefix(folder).map_or(*path, |rest| rest.trim_start_matches('/'));
        rule.only_from.iter().any(|pattern| glob_matches(pattern, path) || glob_matches(pattern, below))
    }

    fn names(&self, rule: &Rule, used: &End) -> bool {
        match &rule.objects {
            Objects::List(list) => self.any(list, used),
            Objects::Anything => true,
            Objects::Nothing => false,
            Objects::EachOther => self.any(&rule.subjects, used),
        }
    }

    fn any(&self, selectors: &[Selector], end: &End) -> bool {
        selectors.iter().any(|selector| self.selects(selector, end))
    }

    /// Whether `selector` means `end`.
    pub fn selects(&self, selector: &Selector, end: &End) -> bool {
        let (module, test) = match (selector, end) {
            (Selector::Package(pattern), End::Package(name)) => return package_matches(pattern, name),
            (_, End::Package(_)) => return false,
            (_, End::Code { module, test, .. }) => (module.map(|at| &self.modules.list[at]), *test),
        };
        let Some(module) = module else {
            return match selector {
                Selector::Rest => true,
                Selector::Tests => test,
                _ => false,
            };
        };
        match selector {
            Selector::Module(pattern) => name_matches(pattern, &module.name),
            Selector::Layer(name) => {
                let layer = self.map.layers.iter().position(|layer| {
                    layer.iter().any(|pattern| name_matches(pattern, name) || name_matches(name, pattern))
                });
                layer.is_some() && module.layer == layer
            }
            Selector::Kind(pattern) => module.kind.as_ref().is_some_and(|kind| name_matches(pattern, kind)),
            Selector::Owner(pattern) => {
                module.owner.as_ref().is_some_and(|owner| name_matches(pattern, owner))
            }
            Selector::Tests => test,
            Selector::TestsOf(pattern) => test && name_matches(pattern, &module.name),
            Selector::Every => true,
            Selector::Rest | Selector::Package(_) => false,
        }
    }

    /// Whether any rule speaks of packages, so that outside names must be looked at.
    pub fn speaks_of_packages(&self) -> bool {
        self.map
            .rules
            .iter()
            .flat_map(Rule::selectors)
            .any(|selector| matches!(selector, Selector::Package(_)))
    }
}

/// Whether a rule lists packages; one that lists only modules leaves packages open.
fn names_packages(rule: &Rule) -> bool {
    matches!(&rule.objects, Objects::List(list) if list.iter().any(|s| matches!(s, Selector::Package(_))))
}

/// A package is meant by its name, and with it everything below: `Npgsql` means `Npgsql.Types` too, whatever the
/// language puts between.
pub fn package_matches(pattern: &str, name: &str) -> bool {
    let mut above = name.match_indices(['.', '/', '\\', ':']);
    name_matches(pattern, name) || above.any(|(at, _)| name_matches(pattern, &name[..at]))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::map::{Module, read_map};

    /// Modules `a` (layer 0, kind feature), `b` (layer 1, kind feature), `c` (layer 2), `d` (no layer).
    fn decide(rules: &str, user: usize, used: usize, path: &str) -> (bool, Reason) {
        let text = format!(
            "layers = [\"a\", \"b\", \"c\"]\nrules = [{rules}]\n[modules]\na = {{ path = \"a\", kind = \"feature\" }}\nb = {{ path = \"b\", kind = \"feature\" }}\nc = \"c\"\nd = \"d\"\n"
        );
        let map = read_map(&text).unwrap();
        let modules = Modules {
            list: map
                .modules
                .iter()
                .enumerate()
                .map(|(at, entry)| Module {
                    name: entry.name.clone(),
                    kind: entry.kind.clone(),
                    layer: (at < 3).then_some(at),
                    folder: entry.name.clone(),
                    ..Module::default()
                })
                .collect(),
            ..Modules::default()
        };
        let permission = Permission { map: &map, modules: &modules };
        let end = |module, path| End::Code { module: Some(module), path, test: false };
        let decision = permission.decide(&end(user, Some(path)), &end(used, None));
        (decision.permitted, decision.reason)
    }

    #[test]
    fn decides_as_the_table_says() {
        let (a, b, c, d) = (0, 1, 2, 3);
        let table = [
            ("", b, a, "", true, Reason::Layers(1, 0)),
            ("", a, b, "", false, Reason::Layers(0, 1)),
            ("", a, a, "", true, Reason::Own),
            ("", d, c, "", true, Reason::Open),
            // may beats layers, and closes
            ("\"a may use b\"", a, b, "", true, Reason::Rule(0)),
            ("\"a may use b\"", a, d, "", false, Reason::Closed(0)),
            ("\"a may use nothing\"", a, d, "", false, Reason::Closed(0)),
            ("\"a may use anything\"", a, c, "", true, Reason::Rule(0)),
            // only beats may
            ("\"a may use b\", \"only c may use b\"", a, b, "", false, Reason::Rule(1)),
            ("\"only a may use c\"", a, c, "", true, Reason::Rule(0)),
            // must not beats only
            ("\"only a may use c\", \"a must not use c\"", a, c, "", false, Reason::Rule(1)),
            ("\"kind:feature must not use each other\"", b, a, "", false, Reason::Rule(0)),
            ("\"kind:feature must not use each other\"", c, a, "", true, Reason::Layers(2, 0)),
            ("\"every module must not use d\"", c, d, "", false, Reason::Rule(0)),
            ("\"layer:c must not use d\"", c, d, "", false, Reason::Rule(0)),
            // only from
            ("\"a may use c only from Start.cs\"", a, c, "a/Start.cs", true, Reason::Rule(0)),
            ("\"a may use c only from Start.cs\"", a, c, "a/Other.cs", false, Reason::OnlyFrom(0)),
            ("\"a may use c only from Start.cs\"", a, d, "a/Other.cs", true, Reason::Open),
        ];
        for (rules, user, used, path, permitted, reason) in table {
            assert_eq!(decide(rules, user, used, path), (permitted, reason), "{rules}: {user} {used}");
        }
    }
}
