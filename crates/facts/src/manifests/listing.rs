//! Files that list other files: any XML, JSON, YAML, TOML or INI file that names code by its path, such as an editor's
//! project, the configuration of a test runner, a pipeline.
//!
//! Nothing is known of their form. What looks like the path of a code file is noted; whether the file is a list, and
//! which of its paths lead nowhere, is told from the files that are there.

use crate::languages::language_of;
use crate::linking::looks_like_path;
use ferngate_model::{ItemAction, ManifestFacts, ManifestReader, PathMention, ProjectPath, Span};

/// Files in forms that lists are written in.
#[derive(Debug)]
pub struct Listing;

/// Endings of such files.
const ENDINGS: &[&str] =
    &[".xml", ".json", ".yaml", ".yml", ".toml", ".ini", ".cfg", ".iml", ".neon", ".dist"];
/// Names of files that list packages outside, thousands of lines long.
const LOCKS: &[&str] = &["package-lock.json", "npm-shrinkwrap.json", "pnpm-lock.yaml", "cargo.lock"];
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
        let mut start = 0;
        for word in text.split(|byte| ends_path(*byte)) {
            let at = start;
            start += word.len() + 1;
            if facts.mentions.len() < LONGEST && names_code(word) {
                let span = Span::new(at, at + word.len());
                let written = String::from_utf8_lossy(word).into_owned();
                let backslashes = word.contains(&b'\\');
                let action = ItemAction::Content;
                facts.mentions.push(PathMention { action, span, written, element: span, backslashes });
            }
        }
        facts
    }
}

/// Whether a path ends before this byte.
fn ends_path(byte: u8) -> bool {
    byte.is_ascii_whitespace()
        || matches!(
            byte,
            b'"' | b'\'' | b'<' | b'>' | b'=' | b',' | b';' | b'(' | b')' | b'[' | b']' | b'{' | b'}' | b':'
        )
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
}
