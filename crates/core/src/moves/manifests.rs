//! Manifests follow: listed paths, items that change their project, references that become necessary or needless.

use super::namespaces::{home_manifests, home_manifests_at};
use super::past::origin_of_taken;
use super::texts::Texts;
use super::{MoveError, names::line_end};
use crate::resolve::{Dependencies, Ownership, resolve_mention};
use ferngate_model::{Edit, ItemAction, ManifestFacts, PathMention, ProjectFacts, ProjectPath, Span};
use std::collections::{BTreeMap, BTreeSet};

/// Where things go, by path.
#[derive(Clone, Copy)]
pub struct Paths<'p> {
    /// New path by old path, of files.
    pub files: &'p BTreeMap<ProjectPath, ProjectPath>,
    /// Folders that move as a whole.
    pub folders: &'p [(ProjectPath, ProjectPath)],
}

impl Paths<'_> {
    /// Where `path` is afterwards.
    pub fn after(&self, path: &ProjectPath) -> ProjectPath {
        if let Some(new) = self.files.get(path) {
            return new.clone();
        }
        for (old, new) in self.folders {
            if let Some(below) = path.below(old.as_str()) {
                return ProjectPath::new(&format!("{new}/{below}"));
            }
        }
        path.clone()
    }

    /// The project manifests of the nearest folder at or above `new` afterwards: some may have moved along.
    fn homes(&self, project: &ProjectFacts, new: &ProjectPath) -> Vec<u32> {
        home_manifests_at(project, new, |manifest| self.after(manifest))
    }
}

/// Rewrites the paths that manifests list. `made` are files that the move makes, with the file that each leaves.
pub fn follow_paths(
    project: &ProjectFacts,
    paths: &Paths,
    made: &[(ProjectPath, ProjectPath)],
    texts: &mut Texts,
) -> Result<(), MoveError> {
    // Files of unknown form follow as mentions do.
    for manifest in project.manifests.iter().filter(|manifest| manifest.kind != "list") {
        let Some(own) = manifest.path.clone() else { continue };
        let home = paths.after(&own);
        for mention in &manifest.mentions {
            let Some(old) = resolve_mention(manifest, &mention.written) else { continue };
            if mention.written.contains(['*', '?', '$']) {
                continue;
            }
            let new = paths.after(&old);
            if leaves(project, manifest, mention, (&old, &new), paths) {
                carry_item(project, manifest, mention, &new, paths, texts)?;
                continue;
            }
            follow_dependent(mention, &old, &own, paths, texts)?;
            if new != old || home.parent() != own.parent() {
                let written = spell(&new, &home, mention, manifest);
                if written != mention.written
                    && ProjectPath::resolve(home.parent(), &mention.written).as_ref() != Some(&new)
                {
                    let edit = Edit { span: mention.span, text: written.clone(), what: what(mention.action) };
                    texts.edit(&own, edit, written);
                }
            }
        }
    }
    // Code that no list names is held by a manifest that takes all; where it goes it may have to be listed.
    let unlisted =
        paths.files.iter().filter(|(old, _)| origin_of_taken(old).is_none() && taken(project, old));
    for (_, new) in unlisted.filter(|(old, new)| home_manifests(project, old) != paths.homes(project, new)) {
        list_new(project, new, paths, texts)?;
    }
    for (new, origin) in made {
        let listed =
            project.manifests.iter().any(|manifest| manifest.kind != "list" && lists(manifest, origin));
        if listed || taken(project, origin) {
            list_new(project, new, paths, texts)?;
        }
    }
    Ok(())
}

/// Whether a manifest that takes all holds the file at `path`.
fn taken(project: &ProjectFacts, path: &ProjectPath) -> bool {
    home_manifests(project, path).iter().any(|&at| project.manifests[at as usize].takes_all)
}

/// Whether `manifest` lists `path` as code.
fn lists(manifest: &ManifestFacts, path: &ProjectPath) -> bool {
    let code = manifest.mentions.iter().filter(|mention| mention.action == ItemAction::Compile);
    code.filter_map(|mention| resolve_mention(manifest, &mention.written)).any(|found| found == *path)
}

fn what(action: ItemAction) -> &'static str {
    match action {
        ItemAction::Reference => "project reference follows",
        ItemAction::Member => "solution entry follows",
        _ => "project item follows",
    }
}

/// Whether a manifest writes its paths with backslashes: as it does now, else as its ecosystem does.
fn writes_backslashes(manifest: &ManifestFacts) -> bool {
    let forward = manifest.mentions.iter().any(|mention| mention.written.contains('/'));
    manifest.mentions.iter().any(|mention| mention.backslashes) || !forward
}

fn spell(path: &ProjectPath, home: &ProjectPath, mention: &PathMention, manifest: &ManifestFacts) -> String {
    let relative = path.relative_to(home.parent());
    let plain = !mention.written.contains('/') && writes_backslashes(manifest);
    let relative = if mention.backslashes || plain { relative.replace('/', "\\") } else { relative };
    let kept_dot = mention.written.starts_with("./") || mention.written.starts_with(".\\");
    let relative = if kept_dot && !relative.starts_with("..") {
        format!("{}{relative}", &mention.written[..2])
    } else {
        relative
    };
    relative.replace('&', "&amp;")
}

/// Whether an item must leave this manifest: the file lay in its folder and now lies in another manifest's.
fn leaves(
    project: &ProjectFacts,
    manifest: &ManifestFacts,
    mention: &PathMention,
    (old, new): (&ProjectPath, &ProjectPath),
    paths: &Paths,
) -> bool {
    if manifest.kind != "project" || old == new {
        return false;
    }
    if !matches!(mention.action, ItemAction::Compile | ItemAction::Content) {
        return false;
    }
    let is_home =
        |homes: &[u32]| homes.iter().any(|&at| project.manifests[at as usize].path == manifest.path);
    let (before, after) = (home_manifests(project, old), paths.homes(project, new));
    is_home(&before) && !is_home(&after) && !after.is_empty()
}

/// `<DependentUpon>Bed.cs</DependentUpon>` in the item of the file `of` names a file beside it, which may get another
/// name.
fn follow_dependent(
    mention: &PathMention,
    of: &ProjectPath,
    own: &ProjectPath,
    paths: &Paths,
    texts: &mut Texts,
) -> Result<(), MoveError> {
    const OPEN: &[u8] = b"<DependentUpon>";
    let element = mention.element.of(texts.get(own)?).to_vec();
    let found = element.windows(OPEN.len()).position(|part| part == OPEN);
    let Some(start) = found.map(|at| at + OPEN.len()) else { return Ok(()) };
    let named = element[start..].split(|byte| *byte == b'<').next().unwrap_or_default();
    let Ok(name) = std::str::from_utf8(named) else { return Ok(()) };
    let Some(upon) = ProjectPath::resolve(of.parent(), name) else { return Ok(()) };
    let new = paths.after(&upon);
    if new.file_name() != upon.file_name() && !name.contains(['/', '\\']) {
        let start = mention.element.start as usize + start;
        let text = new.file_name().to_owned();
        let edit = Edit { span: Span::new(start, start + name.len()), text, what: "project item follows" };
        texts.edit(own, edit, format!("{name} → {}", new.file_name()));
    }
    Ok(())
}

/// Takes an item out of its manifest and puts it into those of the new folder.
fn carry_item(
    project: &ProjectFacts,
    manifest: &ManifestFacts,
    mention: &PathMention,
    new: &ProjectPath,
    paths: &Paths,
    texts: &mut Texts,
) -> Result<(), MoveError> {
    let Some(own) = &manifest.path else { return Ok(()) };
    let text = texts.get(own)?.to_vec();
    let span = with_group(&text, mention.element);
    let gone = Edit { span, text: String::new(), what: "project item removed" };
    texts.edit(own, gone, mention.written.clone());
    for target in paths.homes(project, new) {
        let target = &project.manifests[target as usize];
        let Some(target_path) = &target.path else { continue };
        // Code is taken by itself where the manifest takes all.
        if target.takes_all && mention.action == ItemAction::Compile {
            continue;
        }
        let home = paths.after(target_path);
        let element = String::from_utf8_lossy(mention.element.of(&text)).trim().to_owned();
        let element = element.replacen(&mention.written, &spell(new, &home, mention, target), 1);
        insert_item(target, &element, new, texts)?;
    }
    Ok(())
}

/// A code file enters the manifests of its new folder that list their files: those that list files of its sort.
fn list_new(
    project: &ProjectFacts,
    new: &ProjectPath,
    paths: &Paths,
    texts: &mut Texts,
) -> Result<(), MoveError> {
    for target in paths.homes(project, new) {
        let target = &project.manifests[target as usize];
        let Some(target_path) = target.path.as_ref().filter(|_| !target.takes_all) else { continue };
        let code = target.mentions.iter().filter(|mention| mention.action == ItemAction::Compile);
        let mut of_its_sort =
            code.filter(|mention| ProjectPath::new(&mention.written).extension() == new.extension());
        if of_its_sort.next().is_some() && !lists(target, new) {
            let relative = new.relative_to(paths.after(target_path).parent());
            let written = if writes_backslashes(target) { relative.replace('/', "\\") } else { relative };
            insert_item(target, &format!("<Compile Include=\"{written}\" />"), new, texts)?;
        }
    }
    Ok(())
}

fn insert_item(
    target: &ManifestFacts,
    element: &str,
    new: &ProjectPath,
    texts: &mut Texts,
) -> Result<(), MoveError> {
    let (Some((at, before, after)), Some(path)) = (&target.compile_slot, &target.path) else { return Ok(()) };
    let text = texts.get(path)?;
    let newline = line_end(text);
    // The slot is written for one empty element: what stands around that one stands around this one.
    let lead = before.split("<Compile").next().unwrap_or_default();
    let lead_whole = if before.contains("<ItemGroup>") {
        before.rsplit_once("<Compile").map_or(lead, |(start, _)| start)
    } else {
        lead
    };
    let tail = after.strip_prefix("\" />").unwrap_or_default();
    let indent = lead_whole.rsplit(['\n']).next().unwrap_or_default();
    let lines: Vec<&str> = element.lines().map(str::trim_end).collect();
    let own_indent = lines.iter().skip(1).map(|line| line.len() - line.trim_start().len()).min().unwrap_or(0);
    let mut shaped = lines[0].to_owned();
    for line in &lines[1..] {
        let kept = line.len() - line.trim_start().len() - own_indent;
        shaped.push_str(&format!("{newline}{indent}{}{}", " ".repeat(kept), line.trim_start()));
    }
    let text = format!("{lead_whole}{shaped}{tail}");
    let edit = Edit { span: Span::new(*at, *at), text, what: "project item added" };
    texts.edit(path, edit, new.as_str());
    Ok(())
}

/// Uses between manifests that the code makes: user, used, by index.
pub type ManifestUses = BTreeSet<(u32, u32)>;

/// The uses between manifests that ties between files make.
pub fn uses_of(ownership: &Ownership, ties: &[crate::resolve::FileTie]) -> ManifestUses {
    let mut uses = ManifestUses::new();
    for tie in ties {
        let (from, to) = (&ownership.owners[tie.from as usize], &ownership.owners[tie.to as usize]);
        if from.iter().any(|owner| to.contains(owner)) {
            continue; // a file that several manifests hold is at hand
        }
        for user in from {
            // Of several that hold the file the one that the user refers to.
            let usable = &ownership.usable[*user as usize];
            let used = to.iter().find(|used| usable.binary_search(used).is_ok()).or(to.first());
            uses.extend(used.map(|used| (*user, *used)));
        }
    }
    uses
}

/// Adds and removes references between manifests so that those of `after` are declared as those of `before` were.
/// Returns the pairs of manifests that reach each other afterwards and did not before.
pub fn follow_uses(
    project: &ProjectFacts,
    ownership: &Ownership,
    before: &ManifestUses,
    after: &ManifestUses,
    texts: &mut Texts,
) -> Vec<Vec<u32>> {
    let mut declared = ownership.declared.clone();
    for &(user, used) in after.difference(before) {
        let visible = Dependencies::new(project, &declared).usable(user, None).contains(&used);
        if !visible {
            add_reference(project, user, used, texts);
            declared[user as usize].push(used);
        }
    }
    for &(user, used) in before.difference(after) {
        remove_reference(project, (user, used), after, texts, &mut declared);
    }
    let tangled = |declared: &[Vec<u32>]| -> Vec<Vec<u32>> {
        let adjacency: Vec<Vec<usize>> =
            declared.iter().map(|uses| uses.iter().map(|&used| used as usize).collect()).collect();
        let components =
            crate::components::components(&adjacency).into_iter().filter(|members| members.len() > 1);
        components.map(|members| members.into_iter().map(|member| member as u32).collect()).collect()
    };
    let old = tangled(&ownership.declared);
    tangled(&declared).into_iter().filter(|members| !old.contains(members)).collect()
}

fn add_reference(project: &ProjectFacts, user: u32, used: u32, texts: &mut Texts) {
    let (user, used) = (&project.manifests[user as usize], &project.manifests[used as usize]);
    if let (Some((at, before, after)), Some(own), Some(other)) =
        (&user.reference_slot, &user.path, &used.path)
    {
        let relative = other.relative_to(own.parent());
        let relative = if writes_backslashes(user) { relative.replace('/', "\\") } else { relative };
        let text = format!("{before}{relative}{after}");
        let edit = Edit { span: Span::new(*at, *at), text, what: "project reference added" };
        texts.edit(&texts.old_path(own), edit, format!("{} → {}", user.name, used.name));
    }
}

fn remove_reference(
    project: &ProjectFacts,
    (user, used): (u32, u32),
    after: &ManifestUses,
    texts: &mut Texts,
    declared: &mut [Vec<u32>],
) {
    let manifest = &project.manifests[user as usize];
    let behind = |through: u32| after.contains(&(through, used));
    if manifest.needs_bases
        && after.range((user, 0)..=(user, u32::MAX)).any(|(_, through)| *through != user && behind(*through))
    {
        return;
    }
    // What is reached only through it keeps it, by whomever.
    let users = 0..project.manifests.len() as u32;
    if !Dependencies::new(project, declared).relying((user, used), users, after).is_empty() {
        return;
    }
    for reference in manifest.references.iter().filter(|reference| !reference.by_name) {
        let target =
            resolve_mention(manifest, &reference.target).and_then(|path| project.manifest(path.as_str()));
        if let (Some(target), Some(own)) = (target, &manifest.path)
            && target as u32 == used
        {
            let old = texts.old_path(own);
            // A group into which another reference goes stays.
            let grows = texts.inserts_into(&old);
            let group = |text| if grows { reference.element } else { with_group(text, reference.element) };
            let span = texts.get(&old).map_or(reference.element, group);
            let edit = Edit { span, text: String::new(), what: "project reference removed" };
            texts.edit(&old, edit, format!("{} → {}", manifest.name, project.manifests[target].name));
            declared[user as usize].retain(|other| *other != used);
        }
    }
}

/// `element`, with the group of items around it where it is the only one: whole lines.
fn with_group(text: &[u8], element: Span) -> Span {
    let (before, behind) = text.split_at(element.start as usize);
    let behind = &behind[element.len()..];
    let Some(open) = before.trim_ascii_end().iter().rposition(|byte| *byte == b'<') else { return element };
    let opens = before[open..].starts_with(b"<ItemGroup") && before.trim_ascii_end().ends_with(b">");
    let closing = behind.trim_ascii_start();
    if !opens || before[open..].contains(&b'/') || !closing.starts_with(GROUP_END) {
        return element;
    }
    let blank = |byte: &u8| matches!(byte, b' ' | b'\t' | b'\r');
    let start = open - before[..open].iter().rev().take_while(|byte| blank(byte)).count();
    let rest = &closing[GROUP_END.len()..];
    let blanks = rest.iter().take_while(|byte| blank(byte)).count();
    let line_end = usize::from(rest.get(blanks) == Some(&b'\n'));
    Span::new(start, text.len() - rest.len() + (blanks + 1) * line_end)
}

const GROUP_END: &[u8] = b"</ItemGroup>";

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_group_goes_with_its_only_item() {
        let left = |text: &str| {
            let at = text.find("<X/>").unwrap();
            let span = with_group(text.as_bytes(), Span::new(at, at + 4));
            format!("{}{}", &text[..span.start as usize], &text[span.end as usize..])
        };
        assert_eq!(left("<P>\n  <ItemGroup>\n    <X/>\n  </ItemGroup>\n</P>"), "<P>\n</P>");
        assert_eq!(left("<P><ItemGroup Condition=\"a\"><X/></ItemGroup></P>"), "<P></P>");
        assert_eq!(left("<ItemGroup>\n<Y/>\n<X/></ItemGroup>"), "<ItemGroup>\n<Y/>\n</ItemGroup>");
        assert_eq!(left("<ItemGroup>\n<X/><Y/></ItemGroup>"), "<ItemGroup>\n<Y/></ItemGroup>");
        assert_eq!(left("</ItemGroup>\n<X/>\n</ItemGroup>"), "</ItemGroup>\n\n</ItemGroup>");
        assert_eq!(left("<X/>"), "");
    }
}
