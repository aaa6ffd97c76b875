//! What each project builds, before and after a move: no file may be lost to those that need it, nor taken by another.

use super::MovePlan;
use super::past::{Order, Past, places};
use super::texts::Texts;
use crate::resolve::{Ownership, is_excluded};
use ferngate_model::{Access, ProjectFacts};
use std::collections::{BTreeMap, BTreeSet};

/// Refuses what would leave a project without code that it builds now, or would give it another one's.
pub(super) fn refuse_losses(
    after: &ProjectFacts,
    order: &Order,
    past: &Past,
    now: &Ownership,
    texts: &Texts,
    plan: &mut MovePlan,
) {
    keep_owned(after, order, past, now, plan);
    keep_in_all(after, order, past, now, plan);
    keep_apart(after, now, texts, plan);
    keep_single(after, order, past, now, plan);
    keep_stated_once(after, order, past, now, plan);
}

/// What a project builds must not end in a folder of none.
fn keep_owned(after: &ProjectFacts, order: &Order, past: &Past, now: &Ownership, plan: &mut MovePlan) {
    let is_lost = |(new, old): &(usize, &usize)| {
        now.owners[*new].is_empty() && !past.ownership.owners[**old].is_empty()
    };
    if let Some((new, _)) = order.iter().enumerate().find(is_lost) {
        plan.refusals.push(format!(
            "{} would lie in no project, so nothing would build it; choose a folder of a project",
            after.files[new].path
        ));
    }
}

/// A file that several projects build must not leave one whose code uses it, while another one keeps it.
fn keep_in_all(after: &ProjectFacts, order: &Order, past: &Past, now: &Ownership, plan: &mut MovePlan) {
    let place = places(order);
    let owners = |file: u32| (&past.ownership.owners[file as usize], &now.owners[place[file as usize]]);
    let mut lost: BTreeMap<u32, BTreeSet<u32>> = BTreeMap::new();
    for tie in &past.ties {
        let (left, kept) = owners(tie.to);
        if left.len() < 2 || kept == left || !left.iter().any(|owner| kept.contains(owner)) {
            continue;
        }
        let (before, after_move) = owners(tie.from);
        let stays = |owner: &&u32| before.contains(owner) && after_move.contains(owner);
        for owner in left.iter().filter(|owner| !kept.contains(owner)).filter(stays) {
            lost.entry(*owner).or_default().insert(tie.to);
        }
    }
    for (owner, files) in lost {
        let Some(project) = &after.manifests[owner as usize].path else { continue };
        let first = files.first().map_or("", |file| after.files[place[*file as usize]].path.as_str());
        let more = match files.len() - 1 {
            0 => String::new(),
            more => format!(" and {more} more"),
        };
        plan.refusals.push(format!(
            "{project} would no longer build {first}{more}, which its code uses; choose a folder that it takes too"
        ));
    }
}

/// No project may come to build what another one builds, as one does that takes all below its folder.
fn keep_apart(after: &ProjectFacts, ownership: &Ownership, texts: &Texts, plan: &mut MovePlan) {
    let projects = after.manifests.iter().enumerate().filter(|(_, manifest)| manifest.kind == "project");
    let placed = projects.filter_map(|(at, manifest)| Some((at as u32, manifest, manifest.path.as_ref()?)));
    let placed: Vec<_> = placed.collect();
    for (_, outer, around) in placed.iter().filter(|(_, outer, _)| outer.takes_all && outer.takes_nested) {
        for (inner, _, path) in placed.iter().filter(|(_, _, path)| path != around) {
            let was_inside = || texts.old_path(path).is_within(texts.old_path(around).parent());
            if !path.is_within(around.parent()) || was_inside() {
                continue;
            }
            let held = after.files.iter().zip(&ownership.owners).filter(|(_, owners)| owners.contains(inner));
            let mut below = held.map(|(file, _)| &file.path).filter(|file| file.is_within(around.parent()));
            if let Some(file) = below.find(|file| !is_excluded(outer, file)) {
                plan.refusals.push(format!(
                    "{around} would build {file} of {path} too, since it takes all below its folder; choose another folder"
                ));
            }
        }
    }
}

/// A project must not come to refer to two that each build a public type which its code uses.
fn keep_single(after: &ProjectFacts, order: &Order, past: &Past, now: &Ownership, plan: &mut MovePlan) {
    let place = places(order);
    let mut refusals = BTreeSet::new();
    for (user, references) in past.references.iter().enumerate() {
        for before in references.iter().filter(|before| before.counts) {
            let (file, declaration) = past.first_declaration[before.entity.index()];
            let declaring = place[file as usize];
            let facts = after.files[declaring].facts.as_deref();
            let declared = facts.and_then(|facts| facts.declarations.get(declaration as usize));
            if now.owners[declaring].len() < 2
                || declared.is_none_or(|declared| declared.access > Access::Public)
            {
                continue;
            }
            let Some((project, pair)) = torn_between(now, place[user], declaring) else { continue };
            if torn_between(&past.ownership, user, file as usize).is_some() {
                continue;
            }
            let name = |manifest: u32| after.manifests[manifest as usize].name.as_str();
            refusals.insert(format!(
                "{} would refer to {} and {}, which both build {}, which its code uses",
                name(project),
                name(pair.0),
                name(pair.1),
                after.files[declaring].path
            ));
        }
    }
    plan.refusals.extend(refusals);
}

/// The project of `user` that does not build `declaring` itself and refers to two that do, with these.
fn torn_between(ownership: &Ownership, user: usize, declaring: usize) -> Option<(u32, (u32, u32))> {
    let building = &ownership.owners[declaring];
    let mut outside = ownership.owners[user].iter().filter(|owner| !building.contains(owner));
    outside.find_map(|owner| {
        let usable = &ownership.usable[*owner as usize];
        let mut both = building.iter().filter(|other| usable.binary_search(other).is_ok());
        Some((*owner, (*both.next()?, *both.next()?)))
    })
}

/// What may be stated of a project once must not come to one that states it already.
fn keep_stated_once(after: &ProjectFacts, order: &Order, past: &Past, now: &Ownership, plan: &mut MovePlan) {
    let stated = |file: usize| {
        let facts = after.files[file].facts.as_deref();
        facts.map_or(&[][..], |facts| &facts.stated_once)
    };
    let stating: Vec<usize> = (0..order.len()).filter(|&file| !stated(file).is_empty()).collect();
    for &file in &stating {
        let before = &past.ownership.owners[order[file]];
        for owner in now.owners[file].iter().filter(|owner| !before.contains(owner)) {
            let of_project = |other: &&usize| **other != file && now.owners[**other].contains(owner);
            let twice = stating.iter().filter(of_project).find_map(|&other| {
                let name = stated(file).iter().find(|name| stated(other).contains(name))?;
                Some((name, other))
            });
            if let Some((name, other)) = twice {
                plan.refusals.push(format!(
                    "{} would state `{name}` of {}, which {} states already; leave it behind",
                    after.files[file].path, after.manifests[*owner as usize].name, after.files[other].path
                ));
            }
        }
    }
}
