//! `DESCRIPTION` of a package of R: its name and what it declares to use; `NAMESPACE` beside it: whose names its code
//! uses as if they were its own.

use super::BYTE_ORDER_MARK;
use ferngate_model::{ManifestFacts, ManifestReader, ProjectPath, ProjectReference, Span};

/// `DESCRIPTION` files.
#[derive(Debug)]
pub struct Description;

impl ManifestReader for Description {
    fn matches(&self, file_name: &str) -> bool {
        file_name == "description"
    }

    fn read(&self, path: &ProjectPath, text: &[u8]) -> ManifestFacts {
        let text = super::text_of(text);
        let mut facts =
            ManifestFacts { kind: "settings", path: Some(path.clone()), ..ManifestFacts::default() };
        let mut field = "";
        let mut at = 0;
        for line in text.split_inclusive('\n') {
            let start = at;
            at += line.len();
            let mut value = (line, start);
            if !line.starts_with([' ', '\t'])
                && let Some((name, rest)) = line.split_once(':')
            {
                field = name.trim_start_matches(BYTE_ORDER_MARK);
                value = (rest, start + name.len() + 1);
            }
            match field {
                "Package" if facts.kind == "settings" => {
                    facts.kind = "project";
                    facts.name = value.0.trim().to_owned();
                    facts.label.clone_from(&facts.name);
                    facts.takes_all = true;
                    facts.open = true;
                    facts.extensions = &["R", "r"];
                }
                "Depends" | "Imports" | "Suggests" | "LinkingTo" => packages(&mut facts, value),
                _ => {}
            }
        }
        facts
    }
}

/// `NAMESPACE` files. Each setting `import:PACKAGE` is a name that is taken from it; empty for all of them. Each setting
/// `export` is a name that others may take; empty where a pattern says so of many.
#[derive(Debug)]
pub struct Namespace;

impl ManifestReader for Namespace {
    fn matches(&self, file_name: &str) -> bool {
        file_name == "namespace"
    }

    fn read(&self, path: &ProjectPath, text: &[u8]) -> ManifestFacts {
        let text = super::text_of(text);
        let mut facts =
            ManifestFacts { kind: "settings", path: Some(path.clone()), ..ManifestFacts::default() };
        let code: Vec<&str> = text.lines().map(|line| line.split('#').next().unwrap_or_default()).collect();
        let code = code.join("\n");
        let mut rest = code.as_str();
        while let Some(open) = rest.find('(') {
            let directive = rest[..open].rsplit(|c: char| !c.is_alphanumeric()).next().unwrap_or_default();
            let close = rest[open..].find(')').map_or(rest.len(), |at| open + at);
            let plain = |name: &str| name.trim().trim_matches(['"', '\'', '`']).to_owned();
            let mut names = rest[open + 1..close].split(',').map(plain).filter(|name| !name.is_empty());
            match directive {
                "import" => {
                    let packages = names.filter(|name| !name.contains('='));
                    facts.settings.extend(packages.map(|name| (format!("import:{name}"), String::new())));
                }
                "importFrom" => {
                    if let Some(package) = names.next() {
                        facts.settings.extend(names.map(|name| (format!("import:{package}"), name)));
                    }
                }
                "export" | "exportMethods" | "exportClass" | "exportClasses" => {
                    facts.settings.extend(names.map(|name| ("export".to_owned(), name)));
                }
                "exportPattern" | "exportClassPattern" => {
                    facts.settings.push(("export".to_owned(), String::new()));
                }
                _ => {}
            }
            rest = &rest[close.min(rest.len() - 1) + 1..];
        }
        facts
    }
}

/// Names with commas between, versions in parentheses.
fn packages(facts: &mut ManifestFacts, (value, start): (&str, usize)) {
    for entry in value.split(',') {
        let name = entry.split('(').next().unwrap_or_default().trim();
        if !name.is_empty() && name != "R" && !name.contains(char::is_whitespace) {
            let from = start + (name.as_ptr() as usize - value.as_ptr() as usize);
            let span = Span::new(from, from + name.len());
            let target = name.to_owned();
            facts.references.push(ProjectReference { target, by_name: true, span, element: span });
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_what_code_takes_from_other_packages() {
        let text = b"# made by hand\nexport(bloom)\nexportClasses(Bloom); exportPattern(\"^[a-z]+\")\nimport(stats, gardendates)\nimportFrom(\"beds\",\n  row, 'width')\nimportFrom(";
        let facts = Namespace.read(&ProjectPath::new("survey/NAMESPACE"), text);
        let settings: Vec<(&str, &str)> = facts.settings_of("import:").collect();
        assert_eq!(settings, [("stats", ""), ("gardendates", ""), ("beds", "row"), ("beds", "width")]);
        let exported: Vec<(&str, &str)> = facts.settings_of("export").collect();
        assert_eq!(exported, [("", "bloom"), ("", "Bloom"), ("", "")]);
    }

    #[test]
    fn reads_name_and_packages() {
        let text = b"Package: bloomsurvey\nTitle: Blooms\nImports:\n    gardendates (>= 1.0),\n    stats\nDepends: R (>= 4.0)\n";
        let facts = Description.read(&ProjectPath::new("survey/DESCRIPTION"), text);
        assert_eq!((facts.kind, facts.label.as_str()), ("project", "bloomsurvey"));
        let names: Vec<&str> = facts.references.iter().map(|reference| reference.target.as_str()).collect();
        assert_eq!(names, ["gardendates", "stats"]);
        let span = facts.references[0].span;
        assert_eq!(&text[span.start as usize..span.end as usize], b"gardendates");
    }
}
