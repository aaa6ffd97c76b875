//! What is here: the numbers of a project at first sight.

use crate::cycles::Cycle;
use crate::graph::Graph;
use crate::map::{Modules, is_test_path};
use crate::resolve::{FileTie, NamespaceId, World};
use std::collections::BTreeMap;

/// The size of something.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Size {
    /// Files of code.
    pub files: usize,
    /// Lines, blank ones and comments included.
    pub lines: u64,
    /// Declared types.
    pub names: usize,
}

/// One module at first sight.
#[derive(Clone, Debug)]
pub struct ModuleRow {
    /// Index of the module.
    pub module: usize,
    /// How large it is.
    pub size: Size,
    /// The namespace with more than half of its names, else the deepest one around nearly all of them, if there is one.
    pub namespace: Option<String>,
    /// Namespaces declared in it, the largest first.
    pub namespaces: Vec<String>,
    /// How many modules it uses.
    pub uses: usize,
    /// How many modules use it.
    pub used_by: usize,
}

/// A project at first sight.
#[derive(Clone, Debug)]
pub struct Survey {
    /// All code.
    pub total: Size,
    /// By language, the largest first.
    pub languages: Vec<(String, Size)>,
    /// Manifests by file name, or by extension where each has a name of its own.
    pub manifests: BTreeMap<String, usize>,
    /// Modules in the order of the list.
    pub modules: Vec<ModuleRow>,
    /// Code in no module.
    pub rest: Size,
    /// Types in files that no other file refers to, by file; tests and programs are left out.
    pub unreferred: Vec<u32>,
    /// Modules with no tie at all.
    pub apart: Vec<usize>,
    /// Advice, most important first.
    pub advice: Vec<String>,
}

/// Of a module's names, the part in hundredths that stands below what it is called after.
const NEARLY_ALL: usize = 80;

/// What a module is called after by `held`: numbers of names with their namespaces, the largest first.
fn namespace_around(world: &World, held: &[(usize, u32)]) -> Option<String> {
    let table = &world.table;
    let all: usize = held.iter().map(|(count, _)| count).sum();
    let mut below: BTreeMap<NamespaceId, usize> = BTreeMap::new();
    for &(count, id) in held {
        let mut at = NamespaceId(id);
        while !table.is_outermost(at) {
            *below.entry(at).or_default() += count;
            at = table.namespaces[at.0 as usize].parent;
        }
    }
    let depth = |id: &NamespaceId| {
        std::iter::successors(Some(*id), |at| {
            (!table.is_outermost(*at)).then(|| table.namespaces[at.0 as usize].parent)
        })
        .count()
    };
    // What holds more than half of the names itself says more than what is around all of them.
    if let Some((_, id)) = held.first().filter(|(count, _)| count * 2 > all) {
        return Some(table.namespace_text(NamespaceId(*id))).filter(|text| !text.is_empty());
    }
    let around = below.iter().filter(|(_, count)| **count * 100 >= all * NEARLY_ALL).map(|(id, _)| *id);
    around.max_by_key(depth).map(|id| table.namespace_text(id))
}

/// Surveys a project.
pub fn survey(world: &World, modules: &Modules, graph: &Graph, ties: &[FileTie], cycles: &[Cycle]) -> Survey {
    let mut languages: BTreeMap<usize, Size> = BTreeMap::new();
    let (mut total, mut rest) = (Size::default(), Size::default());
    let mut sizes = vec![Size::default(); modules.list.len()];
    let mut namespaces: Vec<BTreeMap<u32, usize>> = vec![BTreeMap::new(); modules.list.len()];
    for (file, source) in world.project.files.iter().enumerate() {
        let (Some(facts), Some(language)) = (&source.facts, source.language) else { continue };
        let own = Size { files: 1, lines: u64::from(facts.lines), names: facts.declarations.len() };
        let module = modules.of_file[file];
        add(&mut total, own);
        add(languages.entry(language).or_default(), own);
        add(module.map_or(&mut rest, |module| &mut sizes[module]), own);
        if let Some(module) = module {
            for entity in &world.table.declared[file] {
                *namespaces[module].entry(world.table.namespace_of(*entity).0).or_default() += 1;
            }
        }
    }
    let mut languages: Vec<(String, Size)> =
        languages.into_iter().map(|(at, size)| (world.languages[at].name().to_owned(), size)).collect();
    languages.sort_by_key(|(_, size)| std::cmp::Reverse(size.lines));
    let mut manifests = BTreeMap::new();
    for manifest in &world.project.manifests {
        let Some(path) = manifest.path.as_ref().filter(|_| manifest.kind != "list") else { continue };
        let sort = if manifest.freely_named {
            format!(".{}", path.extension())
        } else {
            path.file_name().to_owned()
        };
        *manifests.entry(sort).or_default() += 1;
    }
    let rows: Vec<ModuleRow> = (0..modules.list.len())
        .map(|module| {
            let mut held: Vec<(usize, u32)> =
                namespaces[module].iter().map(|(id, count)| (*count, *id)).collect();
            held.sort_by_key(|&(count, id)| (std::cmp::Reverse(count), id));
            let text = |&(_, id): &(usize, u32)| world.table.namespace_text(NamespaceId(id));
            ModuleRow {
                module,
                size: sizes[module],
                namespace: namespace_around(world, &held),
                namespaces: held.iter().map(text).collect(),
                uses: graph.uses(module).count(),
                used_by: graph.used_by(module).count(),
            }
        })
        .collect();
    let apart = rows
        .iter()
        .filter(|row| row.uses + row.used_by == 0 && row.size.files > 0)
        .map(|row| row.module)
        .collect();
    let unreferred = unreferred(world, modules, ties);
    let mut survey =
        Survey { total, languages, manifests, modules: rows, rest, unreferred, apart, advice: Vec::new() };
    survey.advice = advice(&survey, modules, cycles);
    survey
}

fn add(to: &mut Size, size: Size) {
    to.files += size.files;
    to.lines += size.lines;
    to.names += size.names;
}

fn unreferred(world: &World, modules: &Modules, ties: &[FileTie]) -> Vec<u32> {
    let mut referred = vec![false; world.project.files.len()];
    for tie in ties {
        referred[tie.to as usize] = true;
    }
    (0..referred.len())
        .filter(|&file| !referred[file] && !modules.tests[file] && !world.table.declared[file].is_empty())
        .filter(|&file| {
            let facts = world.project.files[file].facts.as_deref();
            facts.is_some_and(|facts| !facts.implicit_namespace)
        })
        // A declaration shared with a file that is referred to counts as referred to.
        .filter(|&file| {
            world.table.declared[file].iter().all(|entity| {
                let declarations = &world.table.entities[entity.index()].declarations;
                declarations.iter().all(|(other, _)| !referred[*other as usize])
            })
        })
        .map(|file| file as u32)
        .collect()
}

fn advice(survey: &Survey, modules: &Modules, cycles: &[Cycle]) -> Vec<String> {
    let mut advice = Vec::new();
    if let Some(largest) = cycles.first() {
        let text = format!(
            "open the cycle of {} modules first: it keeps them from being split",
            largest.modules.len()
        );
        advice.push(text);
    }
    let code: Vec<&ModuleRow> = survey.modules.iter().filter(|row| row.size.files > 0).collect();
    // Tests, and what has no tie, such as what a build left behind, are no work for today.
    let splits = |row: &&&ModuleRow| {
        row.uses + row.used_by > 0 && !is_test_path(&format!("{}/x", modules.list[row.module].folder))
    };
    if let Some(row) = code.iter().filter(splits).max_by_key(|row| row.size.lines)
        && code.len() > 2
        && row.size.lines * 2 > survey.total.lines
    {
        let share = 100 * row.size.lines / survey.total.lines.max(1);
        advice
            .push(format!("{} holds {share} % of all lines; split it first", modules.list[row.module].name));
    }
    let tiny = |row: &&&ModuleRow| {
        row.size.files == 1 && row.used_by == 1 && !modules.list[row.module].name.contains("Test")
    };
    let tiny: Vec<&str> =
        code.iter().filter(tiny).map(|row| modules.list[row.module].name.as_str()).collect();
    if !tiny.is_empty() && tiny.len() < 6 {
        advice.push(format!(
            "of one file and with one user, so perhaps no parts of their own: {}",
            tiny.join(", ")
        ));
    }
    advice
}
