//! Names in comments that the compiler finds before a move and not afterwards: a comment is no reason for one project to
//! refer to another, or for an internal type to become public.

use super::MovePlan;
use super::friends::Friends;
use super::past::{Order, Past, places};
use crate::resolve::{EntityId, Ownership};
use ferngate_model::{Access, Context, ProjectFacts};

/// Warns of each type that a comment names where it can no longer be seen; `names` are the full names afterwards.
pub(super) fn warn(
    after: &ProjectFacts,
    order: &Order,
    past: &Past,
    now: &Ownership,
    names: &[String],
    plan: &mut MovePlan,
) {
    let place = places(order);
    let friends = Friends::new(after, now, |file| after.files[file].facts.as_deref());
    let friends_before =
        Friends::new(after, &past.ownership, |file| after.files[place[file]].facts.as_deref());
    let mut warnings = Vec::new();
    for (old, references) in past.references.iter().enumerate() {
        let source = &after.files[place[old]];
        let Some(facts) = source.facts.as_deref() else { continue };
        let is_weak = |used: u32| facts.uses.get(used as usize).is_some_and(|of| of.context == Context::Weak);
        for before in references.iter().filter(|before| is_weak(before.used)) {
            let declaring = past.first_declaration[before.entity.index()].0 as usize;
            let (user, declared) = (place[old], place[declaring]);
            if now.owners[user].is_empty() {
                continue;
            }
            let name = &names[before.entity.index()];
            let why = if past.ownership.may_use(old, declaring) && !now.may_use(user, declared) {
                "whose project its own does not refer to"
            } else if friends_before.shares(&past.ownership, old, declaring)
                && !friends.shares(now, user, declared)
                && is_internal(after, past, &place, before.entity)
                && !plan.widened.iter().any(|(widened, path)| {
                    *path == after.files[declared].path && name.ends_with(widened.as_str())
                })
            {
                "which is internal to another project"
            } else {
                continue;
            };
            warnings.push(format!(
                "{}: a comment names {name}, {why}; the compiler will warn of it",
                source.path
            ));
        }
    }
    warnings.sort();
    warnings.dedup();
    plan.warnings.extend(warnings);
}

fn is_internal(after: &ProjectFacts, past: &Past, place: &[usize], entity: EntityId) -> bool {
    let (file, declaration) = past.first_declaration[entity.index()];
    let facts = after.files[place[file as usize]].facts.as_deref();
    let declared = facts.and_then(|facts| facts.declarations.get(declaration as usize));
    declared.is_some_and(|declared| declared.access == Access::Internal)
}
