//! The configuration of PHP's usual test runner: the folders and files of its suites, and what it starts with.

use crate::xml::{Piece, pieces};
use ferngate_model::{ItemAction, ManifestFacts, ManifestReader, PathMention, ProjectPath, Span};

/// `phpunit.xml`, with the endings that mark it as a default.
#[derive(Debug)]
pub struct PhpUnit;

/// Elements whose text is a path.
const PATHS: &[&[u8]] = &[b"directory", b"file", b"exclude"];
/// The element that names what is left out: tools fill some of that.
const EXCLUDES: &[u8] = b"exclude";
/// Attributes of the outermost element that are paths.
const SETTINGS: &[&[u8]] = &[b"bootstrap"];

impl ManifestReader for PhpUnit {
    fn matches(&self, file_name: &str) -> bool {
        matches!(file_name, "phpunit.xml" | "phpunit.xml.dist" | "phpunit.dist.xml")
    }

    fn read(&self, path: &ProjectPath, text: &[u8]) -> ManifestFacts {
        let mut facts =
            ManifestFacts { kind: "configuration", path: Some(path.clone()), ..ManifestFacts::default() };
        let mut open = Span::default();
        // How many elements are open inside of the outermost one that excludes what it names, with that.
        let mut excluding = 0usize;
        for piece in pieces(text) {
            match piece {
                Piece::Open { name, attributes, empty, .. } => {
                    open = name;
                    if !empty && (excluding > 0 || name.of(text) == EXCLUDES) {
                        excluding += 1;
                    }
                    let paths = attributes.iter().filter(|found| SETTINGS.contains(&found.name.of(text)));
                    facts.mentions.extend(paths.map(|found| mention(text, found.value)));
                }
                Piece::Text(span) if PATHS.contains(&open.of(text)) => {
                    let mut mention = mention(text, trimmed(text, span));
                    if excluding > 0 {
                        mention.action = ItemAction::Exclude;
                    }
                    facts.mentions.push(mention);
                }
                Piece::Text(_) => {}
                Piece::Close { .. } => {
                    open = Span::default();
                    excluding = excluding.saturating_sub(1);
                }
            }
        }
        facts
    }
}

fn mention(text: &[u8], span: Span) -> PathMention {
    let written = String::from_utf8_lossy(span.of(text)).trim_end_matches('/').to_owned();
    PathMention { action: ItemAction::Content, span, written, element: span, backslashes: false }
}

/// `span` without the blanks at its ends.
fn trimmed(text: &[u8], span: Span) -> Span {
    let inside = span.of(text);
    let start = span.start as usize + inside.len() - inside.trim_ascii_start().len();
    Span::new(start, start + inside.trim_ascii().len())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_the_paths_of_suites() {
        let text = br#"<phpunit bootstrap="tests/start.php"><testsuites><testsuite name="all">
            <directory suffix="Test.php"> tests/letters/ </directory><file>tests/One.php</file></testsuite></testsuites></phpunit>"#;
        let facts = PhpUnit.read(&ProjectPath::new("phpunit.xml.dist"), text);
        let written: Vec<&str> = facts.mentions.iter().map(|mention| mention.written.as_str()).collect();
        assert_eq!(written, ["tests/start.php", "tests/letters", "tests/One.php"]);
        assert_eq!(facts.mentions[1].span.of(text), b"tests/letters/");
    }
}
