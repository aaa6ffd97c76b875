//! Gradle's settings and build files in both dialects, read as text and never run: `include(":a:b")` and
//! `project(":a:b")` with literal names.
//!
//! Not known: what plugins, functions and loops of a build file add; so a project may use more than is declared here.

use ferngate_model::{
    ItemAction, ManifestFacts, ManifestReader, PLACE, PathMention, ProjectPath, ProjectReference, Span,
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
        let (placed, computed) = (places(text), computes_places(text));
        for (call, span) in literals(text) {
            let written = String::from_utf8_lossy(span.of(text)).into_owned();
            let element = line_around(text, span);
            match call {
                Call::Project if is_build => {
                    facts.references.push(ProjectReference { target: written, by_name: true, span, element });
                }
                Call::Include if !is_build => {
                    let own = written.trim_start_matches(':').replace(':', "/");
                    let place = placed.iter().find(|place| place.name == written);
                    let (folder, span) = match place {
                        // A folder that code computes is not known.
                        Some(Place { folder: None, .. }) => continue,
                        Some(Place { folder: Some((folder, span)), .. }) => (folder.clone(), *span),
                        None if computed => continue,
                        None => (own, span),
                    };
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
        for place in placed.into_iter().filter(|_| !is_build) {
            if let Some((folder, _)) = place.folder {
                facts.settings.push((format!("{PLACE}{}", place.name), folder));
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

/// A project that is given a folder of its own: `project(":a").projectDir = file("x/a")`.
struct Place {
    name: String,
    /// The folder, where it is literal, and the text that states it.
    folder: Option<(String, Span)>,
}

fn places(text: &[u8]) -> Vec<Place> {
    let mut found = Vec::new();
    for (call, span) in literals(text) {
        let end = span.end as usize;
        let line_end = memchr::memchr(b'\n', &text[end..]).map_or(text.len(), |at| end + at);
        let Some(at) = memchr::memmem::find(&text[end..line_end], b"projectDir") else { continue };
        if call == Call::Project {
            let name = String::from_utf8_lossy(span.of(text)).into_owned();
            found.push(Place { name, folder: literal_folder(text, end + at, line_end) });
        }
    }
    found
}

/// Whether code gives projects their folders that it does not name: `children.each { it.projectDir = … }`.
fn computes_places(text: &[u8]) -> bool {
    text.split(|byte| *byte == b'\n').any(|line| {
        let set = memchr::memmem::find(line, b"projectDir").map(|at| line[at + 10..].trim_ascii_start());
        set.is_some_and(|rest| rest.starts_with(b"=") && !rest.starts_with(b"=="))
            && memchr::memmem::find(line, b"project(").is_none()
    })
}

/// The text in quotes between `from` and `to`, below the folder of the settings.
fn literal_folder(text: &[u8], from: usize, to: usize) -> Option<(String, Span)> {
    let open = memchr::memchr2(b'"', b'\'', &text[from..to])? + from;
    let close = memchr::memchr(text[open], &text[open + 1..to])? + open + 1;
    let written = String::from_utf8_lossy(&text[open + 1..close]).into_owned();
    let root = ["$rootDir/", "${rootDir}/", "$rootDir", "${rootDir}"];
    let prefix = root.iter().find(|prefix| written.starts_with(**prefix)).map_or(0, |prefix| prefix.len());
    let folder = written[prefix..].trim_start_matches("./").trim_end_matches('/').to_owned();
    let span = Span::new(open + 1 + prefix, close);
    (!folder.contains('$')).then_some((folder, span))
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
        assert_eq!((members, facts.label.as_str()), (vec!["v", "plan/weekly"], "Garden"));
        assert_eq!(facts.setting("place::valves"), Some("v"));
        let loops = b"include 'valves'\nrootProject.children.each {\n  it.projectDir = new File(settingsDir, \"parts/${it.name}\")\n}\n";
        assert!(Gradle.read(&ProjectPath::new("settings.gradle"), loops).mentions.is_empty());
        let build = b"dependencies {\n  implementation(project(\":valves\"))\n  compile project(path: ':plan:weekly')\n  api(\"org:x:1\")\n}\n";
        let facts = Gradle.read(&ProjectPath::new("app/build.gradle.kts"), build);
        let targets: Vec<&str> = facts.references.iter().map(|r| r.target.as_str()).collect();
        assert_eq!((targets, facts.name.as_str()), (vec![":valves", ":plan:weekly"], ":app"));
    }
}
