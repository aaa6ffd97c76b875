//! Which files belong to which module: the most specific match wins.

use super::{Map, Module, ModuleEntry, Modules, is_test_path, name_matches};
use crate::resolve::World;
use ferngate_model::{ProjectFacts, Span};
use globset::{GlobBuilder, GlobMatcher};
use rayon::prelude::*;
use std::collections::BTreeMap;

/// A folder, a file or a glob, relative to the project's root; `!` in front takes out again.
#[derive(Clone, Debug)]
pub struct Pattern {
    /// As written, without `!`.
    pub text: String,
    /// Whether it takes out what earlier patterns took in.
    pub excludes: bool,
    /// Where it stands in the map.
    pub span: Span,
    glob: Option<GlobMatcher>,
}

/// Two modules claim one file equally.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{path} belongs to both `{first}` and `{second}`: their patterns are equally specific")]
pub struct AssignError {
    /// The file.
    pub path: String,
    /// One module.
    pub first: String,
    /// The other.
    pub second: String,
}

impl Pattern {
    /// Reads a pattern; the error is a sentence.
    pub fn new(text: &str, span: Span) -> Result<Self, String> {
        let (excludes, bare) = match text.strip_prefix('!') {
            Some(rest) => (true, rest),
            None => (false, text),
        };
        let bare = bare.trim_start_matches("./").trim_end_matches('/');
        if bare.starts_with('/') || bare.split('/').any(|part| part == "..") {
            return Err(format!("`{text}` must be a path below the project's root"));
        }
        let bare = if bare == "." { "" } else { bare };
        let has_glob = bare.contains(['*', '?', '[']);
        let glob = if has_glob {
            let built = GlobBuilder::new(bare).literal_separator(true).build();
            Some(
                built.map_err(|error| format!("`{text}` is no pattern: {}", error.kind()))?.compile_matcher(),
            )
        } else {
            None
        };
        Ok(Self { text: bare.to_owned(), excludes, span, glob })
    }

    /// The text of the pattern that means just `folder`.
    pub fn meaning(folder: &str) -> String {
        let is_plain = !folder.starts_with('!') && !folder.contains(['*', '?']);
        if is_plain && Self::new(folder, Span::default()).is_ok() {
            return folder.to_owned();
        }
        let mut pattern = String::from(if folder.starts_with('!') { "./" } else { "" });
        for c in folder.chars() {
            match c {
                '*' | '?' | '[' | '{' | '}' => pattern.extend(['[', c, ']']),
                c => pattern.push(c),
            }
        }
        pattern
    }

    /// Whether it matches `path`, or a folder above it. A folder may be called as the pattern is written: `app/[slug]`.
    pub fn matches(&self, path: &str) -> bool {
        let Some(glob) = self.glob.as_ref().filter(|_| !within(path, &self.text)) else {
            return within(path, &self.text);
        };
        let folder = |(at, _): (usize, &str)| glob.is_match(&path[..at]);
        glob.is_match(path) || path.match_indices('/').any(folder) && !self.text.contains("**")
    }

    /// How specific a match is: an exact path beats a folder, a longer fixed start beats a shorter one.
    fn specificity(&self, path: &str) -> (bool, usize, usize) {
        let wild = self.text.find(['*', '?', '[']).filter(|_| !within(path, &self.text));
        let fixed = wild.unwrap_or(self.text.len());
        (self.text == path, self.text[..fixed].matches('/').count() + usize::from(fixed > 0), fixed)
    }

    /// The folder that holds all that it can match.
    pub fn folder(&self) -> &str {
        match self.text.find(['*', '?', '[', '{']) {
            Some(at) => self.text[..at].rfind('/').map_or("", |slash| &self.text[..slash]),
            None => &self.text,
        }
    }

    /// With `captures` put in for their `{name}`.
    fn filled(&self, captures: &BTreeMap<String, String>) -> Self {
        let mut text = self.text.clone();
        for (name, value) in captures {
            text = text.replace(&format!("{{{name}}}"), value);
        }
        Self::new(&text, self.span)
            .map_or_else(|_| self.clone(), |filled| Self { excludes: self.excludes, ..filled })
    }
}

fn within(path: &str, folder: &str) -> bool {
    folder.is_empty()
        || path.strip_prefix(folder).is_some_and(|rest| rest.is_empty() || rest.starts_with('/'))
}

type Score = (bool, usize, usize);

impl Modules {
    /// The modules of `map` and the files that they hold.
    ///
    /// # Errors
    /// Where two modules claim a file by equally specific patterns.
    pub fn from_map(map: &Map, world: &World) -> Result<Self, AssignError> {
        let mut modules = Self::default();
        let mut entries: Vec<ModuleEntry> = Vec::new();
        for (at, entry) in map.modules.iter().enumerate() {
            for concrete in instances(entry, world.project) {
                modules.list.push(Module {
                    name: concrete.name.clone(),
                    entry: Some(at),
                    kind: concrete.kind.clone(),
                    owner: concrete.owner.clone(),
                    layer: layer_of(map, &concrete.name),
                    folder: common_folder(&concrete.paths, world.project),
                    public: concrete.public.clone(),
                    assumes: Vec::new(),
                });
                entries.push(concrete);
            }
        }
        for (module, entry) in entries.iter().enumerate() {
            let assumed = entry.assumes.iter().filter_map(|name| modules.named(name));
            modules.list[module].assumes = assumed.collect();
        }
        let files = (0..world.project.files.len()).into_par_iter();
        let owners: Vec<_> = files.map(|file| owner_of(&entries, world, file)).collect();
        for (source, owner) in world.project.files.iter().zip(owners) {
            let owner = owner?;
            let path = source.path.as_str();
            let is_test = match owner.map(|module| &entries[module].tests) {
                Some(tests) if !tests.is_empty() => tests.iter().any(|pattern| pattern.matches(path)),
                _ => is_test_path(path),
            };
            modules.of_file.push(owner);
            modules.tests.push(is_test);
        }
        Ok(modules)
    }
}

fn owner_of(entries: &[ModuleEntry], world: &World, file: usize) -> Result<Option<usize>, AssignError> {
    let path = world.project.files[file].path.as_str();
    let mut best: Option<(Score, usize)> = None;
    let mut rival = None;
    for (module, entry) in entries.iter().enumerate() {
        let Some(score) = score(entry, world, file, path) else { continue };
        match best {
            Some((known, _)) if known > score => {}
            Some((known, _)) if known == score => rival = Some(module),
            _ => (best, rival) = (Some((score, module)), None),
        }
    }
    match (best, rival) {
        (Some((_, first)), Some(second)) => {
            let (first, second) = (entries[first].name.clone(), entries[second].name.clone());
            Err(AssignError { path: path.to_owned(), first, second })
        }
        _ => Ok(best.map(|(_, module)| module)),
    }
}

fn score(entry: &ModuleEntry, world: &World, file: usize, path: &str) -> Option<Score> {
    let mut found = None;
    for pattern in &entry.paths {
        if pattern.matches(path) {
            // The last match wins, whichever way it goes.
            found = (!pattern.excludes).then(|| pattern.specificity(path));
        }
    }
    if found.is_none() && !entry.paths.iter().any(|p| p.excludes && p.matches(path)) {
        found = namespace_score(entry, world, file);
    }
    found
}

/// A file belongs to a namespace by the first type that it declares.
fn namespace_score(entry: &ModuleEntry, world: &World, file: usize) -> Option<Score> {
    if entry.namespaces.is_empty() {
        return None;
    }
    let first = world.table.declared[file].first()?;
    let namespace = world.table.namespace_text(world.table.namespace_of(*first));
    let scores = entry.namespaces.iter().filter_map(|wanted| {
        let (base, below) = match wanted.strip_suffix(".**") {
            Some(base) => (base, true),
            None => (wanted.as_str(), false),
        };
        let rest = namespace.strip_prefix(base)?;
        let fits = rest.is_empty() || below && rest.starts_with('.');
        fits.then_some((false, 0, base.len()))
    });
    scores.max()
}

fn layer_of(map: &Map, name: &str) -> Option<usize> {
    map.layers.iter().position(|layer| layer.iter().any(|pattern| name_matches(pattern, name)))
}

fn common_folder(patterns: &[Pattern], project: &ProjectFacts) -> String {
    let is_called_so = |pattern: &Pattern| {
        pattern.glob.is_some() && project.files.iter().any(|file| within(file.path.as_str(), &pattern.text))
    };
    let folder = |pattern| if is_called_so(pattern) { &pattern.text } else { pattern.folder() };
    let folders = patterns.iter().filter(|pattern| !pattern.excludes).map(folder);
    folders.reduce(super::defaults::folder_around).unwrap_or_default().to_owned()
}

/// The modules that an entry stands for: itself, or one for each folder that a family's pattern matches.
fn instances(entry: &ModuleEntry, project: &ProjectFacts) -> Vec<ModuleEntry> {
    if !entry.name.contains('{') {
        return vec![entry.clone()];
    }
    let mut found: Vec<BTreeMap<String, String>> = Vec::new();
    for pattern in entry.paths.iter().filter(|pattern| !pattern.excludes && pattern.text.contains('{')) {
        for file in &project.files {
            if let Some(captures) = capture(&pattern.text, file.path.as_str())
                && !found.contains(&captures)
            {
                found.push(captures);
            }
        }
    }
    let fill = |text: &str, captures: &BTreeMap<String, String>| {
        let lower = captures.iter().map(|(name, value)| (name, value.to_lowercase()));
        lower.fold(text.to_owned(), |text, (name, value)| text.replace(&format!("{{{name}}}"), &value))
    };
    found
        .iter()
        .map(|captures| ModuleEntry {
            name: fill(&entry.name, captures),
            paths: entry.paths.iter().map(|pattern| pattern.filled(captures)).collect(),
            public: entry.public.iter().map(|pattern| pattern.filled(captures)).collect(),
            tests: entry.tests.iter().map(|pattern| pattern.filled(captures)).collect(),
            kind: entry.kind.as_ref().map(|kind| fill(kind, captures)),
            owner: entry.owner.as_ref().map(|owner| fill(owner, captures)),
            ..entry.clone()
        })
        .collect()
}

/// What the `{name}` parts of `pattern` stand for in `path`, part by part.
fn capture(pattern: &str, path: &str) -> Option<BTreeMap<String, String>> {
    let mut captures = BTreeMap::new();
    let mut parts = path.split('/').peekable();
    for wanted in pattern.split('/') {
        let part = parts.next()?;
        match wanted
            .split_once('{')
            .and_then(|(before, rest)| rest.split_once('}').map(|(name, after)| (before, name, after)))
        {
            Some((before, name, after)) => {
                let value =
                    part.strip_prefix(before)?.strip_suffix(after).filter(|value| !value.is_empty())?;
                captures.insert(name.to_owned(), value.to_owned());
            }
            None if wanted == part => {}
            None => return None,
        }
    }
    // A file in the family's folder is no folder.
    parts.peek().is_some().then_some(captures)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn pattern(text: &str) -> Pattern {
        Pattern::new(text, Span::default()).unwrap()
    }

    #[test]
    fn matches_folders_files_and_globs() {
        assert!(pattern("src/Visits").matches("src/Visits/Tours/Tour.cs"));
        assert!(!pattern("src/Visits").matches("src/VisitsOld/Tour.cs"));
        assert!(pattern("src/*/Old").matches("src/Visits/Old/Tour.cs"));
        assert!(pattern("src/Models/Ticket*.cs").matches("src/Models/TicketFee.cs"));
        assert!(pattern("**/*.designer.cs").matches("src/Desk/Main.designer.cs"));
        assert!(pattern(".").matches("anything.cs"));
        assert!(Pattern::new("../elsewhere", Span::default()).is_err());
    }

    #[test]
    fn families_capture_their_folder() {
        let found = capture("src/Storage/{name}", "src/Storage/Sql/Rows.cs").unwrap();
        assert_eq!(found["name"], "Sql");
        assert_eq!(capture("src/Storage/{name}", "src/Storage/Readme.md"), None);
        assert_eq!(capture("src/{name}.Tests", "src/Visits.Tests/A.cs").unwrap()["name"], "Visits");
    }
}
