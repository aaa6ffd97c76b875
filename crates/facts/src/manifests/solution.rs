//! Solutions: `.sln` line by line, `.slnx` as XML. Both list projects by path.

use crate::xml::{Piece, decode, pieces, whole_lines};
use ferngate_model::{ItemAction, ManifestFacts, ManifestReader, PathMention, ProjectPath, Span};

/// `.sln` files.
#[derive(Debug)]
pub struct Solution;

/// `.slnx` files.
#[derive(Debug)]
pub struct XmlSolution;

fn empty(path: &ProjectPath) -> ManifestFacts {
    ManifestFacts {
        freely_named: true,
        kind: "solution",
        path: Some(path.clone()),
        name: path.stem().to_owned(),
        ..ManifestFacts::default()
    }
}

fn member(facts: &mut ManifestFacts, text: &[u8], span: Span, element: Span) {
    let written = decode(span.of(text));
    let backslashes = written.contains('\\');
    facts.mentions.push(PathMention { action: ItemAction::Member, span, written, element, backslashes });
}

/// Whether a listed path is a project's file rather than a folder that only groups.
fn is_project_file(written: &[u8]) -> bool {
    written.to_ascii_lowercase().ends_with(b"proj")
}

impl ManifestReader for Solution {
    fn matches(&self, file_name: &str) -> bool {
        file_name.ends_with(".sln")
    }

    fn read(&self, path: &ProjectPath, text: &[u8]) -> ManifestFacts {
        let mut facts = empty(path);
        let mut start = 0;
        for line in text.split_inclusive(|&byte| byte == b'\n') {
            if line.trim_ascii_start().starts_with(b"Project(") {
                // Project("{type}") = "Name", "path", "{id}": the path is the third quoted text
                let quotes: Vec<usize> = memchr::memchr_iter(b'"', line).collect();
                if let [_, _, _, _, from, to, ..] = quotes[..]
                    && is_project_file(&line[from + 1..to])
                {
                    let span = Span::new(start + from + 1, start + to);
                    member(&mut facts, text, span, Span::new(start, start + line.len()));
                }
            }
            start += line.len();
        }
        facts
    }
}

impl ManifestReader for XmlSolution {
    fn matches(&self, file_name: &str) -> bool {
        file_name.ends_with(".slnx")
    }

    fn read(&self, path: &ProjectPath, text: &[u8]) -> ManifestFacts {
        let mut facts = empty(path);
        for piece in pieces(text) {
            if let Piece::Open { attributes, span, .. } = piece {
                let listed = attributes.iter().find(|attribute| attribute.name.of(text) == b"Path");
                if let Some(listed) = listed.filter(|listed| is_project_file(listed.value.of(text))) {
                    member(&mut facts, text, listed.value, whole_lines(text, span));
                }
            }
        }
        facts
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lists_projects_but_not_folders() {
        let text = b"Project(\"{FAE0}\") = \"Visits\", \"src\\Visits\\Visits.csproj\", \"{1}\"\r\nEndProject\r\nProject(\"{2150}\") = \"docs\", \"docs\", \"{2}\"\r\n";
        let facts = Solution.read(&ProjectPath::new("Mossgrove.sln"), text);
        assert_eq!(facts.mentions.len(), 1);
        assert_eq!(facts.mentions[0].written, "src\\Visits\\Visits.csproj");
        let facts = XmlSolution.read(
            &ProjectPath::new("Mossgrove.slnx"),
            b"<Solution><Folder Name=\"/a/\"><Project Path=\"src/Visits/Visits.csproj\" /></Folder></Solution>",
        );
        assert_eq!(facts.mentions[0].written, "src/Visits/Visits.csproj");
    }
}
