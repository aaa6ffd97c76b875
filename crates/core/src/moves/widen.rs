//! What is internal and would be used across a border after a move: listed, and made public on request, with everything
//! that becoming public shows.

use super::friends::Friends;
use super::past::{Order, Past, ownership_after, places};
use super::texts::Texts;
use super::{MoveOptions, MovePlan};
use crate::resolve::{EntityId, Ownership};
use ferngate_model::{Access, Edit, FileFacts, ProjectFacts, Span};
use memchr::memmem;
use rustc_hash::FxHashMap;
use std::collections::BTreeSet;

/// How many names a refusal lists.
const LISTED: usize = 6;
/// The words that state who may see something.
const ACCESS_WORDS: &[&str] = &["public", "protected", "internal", "private"];

/// What must be public: by the file before the move that declares it, and its index there.
#[derive(Default)]
struct Needed {
    types: BTreeSet<(u32, u32)>,
    members: BTreeSet<(u32, u32)>,
    /// Halves of properties, which only who writes or who reads needs: index into the file's accessors, and the file
    /// that uses the property, before the move.
    accessors: BTreeSet<(u32, u32, u32)>,
}

/// Lists, and with the option widens, what is internal and now used across a border.
pub(super) fn widen(
    after: &ProjectFacts,
    order: &Order,
    past: &Past,
    options: MoveOptions,
    texts: &mut Texts,
    plan: &mut MovePlan,
) {
    let place = places(order);
    let now = ownership_after(after, order, past, texts);
    let friends = Friends::new(after, &now, |file| after.files[file].facts.as_deref());
    let friends_before =
        Friends::new(after, &past.ownership, |file| after.files[place[file]].facts.as_deref());
    let borders = Borders { after, past, place, now, friends, friends_before };
    let mut needed = Needed::default();
    borders.crossed(&mut needed);
    borders.shown(&mut needed);
    borders.all_parts(&mut needed);
    for (old, member) in &needed.members {
        let Some(facts) = borders.facts(*old) else { continue };
        let found = &facts.members[*member as usize];
        let holder = facts.texts.text(facts.declarations[found.owner as usize].name);
        let source = &after.files[borders.place[*old as usize]].path;
        let key = texts.old_path(source);
        let Ok(text) = texts.get(&key) else { continue };
        let words = access_words(text, found.access_at as usize);
        let line_end =
            text[words.end as usize..].iter().position(|byte| matches!(byte, b'\n' | b'{' | b';' | b'='));
        let head = &text[words.end as usize..words.end as usize + line_end.unwrap_or(0)];
        let name = format!("{holder}: {}", String::from_utf8_lossy(head).trim());
        plan.widened.push((name.clone(), source.clone()));
        if options.widen {
            texts.edit(&key, Edit { span: words, text: "public".into(), what: "made public" }, name);
        }
    }
    widen_accessors(&borders, &needed, options, texts, plan);
    for (old, declaration) in &needed.types {
        let Some(facts) = borders.facts(*old) else { continue };
        let declared = &facts.declarations[*declaration as usize];
        let name = facts.texts.text(declared.name).to_owned();
        let source = &after.files[borders.place[*old as usize]].path;
        plan.widened.push((name.clone(), source.clone()));
        if options.widen {
            let text = if declared.access_span.is_empty() { "public " } else { "public" };
            let edit = Edit { span: declared.access_span, text: text.into(), what: "made public" };
            texts.edit(&texts.old_path(source), edit, name);
        }
    }
    plan.widened.sort();
    if !plan.widened.is_empty() && !options.widen {
        plan.refusals.push(refusal(plan, needed.members.is_empty() && needed.accessors.is_empty()));
    }
}

/// A half may not be stated as wide as its property; so its words go.
fn widen_accessors(
    borders: &Borders,
    needed: &Needed,
    options: MoveOptions,
    texts: &mut Texts,
    plan: &mut MovePlan,
) {
    for (old, at, using) in &needed.accessors {
        let Some(facts) = borders.facts(*old) else { continue };
        let accessor = facts.accessors[*at as usize];
        let path_of = |file: u32| &borders.after.files[borders.place[file as usize]].path;
        let (declaring, user) = (texts.old_path(path_of(*old)), texts.old_path(path_of(*using)));
        let Ok(name) = texts.get(&declaring).map(|text| accessor.name.text(text).into_owned()) else {
            continue;
        };
        if accessor.sets && !texts.get(&user).is_ok_and(|text| assigned(text, name.as_bytes())) {
            continue;
        }
        let member = &facts.members[accessor.member as usize];
        let holder = facts.texts.text(facts.declarations[member.owner as usize].name);
        let name = format!("{holder}: {name} {{ {} }}", if accessor.sets { "set" } else { "get" });
        let entry = (name.clone(), path_of(*old).clone());
        if plan.widened.contains(&entry) {
            continue;
        }
        plan.widened.push(entry);
        if options.widen {
            texts.edit(
                &declaring,
                Edit { span: accessor.words, text: String::new(), what: "made public" },
                name,
            );
        }
    }
}

/// Whether somewhere in `text` something called `name` is given a value.
fn assigned(text: &[u8], name: &[u8]) -> bool {
    memmem::find_iter(text, name).any(|at| {
        let before = text[..at].trim_ascii_end();
        let word = text[..at].last().is_some_and(|byte| byte.is_ascii_alphanumeric() || *byte == b'_');
        let rest = text[at + name.len()..].trim_ascii_start();
        let operator = rest.iter().take_while(|byte| b"+-*/%&|^?<>=".contains(byte)).count();
        let assigns = match &rest[..operator] {
            b"++" | b"--" => true,
            b"==" | b"=>" | b"<=" | b">=" | b"!=" | [] => false,
            operator => operator.ends_with(b"="),
        };
        let stepped = before.ends_with(b"++") || before.ends_with(b"--");
        !word && (assigns || stepped)
    })
}

fn refusal(plan: &MovePlan, only_types: bool) -> String {
    let names: Vec<&str> = plan.widened.iter().map(|(name, _)| name.as_str()).collect();
    let many = names.len();
    let one = many == 1;
    format!(
        "{many} internal {} would be used across a project border: {}{}; --widen makes {} public",
        match (only_types, one) {
            (true, true) => "type",
            (true, false) => "types",
            (false, true) => "name",
            (false, false) => "names",
        },
        names[..many.min(LISTED)].join(", "),
        if many > LISTED { " …" } else { "" },
        if one { "it" } else { "them" },
    )
}

/// The words at `at` that state an access, with the blanks between them.
fn access_words(text: &[u8], at: usize) -> Span {
    let (mut end, mut next) = (at, at);
    loop {
        let word = text[next..].iter().take_while(|byte| byte.is_ascii_alphabetic()).count();
        let known =
            std::str::from_utf8(&text[next..next + word]).is_ok_and(|word| ACCESS_WORDS.contains(&word));
        if !known {
            return Span::new(at, end);
        }
        end = next + word;
        next = end + text[end..].iter().take_while(|byte| byte.is_ascii_whitespace()).count();
    }
}

struct Borders<'m> {
    after: &'m ProjectFacts,
    past: &'m Past,
    /// For each file before the move, its index afterwards.
    place: Vec<usize>,
    now: Ownership,
    friends: Friends,
    friends_before: Friends,
}

impl Borders<'_> {
    fn facts(&self, old: u32) -> Option<&FileFacts> {
        self.after.files[self.place[old as usize]].facts.as_deref()
    }

    /// Whether `file` could see what is internal in `declaring` and no longer can.
    fn parted(&self, file: usize, declaring: usize) -> bool {
        let (user, declared) = (self.place[file], self.place[declaring]);
        self.friends_before.shares(&self.past.ownership, file, declaring)
            && !self.friends.shares(&self.now, user, declared)
    }

    /// What is used over a border that was none.
    fn crossed(&self, needed: &mut Needed) {
        for (file, references) in self.past.references.iter().enumerate() {
            for before in references.iter().filter(|before| before.counts) {
                let (declaring, _) = self.past.first_declaration[before.entity.index()];
                if self.parted(file, declaring as usize) {
                    self.need(before.entity, needed);
                }
            }
        }
        for (file, members) in self.past.members.iter().enumerate() {
            for (owner, name) in members {
                let (declaring, declaration) = self.past.first_declaration[owner.index()];
                let Some(facts) = self.facts(declaring).filter(|_| self.parted(file, declaring as usize))
                else {
                    continue;
                };
                // Which of several overloads is meant is not known, so all of them count.
                let found = facts.members.iter().enumerate().filter(|(_, member)| {
                    (member.owner, member.name) == (declaration, *name) && member.access == Access::Internal
                });
                needed.members.extend(found.map(|(at, _)| (declaring, at as u32)));
                let halves = facts.accessors.iter().enumerate().filter(|(_, half)| {
                    let member = &facts.members[half.member as usize];
                    (member.owner, member.name) == (declaration, *name)
                });
                needed.accessors.extend(halves.map(|(at, _)| (declaring, at as u32, file as u32)));
            }
        }
    }

    /// Enters `entity` with the types around it, if it is internal.
    fn need(&self, entity: EntityId, needed: &mut Needed) {
        let (declaring, declaration) = self.past.first_declaration[entity.index()];
        let Some(facts) = self.facts(declaring) else { return };
        let mut at = Some(declaration);
        while let Some(found) = at {
            let declared = &facts.declarations[found as usize];
            if declared.access == Access::Internal {
                needed.types.insert((declaring, found));
            }
            at = facts.type_of(declared.scope).filter(|around| *around != found);
        }
    }

    /// What the heads of members, and the bases, of what becomes public show must be public too.
    fn shown(&self, needed: &mut Needed) {
        let mut entity_of: FxHashMap<(u32, u32), EntityId> = FxHashMap::default();
        for (at, place) in self.past.first_declaration.iter().enumerate() {
            entity_of.insert(*place, EntityId(at as u32));
        }
        let mut done = (0, 0);
        while done != (needed.types.len(), needed.members.len()) {
            done = (needed.types.len(), needed.members.len());
            let mut shown: Vec<EntityId> = Vec::new();
            for (file, declaration) in &needed.types {
                let bases =
                    entity_of.get(&(*file, *declaration)).and_then(|of| self.past.bases.get(of.index()));
                // A class may not show less than what it derives from; interfaces are held to that too.
                shown.extend(bases.into_iter().flatten());
                let Some(facts) = self.facts(*file) else { continue };
                let public = |member: u32| {
                    let member = &facts.members[member as usize];
                    member.owner == *declaration && member.access == Access::Public
                };
                self.named(*file, facts, public, &mut shown);
            }
            for (file, member) in &needed.members {
                let Some(facts) = self.facts(*file) else { continue };
                self.named(*file, facts, |of| of == *member, &mut shown);
            }
            for entity in shown {
                self.need(entity, needed);
            }
        }
    }

    /// Parts of one type may not state different access.
    fn all_parts(&self, needed: &mut Needed) {
        for (_, parts) in &self.past.parts {
            if !parts.iter().any(|part| needed.types.contains(part)) {
                continue;
            }
            let states_internal = |(file, declaration): &&(u32, u32)| {
                let declared =
                    self.facts(*file).and_then(|facts| facts.declarations.get(*declaration as usize));
                declared.is_some_and(|declared| {
                    declared.access == Access::Internal && !declared.access_span.is_empty()
                })
            };
            needed.types.extend(parts.iter().filter(states_internal));
        }
    }

    /// The types that the heads of the `chosen` members of `file` name.
    fn named(&self, file: u32, facts: &FileFacts, chosen: impl Fn(u32) -> bool, shown: &mut Vec<EntityId>) {
        for (_, node) in facts.signatures.iter().filter(|(member, _)| chosen(*member)) {
            let meant = self.past.references[file as usize].iter().filter(|before| before.used == *node);
            shown.extend(meant.map(|before| before.entity));
        }
    }
}
