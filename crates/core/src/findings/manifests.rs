use super::{About, Check, Finding, Place, View, references};
use crate::map::{Severity, is_test_data};
use crate::resolve::{Dependencies, resolve_mention};
use ferngate_model::{ItemAction, ManifestFacts, ProjectPath, ProjectReference};
use std::collections::{BTreeMap, BTreeSet};

/// Code uses a project that its own does not declare to use.
pub struct Undeclared;

/// A project declares to use another that it does not use.
pub struct Unused;

/// Which manifests use which, by the code that they hold.
fn uses(view: &View) -> BTreeSet<(u32, u32)> {
    let owners = &view.world.ownership.owners;
    let mut found = BTreeSet::new();
    for tie in view.file_ties {
        for from in &owners[tie.from as usize] {
            found.extend(owners[tie.to as usize].iter().map(|to| (*from, *to)));
        }
    }
    found
}

/// Whether builds make some of the code of `manifest`: nobody can read what that uses.
fn makes_code(view: &View, manifest: &ManifestFacts) -> bool {
    let is_made =
        |path: &ProjectPath| view.world.project.file(path.as_str()).is_none() && (view.exists)(path);
    let mut listed = manifest.mentions.iter().filter(|mention| mention.action == ItemAction::Compile);
    manifest.makes_code
        || listed.any(|mention| {
            !mention.written.contains('*')
                && resolve_mention(manifest, &mention.written).is_some_and(|path| is_made(&path))
        })
}

/// Which manifests need which to be built for what the types are made of that their code names, though it does not name
/// that itself.
fn needs(view: &View) -> BTreeSet<(u32, u32)> {
    let (owners, manifests) = (&view.world.ownership.owners, &view.world.project.manifests);
    let needs_bases = |owner: &&u32| manifests[**owner as usize].needs_bases;
    let mut users: BTreeMap<u32, BTreeSet<u32>> = BTreeMap::new();
    for tie in view.file_ties {
        let needing = owners[tie.from as usize].iter().filter(needs_bases);
        users.entry(tie.to).or_default().extend(needing.copied());
    }
    let mut found = BTreeSet::new();
    for tie in view.file_ties {
        for user in users.get(&tie.from).into_iter().flatten() {
            found.extend(owners[tie.to as usize].iter().map(|needed| (*user, *needed)));
        }
    }
    found
}

fn manifest_path<'v>(view: &'v View, manifest: u32) -> Option<&'v ProjectPath> {
    view.world.project.manifests[manifest as usize].path.as_ref()
}

/// What people call a manifest; with its folder where there are several of that name.
fn called(view: &View, manifest: u32) -> String {
    let manifests = &view.world.project.manifests;
    let name = &manifests[manifest as usize].name;
    let alike = manifests.iter().filter(|other| other.kind == "project" && other.name == *name).count();
    match manifest_path(view, manifest) {
        Some(path) if alike > 1 => {
            format!("`{name}` in {}", if path.parent().is_empty() { "." } else { path.parent() })
        }
        _ => format!("`{name}`"),
    }
}

/// What tells which tool reads `manifest`: the ending of its name.
fn tool(manifest: &ManifestFacts) -> &str {
    match manifest.path.as_ref().map_or("", ProjectPath::extension) {
        "kts" => "gradle",
        extension if extension.ends_with("proj") => "proj",
        extension => extension,
    }
}

/// Whether a manifest is of a project: not what a maker of projects fills in, `${name}`, nor what tests read.
fn is_real(manifest: &ManifestFacts) -> bool {
    !manifest.name.contains("${") && !manifest.path.as_ref().is_some_and(|path| is_test_data(path.as_str()))
}

/// Whether one manifest could refer to the other: both are of projects, and read by the same tool.
fn may_refer(from: &ManifestFacts, to: &ManifestFacts) -> bool {
    tool(from) == tool(to) && is_real(from) && is_real(to)
}

/// Whether `from` has what the project `to` makes as a package, perhaps in an older state.
fn has_as_package(from: &ManifestFacts, to: &ManifestFacts) -> bool {
    from.outside.iter().any(|outside| !outside.has_path && to.answers_to().any(|name| name == outside.name))
}

/// Whether `file` of the manifest `to` only says, for the whole workspace, what names of modules mean there.
fn is_ambient(from: &ManifestFacts, to: &ManifestFacts, file: &ProjectPath) -> bool {
    file.as_str().ends_with(".d.ts") && from.path.as_ref().is_some_and(|path| path.is_within(to.folder()))
}

impl Check for Undeclared {
    fn about(&self) -> About {
        About {
            name: "undeclared-dependency",
            severity: Severity::Error,
            meaning: "Code uses names of another project that its own project file does not refer to.",
            example: "src/Visits/Tour.cs:5:12 uses `Taxon` of Mossgrove.Catalogue,\nbut src/Visits/Mossgrove.Visits.csproj has no reference to it.",
            ways_out: &[
                "add the reference to the project file",
                "move the code to the project that it belongs to",
            ],
        }
    }

    fn find(&self, view: &View, found: &mut Vec<Finding>) {
        let ownership = &view.world.ownership;
        let mut missing: BTreeMap<(u32, u32), (usize, u32, u32)> = BTreeMap::new();
        for tie in view.file_ties {
            let (from, to) = (tie.from as usize, tie.to as usize);
            if ownership.may_use(from, to) {
                continue;
            }
            if let (Some(a), Some(b)) = (ownership.owners[from].first(), ownership.owners[to].first()) {
                let entry = missing.entry((*a, *b)).or_insert((from, tie.to, 0));
                entry.2 += tie.references;
            }
        }
        for ((from, to), (file, to_file, count)) in missing {
            let manifests = &view.world.project.manifests;
            let (user, owner) = (&manifests[from as usize], &manifests[to as usize]);
            if !may_refer(user, owner)
                || has_as_package(user, owner)
                || is_ambient(user, owner, view.path(to_file as usize))
            {
                continue;
            }
            let used = &manifests[to as usize].name;
            let used_here = view.world.strong_uses(file);
            let Some(reference) = used_here.iter().find(|used| used.files.contains(&to_file)) else {
                continue;
            };
            let name = view.world.short_use(reference.target);
            let (user_called, used_called) = (called(view, from), called(view, to));
            let message = format!(
                "{user_called} uses {used_called} ({}, first `{name}`) without declaring it",
                references(count)
            );
            let mut finding = view.finding(&self.about(), String::new(), message);
            let offset = Some(reference.offset);
            finding.place = Some(Place { path: view.path(file).clone(), offset });
            let (Some(user_path), Some(used_path)) = (manifest_path(view, from), manifest_path(view, to))
            else {
                continue;
            };
            finding.rule = format!("what {user_path} uses, it must refer to");
            let relative = used_path.relative_to(user_path.parent());
            let by_path = manifests[from as usize].named_root;
            let what = if by_path { format!("a reference to {relative}") } else { format!("`{used}`") };
            finding.way_out = format!("add {what} in {user_path}");
            found.push(finding);
        }
    }
}

impl Check for Unused {
    fn about(&self) -> About {
        About {
            name: "unused-dependency",
            severity: Severity::Warning,
            meaning: "A project file refers to a project none of whose names its code uses.",
            example: "<ProjectReference Include=\"..\\Glasshouse\\Mossgrove.Glasshouse.csproj\" />\n\nbut no file of Mossgrove.Visits uses a name of it.",
            ways_out: &[
                "remove the reference from the project file",
                "keep it, and turn this finding off for the project",
            ],
        }
    }

    fn find(&self, view: &View, found: &mut Vec<Finding>) {
        let (uses, needs) = (uses(view), needs(view));
        let (project, ownership) = (view.world.project, &view.world.ownership);
        let dependencies = Dependencies::new(project, &ownership.declared);
        let mut holds_code = vec![false; project.manifests.len()];
        for (file, owners) in project.files.iter().zip(&ownership.owners) {
            if file.facts.is_some() {
                owners.iter().for_each(|owner| holds_code[*owner as usize] = true);
            }
        }
        let asked = |manifest: &ManifestFacts| !manifest.links && is_real(manifest);
        for (from, manifest) in project.manifests.iter().enumerate().filter(|(_, manifest)| asked(manifest)) {
            for reference in &manifest.references {
                let Some(to) = self.target(view, from, reference) else { continue };
                // What is reached only through the reference counts as a use of it.
                let reached: &[u32] = if manifest.transitive { &ownership.usable[to] } else { &[to as u32] };
                let used = reached.iter().any(|through| uses.contains(&(from as u32, *through)))
                    || needs.contains(&(from as u32, to as u32));
                let unread = || makes_code(view, manifest) || makes_code(view, &project.manifests[to]);
                if used || !holds_code[from] || !holds_code[to] || unread() {
                    continue;
                }
                let (user, unused) = (called(view, from as u32), called(view, to as u32));
                let message = format!("{user} declares to use {unused}, but none of its code does");
                let mut finding = view.finding(&self.about(), String::new(), message);
                finding.place =
                    manifest.path.clone().map(|path| Place { path, offset: Some(reference.span.start) });
                finding.rule = "a project refers to what it uses, and to nothing else".to_owned();
                let edge = (from as u32, to as u32);
                let seers = (0..project.manifests.len() as u32)
                    .filter(|user| ownership.usable[*user as usize].binary_search(&edge.0).is_ok());
                finding.way_out = match &dependencies.relying(edge, seers, &uses)[..] {
                    [] => "remove the reference, unless something wired at run time needs it".to_owned(),
                    [only] => format!(
                        "declare it in {}, which needs it and reaches it only through this, then remove it here",
                        called(view, *only)
                    ),
                    [first, others @ ..] => format!(
                        "declare it in {} and {} more, which need it and reach it only through this, then remove it here",
                        called(view, *first),
                        others.len()
                    ),
                };
                found.push(finding);
            }
        }
    }
}

impl Unused {
    /// The manifest that `reference` of the manifest `from` means. A name in an MSBuild project is left alone: it may
    /// be there for what is only loaded at run time.
    fn target(&self, view: &View, from: usize, reference: &ProjectReference) -> Option<usize> {
        let project = view.world.project;
        let manifest = &project.manifests[from];
        if !reference.by_name {
            return project.manifest(resolve_mention(manifest, &reference.target)?.as_str());
        }
        let others =
            view.world.ownership.declared[from].iter().map(|to| *to as usize).filter(|to| *to != from);
        let answers = |to: &usize| project.manifests[*to].answers_to().any(|name| name == reference.target);
        let mut named = others.filter(answers);
        if manifest.named_root { None } else { named.next() }
    }
}
