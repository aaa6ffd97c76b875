//! Python's `pyproject.toml`, `setup.cfg` and `setup.py` (read as text, never run).
//!
//! Settings: `python` in each of them; `python-root`, a folder that holds packages.

use ferngate_model::{ManifestFacts, ManifestReader, Problem, ProjectPath, ProjectReference, Span};
use toml::{Table, Value};

/// `pyproject.toml`, `setup.cfg`, `setup.py`.
#[derive(Debug)]
pub struct PythonProject;

/// What a `setup.py` that builds something has at least one of.
const BUILDS: [&str; 3] = ["setuptools", "distutils", "setup("];

impl ManifestReader for PythonProject {
    fn matches(&self, file_name: &str) -> bool {
        matches!(file_name, "pyproject.toml" | "setup.cfg" | "setup.py")
    }

    fn is_code(&self) -> bool {
        true
    }

    fn read(&self, path: &ProjectPath, text: &[u8]) -> ManifestFacts {
        let text = super::text_of(text);
        if path.extension() == "py" && !BUILDS.iter().any(|sign| text.contains(sign)) {
            // A module that is only called like the script.
            return ManifestFacts { kind: "settings", path: Some(path.clone()), ..ManifestFacts::default() };
        }
        let mut facts = ManifestFacts::of_folder(path, &["py", "pyi", "pyw"]);
        // What is installed in the environment can be imported.
        facts.open = true;
        facts.settings.push(("python".to_owned(), String::new()));
        match path.extension() {
            "toml" => pyproject(&text, &mut facts),
            "cfg" => setup_cfg(&text, &mut facts),
            _ => setup_py(&text, &mut facts),
        }
        facts
    }
}

fn named(facts: &mut ManifestFacts, name: &str) {
    if !name.is_empty() {
        facts.name = name.to_owned();
        facts.label = name.to_owned();
    }
}

fn root(facts: &mut ManifestFacts, folder: &str) {
    facts.settings.push(("python-root".to_owned(), folder.to_owned()));
}

fn pyproject(text: &str, facts: &mut ManifestFacts) {
    let table: Table = match text.parse() {
        Ok(table) => table,
        Err(error) => {
            let text = format!("is no TOML that can be read: {}", error.message());
            facts.problems.push(Problem { span: Span::new(0, 0), text });
            return;
        }
    };
    let at = |path: &str| {
        let mut keys = path.split('.');
        let first = table.get(keys.next()?);
        keys.fold(first, |value, key| value?.get(key))
    };
    for name in ["project.name", "tool.poetry.name"] {
        if let Some(name) = at(name).and_then(Value::as_str) {
            named(facts, name);
        }
    }
    if at("project.name").is_none() && at("tool.poetry.name").is_none() {
        // Settings of tools alone make no package.
        facts.kind = "settings";
    }
    for place in ["tool.setuptools.packages.find.where", "tool.pytest.ini_options.pythonpath"] {
        let folders = at(place).and_then(Value::as_array).into_iter().flatten().filter_map(Value::as_str);
        folders.for_each(|folder| root(facts, folder));
    }
    let folders = at("tool.setuptools.package-dir").and_then(Value::as_table);
    folders
        .into_iter()
        .flatten()
        .filter_map(|(_, folder)| folder.as_str())
        .for_each(|folder| root(facts, folder));
    let from = at("tool.poetry.packages").and_then(Value::as_array).into_iter().flatten();
    from.filter_map(|package| package.get("from")?.as_str()).for_each(|folder| root(facts, folder));
    let dependencies = at("project.dependencies").and_then(Value::as_array).into_iter().flatten();
    for requirement in dependencies.filter_map(Value::as_str) {
        let end = requirement.find(|c: char| !c.is_alphanumeric() && !matches!(c, '-' | '_' | '.'));
        let target = requirement[..end.unwrap_or(requirement.len())].to_owned();
        if let Some(start) = text.find(requirement).filter(|_| !target.is_empty()) {
            let span = Span::new(start, start + target.len());
            facts.references.push(ProjectReference { target, by_name: true, span, element: span });
        }
    }
}

/// `key = value` lines in sections; a value may go on in lines that are set in.
fn setup_cfg(text: &str, facts: &mut ManifestFacts) {
    let (mut section, mut key) = ("", "");
    let mut stated = false;
    for line in text.lines() {
        if let Some(name) = line.strip_prefix('[').and_then(|rest| rest.split(']').next()) {
            (section, key) = (name, "");
            continue;
        }
        let set_in = line.starts_with([' ', '\t']);
        let (own, value) = match line.split_once('=') {
            Some((own, value)) if !set_in => (own.trim(), value.trim()),
            _ => (key, line.trim()),
        };
        key = own;
        match (section, key) {
            ("metadata", "name") if !set_in => {
                named(facts, value);
                stated = true;
            }
            ("options.packages.find", "where") => root(facts, value),
            ("options", "package_dir") => {
                if let Some((_, folder)) =
                    line.rsplit_once('=').filter(|(_, folder)| !folder.trim().is_empty())
                {
                    root(facts, folder.trim());
                }
            }
            _ => {}
        }
    }
    if !stated {
        facts.kind = "settings";
    }
}

fn setup_py(text: &str, facts: &mut ManifestFacts) {
    if let Some(name) = argument(text, "name") {
        named(facts, name);
    }
    let folders = text.find("package_dir").and_then(|at| text[at..].split_once('{'));
    let inner = folders.and_then(|(_, rest)| rest.split('}').next()).unwrap_or_default();
    for pair in inner.split(',') {
        if let Some((_, folder)) = pair.split_once(':') {
            root(facts, folder.trim().trim_matches(['"', '\'']));
        }
    }
}

/// The literal text that is given as `name` somewhere.
fn argument<'t>(text: &'t str, name: &str) -> Option<&'t str> {
    let mut at = 0;
    loop {
        let found = at + text[at..].find(name)?;
        at = found + name.len();
        let before = text[..found].chars().next_back();
        let rest = text[at..].trim_start();
        if before.is_some_and(|c| c.is_alphanumeric() || c == '_') {
            continue;
        }
        let Some(value) = rest.strip_prefix('=').map(str::trim_start) else { continue };
        let quote = value.chars().next().filter(|c| matches!(c, '"' | '\''))?;
        return value[1..].split(quote).next();
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read(name: &str, text: &str) -> ManifestFacts {
        PythonProject.read(&ProjectPath::new(&format!("notes/{name}")), text.as_bytes())
    }

    #[test]
    fn reads_names_and_roots() {
        let text = "[project]\nname = \"phenology\"\ndependencies = [\"garden-dates>=1\"]\n[tool.setuptools.packages.find]\nwhere = [\"src\"]\n";
        let facts = read("pyproject.toml", text);
        assert_eq!((facts.label.as_str(), facts.setting("python-root")), ("phenology", Some("src")));
        assert_eq!(facts.references[0].target, "garden-dates");
        let facts = read("setup.cfg", "[metadata]\nname = phenology\n[options]\npackage_dir =\n    = src\n");
        assert_eq!((facts.label.as_str(), facts.setting("python-root")), ("phenology", Some("src")));
        let facts = read("setup.py", "setup(name='phenology', package_dir={'': 'src'})");
        assert_eq!((facts.label.as_str(), facts.setting("python-root")), ("phenology", Some("src")));
        let module = read("setup.py", "import tempfile\n\ndef main():\n    pass\n");
        assert_eq!((module.kind, module.setting("python")), ("settings", None));
        assert_eq!(read("pyproject.toml", "[tool.black]\nline-length = 90").kind, "settings");
    }
}
