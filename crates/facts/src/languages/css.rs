//! Style sheets: CSS, SCSS, Less.
//!
//! Read are `@import`, `@use` and `@forward` with literal names, and as mentions the paths in `url( … )`. A name leads to
//! the file beside the sheet, with the endings and the underscore that may be left out.

use crate::cursor::Cursor;
use crate::linking::{Tree, join, parent, path_link};
use ferngate_model::{
    ImportSpelling, Language, Linker, Links, MakeLinker, Naming, PathBase, ProjectFacts, Recorder, Span,
};

/// Style sheets.
#[derive(Debug)]
pub struct Css;

const EXTENSIONS: &[&str] = &["css", "scss", "sass", "less"];

impl Language for Css {
    fn name(&self) -> &'static str {
        "style sheets"
    }

    fn extensions(&self) -> &'static [&'static str] {
        EXTENSIONS
    }

    fn naming(&self) -> Naming {
        Naming::by_path("css", "/")
    }

    fn import_spelling(&self) -> ImportSpelling {
        ImportSpelling { before: "@import \"", after: "\";" }
    }

    fn linker(&self) -> Option<MakeLinker> {
        Some(|project| Box::new(SheetLinker { project, tree: Tree::new(project) }))
    }

    fn read(&self, text: &[u8], recorder: &mut Recorder) {
        read(text, recorder);
    }
}

fn read(text: &[u8], recorder: &mut Recorder) {
    let mut cursor = Cursor::new(text);
    // Strings up to the end of the statement are names of sheets.
    let mut importing = false;
    while !cursor.done() {
        match (cursor.peek(0), cursor.peek(1)) {
            (b'/', b'*') => {
                cursor.at += 2;
                cursor.past(b"*/");
            }
            (b'/', b'/') => cursor.to_line_end(),
            (b'@', _) => {
                cursor.at += 1;
                importing = matches!(cursor.word(), b"import" | b"use" | b"forward");
            }
            (quote @ (b'"' | b'\''), _) => {
                let start = cursor.at + 1;
                let rest = &text[start..];
                let length =
                    rest.iter().position(|byte| *byte == quote || *byte == b'\n').unwrap_or(rest.len());
                cursor.at = (start + length + 1).min(cursor.end);
                if importing {
                    link(recorder, text, Span::new(start, start + length), false);
                }
            }
            (b'u', b'r') if text[cursor.at..].starts_with(b"url(") => {
                cursor.at += 4;
                url(&mut cursor, recorder, importing);
            }
            (b';' | b'{' | b'}', _) => {
                importing = false;
                cursor.at += 1;
            }
            (b'w', _) if importing && text[cursor.at..].starts_with(b"with") => {
                // `@use "x" with ($name: "value")`
                importing = false;
                cursor.at += 4;
            }
            _ => cursor.at += 1,
        }
    }
}

/// A path in `url( … )`, with or without quotes: imported, or only mentioned.
fn url(cursor: &mut Cursor, recorder: &mut Recorder, importing: bool) {
    cursor.skip_blanks();
    let quote = cursor.peek(0);
    let quoted = matches!(quote, b'"' | b'\'');
    let start = cursor.at + usize::from(quoted);
    let rest = &cursor.text[start..cursor.end];
    let ends =
        |byte: &u8| *byte == b'\n' || if quoted { *byte == quote } else { matches!(byte, b')' | b' ') };
    let length = rest.iter().position(ends).unwrap_or(rest.len());
    cursor.at = (start + length + usize::from(quoted)).min(cursor.end);
    if importing || recorder.options().weak {
        link(recorder, cursor.text, Span::new(start, start + length), !importing);
    }
}

fn link(recorder: &mut Recorder, text: &[u8], span: Span, weak: bool) {
    let path = String::from_utf8_lossy(span.of(text)).into_owned();
    let outside = path.contains("://")
        || path.starts_with("//")
        || path.contains(':')
        || path.contains(['$', '#', '~']);
    if !path.is_empty() && !outside {
        recorder.path(span, &path, PathBase::Folder, weak);
    }
}

struct SheetLinker<'p> {
    project: &'p ProjectFacts,
    tree: Tree<'p>,
}

impl SheetLinker<'_> {
    fn resolve(&self, from: usize, written: &str) -> Option<u32> {
        let plain = written.split('?').next().unwrap_or(written);
        let path = join(self.tree.folder_of(from), plain)?;
        let (folder, name) = (parent(&path), path.rsplit('/').next().unwrap_or(&path));
        let within =
            |name: &str| if folder.is_empty() { name.to_owned() } else { format!("{folder}/{name}") };
        let endings = [""].into_iter().chain([".scss", ".sass", ".css", ".less"]);
        let names = endings
            .flat_map(|ending| [within(&format!("{name}{ending}")), within(&format!("_{name}{ending}"))]);
        let folders = ["_index.scss", "index.scss"].map(|index| format!("{path}/{index}"));
        names.chain(folders).find_map(|path| self.tree.file(&path))
    }
}

impl Linker for SheetLinker<'_> {
    fn links(&self, file: usize) -> Links {
        let mut links = Links::default();
        let Some(facts) = &self.project.files[file].facts else { return links };
        for (at, path) in facts.paths.iter().enumerate() {
            let found = self.resolve(file, &path.path);
            links.files.extend(found.map(|to| path_link(at, path, to)));
        }
        links
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use ferngate_model::ReadOptions;

    #[test]
    fn reads_imports_and_urls() {
        let text = b"/* @import 'no'; */ @import url(\"base.css\") screen, 'print';\n@use \"beds/rose\" with ($a: 'no');\n\
            a { background: url(img/leaf.png); content: 'no' }\n@import 'https://moss.example/x.css';";
        let facts = Css.facts(text, ReadOptions { weak: true, ..ReadOptions::default() });
        let paths: Vec<(&str, bool)> = facts.paths.iter().map(|path| (&*path.path, path.weak)).collect();
        assert_eq!(
            paths,
            [("base.css", false), ("print", false), ("beds/rose", false), ("img/leaf.png", true)]
        );
    }
}
