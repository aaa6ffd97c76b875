//! What scripts tell a loader of AMD modules: `require.config({ baseUrl, paths, shim })`, as far as it is literal.

use super::blanks::skip;
use crate::cursor::Cursor;
use crate::linking::{Tree, join, upwards};
use ferngate_model::ProjectFacts;

/// Names of the settings that are kept.
const BASE: &str = "base";
const PATH: &str = "path:";
const SHIM: &str = "shim:";
/// Deeper objects than this hold no settings.
const DEEPEST: usize = 4;

/// The settings in the object that begins at the cursor: where names are looked for (`base`), which path each name or
/// its beginning stands for (`path:NAME`), what a script needs that says nothing itself (`shim:NAME`, once for each).
pub fn settings(mut cursor: Cursor) -> Vec<(Box<str>, Box<str>)> {
    let mut found = Vec::new();
    object(&mut cursor, &mut Vec::new(), &mut found);
    found
}

fn object(cursor: &mut Cursor, keys: &mut Vec<String>, found: &mut Vec<(Box<str>, Box<str>)>) {
    cursor.at += 1;
    loop {
        skip(cursor);
        match cursor.peek(0) {
            b'}' => {
                cursor.at += 1;
                return;
            }
            b',' => {
                cursor.at += 1;
                continue;
            }
            _ if cursor.done() => return,
            _ => {}
        }
        let Some(key) = literal(cursor).or_else(|| word(cursor)) else { return };
        skip(cursor);
        if cursor.peek(0) != b':' {
            return;
        }
        cursor.at += 1;
        keys.push(key);
        value(cursor, keys, found);
        keys.pop();
    }
}

fn value(cursor: &mut Cursor, keys: &mut Vec<String>, found: &mut Vec<(Box<str>, Box<str>)>) {
    skip(cursor);
    match cursor.peek(0) {
        b'{' if keys.len() < DEEPEST => return object(cursor, keys, found),
        b'[' => {
            cursor.at += 1;
            loop {
                skip(cursor);
                match literal(cursor) {
                    Some(text) => note(keys, text, found),
                    None if cursor.peek(0) == b',' => cursor.at += 1,
                    None => break,
                }
            }
        }
        _ => {
            if let Some(text) = literal(cursor) {
                skip(cursor);
                if matches!(cursor.peek(0), b',' | b'}') {
                    note(keys, text, found);
                }
            }
        }
    }
    to_end_of_value(cursor);
}

fn note(keys: &[String], text: String, found: &mut Vec<(Box<str>, Box<str>)>) {
    let name = match keys.iter().map(String::as_str).collect::<Vec<_>>()[..] {
        ["baseUrl"] => BASE.to_owned(),
        ["paths", name] => format!("{PATH}{name}"),
        ["shim", name] | ["shim", name, "deps"] => format!("{SHIM}{name}"),
        _ => return,
    };
    let outside = text.starts_with("//") || text.contains("://");
    if name.starts_with(PATH) && outside {
        return;
    }
    // Of several paths the first is the script, the others stand in for it.
    if !name.starts_with(PATH) || found.iter().all(|(known, _)| **known != *name) {
        found.push((name.into(), text.into()));
    }
}

/// Goes to the comma or brace behind a value.
fn to_end_of_value(cursor: &mut Cursor) {
    let mut depth = 0usize;
    while !cursor.done() {
        skip(cursor);
        match cursor.peek(0) {
            quote @ (b'"' | b'\'' | b'`') => {
                cursor.past_quoted(quote);
                continue;
            }
            b'{' | b'[' | b'(' => depth += 1,
            b',' if depth == 0 => return,
            b'}' if depth == 0 => return,
            b'}' | b']' | b')' => depth = depth.saturating_sub(1),
            _ => {}
        }
        cursor.at += 1;
    }
}

fn literal(cursor: &mut Cursor) -> Option<String> {
    let quote = cursor.peek(0);
    if !matches!(quote, b'"' | b'\'') {
        return None;
    }
    let start = cursor.at + 1;
    cursor.past_quoted(quote);
    let end = cursor.at.checked_sub(1)?;
    let text = cursor.text.get(start..end)?;
    (cursor.text.get(end) == Some(&quote)).then(|| String::from_utf8_lossy(text).into_owned())
}

fn word(cursor: &mut Cursor) -> Option<String> {
    let word = cursor.word();
    (!word.is_empty()).then(|| String::from_utf8_lossy(word).into_owned())
}

/// The settings of one script.
#[derive(Debug)]
pub struct Loader {
    /// The folder below which names are looked for.
    base: String,
    /// The folder of the script.
    home: String,
    paths: Vec<(String, String)>,
    /// A script, and one that it needs without saying so.
    pub needs: Vec<(String, String)>,
}

/// All settings of `project`.
pub fn loaders(project: &ProjectFacts, tree: &Tree) -> Vec<Loader> {
    let mut found = Vec::new();
    for file in &project.files {
        let Some(facts) = file.facts.as_deref().filter(|facts| !facts.settings.is_empty()) else { continue };
        let home = file.path.parent();
        let rest = |prefix: &str| {
            let settings = facts.settings.iter();
            let of = settings.filter_map(|(name, value)| Some((name.strip_prefix(prefix)?, &**value)));
            of.map(|(name, value)| (name.to_owned(), value.to_owned())).collect::<Vec<_>>()
        };
        let stated = facts.settings.iter().find(|(name, _)| &**name == BASE).map(|(_, value)| &**value);
        // The path is seen from the page that loads the script, which lies in its folder or around it.
        let base = stated.and_then(|stated| {
            let around =
                |folder| join(folder, stated.trim_start_matches('/')).filter(|base| tree.is_folder(base));
            upwards(home).find_map(around)
        });
        found.push(Loader {
            base: base.unwrap_or_else(|| home.to_owned()),
            home: home.to_owned(),
            paths: rest(PATH),
            needs: rest(SHIM),
        });
    }
    found
}

impl Loader {
    /// How long the folder is that this counts for, where `folder` is in it.
    pub fn covers(&self, folder: &str) -> Option<usize> {
        let holds = |around: &&String| {
            around.is_empty()
                || folder
                    .strip_prefix(around.as_str())
                    .is_some_and(|rest| rest.is_empty() || rest.starts_with('/'))
        };
        [&self.base, &self.home].into_iter().filter(holds).map(String::len).max()
    }

    /// The path that `name` stands for, without its ending.
    pub fn path(&self, name: &str) -> Option<String> {
        let begins = |(key, _): &&(String, String)| {
            name.strip_prefix(key.as_str()).is_some_and(|rest| rest.is_empty() || rest.starts_with('/'))
        };
        let longest = self.paths.iter().filter(begins).max_by_key(|(key, _)| key.len());
        match longest {
            Some((key, path)) => {
                join(&self.base, &format!("{}{}", path.trim_end_matches('/'), &name[key.len()..]))
            }
            None => join(&self.base, name),
        }
    }
}
