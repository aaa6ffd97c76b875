//! `Cargo.toml`: packages, workspaces, targets, dependencies by path.
//!
//! Settings: `package` (its name), `edition`, `lib` (a path), `lib-name`, `proc-macro`, `build`, `target:KIND` (a path),
//! `dep:KEY` and `workspace-dep:KEY` (path, package and `workspace`, with line ends between), `workspace`.

use ferngate_model::{
    ItemAction, ManifestFacts, ManifestReader, PathMention, Problem, ProjectPath, ProjectReference, Span,
};
use toml::{Table, Value};

/// `Cargo.toml` files.
#[derive(Debug)]
pub struct Cargo;

impl ManifestReader for Cargo {
    fn matches(&self, file_name: &str) -> bool {
        file_name == "cargo.toml"
    }

    fn filled_folders(&self) -> &'static [(&'static str, &'static str)] {
        &[("vendor", "*/.cargo-checksum.json")]
    }

    fn read(&self, path: &ProjectPath, text: &[u8]) -> ManifestFacts {
        let mut facts = ManifestFacts::of_folder(path, &["rs"]);
        facts.kind = "settings";
        facts.label.clear();
        let text = super::text_of(text);
        let table: Table = match text.parse() {
            Ok(table) => table,
            Err(error) => {
                let text = format!("is no TOML that can be read: {}", error.message());
                facts.problems.push(Problem { span: Span::new(0, 0), text });
                return facts;
            }
        };
        package(&mut facts, &table);
        targets(&mut facts, &table);
        workspace(&mut facts, &table, &text);
        dependencies(&mut facts, &table, &text);
        if let Some(Value::Table(targets)) = table.get("target") {
            targets
                .values()
                .filter_map(Value::as_table)
                .for_each(|table| dependencies(&mut facts, table, &text));
        }
        facts
    }
}

fn package(facts: &mut ManifestFacts, table: &Table) {
    let Some(package) = table.get("package").or(table.get("project")) else { return };
    let text = |key: &str| package.get(key).and_then(Value::as_str);
    facts.kind = "project";
    // A crate sees what it declares, not what that declares in turn.
    facts.transitive = false;
    if let Some(name) = text("name") {
        facts.name = name.to_owned();
        facts.label = name.to_owned();
    }
    facts.settings.push(("package".to_owned(), facts.name.clone()));
    // A value that is inherited is that of a workspace, which is younger than the edition of 2015.
    let edition = match package.get("edition") {
        Some(Value::String(edition)) => edition,
        Some(_) => "2021",
        None => "2015",
    };
    facts.settings.push(("edition".to_owned(), edition.to_owned()));
    if let Some(build) = text("build") {
        facts.settings.push(("build".to_owned(), build.to_owned()));
    }
}

fn targets(facts: &mut ManifestFacts, table: &Table) {
    if let Some(library) = table.get("lib") {
        for (key, setting) in [("path", "lib"), ("name", "lib-name")] {
            if let Some(value) = library.get(key).and_then(Value::as_str) {
                facts.settings.push((setting.to_owned(), value.to_owned()));
            }
        }
        let makes = |key: &str| library.get(key).and_then(Value::as_bool) == Some(true);
        if makes("proc-macro") || makes("proc_macro") {
            facts.settings.push(("proc-macro".to_owned(), String::new()));
        }
    }
    for kind in ["bin", "test", "example", "bench"] {
        let listed = table.get(kind).and_then(Value::as_array).into_iter().flatten();
        for path in listed.filter_map(|target| target.get("path")?.as_str()) {
            facts.settings.push((format!("target:{kind}"), path.to_owned()));
        }
    }
}

fn workspace(facts: &mut ManifestFacts, table: &Table, text: &str) {
    let Some(workspace) = table.get("workspace") else { return };
    facts.settings.push(("workspace".to_owned(), String::new()));
    for (key, action) in [("members", ItemAction::Member), ("exclude", ItemAction::Exclude)] {
        let listed =
            workspace.get(key).and_then(Value::as_array).into_iter().flatten().filter_map(Value::as_str);
        for written in listed {
            if let Some(span) = quoted(text, written).filter(|_| action == ItemAction::Member) {
                let written = written.to_owned();
                facts.mentions.push(PathMention { action, span, written, element: span, backslashes: false });
            }
        }
    }
    if let Some(Value::Table(shared)) = workspace.get("dependencies") {
        for (key, value) in shared {
            facts.settings.push((format!("workspace-dep:{key}"), encoded(value)));
        }
    }
}

fn dependencies(facts: &mut ManifestFacts, table: &Table, text: &str) {
    for section in ["dependencies", "dev-dependencies", "build-dependencies"] {
        let Some(Value::Table(listed)) = table.get(section) else { continue };
        for (key, value) in listed {
            facts.settings.push((format!("dep:{key}"), encoded(value)));
            let local = value.get("path").is_some() || value.get("workspace").is_some();
            let Some(start) = key_line(text, key).filter(|_| local) else { continue };
            let package = value.get("package").and_then(Value::as_str).unwrap_or(key);
            let span = Span::new(start, start + key.len());
            let target = package.to_owned();
            facts.references.push(ProjectReference { target, by_name: true, span, element: span });
            let path = value.get("path").and_then(Value::as_str);
            if let Some((written, span)) = path.and_then(|path| Some((path, quoted(text, path)?))) {
                facts.mentions.push(PathMention {
                    action: ItemAction::Reference,
                    span,
                    written: written.to_owned(),
                    element: span,
                    backslashes: false,
                });
            }
        }
    }
}

/// Path, package and whether the workspace says the rest.
fn encoded(value: &Value) -> String {
    let text = |key: &str| value.get(key).and_then(Value::as_str).unwrap_or_default();
    let inherited = value.get("workspace").and_then(Value::as_bool) == Some(true);
    format!("{}\n{}\n{}", text("path"), text("package"), if inherited { "workspace" } else { "" })
}

/// Where `key` begins a line.
fn key_line(text: &str, key: &str) -> Option<usize> {
    let mut at = 0;
    for line in text.split_inclusive('\n') {
        let inner = line.trim_start();
        let rest = inner.strip_prefix(key).or_else(|| inner.strip_prefix(&format!("\"{key}\"")));
        if rest.is_some_and(|rest| rest.trim_start().starts_with(['=', '.'])) {
            return Some(at + line.len() - inner.len() + usize::from(inner.starts_with('"')));
        }
        at += line.len();
    }
    // `[dependencies.name]`
    let section = format!("dependencies.{key}]");
    text.find(&section).map(|found| found + "dependencies.".len())
}

fn quoted(text: &str, value: &str) -> Option<Span> {
    let at = text.find(&format!("\"{value}\""))?;
    Some(Span::new(at + 1, at + 1 + value.len()))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_a_package_of_a_workspace() {
        let text = "[package]\nname = \"spore-counter\"\nedition = \"2024\"\n[lib]\npath = \"spores.rs\"\n\
            [dependencies]\nspore-shapes = { path = \"../shapes\" }\nserde = \"1\"\ncounting = { workspace = true }\n\
            [workspace]\nmembers = [\"shapes\"]\n[workspace.dependencies]\ncounting = { path = \"counting\" }\n";
        let facts = Cargo.read(&ProjectPath::new("spores/Cargo.toml"), text.as_bytes());
        assert_eq!((facts.kind, facts.setting("lib")), ("project", Some("spores.rs")));
        let targets: Vec<&str> = facts.references.iter().map(|reference| reference.target.as_str()).collect();
        assert_eq!(targets, ["counting", "spore-shapes"]);
        assert_eq!(facts.setting("dep:spore-shapes"), Some("../shapes\n\n"));
        assert_eq!(facts.setting("workspace-dep:counting"), Some("counting\n\n"));
        assert_eq!(facts.mentions[0].written, "shapes");
    }
}
