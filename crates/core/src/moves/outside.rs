//! References to what no project of the tree makes follow the code that uses it: a file that goes to another project
//! takes along those to assemblies and packages whose names its own text spells.

use super::past::{Order, Past, places};
use super::texts::Texts;
use super::{MoveError, MovePlan};
use crate::resolve::{Dependencies, Ownership};
use ferngate_model::{Edit, ItemSlot, OutsideReference, ProjectFacts, ProjectPath, Span};
use memchr::memmem;
use std::collections::{BTreeMap, BTreeSet};

/// A reference that a project needs: the project, the one that has it, and its index there.
type Needed = BTreeSet<(u32, u32, usize)>;

/// Adds what projects now need; what is referred to by a path is only told.
pub(super) fn follow(
    after: &ProjectFacts,
    order: &Order,
    past: &Past,
    now: &Ownership,
    texts: &mut Texts,
    plan: &mut MovePlan,
) -> Result<(), MoveError> {
    let mut done: BTreeSet<(u32, &str)> = BTreeSet::new();
    let mut elements: BTreeMap<(u32, &str), Vec<(String, String)>> = BTreeMap::new();
    for (to, from, at) in needed(after, order, past, now, texts)? {
        let (target, source) = (&after.manifests[to as usize], &after.manifests[from as usize]);
        let outside = &source.outside[at];
        if !done.insert((to, &outside.name)) {
            continue;
        }
        let Some(path) = source.path.as_ref().filter(|_| !outside.has_path) else {
            let (name, to, from) = (&outside.name, &target.name, &source.name);
            let warning =
                format!("{to} may need `{name}`, to which {from} refers by a path: add that by hand");
            plan.warnings.push(warning);
            continue;
        };
        let element = on_one_line(texts.get(&texts.old_path(path))?, outside);
        elements.entry((to, outside.item)).or_default().push((element, outside.name.clone()));
    }
    for ((to, item), elements) in elements {
        let target = &after.manifests[to as usize];
        let slot = target.outside_slots.iter().find(|slot| slot.item == item);
        if let (Some(slot), Some(path)) = (slot, &target.path) {
            write(slot, &elements, &texts.old_path(path), texts);
        }
    }
    Ok(())
}

/// What the projects that files enter lack of what those have that they leave.
fn needed(
    after: &ProjectFacts,
    order: &Order,
    past: &Past,
    now: &Ownership,
    texts: &mut Texts,
) -> Result<Needed, MoveError> {
    let place = places(order);
    let mut needed = Needed::new();
    for (new, old) in order.iter().enumerate() {
        let (left, entered) = (&past.ownership.owners[*old], &now.owners[new]);
        if left == entered {
            continue;
        }
        let mut read = BTreeSet::from([new]);
        if entered.iter().any(|to| after.manifests[*to as usize].needs_bases) {
            // What the types that it uses are made of must be known too.
            let references = &past.references[*old];
            let used = references.iter().filter(|before| before.counts).map(|before| before.entity);
            let all = used.chain(past.bases_of_used(references));
            read.extend(all.map(|entity| place[past.first_declaration[entity.index()].0 as usize]));
        }
        for file in read {
            let text = texts.get(&texts.old_path(&after.files[file].path))?;
            for from in left {
                let outside = after.manifests[*from as usize].outside.iter().enumerate();
                let used = outside.filter(|(_, outside)| spells(text, &outside.name));
                needed.extend(used.flat_map(|(at, _)| entered.iter().map(move |to| (*to, *from, at))));
            }
        }
    }
    let dependencies = Dependencies::new(after, &now.declared);
    needed.retain(|(to, from, at)| lacks(after, &dependencies, *to, *from, *at));
    Ok(needed)
}

/// Writes elements, each with its name, one below the other.
fn write(slot: &ItemSlot, elements: &[(String, String)], path: &ProjectPath, texts: &mut Texts) {
    let (before, behind) = &slot.around;
    let line = before.trim_end_matches([' ', '\t']);
    let line = line.strip_suffix('\n').map_or(line, |line| line.strip_suffix('\r').unwrap_or(line));
    let between = &before[line.len()..];
    let last = elements.len() - 1;
    for (at, (element, name)) in elements.iter().enumerate() {
        let before = if at == 0 { before } else { between };
        let behind = if at == last { behind } else { "" };
        let (span, text) = (Span::new(slot.at, slot.at), format!("{before}{element}{behind}"));
        texts.edit(path, Edit { span, text, what: "assembly or package reference added" }, name.clone());
    }
}

/// Whether `to` has no such reference as `from` has at `at`: neither of its own nor through others, and of its style.
fn lacks(after: &ProjectFacts, dependencies: &Dependencies, to: u32, from: u32, at: usize) -> bool {
    let (target, source) = (&after.manifests[to as usize], &after.manifests[from as usize]);
    let outside = &source.outside[at];
    let has = |manifest: u32| {
        after.manifests[manifest as usize].outside.iter().any(|other| other.name == outside.name)
    };
    let through = || target.transitive && dependencies.usable(to, None).into_iter().any(has);
    let is_own = || after.manifests.iter().any(|manifest| manifest.name == outside.name);
    target.transitive == source.transitive && !has(to) && !through() && !is_own()
}

/// Whether `text` spells `name` or something below it, as a namespace.
fn spells(text: &[u8], name: &str) -> bool {
    let is_part = |byte: &u8| byte.is_ascii_alphanumeric() || *byte == b'_';
    memmem::find_iter(text, name).any(|at| {
        let before = text[..at].last().is_some_and(|byte| is_part(byte) || *byte == b'.');
        !before && !text.get(at + name.len()).is_some_and(is_part)
    })
}

/// The element, whose parts may stand on lines of their own, on one.
fn on_one_line(text: &[u8], outside: &OutsideReference) -> String {
    let element = String::from_utf8_lossy(outside.element.of(text)).into_owned();
    element.lines().map(str::trim).collect::<String>()
}
