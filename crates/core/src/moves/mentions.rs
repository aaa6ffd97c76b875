//! What still says the old name or path: certain mentions follow, the others are listed.
//!
//! Certain is a full name in quotes, and a path that leads from the file that holds it (or from the root) to what
//! was moved. Everything else is for a person to look at.

use super::manifests::Paths;
use super::past::origin_of_taken;
use super::texts::Texts;
use super::{MoveError, MoveOptions, MovePlan};
use aho_corasick::{AhoCorasick, AhoCorasickKind};
use ferngate_model::{Edit, LineIndex, ProjectPath, Span};
use rayon::prelude::*;
use std::cell::OnceCell;

/// A place that mentions an old name.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Mention {
    /// The file, by its path before the move.
    pub path: ProjectPath,
    /// The line, from 1, in the planned text.
    pub line: u32,
    /// What is mentioned.
    pub name: String,
    /// The line's text.
    pub text: String,
}

/// What is looked for.
pub struct Searched<'s> {
    /// Where things go.
    pub paths: Paths<'s>,
    /// Types with another full name or in another assembly.
    pub types: &'s [MovedType],
}

/// A type that is called otherwise after the move, or built into another assembly.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct MovedType {
    /// Its full name before.
    pub old: String,
    /// Its full name after.
    pub new: String,
    /// The names of the manifests that hold it, before and after, where they differ.
    pub assembly: Option<(String, String)>,
}

/// Files larger than this are not searched.
const LARGEST: usize = 4 << 20;
/// A table with a row for every byte of what is looked for is quicker, and grows with it.
const LARGEST_TABLE: usize = 20_000;
/// Files of these sorts list paths, so a path in them is certain.
const LISTS: &[&str] = &[
    "xml", "build", "json", "yml", "yaml", "toml", "ini", "cfg", "config", "sources", "cmake", "props",
    "targets", "proj",
];

enum Wanted<'s> {
    Type(&'s MovedType),
    Path,
}

/// Searches all files and plans what is certain; the rest is listed in `plan`.
pub fn follow(
    searched: &Searched,
    files: &[ProjectPath],
    texts: &mut Texts,
    options: MoveOptions,
    plan: &mut MovePlan,
) -> Result<(), MoveError> {
    let mut patterns: Vec<(String, Wanted)> =
        searched.types.iter().map(|moved| (moved.old.clone(), Wanted::Type(moved))).collect();
    let Paths { files: moved, folders } = searched.paths;
    let names = moved.keys().filter(|path| origin_of_taken(path).is_none()).map(|path| path.file_name());
    let mut names: Vec<&str> = names.chain(folders.iter().map(|(old, _)| old.file_name())).collect();
    names.sort_unstable();
    names.dedup();
    patterns.extend(names.into_iter().map(|name| (name.to_owned(), Wanted::Path)));
    let length: usize = patterns.iter().map(|(text, _)| text.len()).sum();
    let kind = (length <= LARGEST_TABLE).then_some(AhoCorasickKind::DFA);
    let texts_of_patterns = patterns.iter().map(|(text, _)| text.as_bytes());
    let Ok(matcher) = AhoCorasick::builder().kind(kind).build(texts_of_patterns) else {
        return Ok(());
    };
    let view = texts.view();
    let search = |path: &ProjectPath| {
        let text = view.get(path)?;
        if text.len() > LARGEST || text[..text.len().min(8000)].contains(&0) {
            return None;
        }
        // The matcher is built to find all that overlap, so it cannot refuse to.
        let matches = matcher.try_find_overlapping_iter(&*text).ok()?;
        let found: Vec<(usize, Span)> = matches
            .map(|found| (found.pattern().as_usize(), Span::new(found.start(), found.end())))
            .collect();
        (!found.is_empty()).then(|| (path.clone(), text.to_vec(), found))
    };
    let found: Vec<_> = files.par_iter().filter_map(search).collect();
    for (path, text, found) in &found {
        let lines = OnceCell::new();
        let lines = || lines.get_or_init(|| LineIndex::new(text));
        for &(at, span) in found {
            match &patterns[at].1 {
                Wanted::Type(moved) => {
                    let Some(certain) = type_mention(text, span) else { continue };
                    let (span, new) = with_assembly(text, span, moved);
                    if new.as_bytes() == span.of(text) {
                        continue;
                    }
                    if certain || options.mentions {
                        let edit = Edit { span, text: new, what: "full name in text follows" };
                        texts.edit(path, edit, patterns[at].0.clone());
                    } else {
                        list(plan, path, lines(), text, span, &patterns[at].0);
                    }
                }
                Wanted::Path => path_mention(searched, path, text, span, &lines, texts, plan),
            }
        }
    }
    plan.mentions.sort_by(|a, b| (&a.path, a.line, &a.name).cmp(&(&b.path, b.line, &b.name)));
    plan.mentions.dedup_by(|a, b| a.path == b.path && a.line == b.line && a.text == b.text);
    Ok(())
}

fn list(plan: &mut MovePlan, path: &ProjectPath, lines: &LineIndex, text: &[u8], span: Span, name: &str) {
    let line = lines.position(text, span.start).line;
    let shown = String::from_utf8_lossy(lines.line_text(text, line)).trim().chars().take(100).collect();
    plan.mentions.push(Mention { path: path.clone(), line, name: name.to_owned(), text: shown });
}

fn in_name(byte: Option<&u8>) -> bool {
    byte.is_some_and(|byte| byte.is_ascii_alphanumeric() || *byte == b'_' || *byte >= 0x80)
}

/// Whether a full name stands at `span` as a whole, and then whether it is certain.
fn type_mention(text: &[u8], span: Span) -> Option<bool> {
    let before = (span.start as usize).checked_sub(1).and_then(|at| text.get(at));
    let after = text.get(span.end as usize);
    if in_name(before) || before == Some(&b'.') || in_name(after) {
        return None;
    }
    let opens = matches!(before, Some(b'"' | b'\'' | b'>'));
    let closes = matches!(after, Some(b'"' | b'\'' | b',' | b'<' | b'+'));
    Some(opens && closes)
}

/// What a full name at `span` becomes; with it the assembly that is named behind a comma.
fn with_assembly(text: &[u8], span: Span, moved: &MovedType) -> (Span, String) {
    if let Some((old, new)) = &moved.assembly {
        let rest = &text[span.end as usize..];
        let blanks = rest.iter().skip(1).take_while(|byte| **byte == b' ').count();
        let named = rest.first() == Some(&b',') && rest[1 + blanks..].starts_with(old.as_bytes());
        let end = 1 + blanks + old.len();
        let closes = |byte: &u8| matches!(byte, b'"' | b'\'' | b',' | b'<' | b' ');
        if named && rest.get(end).is_none_or(closes) {
            let text = format!("{},{}{new}", moved.new, " ".repeat(blanks));
            return (Span::new(span.start as usize, span.end as usize + end), text);
        }
    }
    (span, moved.new.clone())
}

/// A path that leads to what was moved, written in a file.
fn path_mention<'t>(
    searched: &Searched,
    path: &ProjectPath,
    text: &[u8],
    span: Span,
    lines: &dyn Fn() -> &'t LineIndex,
    texts: &mut Texts,
    plan: &mut MovePlan,
) {
    if parsed_as_manifest(path) {
        return;
    }
    let in_path = |byte: u8| {
        byte.is_ascii_alphanumeric()
            || matches!(byte, b'_' | b'.' | b'-' | b'/' | b'\\' | b'+' | b'@')
            || byte >= 0x80
    };
    let before = text[..span.start as usize].iter().rev().take_while(|byte| in_path(**byte)).count();
    let after = text[span.end as usize..].iter().take_while(|byte| in_path(**byte)).count();
    let whole = Span::new(span.start as usize - before, span.end as usize + after);
    let Some(whole) = before_wildcard(text, whole).filter(|whole| whole.end >= span.end) else { return };
    let written = String::from_utf8_lossy(whole.of(text)).into_owned();
    if !written.contains(['/', '\\']) && !LISTS.contains(&path.extension()) {
        return;
    }
    let new_home = searched.paths.after(path);
    for (folder, new_folder) in [(path.parent(), new_home.parent()), ("", "")] {
        let Some(old) = ProjectPath::resolve(folder, &written) else { continue };
        let new = searched.paths.after(&old);
        if new == old {
            continue;
        }
        let mut shown = new.relative_to(new_folder);
        if written.ends_with(['/', '\\']) {
            shown.push('/');
        }
        let shown = if written.contains('\\') { shown.replace('/', "\\") } else { shown };
        let shown =
            if written.starts_with("./") && !shown.starts_with("..") { format!("./{shown}") } else { shown };
        if shown == written {
            return;
        }
        if LISTS.contains(&path.extension()) {
            texts.edit(path, Edit { span: whole, text: shown, what: "listed path follows" }, written);
        } else {
            list(plan, path, lines(), text, span, &written);
        }
        return;
    }
}

/// What of a path at `span` names one place: before a wildcard the folders, without the part that it completes.
fn before_wildcard(text: &[u8], span: Span) -> Option<Span> {
    if !text.get(span.end as usize).is_some_and(|byte| matches!(byte, b'*' | b'?' | b'{' | b'[' | b'$')) {
        return Some(span);
    }
    let folders = span.of(text).iter().rposition(|byte| matches!(byte, b'/' | b'\\'))?;
    Some(Span::new(span.start as usize, span.start as usize + folders + 1))
}

fn parsed_as_manifest(path: &ProjectPath) -> bool {
    let extension = path.extension().to_ascii_lowercase();
    matches!(extension.as_str(), "csproj" | "sln" | "slnx" | "shproj" | "projitems")
}
