//! Where a name lives, and what is around it.

use crate::resolve::{EntityId, World, named_in_settings};
use ferngate_model::{DeclarationKind, FileFacts, Link, LinkSource, Name};
use rustc_hash::FxHashMap;
use std::collections::BTreeMap;

/// A declared name that is like what was asked for.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Match {
    /// The full name; in languages without namespaces the name alone.
    pub name: String,
    /// What it is.
    pub kind: DeclarationKind,
    /// The files that declare it, with the first byte of the name in each.
    pub places: Vec<(u32, u32)>,
    /// How well it fits.
    pub likeness: Likeness,
    /// The files that use it, but for those that declare it: by file, uses before mentions.
    pub users: Vec<FileUse>,
}

/// How well a name fits what was asked for; the best first.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Likeness {
    /// It is that, in full or without what is around it.
    Same,
    /// It is that but for capitals.
    SameLetters,
    /// It begins with that.
    Begins,
    /// It holds that.
    Holds,
}

/// What a match stands for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
enum Meant {
    Entity(EntityId),
    /// A name of a file whose language has no namespaces.
    Item(u32, Name),
}

/// A file that uses a name.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct FileUse {
    /// The file.
    pub file: u32,
    /// Mentions in comments, strings and settings are no dependencies.
    pub mention: bool,
    /// First byte of the first place.
    pub offset: u32,
    /// Number of places.
    pub places: u32,
}

/// How `name` is like `wanted`, if it is. Parts in front count only where `wanted` has parts too.
pub fn likeness(name: &str, wanted: &str) -> Option<Likeness> {
    let short = name.rsplit(['.', '\\', '/']).next().unwrap_or(name);
    let of = |text: &str| {
        let (letters, wanted_letters) = (text.to_lowercase(), wanted.to_lowercase());
        match () {
            () if text == wanted => Some(Likeness::Same),
            () if letters == wanted_letters => Some(Likeness::SameLetters),
            () if letters.starts_with(&wanted_letters) => Some(Likeness::Begins),
            () if letters.contains(&wanted_letters) => Some(Likeness::Holds),
            () => None,
        }
    };
    let whole = if wanted.contains(['.', '\\', '/']) { of(name) } else { None };
    of(short).into_iter().chain(whole).min()
}

/// The declared names that are like `wanted`, with their users: the best first, then those that most files use, then by
/// name and place. Mentions are among the users where they were read. Cost grows with the declared names and the
/// references of the project.
pub fn names_like(world: &World, wanted: &str) -> Vec<Match> {
    let mut found = declared_like(world, wanted);
    add_users(world, &mut found);
    let mut found: Vec<Match> = found.into_values().collect();
    let users = |found: &Match| found.users.iter().filter(|used| !used.mention).count();
    found.sort_by_cached_key(|found| {
        (found.likeness, std::cmp::Reverse(users(found)), found.name.clone(), found.places.clone())
    });
    found
}

fn declared_like(world: &World, wanted: &str) -> FxHashMap<Meant, Match> {
    let mut found: FxHashMap<Meant, Match> = FxHashMap::default();
    // Each file of a package may state the package's name.
    let mut packages: FxHashMap<(&str, Name), u32> = FxHashMap::default();
    for (file, source) in world.project.files.iter().enumerate() {
        let Some(facts) = &source.facts else { continue };
        let named = world.table.named_facts(source).is_some();
        for (at, declaration) in facts.declarations.iter().enumerate() {
            if declaration.kind == DeclarationKind::Anonymous {
                continue;
            }
            let meant = if named {
                Meant::Entity(world.table.declared[file][at])
            } else {
                let own = file as u32;
                let holder = match declaration.kind {
                    DeclarationKind::Module => {
                        *packages.entry((source.path.parent(), declaration.name)).or_insert(own)
                    }
                    _ => own,
                };
                Meant::Item(holder, declaration.name)
            };
            let place = (file as u32, declaration.name_span.start);
            if let Some(known) = found.get_mut(&meant) {
                known.places.push(place);
                continue;
            }
            let name = match meant {
                Meant::Entity(entity) => world.table.entity_text(entity),
                Meant::Item(_, name) => world.texts().text(name).to_owned(),
            };
            if let Some(likeness) = likeness(&name, wanted) {
                let (kind, places, users) = (declaration.kind, vec![place], Vec::new());
                found.insert(meant, Match { name, kind, places, likeness, users });
            }
        }
    }
    found
}

fn add_users(world: &World, found: &mut FxHashMap<Meant, Match>) {
    let mut add = |meant: Meant, used: FileUse| {
        if let Some(found) = found.get_mut(&meant)
            && found.places.binary_search_by_key(&used.file, |(file, _)| *file).is_err()
        {
            found.users.push(used);
        }
    };
    for (at, source) in world.project.files.iter().enumerate() {
        let file = at as u32;
        let Some(facts) = &source.facts else { continue };
        let references = &world.references[at];
        let strong = references.strong().map(|reference| (reference, false));
        for (reference, mention) in strong.chain(references.weak.iter().map(|reference| (reference, true))) {
            let offset = facts.uses[reference.used as usize].first;
            let places = reference.count;
            add(Meant::Entity(reference.entity), FileUse { file, mention, offset, places });
        }
        for link in &world.links[at].files {
            let used = FileUse { file, mention: link.weak, offset: link.at, places: link.count };
            for to in [Some(link.to), link.behind].into_iter().flatten() {
                names_of(facts, link).for_each(|name| add(Meant::Item(to, name), used));
            }
        }
    }
    for (file, link) in named_in_settings(world) {
        let (file, offset, places) = (file as u32, link.at, link.count);
        if let Some(entity) = declared_as(world, link.to, link.name) {
            add(Meant::Entity(entity), FileUse { file, mention: true, offset, places });
        }
    }
    found.values_mut().for_each(|found| found.users = merged(std::mem::take(&mut found.users)));
}

/// The names that a link takes from the file that it leads to; none where it takes in the whole file.
pub fn names_of<'f>(facts: &'f FileFacts, link: &Link) -> impl Iterator<Item = Name> + use<'f> {
    let taken = match link.source {
        LinkSource::Path(at) => facts.paths.get(at as usize).map(|path| &path.names[..]),
        LinkSource::Use(_) | LinkSource::File => None,
    };
    let taken = taken.unwrap_or_default().iter().map(|(taken, _)| *taken);
    taken.chain([link.name]).filter(|name| *name != Name(0))
}

/// The files that `file` uses: number of places and the first one in `file`, which each [`FileUse`] names as its file.
pub fn file_uses(world: &World, file: u32) -> BTreeMap<u32, FileUse> {
    let mut uses: BTreeMap<u32, FileUse> = BTreeMap::new();
    for lead in world.leads_of(file as usize) {
        let offset = lead.offset;
        let first = uses.entry(lead.to).or_insert(FileUse { file, mention: false, offset, places: 0 });
        first.places += lead.count;
        first.offset = first.offset.min(offset);
    }
    uses
}

/// The type called `name` that `file` declares.
fn declared_as(world: &World, file: u32, name: Name) -> Option<EntityId> {
    let declared = &world.table.declared[file as usize];
    declared.iter().copied().find(|entity| world.table.entities[entity.index()].name == name)
}

fn merged(mut users: Vec<FileUse>) -> Vec<FileUse> {
    users.sort_unstable();
    users.dedup_by(|next, first| {
        let same = (next.file, next.mention) == (first.file, first.mention);
        if same {
            first.places += next.places;
        }
        same
    });
    users
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_best_fit_comes_first() {
        let of = |name: &str| likeness(name, "Ticket");
        assert_eq!(of("Mossgrove.Visits.Ticket"), Some(Likeness::Same));
        assert_eq!(of("Mossgrove\\ticket"), Some(Likeness::SameLetters));
        assert_eq!(of("Mossgrove.TicketOffice"), Some(Likeness::Begins));
        assert_eq!(of("GroupTickets"), Some(Likeness::Holds));
        // What is around a name does not make it like another.
        assert_eq!(of("Ticket.Price"), None);
        assert_eq!(likeness("Visits.Ticket.Price", "ticket.pr"), Some(Likeness::Holds));
        assert_eq!(likeness("Visits.Ticket", "Visits.Ticket"), Some(Likeness::Same));
    }
}
