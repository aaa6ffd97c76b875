//! `CMakeLists.txt`, as text: the project's name, targets, folders for includes, what links what; never run.
//!
//! Settings: `include` (a folder for includes, from the manifest's folder; `include:TARGET` where those of a target are searched in
//! their order, `include:` for all targets). Also `compile_commands.json`, of which the
//! folders for includes are taken.

use super::makefile::{SOMEWHERE_ABOVE, include_folders};
use ferngate_model::{
    ItemAction, ManifestFacts, ManifestReader, PathMention, Problem, ProjectPath, ProjectReference, Span,
};
use rustc_hash::FxHashSet;
use serde_json::Value;

/// `CMakeLists.txt` files.
#[derive(Debug)]
pub struct CMake;

/// `compile_commands.json`.
#[derive(Debug)]
pub struct CompileCommands;

const EXTENSIONS: &[&str] =
    &["c", "h", "cc", "cpp", "cxx", "c++", "hh", "hpp", "hxx", "h++", "inl", "ipp", "tpp", "cppm", "ixx"];

/// A command with its arguments, quotes taken off.
struct Command<'t> {
    name: String,
    span: Span,
    arguments: Vec<(&'t str, Span)>,
}

impl ManifestReader for CMake {
    fn matches(&self, file_name: &str) -> bool {
        file_name == "cmakelists.txt"
    }

    fn read(&self, path: &ProjectPath, text: &[u8]) -> ManifestFacts {
        let mut facts = ManifestFacts::of_folder(path, EXTENSIONS);
        // Commands, functions and generators may add anything.
        (facts.open, facts.links) = (true, true);
        // Others link its targets, which may be called like any folder.
        facts.targets = Some(Vec::new());
        let text = super::text_of(text);
        let mut conditions = 0_usize;
        for command in commands(&text) {
            match command.name.as_str() {
                "if" => conditions += 1,
                "endif" => conditions = conditions.saturating_sub(1),
                _ => take(&mut facts, &command, conditions > 0),
            }
        }
        facts
    }
}

/// Takes what a command says; one that `depends` on a condition may not be run.
fn take(facts: &mut ManifestFacts, command: &Command, depends: bool) {
    let arguments = &command.arguments;
    match command.name.as_str() {
        "project" => {
            if let Some((name, _)) = arguments.first().filter(|(name, _)| !name.contains('$')) {
                facts.name = (*name).to_owned();
                facts.label = (*name).to_owned();
            }
        }
        "add_library" | "add_executable" => {
            let targets = facts.targets.get_or_insert_default();
            // Another name of a target that is made here; what is only imported is made elsewhere.
            let alias = arguments.get(1).filter(|(word, _)| *word == "ALIAS").and_then(|_| arguments.get(2));
            let made_here = alias.is_none_or(|(of, _)| targets.iter().any(|target| target == of));
            let imported = arguments.iter().any(|(word, _)| *word == "IMPORTED");
            if let Some((name, _)) = arguments.first().filter(|(name, _)| !name.contains('$'))
                && made_here
                && !imported
            {
                targets.push((*name).to_owned());
            }
            let listed =
                arguments.iter().skip(1).filter(|(word, _)| word.contains('.') && !word.contains(['$', '*']));
            facts
                .mentions
                .extend(listed.map(|(word, span)| mention(ItemAction::Content, word, *span, command.span)));
        }
        "include_directories" | "target_include_directories" => {
            // The first word of the second form is its target: its folders are searched in their order.
            let skipped = usize::from(command.name.starts_with("target"));
            let target = arguments[..skipped.min(arguments.len())].first().map_or("", |(word, _)| *word);
            let key = if depends { "include".to_owned() } else { format!("include:{target}") };
            for (word, _) in arguments.iter().skip(skipped) {
                if let Some(folder) = include_folder(word) {
                    facts.settings.push((key.clone(), folder));
                }
            }
        }
        "add_subdirectory" => {
            let first = arguments.first().filter(|(word, _)| !word.contains('$'));
            facts
                .mentions
                .extend(first.map(|(word, span)| mention(ItemAction::Member, word, *span, command.span)));
        }
        "target_link_libraries" => {
            for (word, span) in arguments.iter().skip(1) {
                if !matches!(*word, "PUBLIC" | "PRIVATE" | "INTERFACE") && !word.contains('$') {
                    let target = (*word).to_owned();
                    let (span, element) = (*span, command.span);
                    facts.references.push(ProjectReference { target, by_name: true, span, element });
                }
            }
        }
        _ => {}
    }
}

fn mention(action: ItemAction, written: &str, span: Span, element: Span) -> PathMention {
    PathMention { action, span, written: written.to_owned(), element, backslashes: false }
}

/// A folder for includes from the manifest's own; `None` for words and for what cannot be known.
fn include_folder(word: &str) -> Option<String> {
    let word = word.strip_prefix("$<BUILD_INTERFACE:").map_or(word, |rest| rest.trim_end_matches('>'));
    let own = ["${CMAKE_CURRENT_SOURCE_DIR}", "${CMAKE_CURRENT_LIST_DIR}"];
    let outermost = ["${PROJECT_SOURCE_DIR}", "${CMAKE_SOURCE_DIR}"];
    let below = own.iter().find_map(|variable| word.strip_prefix(variable)).unwrap_or(word);
    let above = outermost.iter().find_map(|variable| word.strip_prefix(variable));
    let below = above.unwrap_or(below);
    let words = ["PUBLIC", "PRIVATE", "INTERFACE", "SYSTEM", "BEFORE", "AFTER"];
    if words.contains(&below) || below.contains(['$', '<']) {
        return None;
    }
    let below = below.trim_start_matches('/');
    let start = if above.is_some() && !below.is_empty() { SOMEWHERE_ABOVE } else { "./" };
    Some(format!("{start}{below}"))
}

/// The commands of a text, in order.
fn commands(text: &str) -> Vec<Command<'_>> {
    let mut found: Vec<Command> = Vec::new();
    let bytes = text.as_bytes();
    let (mut at, mut depth) = (0, 0usize);
    let mut last_word: Option<(usize, usize)> = None;
    while at < bytes.len() {
        let start = at;
        match bytes[at] {
            b'#' if text[at..].starts_with("#[[") => {
                at = text[at..].find("]]").map_or(bytes.len(), |end| at + end + 2);
                continue;
            }
            b'#' => {
                at = text[at..].find('\n').map_or(bytes.len(), |end| at + end);
                continue;
            }
            b'(' => {
                depth += 1;
                if let (1, Some((from, to))) = (depth, last_word) {
                    let span = Span::new(from, to);
                    found.push(Command {
                        name: text[from..to].to_ascii_lowercase(),
                        span,
                        arguments: Vec::new(),
                    });
                }
                at += 1;
            }
            b')' => {
                depth = depth.saturating_sub(1);
                last_word = None;
                at += 1;
            }
            b'"' => {
                at += 1;
                while at < bytes.len() && bytes[at] != b'"' {
                    at += if bytes[at] == b'\\' { 2 } else { 1 };
                }
                let end = at.min(bytes.len());
                if let (Some(command), Some(word)) = (found.last_mut(), text.get(start + 1..end)) {
                    command.arguments.push((word, Span::new(start + 1, end)));
                }
                at = (at + 1).min(bytes.len());
            }
            byte if byte.is_ascii_whitespace() || byte == b';' => at += 1,
            _ => {
                let ends =
                    |byte: u8| byte.is_ascii_whitespace() || matches!(byte, b'(' | b')' | b'"' | b'#' | b';');
                while at < bytes.len() && !ends(bytes[at]) {
                    at += 1;
                }
                if depth == 0 {
                    last_word = Some((start, at));
                } else if let (Some(command), Some(word)) = (found.last_mut(), text.get(start..at)) {
                    command.arguments.push((word, Span::new(start, at)));
                }
            }
        }
    }
    found
}

impl ManifestReader for CompileCommands {
    fn matches(&self, file_name: &str) -> bool {
        file_name == "compile_commands.json"
    }

    fn read(&self, path: &ProjectPath, text: &[u8]) -> ManifestFacts {
        let mut facts =
            ManifestFacts { kind: "settings", path: Some(path.clone()), ..ManifestFacts::default() };
        let commands: Vec<Value> = match serde_json::from_slice(text) {
            Ok(commands) => commands,
            Err(error) => {
                let text = format!("is no JSON that can be read: {error}");
                facts.problems.push(Problem { span: Span::new(0, 0), text });
                return facts;
            }
        };
        let mut known = FxHashSet::default();
        for command in &commands {
            let directory = command.get("directory").and_then(Value::as_str).unwrap_or_default();
            let words: Vec<&str> = match (command.get("arguments"), command.get("command")) {
                (Some(Value::Array(words)), _) => words.iter().filter_map(Value::as_str).collect(),
                (_, Some(Value::String(line))) => line.split_whitespace().collect(),
                _ => continue,
            };
            for folder in include_folders(words.into_iter()) {
                let whole =
                    if folder.starts_with('/') { folder.to_owned() } else { format!("{directory}/{folder}") };
                if known.insert(whole.clone()) {
                    facts.settings.push(("include".to_owned(), whole));
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
    fn reads_targets_and_folders() {
        let text = br#"project(valves CXX) # the controller
            add_library(flow src/flow.cpp "src/valve.cpp")
            add_library(moss::flow ALIAS flow)
            add_library(moss::pumps ALIAS pumps)
            add_library(lamps UNKNOWN IMPORTED)
            target_include_directories(flow PUBLIC $<BUILD_INTERFACE:${PROJECT_SOURCE_DIR}/include> PRIVATE src ${OTHER})
            target_link_libraries(flow PRIVATE pumps)
            add_subdirectory(pumps)"#;
        let facts = CMake.read(&ProjectPath::new("valves/CMakeLists.txt"), text);
        assert_eq!(facts.label, "valves");
        assert_eq!(facts.targets.as_deref(), Some(&["flow".to_owned(), "moss::flow".to_owned()][..]));
        let includes: Vec<&str> = facts.settings_of("include").map(|(_, folder)| folder).collect();
        assert_eq!(includes, ["…/include", "./src"]);
        assert_eq!(facts.references[0].target, "pumps");
        let listed: Vec<&str> = facts.mentions.iter().map(|mention| mention.written.as_str()).collect();
        assert_eq!(listed, ["src/flow.cpp", "src/valve.cpp", "pumps"]);
    }
}
