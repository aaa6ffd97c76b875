//! What is internal and would be used across a border after a move: listed, and made public on request, with everything
//! that becoming public shows.

use super::past::{Order, Past, ownership_after};
use super::texts::Texts;
use super::{MoveOptions, MovePlan};
use crate::resolve::{EntityId, Ownership};
use ferngate_model::{Access, Edit, FileFacts, ProjectFacts, Span};
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
    let mut place = vec![0usize; order.len()];
    order.iter().enumerate().for_each(|(new, old)| place[*old] = new);
    let borders = Borders { after, past, place, now: ownership_after(after, order, past, texts) };
    let mut needed = Needed::default();
    borders.crossed(&mut needed);
    borders.shown(&mut needed);
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
        plan.refusals.push(refusal(plan, needed.members.is_empty()));
    }
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
}

impl Borders<'_> {
    fn facts(&self, old: u32) -> Option<&FileFacts> {
        self.after.files[self.place[old as usize]].facts.as_ref()
    }

    /// Whether `file` could see what is internal in `declaring` and no longer can.
    fn parted(&self, file: usize, declaring: usize) -> bool {
        let shared = |ownership: &Ownership, a: usize, b: usize| {
            ownership.together(a, b) || befriended(self.after, ownership, a, b)
        };
        shared(&self.past.ownership, file, declaring)
            && !shared(&self.now, self.place[file], self.place[declaring])
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

    /// The types that the heads of the `chosen` members of `file` name.
    fn named(&self, file: u32, facts: &FileFacts, chosen: impl Fn(u32) -> bool, shown: &mut Vec<EntityId>) {
        for (_, node) in facts.signatures.iter().filter(|(member, _)| chosen(*member)) {
            let meant = self.past.references[file as usize].iter().filter(|before| before.used == *node);
            shown.extend(meant.map(|before| before.entity));
        }
    }
}

/// Whether the manifest of `to` grants its internal names to that of `from`.
fn befriended(project: &ProjectFacts, ownership: &Ownership, from: usize, to: usize) -> bool {
    let names: Vec<&str> =
        ownership.owners[from].iter().map(|&owner| project.manifests[owner as usize].name.as_str()).collect();
    ownership.owners[to].iter().any(|&owner| {
        let stated =
            project.manifests[owner as usize].friends.iter().any(|friend| names.contains(&friend.as_str()));
        stated
            || project.files.iter().enumerate().any(|(file, source)| {
                ownership.owners.get(file).is_some_and(|owners| owners.contains(&owner))
                    && source
                        .facts
                        .as_ref()
                        .is_some_and(|facts| facts.friends.iter().any(|f| names.contains(&&**f)))
            })
    })
}
