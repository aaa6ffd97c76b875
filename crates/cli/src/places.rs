//! The lines that a tie is made of: found again by reading just the files that are asked about.

use crate::session::{Meaning, Session};
use ferngate_core::resolve::UseTarget;
use ferngate_facts::languages::LANGUAGES;
use ferngate_model::{FileFacts, LineIndex, LinkSource, Name, Position, ProjectPath, ReadOptions, Span};
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
        for found in found_in(meaning, file, &facts, &text, &leads).into_values() {
            let path = |file: u32| session.project.files[file as usize].path.clone();
            let (declared, behind) = (path(found.declared), found.behind.map(path));
            let name = found.name;
            let used =
                by_name.entry(name.clone()).or_insert(Used { name, declared, behind, places: Vec::new() });
            for start in found.starts {
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

/// One use, with the name that it is shown by.
struct Found {
    name: String,
    declared: u32,
    behind: Option<u32>,
    starts: Vec<u32>,
    /// The name is what is spelled there.
    spelled: bool,
}

/// The uses in `file` of those files that `leads` tells, each place once, by what they were found from.
fn found_in(
    meaning: &Meaning,
    file: usize,
    facts: &FileFacts,
    text: &[u8],
    leads: &impl Fn(u32) -> bool,
) -> BTreeMap<u64, Found> {
    let mut all: BTreeMap<u64, Found> = BTreeMap::new();
    let world = &meaning.world;
    for (is_member, reference) in world.references[file].uses() {
        let declaring = world.files_of(reference, file);
        let Some(&declared) = declaring.iter().find(|&&declaring| leads(declaring)) else { continue };
        let places: Vec<Span> = occurrences(facts, reference.used).collect();
        let mut name = world.table.entity_text(reference.entity);
        if let (true, Some(member)) = (is_member, places.first()) {
            name = format!("{name}.{}", member.text(text));
        }
        let starts = places.iter().map(|place| place.start).collect();
        let found = Found { name, declared, behind: None, starts, spelled: !is_member };
        all.entry(u64::from(reference.used)).or_insert(found);
    }
    for link in world.links_of(file).filter(|link| leads(link.to)) {
        let places: Vec<Span> = match link.source {
            LinkSource::Use(at) => ends(facts, at, link.count as usize),
            LinkSource::Path(at) => facts.paths.get(at as usize).map(|path| path.span).into_iter().collect(),
            LinkSource::File => vec![Span::new(link.at as usize, link.at as usize)],
        };
        let is_declared = link.name == Name(0) || world.texts().knows(link.name);
        let name = match (is_declared, places.first()) {
            (false, Some(place)) => place.text(text).into_owned(),
            _ => world.use_text(UseTarget::File(link.to, link.name)),
        };
        let spelled = match link.source {
            LinkSource::Use(at) => facts.uses.get(at as usize).is_some_and(|used| used.name == link.name),
            _ => true,
        };
        let starts = places.iter().map(|place| place.start).collect();
        let found = Found { name, declared: link.to, behind: link.behind, starts, spelled };
        let known = all.get(&link.place());
        if known.is_none_or(|known| spelled && !known.spelled) {
            all.insert(link.place(), found);
        }
    }
    all
}

/// The places of the use with this index.
fn occurrences(facts: &FileFacts, used: u32) -> impl Iterator<Item = Span> {
    facts
        .occurrences
        .iter()
        .filter(move |occurrence| occurrence.used == used)
        .map(|occurrence| occurrence.span)
}

/// The places of the use with this index where no further name of the chain follows, if just `count` are such: in
/// `beds::Bed::new` the last name is what is used.
fn ends(facts: &FileFacts, used: u32, count: usize) -> Vec<Span> {
    let mut places: Vec<Span> = occurrences(facts, used).collect();
    if places.len() > count {
        let goes_on =
            |of: u32| facts.uses.get(of as usize).is_some_and(|next| next.parent.get() == Err(used));
        for next in facts.occurrences.iter().filter(|occurrence| goes_on(occurrence.used)) {
            let before = places.iter().enumerate().filter(|(_, place)| place.end <= next.span.start);
            if let Some((nearest, _)) = before.max_by_key(|(_, place)| place.end) {
                places.remove(nearest);
            }
        }
    }
    places
}
