//! The lines that a tie is made of: found again by reading just the files that are asked about.

use crate::session::{Meaning, Session};
use ferngate_core::resolve::UseTarget;
use ferngate_facts::languages::LANGUAGES;
use ferngate_model::{FileFacts, LineIndex, Link, LinkSource, Position, ProjectPath, ReadOptions, Span};
use std::collections::{BTreeMap, BTreeSet};

/// A line that uses a name.
pub struct UsedAt {
    /// The file.
    pub path: ProjectPath,
    /// Where in it.
    pub position: Position,
    /// The line's text.
    pub line: String,
}

/// A name with all places of its use.
pub struct Used {
    /// The full name.
    pub name: String,
    /// The file that declares it.
    pub declared: ProjectPath,
    /// The file behind that one, which only shows on what another declares.
    pub behind: Option<ProjectPath>,
    /// Where it is used.
    pub places: Vec<UsedAt>,
}

/// The names of module `to` that module `from` uses, the most used first.
pub fn uses_between(session: &Session, meaning: &Meaning, from: usize, to: usize) -> Vec<Used> {
    let Some(tie) = meaning.graph.tie(from, to) else { return Vec::new() };
    let files: BTreeSet<usize> = tie.files.iter().map(|tie| tie.from as usize).collect();
    uses_in(session, meaning, files, |file| meaning.modules.of_file[file as usize] == Some(to))
}

/// The names that `files` use of those files that `leads` tells, the most used first.
pub fn uses_in(
    session: &Session,
    meaning: &Meaning,
    files: impl IntoIterator<Item = usize>,
    leads: impl Fn(u32) -> bool,
) -> Vec<Used> {
    let mut by_name: BTreeMap<String, Used> = BTreeMap::new();
    for file in files {
        let source = &session.project.files[file];
        let text = session.text(&source.path);
        let options = ReadOptions { occurrences: true, weak: session.weak };
        // What is no code may name code all the same.
        let facts =
            source.language.map(|language| LANGUAGES[language].facts(&text, options)).unwrap_or_default();
        let lines = LineIndex::new(&text);
        let found = &meaning.world.references[file];
        for (is_member, reference) in found.uses() {
            let declaring = meaning.world.files_of(reference, file);
            let Some(&declared) = declaring.iter().find(|&&declaring| leads(declaring)) else { continue };
            let places: Vec<Span> =
                facts.occurrences.iter().filter(|o| o.used == reference.used).map(|o| o.span).collect();
            let mut name = meaning.world.table.entity_text(reference.entity);
            if let (true, Some(member)) = (is_member, places.first()) {
                name = format!("{name}.{}", String::from_utf8_lossy(member.of(&text)));
            }
            let used = by_name.entry(name.clone()).or_insert_with(|| Used {
                name,
                declared: session.project.files[declared as usize].path.clone(),
                behind: None,
                places: Vec::new(),
            });
            for place in places {
                let position = lines.position(&text, place.start);
                let line = String::from_utf8_lossy(lines.line_text(&text, position.line)).into_owned();
                used.places.push(UsedAt { path: source.path.clone(), position, line });
            }
        }
        for link in meaning.world.links_of(file) {
            if !leads(link.to) {
                continue;
            }
            let declared = session.project.files[link.to as usize].path.clone();
            let name = meaning.world.use_text(UseTarget::File(link.to, link.name));
            let behind = link.behind.map(|file| session.project.files[file as usize].path.clone());
            let used =
                by_name.entry(name.clone()).or_insert(Used { name, declared, behind, places: Vec::new() });
            for start in link_places(&facts, link) {
                let position = lines.position(&text, start);
                let line = String::from_utf8_lossy(lines.line_text(&text, position.line)).into_owned();
                used.places.push(UsedAt { path: source.path.clone(), position, line });
            }
        }
    }
    let mut used: Vec<Used> = by_name.into_values().collect();
    for used in &mut used {
        used.places.sort_by(|a, b| (&a.path, a.position).cmp(&(&b.path, b.position)));
    }
    used.sort_by(|a, b| (b.places.len(), &a.name).cmp(&(a.places.len(), &b.name)));
    used
}

/// Where the places of `link` begin.
fn link_places(facts: &FileFacts, link: &Link) -> Vec<u32> {
    match link.source {
        LinkSource::Path(at) => {
            facts.paths.get(at as usize).map(|path| path.span.start).into_iter().collect()
        }
        LinkSource::File => vec![link.at],
        LinkSource::Use(at) => {
            let places = facts.occurrences.iter().filter(|occurrence| occurrence.used == at);
            places.map(|occurrence| occurrence.span.start).collect()
        }
    }
}
