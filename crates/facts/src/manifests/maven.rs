//! Maven's `pom.xml`: its own name, the modules that it lists, the dependencies that it declares.
//!
//! Coordinates are matched by artifact name; properties are not expanded, profiles count as if all were on.

use crate::xml::{Piece, decode, local_name, pieces};
use ferngate_model::{
    INHERITED, INHERITED_AT, ItemAction, ManifestFacts, ManifestReader, PathMention, ProjectPath,
    ProjectReference, Span,
};

/// `pom.xml` files.
#[derive(Debug)]
pub struct Maven;

impl ManifestReader for Maven {
    fn matches(&self, file_name: &str) -> bool {
        file_name == "pom.xml"
    }

    fn read(&self, path: &ProjectPath, text: &[u8]) -> ManifestFacts {
        let mut facts = ManifestFacts {
            kind: "project",
            path: Some(path.clone()),
            takes_all: true,
            extensions: &["java", "kt", "kts"],
            transitive: true,
            ..ManifestFacts::default()
        };
        let mut open: Vec<(&[u8], u32)> = Vec::new();
        let mut last_text = None;
        for piece in pieces(text) {
            match piece {
                Piece::Open { name, empty, span, .. } => {
                    if !empty {
                        open.push((local_name(name.of(text)), span.start));
                    }
                    last_text = None;
                }
                Piece::Text(span) => last_text = Some(span),
                Piece::Close { name, span } => {
                    let name = local_name(name.of(text));
                    // A close without its partner closes nothing.
                    let Some(at) = open.iter().rposition(|(opened, _)| *opened == name) else { continue };
                    if let Some(value) = last_text {
                        let path: Vec<&[u8]> = open[..=at].iter().map(|(name, _)| *name).collect();
                        let element = Span::new(open[at].1 as usize, span.end as usize);
                        take(&mut facts, text, &path, trimmed(text, value), element);
                    }
                    open.truncate(at);
                    last_text = None;
                }
            }
        }
        // A parent that nobody says the place of lies in the folder around.
        if facts.setting(INHERITED).is_some() && facts.setting(INHERITED_AT).is_none() {
            facts.settings.push((INHERITED_AT.to_owned(), "..".to_owned()));
        }
        if facts.name.is_empty() {
            facts.name = path.parent().rsplit('/').next().unwrap_or_default().to_owned();
        }
        // One that only gathers others is called as its folder is.
        let folder = path.parent().rsplit('/').next().unwrap_or_default();
        let gathers = facts.mentions.iter().any(|mention| mention.action == ItemAction::Member);
        facts.label = if gathers && !folder.is_empty() { folder.to_owned() } else { facts.name.clone() };
        facts
    }
}

fn trimmed(text: &[u8], span: Span) -> Span {
    let own = span.of(text);
    let start = own.len() - own.trim_ascii_start().len();
    let start = span.start as usize + start;
    Span::new(start, start + own.trim_ascii().len())
}

fn take(facts: &mut ManifestFacts, text: &[u8], path: &[&[u8]], value: Span, element: Span) {
    let written = decode(value.of(text));
    match path {
        [b"project", b"artifactId"] => facts.name = written,
        [b"project", b"parent", b"artifactId"] => facts.settings.push((INHERITED.to_owned(), written)),
        [b"project", b"parent", b"relativePath"] => facts.settings.push((INHERITED_AT.to_owned(), written)),
        // One that is packed as a description alone compiles nothing.
        [b"project", b"packaging"] if written == "pom" => facts.takes_all = false,
        [.., b"resource" | b"testResource", b"directory"]
        | [.., b"sources", b"source"]
        | [b"project", b"build", b"sourceDirectory" | b"testSourceDirectory"] => {
            facts.mentions.extend(borrowed(written, value, element));
        }
        [b"project", b"modules", b"module"]
        | [b"project", b"profiles", b"profile", b"modules", b"module"] => {
            let target = if written.ends_with(".xml") { written } else { format!("{written}/pom.xml") };
            let backslashes = target.contains('\\');
            facts.mentions.push(PathMention {
                action: ItemAction::Member,
                span: value,
                written: target,
                element,
                backslashes,
            });
        }
        [.., b"dependencies", b"dependency", b"artifactId"]
            if !path.contains(&b"plugin".as_slice())
                && !path.contains(&b"dependencyManagement".as_slice()) =>
        {
            facts.references.push(ProjectReference { target: written, by_name: true, span: value, element });
        }
        _ => {}
    }
}

/// Code of a folder outside of the project's own: what is copied from there, or read there, is compiled into it too.
fn borrowed(folder: String, span: Span, element: Span) -> Option<PathMention> {
    let own = ["${basedir}/", "${project.basedir}/"];
    let folder = own.iter().find_map(|own| folder.strip_prefix(own)).unwrap_or(&folder);
    let outside = folder.starts_with("../");
    outside.then(|| PathMention {
        action: ItemAction::Compile,
        span,
        written: format!("{}/**/*.{{java,kt}}", folder.trim_end_matches('/')),
        element,
        backslashes: false,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_names_modules_and_dependencies() {
        let text = b"<project><parent><artifactId>garden</artifactId></parent><artifactId>irrigation</artifactId>\
            <modules><module>valves</module></modules><dependencyManagement><dependencies><dependency>\
            <artifactId>x</artifactId></dependency></dependencies></dependencyManagement>\
            <dependencies><dependency><groupId>g</groupId><artifactId> plan </artifactId></dependency></dependencies></project>";
        let facts = Maven.read(&ProjectPath::new("irrigation/pom.xml"), text);
        assert_eq!(facts.name, "irrigation");
        assert_eq!(facts.mentions[0].written, "valves/pom.xml");
        let targets: Vec<&str> = facts.references.iter().map(|r| r.target.as_str()).collect();
        assert_eq!(targets, ["plan"]);
    }
}
