//! `go.mod` and `go.work`.
//!
//! Settings: `module` (its path), `replace:PATH` (what stands for it, a folder or another path).

use super::BYTE_ORDER_MARK;
use ferngate_model::{
    ItemAction, ManifestFacts, ManifestReader, PathMention, ProjectPath, ProjectReference, Span,
};

/// `go.mod` files.
#[derive(Debug)]
pub struct GoModule;

/// `go.work` files.
#[derive(Debug)]
pub struct GoWorkspace;

impl ManifestReader for GoModule {
    fn matches(&self, file_name: &str) -> bool {
        file_name == "go.mod"
    }

    fn filled_folders(&self) -> &'static [(&'static str, &'static str)] {
        &[("vendor", "modules.txt")]
    }

    fn read(&self, path: &ProjectPath, text: &[u8]) -> ManifestFacts {
        let mut facts = ManifestFacts::of_folder(path, &["go"]);
        facts.label.clear();
        let text = super::text_of(text);
        for directive in directives(&text) {
            match (directive.word, &directive.arguments[..]) {
                ("module", [(module, _)]) => {
                    facts.name = (*module).to_owned();
                    facts.label = last_name(module).to_owned();
                    facts.settings.push(("module".to_owned(), (*module).to_owned()));
                }
                ("require", [(module, span), ..]) => {
                    let target = (*module).to_owned();
                    let (span, element) = (*span, directive.line);
                    facts.references.push(ProjectReference { target, by_name: true, span, element });
                }
                ("replace", arguments) => {
                    let arrow = arguments.iter().position(|(word, _)| *word == "=>");
                    let to = arrow.and_then(|at| arguments.get(at + 1));
                    if let (Some((from, _)), Some((to, span))) = (arguments.first(), to) {
                        facts.settings.push((format!("replace:{from}"), (*to).to_owned()));
                        // What begins so is a folder, anything else another module's path.
                        if to.starts_with("./") || to.starts_with("../") {
                            facts.mentions.push(PathMention {
                                action: ItemAction::Reference,
                                span: *span,
                                written: (*to).to_owned(),
                                element: directive.line,
                                backslashes: false,
                            });
                        }
                    }
                }
                _ => {}
            }
        }
        facts
    }
}

impl ManifestReader for GoWorkspace {
    fn matches(&self, file_name: &str) -> bool {
        file_name == "go.work"
    }

    fn read(&self, path: &ProjectPath, text: &[u8]) -> ManifestFacts {
        let mut facts =
            ManifestFacts { kind: "settings", path: Some(path.clone()), ..ManifestFacts::default() };
        let text = super::text_of(text);
        for directive in directives(&text).iter().filter(|directive| directive.word == "use") {
            let Some((folder, span)) = directive.arguments.first() else { continue };
            facts.mentions.push(PathMention {
                action: ItemAction::Member,
                span: *span,
                written: (*folder).to_owned(),
                element: directive.line,
                backslashes: false,
            });
        }
        facts
    }
}

/// One line, its word taken from the block around where it stands in one.
struct Directive<'t> {
    word: &'t str,
    arguments: Vec<(&'t str, Span)>,
    line: Span,
}

fn directives(text: &str) -> Vec<Directive<'_>> {
    let mut found = Vec::new();
    let mut block: Option<&str> = None;
    let mut at = 0;
    for line in text.split_inclusive('\n') {
        let start = at;
        at += line.len();
        let code = line.split("//").next().unwrap_or_default();
        let mut words = code.split_ascii_whitespace().map(|word| {
            let from = start + (word.as_ptr() as usize - line.as_ptr() as usize);
            (word.trim_matches(['"', '`']), Span::new(from, from + word.len()))
        });
        let whole = Span::new(start, at);
        match (block, words.next()) {
            (_, None) => {}
            (Some(_), Some((")", _))) => block = None,
            (Some(word), Some(first)) => {
                let arguments = std::iter::once(first).chain(words).collect();
                found.push(Directive { word, arguments, line: whole });
            }
            (None, Some((word, _))) => {
                let word = word.trim_start_matches(BYTE_ORDER_MARK);
                let arguments: Vec<(&str, Span)> = words.collect();
                if arguments.first().is_some_and(|(first, _)| *first == "(") {
                    block = Some(word);
                } else {
                    found.push(Directive { word, arguments, line: whole });
                }
            }
        }
    }
    found
}

/// What people call the module of this path: its last part, but for that of a later version, `moss/rain/v2` or
/// `moss/rain.v2`.
fn last_name(module: &str) -> &str {
    let is_version = |part: &str| {
        part.strip_prefix('v')
            .is_some_and(|number| !number.is_empty() && number.bytes().all(|byte| byte.is_ascii_digit()))
    };
    let whole = match module.rsplit_once('/') {
        Some((before, last)) if is_version(last) => before,
        _ => module,
    };
    let last = whole.rsplit('/').next().unwrap_or(whole);
    match last.rsplit_once('.') {
        Some((name, version)) if is_version(version) => name,
        _ => last,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_modules_and_replacements() {
        let text = b"module mossgrove.example/rain // gauges\n\ngo 1.21\n\nrequire (\n\tmossgrove.example/tides v1.0.0\n)\nreplace mossgrove.example/tides => ../tides\n";
        let facts = GoModule.read(&ProjectPath::new("rain/go.mod"), text);
        assert_eq!(facts.setting("module"), Some("mossgrove.example/rain"));
        assert_eq!(facts.label, "rain");
        assert_eq!(
            ["moss.org/rain/v2", "moss.org/rain.v3", "rain", "v2"].map(last_name),
            ["rain", "rain", "rain", "v2"]
        );
        assert_eq!(facts.references[0].target, "mossgrove.example/tides");
        assert_eq!(facts.setting("replace:mossgrove.example/tides"), Some("../tides"));
        let facts =
            GoWorkspace.read(&ProjectPath::new("go.work"), b"go 1.21\nuse (\n\t./rain\n\t./tides\n)\n");
        assert_eq!(facts.mentions.len(), 2);
    }
}
