//! Gradle's settings and build files in both dialects, read as text and never run: `include(":a:b")` and
//! `project(":a:b")` with literal names.
//!
//! Not known: what plugins, functions and loops of a build file add; so a project may use more than is declared here.

use ferngate_model::{
    ItemAction, ManifestFacts, ManifestReader, PathMention, ProjectPath, ProjectReference, Span,
};

/// `build.gradle`, `settings.gradle` and their `.kts` forms.
#[derive(Debug)]
pub struct Gradle;

impl ManifestReader for Gradle {
    fn matches(&self, file_name: &str) -> bool {
        matches!(file_name, "build.gradle" | "build.gradle.kts" | "settings.gradle" | "settings.gradle.kts")
    }

    fn read(&self, path: &ProjectPath, text: &[u8]) -> ManifestFacts {
        let is_build = path.file_name().starts_with("build");
        let folder = path.parent();
        let mut facts = ManifestFacts {
            kind: if is_build { "project" } else { "solution" },
            path: Some(path.clone()),
            name: format!(":{}", folder.replace('/', ":")),
            label: folder.rsplit('/').next().unwrap_or_default().to_owned(),
            takes_all: is_build,
            transitive: true,
            open: true,
            ..ManifestFacts::default()
        };
        let placed = places(text);
        for (call, span) in literals(text) {
            let written = String::from_utf8_lossy(span.of(text)).into_owned();
            let element = line_around(text, span);
            match call {
                Call::Project if is_build => {
                    facts.references.push(ProjectReference { target: written, by_name: true, span, element });
                }
                Call::Include if !is_build && !placed.contains(&written) => {
                    let folder = written.trim_start_matches(':').replace(':', "/");
                    facts.mentions.push(PathMention {
                        action: ItemAction::Member,
                        span,
                        written: folder,
                        element,
                        backslashes: false,
                    });
                }
                _ => {}
            }
        }
        if let (false, Some(name)) = (is_build, root_name(text)) {
            facts.label = name;
        }
        facts
    }
}

#[derive(Clone, Copy, PartialEq)]
enum Call {
    Project,
    Include,
}

/// Literal texts that are arguments of `include` and `project`.
fn literals(text: &[u8]) -> Vec<(Call, Span)> {
    let mut found = Vec::new();
    let mut at = 0;
    let mut call: Option<Call> = None;
    // A comma stands behind the last text.
    let mut goes_on = false;
    while at < text.len() {
        match text[at] {
            b'/' if text[at..].starts_with(b"//") => {
                at += memchr::memchr(b'\n', &text[at..]).unwrap_or(text.len() - at);
            }
            b'/' if text[at..].starts_with(b"/*") => {
                at += memchr::memmem::find(&text[at..], b"*/").map_or(text.len() - at, |end| end + 2);
            }
            quote @ (b'"' | b'\'') => {
                let start = at + 1;
                let length = memchr::memchr2(quote, b'\n', &text[start.min(text.len())..]);
                let end = length.map_or(text.len(), |length| start + length);
                if let Some(call) = call
                    && text.get(end) == Some(&quote)
                {
                    found.push((call, Span::new(start, end)));
                }
                (goes_on, at) = (false, end + 1);
            }
            byte if byte.is_ascii_alphabetic() => {
                let length = text[at..].iter().take_while(|byte| byte.is_ascii_alphanumeric()).count();
                call = match &text[at..at + length] {
                    b"include" => Some(Call::Include),
                    b"project" => Some(Call::Project),
                    b"path" => call,
                    _ => None,
                };
                at += length;
            }
            // A list goes on over commas, line ends and parentheses.
            byte @ (b',' | b'(') => (goes_on, at) = (byte == b',' || goes_on, at + 1),
            b'\n' => {
                if !goes_on {
                    call = None;
                }
                at += 1;
            }
            b' ' | b'\t' | b'\r' | b':' => at += 1, // `project(path: ":a")`
            _ => {
                call = None;
                at += 1;
            }
        }
    }
    found
}

/// Names of projects that are given a folder of their own: `project(":a").projectDir = …`.
fn places(text: &[u8]) -> Vec<String> {
    let mut found = Vec::new();
    for (call, span) in literals(text) {
        let line_end = memchr::memchr(b'\n', &text[span.end as usize..]).unwrap_or(0) + span.end as usize;
        let rest = &text[span.end as usize..line_end];
        if call == Call::Project && memchr::memmem::find(rest, b"projectDir").is_some() {
            found.push(String::from_utf8_lossy(span.of(text)).into_owned());
        }
    }
    found
}

/// The text in `rootProject.name = "Garden"`.
fn root_name(text: &[u8]) -> Option<String> {
    let at = memchr::memmem::find(text, b"rootProject.name")?;
    let rest = &text[at..];
    let open = memchr::memchr2(b'"', b'\'', rest)?;
    let close = memchr::memchr2(b'"', b'\'', &rest[open + 1..])?;
    Some(String::from_utf8_lossy(&rest[open + 1..open + 1 + close]).into_owned())
}

fn line_around(text: &[u8], span: Span) -> Span {
    let start = memchr::memrchr(b'\n', &text[..span.start as usize]).map_or(0, |at| at + 1);
    let end =
        memchr::memchr(b'\n', &text[span.end as usize..]).map_or(text.len(), |at| span.end as usize + at + 1);
    Span::new(start, end)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_includes_and_projects() {
        let settings = b"rootProject.name = 'Garden'\ninclude ':valves', // first\n  ':plan:weekly'\nproject(':valves').projectDir = file('v')\n";
        let facts = Gradle.read(&ProjectPath::new("settings.gradle"), settings);
        let members: Vec<&str> = facts.mentions.iter().map(|mention| mention.written.as_str()).collect();
        assert_eq!((members, facts.label.as_str()), (vec!["plan/weekly"], "Garden"));
        let build = b"dependencies {\n  implementation(project(\":valves\"))\n  compile project(path: ':plan:weekly')\n  api(\"org:x:1\")\n}\n";
        let facts = Gradle.read(&ProjectPath::new("app/build.gradle.kts"), build);
        let targets: Vec<&str> = facts.references.iter().map(|r| r.target.as_str()).collect();
        assert_eq!((targets, facts.name.as_str()), (vec![":valves", ":plan:weekly"], ":app"));
    }
}
