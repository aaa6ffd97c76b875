//! Reads a map from TOML, with the place of everything that is wrong.

use super::{Map, MapError, ModuleEntry, Pattern, Rule, Selector, Severity, name_matches};
use crate::findings::CHECKS;
use ferngate_model::Span;
use toml::Spanned;
use toml::de::{DeTable, DeValue};

type Item<'i> = Spanned<DeValue<'i>>;

const KEYS: &[&str] = &["name", "skip", "layers", "rules", "modules", "checks"];
const MODULE_KEYS: &[&str] = &["path", "namespace", "kind", "owner", "public", "purpose", "tests", "assumes"];

/// Reads the text of a map. All errors that can be found at once are returned, in the order of the text.
pub fn read_map(text: &str) -> Result<Map, Vec<MapError>> {
    let table = DeTable::parse(text).map_err(|error| {
        let span = error.span().map_or(Span::default(), |range| Span::new(range.start, range.end));
        vec![MapError::new(span, format!("the map is not TOML: {}", error.message().trim_end_matches('.')))]
    })?;
    let mut reader = Reader { map: Map::default(), layer_spans: Vec::new(), errors: Vec::new() };
    for (key, value) in table.get_ref() {
        reader.key(key.get_ref(), span(key.span()), value, text);
    }
    reader.names_exist();
    reader.layers_part();
    if reader.errors.is_empty() {
        Ok(reader.map)
    } else {
        reader.errors.sort_by_key(|error| error.span);
        Err(reader.errors)
    }
}

fn span(range: std::ops::Range<usize>) -> Span {
    Span::new(range.start, range.end)
}

struct Reader {
    map: Map,
    layer_spans: Vec<Span>,
    errors: Vec<MapError>,
}

impl Reader {
    fn key(&mut self, key: &str, at: Span, value: &Item, text: &str) {
        match key {
            "name" => self.map.name = self.string(key, value).map(|(name, _)| name),
            "skip" => self.map.skip = self.patterns(key, value),
            "layers" => {
                self.map.layers_text =
                    String::from_utf8_lossy(span(value.span()).of(text.as_bytes())).into_owned();
                for (layer, at) in self.strings(key, value) {
                    self.layer_spans.push(at);
                    self.map.layers.push(layer.split(',').map(|name| name.trim().to_owned()).collect());
                }
            }
            "rules" => {
                for (sentence, at) in self.strings(key, value) {
                    match Rule::parse(&sentence, at) {
                        Ok(rule) => self.map.rules.push(rule),
                        Err(error) => self.errors.push(error),
                    }
                }
            }
            "modules" => {
                for (name, at, value) in self.table(key, value) {
                    let entry = self.module(name, at, value);
                    self.map.modules.push(entry);
                }
            }
            "checks" => {
                for (name, at, value) in self.table(key, value) {
                    self.check(name, at, value);
                }
            }
            _ => self.errors.push(
                MapError::new(at, format!("`{key}` is no key of a map")).suggest(key, KEYS.iter().copied()),
            ),
        }
    }

    fn module(&mut self, name: String, at: Span, value: &Item) -> ModuleEntry {
        let mut entry = ModuleEntry { name, span: at, ..ModuleEntry::default() };
        if !matches!(value.get_ref(), DeValue::Table(_)) {
            entry.paths = self.patterns("path", value);
            return entry;
        }
        let errors = self.errors.len();
        for (key, at, value) in self.table("modules", value) {
            match key.as_str() {
                "path" => entry.paths = self.patterns(&key, value),
                "namespace" => {
                    entry.namespaces = self.strings(&key, value).into_iter().map(|(text, _)| text).collect()
                }
                "kind" => entry.kind = self.string(&key, value).map(|(text, _)| text),
                "owner" => entry.owner = self.string(&key, value).map(|(text, _)| text),
                "purpose" => entry.purpose = self.string(&key, value).map(|(text, _)| text),
                "public" => entry.public = self.patterns(&key, value),
                "tests" => entry.tests = self.patterns(&key, value),
                "assumes" => {
                    entry.assumes = self.strings(&key, value).into_iter().map(|(text, _)| text).collect()
                }
                _ => self.errors.push(
                    MapError::new(at, format!("`{key}` is no key of a module"))
                        .suggest(&key, MODULE_KEYS.iter().copied()),
                ),
            }
        }
        // A key that is wrong may be the one that is missing.
        if entry.paths.is_empty() && entry.namespaces.is_empty() && self.errors.len() == errors {
            let error =
                MapError::new(at, format!("module `{}` has neither `path` nor `namespace`", entry.name));
            self.errors.push(error.hint("say where its code is: path = \"src/Visits\""));
        }
        entry
    }

    fn check(&mut self, name: String, at: Span, value: &Item) {
        if !CHECKS.iter().any(|check| check.about().name == name) {
            let names = CHECKS.iter().map(|check| check.about().name);
            self.errors.push(MapError::new(at, format!("`{name}` is no finding")).suggest(&name, names));
            return;
        }
        let Some((text, at)) = self.string(&name, value) else { return };
        let severity = match text.as_str() {
            "error" => Severity::Error,
            "warning" => Severity::Warning,
            "off" => Severity::Off,
            _ => {
                self.errors.push(MapError::new(at, format!("`{text}` is not one of error, warning, off")));
                return;
            }
        };
        self.map.checks.insert(name, severity);
    }

    fn string(&mut self, key: &str, value: &Item) -> Option<(String, Span)> {
        if let DeValue::String(text) = value.get_ref() {
            return Some((text.to_string(), span(value.span())));
        }
        self.errors.push(MapError::new(span(value.span()), format!("`{key}` must be a text in quotes")));
        None
    }

    /// One text or a list of texts.
    fn strings(&mut self, key: &str, value: &Item) -> Vec<(String, Span)> {
        match value.get_ref() {
            DeValue::String(text) => vec![(text.to_string(), span(value.span()))],
            DeValue::Array(items) => items.iter().filter_map(|item| self.string(key, item)).collect(),
            _ => {
                let at = span(value.span());
                self.errors
                    .push(MapError::new(at, format!("`{key}` must be a text or a list of texts in quotes")));
                Vec::new()
            }
        }
    }

    fn patterns(&mut self, key: &str, value: &Item) -> Vec<Pattern> {
        let mut found = Vec::new();
        for (text, at) in self.strings(key, value) {
            match Pattern::new(&text, at) {
                Ok(pattern) => found.push(pattern),
                Err(message) => self.errors.push(MapError::new(at, message)),
            }
        }
        found
    }

    fn table<'v>(&mut self, key: &str, value: &'v Item<'v>) -> Vec<(String, Span, &'v Item<'v>)> {
        match value.get_ref() {
            DeValue::Table(table) => {
                let mut entries: Vec<_> = table
                    .iter()
                    .map(|(key, value)| (key.get_ref().to_string(), span(key.span()), value))
                    .collect();
                // In the order of the text, which is the order that people gave them.
                entries.sort_by_key(|entry| entry.1);
                entries
            }
            _ => {
                self.errors.push(MapError::new(span(value.span()), format!("`{key}` must be a table")));
                Vec::new()
            }
        }
    }

    /// Names in layers and sentences must be those of modules.
    fn names_exist(&mut self) {
        let families: Vec<String> = self.map.modules.iter().map(|entry| family_glob(&entry.name)).collect();
        let known = |name: &str| {
            families.iter().any(|module| name_matches(name, module) || name_matches(module, name))
        };
        let mut errors = Vec::new();
        for rule in &self.map.rules {
            for selector in rule.selectors() {
                let missing: Option<(String, &String, Vec<String>)> = match selector {
                    Selector::Module(name) | Selector::TestsOf(name) | Selector::Layer(name) => {
                        let right = || self.map.modules.iter().map(|entry| entry.name.clone());
                        (!known(name))
                            .then(|| (format!("there is no module `{name}`"), name, right().collect()))
                    }
                    Selector::Kind(name) => {
                        let kinds = self.map.modules.iter().filter_map(|entry| entry.kind.as_ref());
                        (!kinds.clone().any(|kind| name_matches(name, kind))).then(|| {
                            (format!("no module has the kind `{name}`"), name, kinds.cloned().collect())
                        })
                    }
                    Selector::Owner(name) => {
                        let owners = self.map.modules.iter().filter_map(|entry| entry.owner.as_ref());
                        (!owners.clone().any(|owner| name_matches(name, owner))).then(|| {
                            (format!("no module has the owner `{name}`"), name, owners.cloned().collect())
                        })
                    }
                    _ => None,
                };
                if let Some((message, name, right)) = missing {
                    let message = format!("{message}, named in \"{}\"", rule.text);
                    let error = MapError::new(rule.span, message);
                    errors.push(error.suggest(name, right.iter().map(String::as_str)));
                }
            }
        }
        for (layer, at) in self.map.layers.iter().zip(&self.layer_spans) {
            for name in layer.iter().filter(|name| !known(name)) {
                let right = self.map.modules.iter().map(|entry| entry.name.as_str());
                let message = format!("there is no module `{name}`, named in `layers`");
                errors.push(MapError::new(*at, message).suggest(name, right));
            }
        }
        for entry in &self.map.modules {
            for name in entry.assumes.iter().filter(|name| !known(name)) {
                let right = self.map.modules.iter().map(|entry| entry.name.as_str());
                let message = format!("there is no module `{name}`, which `{}` assumes", entry.name);
                errors.push(MapError::new(entry.span, message).suggest(name, right));
            }
        }
        self.errors.extend(errors);
    }

    /// A module stands on one layer.
    fn layers_part(&mut self) {
        let mut seen: Vec<&str> = Vec::new();
        for (layer, at) in self.map.layers.iter().zip(&self.layer_spans) {
            for name in layer {
                if seen.contains(&name.as_str()) {
                    let message = format!("`{name}` stands in `layers` twice");
                    self.errors.push(MapError::new(*at, message).hint("keep the place that is meant"));
                }
                seen.push(name);
            }
        }
    }
}

/// `storage-{name}` as `storage-*`.
fn family_glob(name: &str) -> String {
    let mut out = String::new();
    let mut rest = name;
    while let Some((before, after)) = rest.split_once('{') {
        out.push_str(before);
        out.push('*');
        rest = after.split_once('}').map_or("", |(_, rest)| rest);
    }
    out + rest
}
