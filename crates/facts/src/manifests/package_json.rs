//! `package.json`, `pnpm-workspace.yaml`, and the settings of the compiler, `tsconfig.json` and `jsconfig.json`.
//!
//! Settings of a package: `named` where it states a name; `bare` where it says nothing of its own; `main`, `module`, `types`, `typings`, `source`, `browser`;
//! `export:KEY` and `import:KEY`, one for each condition. Settings of the compiler: `baseUrl`, `path:PATTERN` (one for
//! each target), `extends`.

use crate::linking::upwards;
use ferngate_model::{
    ItemAction, ManifestFacts, ManifestReader, PathMention, Problem, ProjectPath, ProjectReference, Span,
};
use rustc_hash::FxHashSet;
use serde_json::{Map, Value};

/// `package.json` files.
#[derive(Debug)]
pub struct Package;

/// `pnpm-workspace.yaml`.
#[derive(Debug)]
pub struct PnpmWorkspace;

/// `tsconfig*.json` and `jsconfig.json` files.
#[derive(Debug)]
pub struct CompilerSettings;

const EXTENSIONS: &[&str] =
    &["ts", "tsx", "mts", "cts", "js", "jsx", "mjs", "cjs", "vue", "svelte", "html", "htm"];

impl ManifestReader for Package {
    fn matches(&self, file_name: &str) -> bool {
        file_name == "package.json"
    }

    fn read(&self, path: &ProjectPath, text: &[u8]) -> ManifestFacts {
        let mut facts = ManifestFacts::of_folder(path, EXTENSIONS);
        // A package sees what it declares, not what that declares in turn.
        facts.transitive = false;
        let Some(root) = object(text, &mut facts) else { return facts };
        if let Some(name) = root.get("name").and_then(Value::as_str).filter(|name| !name.is_empty()) {
            facts.name = name.to_owned();
            facts.label = name.to_owned();
            facts.settings.push(("named".to_owned(), name.to_owned()));
        } else {
            // A file without a name only says how scripts below it are meant.
            facts.kind = "settings";
        }
        for key in ["main", "module", "types", "typings", "source", "browser"] {
            if let Some(value) = root.get(key).and_then(Value::as_str) {
                facts.settings.push((key.to_owned(), value.to_owned()));
            }
        }
        for (key, sort) in [("exports", "export:"), ("imports", "import:")] {
            if let Some(value) = root.get(key) {
                let mut paths = Conditional::default();
                paths.collect(".", value, false, 0);
                let paths = paths.common.into_iter().chain(paths.special);
                facts.settings.extend(paths.map(|(key, path)| (format!("{sort}{key}"), path)));
            }
        }
        workspaces(&mut facts, &root, text);
        if !OF_ITS_OWN.iter().any(|key| root.contains_key(*key)) {
            facts.settings.push((BARE.to_owned(), String::new()));
        }
        for section in ["dependencies", "devDependencies", "peerDependencies", "optionalDependencies"] {
            let Some(Value::Object(packages)) = root.get(section) else { continue };
            for name in packages.keys() {
                if let Some(span) = quoted(text, name) {
                    let target = name.clone();
                    facts.references.push(ProjectReference { target, by_name: true, span, element: span });
                }
            }
        }
        facts
    }

    /// A bare file inside of a package that lists no members is a door of that package, not one of its own.
    fn settle(&self, manifests: &mut [ManifestFacts]) {
        let folder = |manifest: &ManifestFacts| manifest.folder().to_owned();
        let is_package =
            |manifest: &&ManifestFacts| manifest.kind == "project" && manifest.setting("named").is_some();
        let lists = |manifest: &&ManifestFacts| {
            let name = manifest.path.as_ref().map_or("", ProjectPath::file_name);
            let listed = manifest.mentions.iter().any(|mention| mention.action == ItemAction::Member);
            listed && (self.matches(name) || PnpmWorkspace.matches(name))
        };
        let packages: FxHashSet<String> = manifests.iter().filter(is_package).map(folder).collect();
        let listing: FxHashSet<String> = manifests.iter().filter(lists).map(folder).collect();
        for manifest in manifests.iter_mut().filter(|manifest| manifest.setting(BARE).is_some()) {
            let is_door = {
                let above = || upwards(manifest.folder()).skip(1);
                above().any(|folder| packages.contains(folder))
                    && !above().any(|folder| listing.contains(folder))
            };
            if is_door {
                manifest.kind = "settings";
            }
        }
    }
}

/// Keys of which a package that is published or worked on by itself has at least one.
const OF_ITS_OWN: [&str; 8] = [
    "version",
    "private",
    "scripts",
    "workspaces",
    "dependencies",
    "devDependencies",
    "peerDependencies",
    "optionalDependencies",
];

/// The setting of a package that has no key of its own.
const BARE: &str = "bare";

/// Conditions that hold where the code is compiled, and built into packages.
const COMMON: &[&str] =
    &["import", "require", "node", "default", "module", "module-sync", "source", "development"];

/// The paths of an `exports` or `imports` map by their keys, in its order: those that any compiler takes, and those for
/// browsers, other runtimes and the like.
#[derive(Default)]
struct Conditional {
    common: Vec<(String, String)>,
    special: Vec<(String, String)>,
}

impl Conditional {
    fn collect(&mut self, key: &str, value: &Value, is_special: bool, depth: usize) {
        match value {
            Value::String(path) => {
                let paths = if is_special { &mut self.special } else { &mut self.common };
                paths.push((key.to_owned(), path.clone()));
            }
            Value::Array(items) if depth < 8 => {
                items.iter().for_each(|item| self.collect(key, item, is_special, depth + 1));
            }
            Value::Object(entries) if depth < 8 => {
                for (name, value) in entries {
                    if name.starts_with(['.', '#']) {
                        self.collect(name, value, is_special, depth + 1);
                        continue;
                    }
                    let is_common = COMMON.contains(&name.as_str()) || name.starts_with("types");
                    self.collect(key, value, is_special || !is_common, depth + 1);
                }
            }
            _ => {}
        }
    }
}

fn workspaces(facts: &mut ManifestFacts, root: &Map<String, Value>, text: &[u8]) {
    let listed = match root.get("workspaces") {
        Some(Value::Object(inner)) => inner.get("packages"),
        other => other,
    };
    let Some(Value::Array(items)) = listed else { return };
    for written in items.iter().filter_map(Value::as_str) {
        let Some(span) = quoted(text, written) else { continue };
        facts.mentions.push(PathMention {
            action: ItemAction::Member,
            span,
            written: written.to_owned(),
            element: span,
            backslashes: false,
        });
    }
}

impl ManifestReader for CompilerSettings {
    fn matches(&self, file_name: &str) -> bool {
        file_name.ends_with(".json")
            && (file_name.starts_with("tsconfig") || file_name.starts_with("jsconfig"))
    }

    fn read(&self, path: &ProjectPath, text: &[u8]) -> ManifestFacts {
        let mut facts =
            ManifestFacts { kind: "settings", path: Some(path.clone()), ..ManifestFacts::default() };
        let Some(root) = object(text, &mut facts) else { return facts };
        match root.get("extends") {
            Some(Value::String(name)) => facts.settings.push(("extends".to_owned(), name.clone())),
            Some(Value::Array(names)) => {
                let names = names.iter().filter_map(Value::as_str);
                facts.settings.extend(names.map(|name| ("extends".to_owned(), name.to_owned())));
            }
            _ => {}
        }
        let Some(Value::Object(options)) = root.get("compilerOptions") else { return facts };
        if let Some(base) = options.get("baseUrl").and_then(Value::as_str) {
            facts.settings.push(("baseUrl".to_owned(), base.to_owned()));
        }
        if let Some(Value::Object(paths)) = options.get("paths") {
            for (pattern, targets) in paths {
                let targets = targets.as_array().into_iter().flatten().filter_map(Value::as_str);
                facts.settings.extend(targets.map(|target| (format!("path:{pattern}"), target.to_owned())));
            }
        }
        facts
    }
}

impl ManifestReader for PnpmWorkspace {
    fn matches(&self, file_name: &str) -> bool {
        matches!(file_name, "pnpm-workspace.yaml" | "pnpm-workspace.yml")
    }

    /// The list under `packages`: one a line, behind a dash.
    fn read(&self, path: &ProjectPath, text: &[u8]) -> ManifestFacts {
        let mut facts =
            ManifestFacts { kind: "settings", path: Some(path.clone()), ..ManifestFacts::default() };
        let text = super::text_of(text);
        let (mut at, mut inside) = (0, false);
        for line in text.split_inclusive('\n') {
            let start = at;
            at += line.len();
            let code = line.split(" #").next().unwrap_or_default().trim_end();
            if !code.starts_with([' ', '\t', '-']) && !code.is_empty() {
                inside = code.starts_with("packages:");
            }
            let Some(item) = code.trim_start().strip_prefix('-').filter(|_| inside) else { continue };
            let written = item.trim().trim_matches(['"', '\'']);
            let from = start + (written.as_ptr() as usize - line.as_ptr() as usize);
            if !written.is_empty() && !written.starts_with('!') {
                facts.mentions.push(PathMention {
                    action: ItemAction::Member,
                    span: Span::new(from, from + written.len()),
                    written: written.to_owned(),
                    element: Span::new(start, at),
                    backslashes: false,
                });
            }
        }
        facts
    }
}

/// The object that `text` holds, with comments and commas at ends of lists allowed.
fn object(text: &[u8], facts: &mut ManifestFacts) -> Option<Map<String, Value>> {
    let text = String::from_utf8_lossy(text);
    let text = text.trim_start_matches('\u{feff}');
    match jsonc_parser::parse_to_serde_value(text, &jsonc_parser::ParseOptions::default()) {
        Ok(Some(Value::Object(root))) => Some(root),
        Ok(_) => None,
        Err(error) => {
            let text = format!("is no JSON that can be read: {error}");
            facts.problems.push(Problem { span: Span::new(0, 0), text });
            None
        }
    }
}

/// Where `value` stands in quotes.
fn quoted(text: &[u8], value: &str) -> Option<Span> {
    let quoted = format!("\"{value}\"");
    let at = memchr::memmem::find(text, quoted.as_bytes())?;
    Some(Span::new(at + 1, at + 1 + value.len()))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_a_package() {
        let text = br##"{ "name": "@mossgrove/seeds", "main": "dist/index.js", "workspaces": ["packages/*"],
            "exports": { ".": { "types": "./dist/index.d.ts", "default": "./dist/index.js" }, "./forms/*": "./src/forms/*.ts" },
            "imports": { "#clock": "./src/clock.ts" }, "dependencies": { "@mossgrove/post": "*" } }"##;
        let facts = Package.read(&ProjectPath::new("seeds/package.json"), text);
        assert_eq!(facts.setting("main"), Some("dist/index.js"));
        let exports: Vec<(&str, &str)> = facts.settings_of("export:").collect();
        assert_eq!(
            exports,
            [(".", "./dist/index.d.ts"), (".", "./dist/index.js"), ("./forms/*", "./src/forms/*.ts")]
        );
        assert_eq!(facts.setting("import:#clock"), Some("./src/clock.ts"));
        assert_eq!((facts.mentions.len(), facts.references.len()), (1, 1));
    }

    #[test]
    fn reads_settings_with_comments() {
        let text = b"{ // for all\n \"extends\": \"../base.json\", \"compilerOptions\": { \"baseUrl\": \".\", \"paths\": { \"~/*\": [\"src/*\"], }, } }";
        let facts = CompilerSettings.read(&ProjectPath::new("seeds/tsconfig.json"), text);
        assert_eq!(facts.setting("path:~/*"), Some("src/*"));
        assert_eq!(facts.setting("extends"), Some("../base.json"));
        assert!(facts.problems.is_empty());
    }

    #[test]
    fn reads_a_workspace_of_lines() {
        let text = b"packages:\n  - 'packages/*' # all\n  - \"!packages/old\"\n  - site\ncatalog:\n  - no\n";
        let facts = PnpmWorkspace.read(&ProjectPath::new("pnpm-workspace.yaml"), text);
        let written: Vec<&str> = facts.mentions.iter().map(|mention| mention.written.as_str()).collect();
        assert_eq!(written, ["packages/*", "site"]);
    }
}
