//! Composer's `composer.json`: its own name, where namespaces lie in folders, listed files, required packages.

use ferngate_model::{
    ItemAction, ManifestFacts, ManifestReader, PathMention, Problem, ProjectPath, ProjectReference, Span,
};
use serde_json::Value;

/// `composer.json` files.
#[derive(Debug)]
pub struct Composer;

impl ManifestReader for Composer {
    fn matches(&self, file_name: &str) -> bool {
        file_name == "composer.json"
    }

    fn filled_folders(&self) -> &'static [(&'static str, &'static str)] {
        &[("vendor", "autoload.php"), ("vendor", "composer/installed.json")]
    }

    fn read(&self, path: &ProjectPath, text: &[u8]) -> ManifestFacts {
        let mut facts = ManifestFacts::of_folder(path, &["php"]);
        // What a package provides or replaces is known to Composer only.
        facts.open = true;
        let root: Value = match serde_json::from_slice(text) {
            Ok(root) => root,
            Err(error) => {
                let text = format!("is no JSON that can be read: {error}");
                facts.problems.push(Problem { span: Span::new(0, 0), text });
                return facts;
            }
        };
        if let Some(name) = root.get("name").and_then(Value::as_str) {
            facts.name = name.to_owned();
            facts.label = name.rsplit('/').next().unwrap_or(name).to_owned();
        }
        for section in ["autoload", "autoload-dev"] {
            let Some(section) = root.get(section) else { continue };
            namespaces(&mut facts, section, "psr-4", false);
            namespaces(&mut facts, section, "psr-0", true);
            for list in ["classmap", "files"] {
                let listed = texts(section.get(list));
                facts.mentions.extend(listed.iter().filter_map(|listed| mention(text, listed)));
            }
        }
        let repositories = path_repositories(&root).into_iter();
        facts.mentions.extend(repositories.filter_map(|folder| mention(text, folder)));
        for section in ["require", "require-dev"] {
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
}

/// Namespaces and the folders that hold them. With `psr-0` the whole namespace is spelled by folders below.
fn namespaces(facts: &mut ManifestFacts, section: &Value, key: &str, whole: bool) {
    let Some(Value::Object(roots)) = section.get(key) else { return };
    for (namespace, folders) in roots {
        for folder in texts(Some(folders)) {
            let folder = folder.trim_matches('/').trim_start_matches("./").to_owned();
            let namespace = if whole { "" } else { namespace.trim_matches('\\') };
            let folder = if folder == "." { String::new() } else { folder };
            facts.namespace_folders.push((folder, namespace.to_owned()));
        }
    }
}

/// Folders that `repositories` takes packages from.
fn path_repositories(root: &Value) -> Vec<&str> {
    let listed: Vec<&Value> = match root.get("repositories") {
        Some(Value::Array(items)) => items.iter().collect(),
        Some(Value::Object(items)) => items.values().collect(),
        _ => Vec::new(),
    };
    let of_path = listed.into_iter().filter(|item| item.get("type").and_then(Value::as_str) == Some("path"));
    of_path.filter_map(|item| item.get("url")?.as_str()).collect()
}

/// A text, or a list of texts.
fn texts(value: Option<&Value>) -> Vec<String> {
    match value {
        Some(Value::String(text)) => vec![text.clone()],
        Some(Value::Array(items)) => {
            items.iter().filter_map(|item| item.as_str().map(str::to_owned)).collect()
        }
        _ => Vec::new(),
    }
}

/// The path `listed`, where it stands in quotes.
fn mention(text: &[u8], listed: &str) -> Option<PathMention> {
    let span = quoted(text, listed)?;
    let written = listed.trim_end_matches('/').to_owned();
    Some(PathMention { action: ItemAction::Content, span, written, element: span, backslashes: false })
}

/// Where `value` stands in quotes; slashes may be written with a backslash before them.
fn quoted(text: &[u8], value: &str) -> Option<Span> {
    [value.to_owned(), value.replace('/', "\\/")].iter().find_map(|written| {
        let quoted = format!("\"{written}\"");
        let at = memchr::memmem::find(text, quoted.as_bytes())?;
        Some(Span::new(at + 1, at + 1 + written.len()))
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_folders_lists_and_packages() {
        let text = br#"{ "name": "mossgrove/letters", "repositories": [{ "type": "path", "url": "../members/" }], "require": { "mossgrove/members": "*" },
            "autoload": { "psr-4": { "Mossgrove\\Letters\\": ["src/", "extra"] }, "files": ["src\/help.php"] } }"#;
        let facts = Composer.read(&ProjectPath::new("letters/composer.json"), text);
        assert_eq!(facts.label, "letters");
        let folders: Vec<(&str, &str)> =
            facts.namespace_folders.iter().map(|(folder, name)| (folder.as_str(), name.as_str())).collect();
        assert_eq!(folders, [("src", "Mossgrove\\Letters"), ("extra", "Mossgrove\\Letters")]);
        let written: Vec<&str> = facts.mentions.iter().map(|mention| mention.written.as_str()).collect();
        assert_eq!(written, ["src/help.php", "../members"]);
        assert_eq!(facts.references[0].target, "mossgrove/members");
        assert_eq!(Composer.read(&ProjectPath::new("composer.json"), b"{").problems.len(), 1);
    }
}
