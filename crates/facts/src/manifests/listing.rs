//! Files that list other files or name code: any XML, JSON, YAML, TOML, INI or properties file that names code by its
//! path, such as an editor's project, the configuration of a test runner, a pipeline, or by its full name, such as what
//! wires an application together.
//!
//! Nothing is known of their form. What looks like the path of a code file or like a full name is noted; whether the
//! file is a list, which of its paths lead nowhere, and which names mean something is told from what is there.

use crate::languages::language_of;
use crate::linking::looks_like_path;
use ferngate_model::{
    ItemAction, ManifestFacts, ManifestReader, NameMention, PathMention, ProjectPath, Span,
};

/// Files in forms that lists are written in.
#[derive(Debug)]
pub struct Listing;

/// Endings of such files.
const ENDINGS: &[&str] =
    &[".xml", ".json", ".yaml", ".yml", ".toml", ".ini", ".cfg", ".iml", ".neon", ".dist", ".properties"];
/// Those of them in which a line that begins with `#` is a comment: what it names was there when it was written.
const COMMENTED: &[&str] = &[".yaml", ".yml", ".toml", ".ini", ".cfg", ".neon", ".properties"];
/// Names of files that list packages outside, thousands of lines long.
const LOCKS: &[&str] = &["package-lock.json", "npm-shrinkwrap.json", "pnpm-lock.yaml", "cargo.lock"];
/// No path of code, and no full name, is shorter.
const SHORTEST: usize = 3;
/// Larger files hold data.
const LARGEST: usize = 400_000;
/// No list of names is longer than this.
const LONGEST: usize = 5_000;

impl ManifestReader for Listing {
    fn matches(&self, file_name: &str) -> bool {
        ENDINGS.iter().any(|ending| file_name.ends_with(ending)) && !LOCKS.contains(&file_name)
    }

    fn read(&self, path: &ProjectPath, text: &[u8]) -> ManifestFacts {
        let mut facts = ManifestFacts { kind: "list", path: Some(path.clone()), ..ManifestFacts::default() };
        if text.len() > LARGEST {
            return facts;
        }
        let has_comments = COMMENTED.iter().any(|ending| path.as_str().ends_with(ending));
        let mut start = 0;
        let mut comment_end = 0;
        for word in text.split(|byte| ENDS[*byte as usize]) {
            let at = start;
            start += word.len() + 1;
            // Most words of a text are neither.
            if word.len() < SHORTEST && !word.starts_with(b"#") || at < comment_end {
                continue;
            }
            if has_comments && word.starts_with(b"#") && begins_line(text, at) {
                comment_end = memchr::memchr(b'\n', &text[at..]).map_or(text.len(), |end| at + end);
                continue;
            }
            if facts.mentions.len() < LONGEST && names_code(word) {
                let span = Span::new(at, at + word.len());
                let written = String::from_utf8_lossy(word).into_owned();
                let backslashes = word.contains(&b'\\');
                let action = ItemAction::Content;
                facts.mentions.push(PathMention { action, span, written, element: span, backslashes });
            } else if facts.names.len() < LONGEST
                && let Some(written) = full_name(word)
            {
                facts
                    .names
                    .push(NameMention { span: Span::new(at, at + written.len()), written: written.into() });
            }
        }
        facts
    }
}

/// Whether nothing but blanks stands before `at` in its line.
fn begins_line(text: &[u8], at: usize) -> bool {
    let before = text[..at].iter().rev().find(|byte| !matches!(byte, b' ' | b'\t'));
    before.is_none_or(|byte| matches!(byte, b'\n' | b'\r'))
}

/// For each byte, whether a path or name ends before it.
static ENDS: [bool; 256] = {
    let mut ends = [false; 256];
    let marks = b" \t\n\r\x0c\"'<>=,;()[]{}:";
    let mut at = 0;
    while at < marks.len() {
        ends[marks[at] as usize] = true;
        at += 1;
    }
    ends
};

/// `word` as a full name of a type: parts with dots or backslashes between, the last of which begins with a capital
/// letter.
pub(super) fn full_name(word: &[u8]) -> Option<&str> {
    let last = word.iter().rposition(|byte| matches!(byte, b'.' | b'\\'))? + 1;
    if !word.get(last)?.is_ascii_uppercase() {
        return None;
    }
    let separator = word[last - 1];
    let is_part = |part: &[u8]| {
        // In JSON each backslash is written twice.
        part.first().map_or(separator == b'\\', |first| !first.is_ascii_digit())
            && part.iter().all(|byte| byte.is_ascii_alphanumeric() || matches!(byte, b'_' | b'$'))
    };
    if !word.split(|byte| *byte == separator).all(is_part) {
        return None;
    }
    std::str::from_utf8(word).ok()
}

fn names_code(word: &[u8]) -> bool {
    let Some(dot) = word.iter().rposition(|byte| *byte == b'.') else { return false };
    if word.len() - dot > 7 || !word[..dot].iter().any(|byte| matches!(byte, b'/' | b'\\')) {
        return false;
    }
    let extension = std::str::from_utf8(&word[dot + 1..]).unwrap_or_default();
    let plain: Vec<u8> = word.iter().map(|byte| if *byte == b'\\' { b'/' } else { *byte }).collect();
    language_of(extension).is_some()
        && looks_like_path(&plain)
        && !plain.starts_with(b"/")
        && !plain.starts_with(b"@")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn notes_paths_of_code() {
        let text = b"<files>\n  <file name=\"src/Tour.cs\" url='https://moss.example/x.cs'/>\n  - apps\\Desk\\Main.cs\n  v1.2/x, {a: notes/*.py}\n</files>";
        let facts = Listing.read(&ProjectPath::new("build.xml"), text);
        let written: Vec<&str> = facts.mentions.iter().map(|mention| mention.written.as_str()).collect();
        assert_eq!(written, ["src/Tour.cs", "apps\\Desk\\Main.cs"]);
    }

    #[test]
    fn passes_over_comments() {
        let text = b"# ../src/Bed.java:12\nbed = src/Row.java # src/Plot.java\n  #: src/Tour.java";
        let written = |path: &str| -> Vec<String> {
            let facts = Listing.read(&ProjectPath::new(path), text);
            facts.mentions.into_iter().map(|mention| mention.written).collect()
        };
        assert_eq!(written("words.properties"), ["src/Row.java", "src/Plot.java"]);
        assert_eq!(written("words.xml").len(), 4);
    }

    #[test]
    fn notes_full_names() {
        let text = b"<bean class=\"org.moss.valves.Valve\"/> moss.plan=org.moss.Plan$Week\nApp\\Letters\\Post 1.2.X README.MD v1.0";
        let facts = Listing.read(&ProjectPath::new("wiring.xml"), text);
        let written: Vec<&str> = facts.names.iter().map(|name| &*name.written).collect();
        assert_eq!(
            written,
            ["org.moss.valves.Valve", "org.moss.Plan$Week", "App\\Letters\\Post", "README.MD"]
        );
    }
}
