//! Names resolved to declarations: one mechanism for all languages whose names live in namespaces.
//!
//! Every declared type is entered once in a [`Table`]; the candidates for a used name are found by one look-up and
//! compared by how near their namespace or surrounding type is to the place of use ([`view`]), so that the work
//! grows with the references and not with the imports.

mod calls;
mod dependencies;
mod extending;
mod folders;
mod follower;
mod holders;
mod imports;
mod leads;
mod lineage;
mod members;
mod overloads;
mod ownership;
mod pages;
mod parts;
mod paths;
mod platforms;
mod receivers;
mod references;
mod sieve;
mod table;
mod values;
mod view;

pub use dependencies::Dependencies;
pub use imports::{ImportTarget, SharedImports};
pub use leads::{FileTie, Lead, Shared};
use lineage::Lineage;
pub use ownership::{Ownership, glob_matches, is_excluded, resolve as resolve_mention};
pub use paths::named_in_settings;
pub use references::{FileReferences, Reference};
pub use table::{Container, Entity, EntityId, NamespaceId, Table, Target};
use values::{GivenPart, ValueMeaning};
pub use view::{Reach, Visibility, sees_entity};

use ferngate_model::{
    Access, Language, Link, Linker, Links, MakeLinker, Name, NameTexts, Naming, ProjectFacts, Share,
};
use rayon::prelude::*;
use rustc_hash::FxHashMap;
use smallvec::{SmallVec, smallvec};
use std::collections::BTreeMap;

/// A project with its names resolved.
pub struct World<'p> {
    /// What was read.
    pub project: &'p ProjectFacts,
    /// The languages by the index that files carry.
    pub languages: &'p [&'p dyn Language],
    /// Which manifest holds which file.
    pub ownership: Ownership,
    /// Declared names.
    pub table: Table,
    /// For each file, what each of its imports means.
    pub imports: Vec<Vec<ImportTarget>>,
    /// For each manifest, what all its files import.
    pub shared_imports: Vec<SharedImports>,
    /// For each file, namespaces that it shall import besides, with the scope that imports them.
    pub added_imports: Vec<Vec<(u32, NamespaceId)>>,
    /// For types that a planned move renames, the namespace that held them before.
    pub former: FxHashMap<EntityId, String>,
    /// For each file, what its names mean.
    pub references: Vec<FileReferences>,
    /// For each file, where what it imports by path leads, and the files that it names by their path.
    pub links: Vec<Links>,
    /// Whether mentions in comments and strings count as uses.
    pub weak: bool,
    /// Whether resolving keeps the members that each file uses of other files' types.
    pub keeps_members: bool,
    /// Types that are spread over files as partial ones, each with those of its files that have a like; the others belong
    /// together wherever they lie.
    alike: FxHashMap<EntityId, parts::Likes>,
    /// Files that hold the source of another one for a later version of the platform, each with that.
    later_versions: FxHashMap<u32, u32>,
    /// For each language, which members of other libraries' types give one of the types that these were given.
    given_parts: Vec<Vec<GivenPart>>,
    /// What each type derives from.
    lineage: Lineage,
    /// For each type, the bits of the names of its members and of those that it inherits.
    member_signs: Vec<u64>,
    /// For each file, what its types of values mean.
    value_types: Vec<Vec<ValueMeaning>>,
}

/// What a use means.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum UseTarget {
    /// A declared name.
    Entity(EntityId),
    /// A file, named by its path, and the name in it that is meant: zero where it is the file itself.
    File(u32, Name),
}

/// Files that declare one name; mostly there is one.
pub type DeclaringFiles = SmallVec<[u32; 4]>;

/// One distinct use in a file, where it first stands.
#[derive(Clone, Debug)]
pub struct StrongUse {
    /// What it means.
    pub target: UseTarget,
    /// The files that it leads to; several where a declaration is spread.
    pub files: DeclaringFiles,
    /// First byte of the first such use.
    pub offset: u32,
}

/// The last part of a full name; a path is left whole.
pub fn short_name(full: &str) -> &str {
    if full.contains('/') { full } else { full.rsplit(['.', '\\']).next().unwrap_or(full) }
}

/// More whole declarations of one name than this, all equally near, mean nothing.
const MOST_WHOLE: usize = 8;

/// So often a member whose type is that of an expression may stand in the expression of another.
const MOST_INFERENCES: usize = 5;

impl<'p> World<'p> {
    /// Resolves all names of `project`. Cost grows with declarations plus distinct uses.
    pub fn new(project: &'p ProjectFacts, languages: &'p [&'p dyn Language]) -> Self {
        let mut world = Self::with_imports(project, languages);
        world.resolve();
        world
    }

    /// Enters declarations and resolves imports, but no uses yet; [`World::resolve`] does the rest.
    pub fn with_imports(project: &'p ProjectFacts, languages: &'p [&'p dyn Language]) -> Self {
        let ownership = Ownership::new(project);
        let table = Table::new(project, languages, &ownership);
        let mut world = Self {
            project,
            languages,
            ownership,
            table,
            imports: Vec::new(),
            shared_imports: Vec::new(),
            added_imports: vec![Vec::new(); project.files.len()],
            former: FxHashMap::default(),
            references: Vec::new(),
            links: Vec::new(),
            weak: false,
            keeps_members: false,
            alike: FxHashMap::default(),
            later_versions: platforms::later_versions(project, languages),
            given_parts: languages.iter().map(|language| values::given_parts(language.naming())).collect(),
            lineage: Lineage::default(),
            member_signs: Vec::new(),
            value_types: Vec::new(),
        };
        let files = (0..project.files.len()).into_par_iter();
        let imports = || files.map(|file| imports::resolve_imports(&world, file)).collect();
        let alike = || parts::alike(project, &world.table, world.ownership.folders());
        (world.imports, world.alike) = rayon::join(imports, alike);
        world.shared_imports = imports::shared_imports(&world, &BTreeMap::new());
        world
    }

    /// Works out anew what imports count for many files, with what `renamed` namespaces have become.
    pub(crate) fn share_imports(&mut self, renamed: &BTreeMap<String, Vec<NamespaceId>>) {
        self.shared_imports = imports::shared_imports(self, renamed);
    }

    /// Resolves all uses, by the imports as they are now.
    pub fn resolve(&mut self) {
        // A base may itself be named by what a type around inherits, so a second pass knows the bases of the first.
        let mut found = self.bases_found(false);
        self.lineage = Lineage::new(self.by_entity(&found));
        let inside_types = self.bases_found(true);
        found.retain(|found| !found.inside_type);
        found.extend(inside_types);
        self.resolve_with_bases(self.by_entity(&found));
    }

    fn bases_found(&self, inherited: bool) -> Vec<references::Base> {
        let found: Vec<Vec<references::Base>> = (0..self.project.files.len())
            .into_par_iter()
            .map_init(
                || Visibility::new(&self.table),
                |view, file| references::bases_of(self, file, view, inherited),
            )
            .collect();
        found.into_iter().flatten().collect()
    }

    fn by_entity(&self, found: &[references::Base]) -> Vec<Vec<EntityId>> {
        let mut by_entity: Vec<Vec<EntityId>> = vec![Vec::new(); self.table.entities.len()];
        for found in found {
            let bases = &mut by_entity[found.entity.index()];
            if !bases.contains(&found.base) {
                bases.push(found.base);
            }
        }
        by_entity
    }

    /// Takes mentions in comments and strings for uses.
    pub fn count_mentions(&mut self) {
        self.weak = true;
        for found in &mut self.references {
            found.references.append(&mut found.weak);
        }
        for (file, link) in paths::named_in_settings(self) {
            self.links[file].files.push(link);
        }
    }

    /// How names are looked up in `file`.
    pub fn naming_of(&self, file: usize) -> Option<Naming> {
        self.project.files[file].language.map(|language| self.languages[language].naming())
    }

    /// Whether code of `file` may use what `owner` declares for `access`. What is private may be used all over a file that
    /// declares its owner: that leads out of no file.
    #[inline]
    pub(crate) fn may_use(&self, file: usize, owner: EntityId, access: Access) -> bool {
        match access {
            Access::Public | Access::Internal => true,
            Access::Namespace => {
                let namespaces = &self.table.scope_namespaces[file];
                namespaces.last() == Some(&self.table.namespace_of(owner))
            }
            Access::Private => {
                let declared = &self.table.entities[owner.index()].declarations;
                declared.iter().any(|(declaring, _)| *declaring as usize == file)
            }
        }
    }

    /// Whether code of `file` may use the type `entity`, if another type holds it.
    #[inline]
    pub(crate) fn may_use_type(&self, file: usize, entity: EntityId) -> bool {
        let entity = &self.table.entities[entity.index()];
        match entity.container {
            Container::Entity(around) => {
                self.may_use(file, around, entity.access) && self.is_inside_meant(file, around, entity)
            }
            Container::Namespace(_) => true,
        }
    }

    /// Whether `nested` stands in a declaration of `around` that is meant in `file`: copies of a type may hold different ones.
    fn is_inside_meant(&self, file: usize, around: EntityId, nested: &Entity) -> bool {
        if !self.is_spread(around) {
            return true;
        }
        let meant = self.declaring_files(around, file);
        meant.is_empty() || nested.declarations.iter().any(|(declaring, _)| meant.contains(declaring))
    }

    /// The outermost namespace of the languages that `file` shares names with.
    pub fn root_of_file(&self, file: usize) -> NamespaceId {
        self.project.files[file].language.map_or(NamespaceId(0), |language| self.table.roots[language])
    }

    /// Resolves all uses, where it is known what each type derives from.
    pub fn resolve_with_bases(&mut self, bases: Vec<Vec<EntityId>>) {
        self.lineage = Lineage::new(bases);
        let own = &self.table.member_signs;
        let with_bases = |entity| self.with_bases(EntityId(entity as u32));
        let all = |entity| with_bases(entity).fold(0, |signs, of| signs | own[of.index()]);
        self.member_signs = (0..own.len()).map(all).collect();
        let world = &*self;
        let linkers: Vec<Option<Box<dyn Linker + '_>>> = world.linkers();
        let files = 0..world.project.files.len();
        let links = files.into_par_iter().map(|file| world.find_links(&linkers, file)).collect();
        let resolved: Vec<references::Resolved> = (0..world.project.files.len())
            .into_par_iter()
            .map_init(
                || Visibility::new(&world.table),
                |view, file| references::resolve_file(world, file, view),
            )
            .collect();
        drop(linkers);
        self.links = links;
        let facts = self.project.files.par_iter().map(|source| self.table.named_facts(source));
        let meanings = facts.zip(&resolved).map(|(facts, resolved)| {
            facts.map_or_else(Vec::new, |facts| values::meanings(facts, &resolved.states))
        });
        self.value_types = meanings.collect();
        for _ in 0..MOST_INFERENCES {
            let world = &*self;
            let files = resolved.par_iter().enumerate();
            let inferred: Vec<_> =
                files.map(|(file, resolved)| follower::inferred(world, file, resolved)).collect();
            if inferred.iter().all(Vec::is_empty) {
                break;
            }
            for (known, inferred) in self.value_types.iter_mut().zip(inferred) {
                inferred.into_iter().for_each(|(at, meaning)| known[at] = meaning);
            }
        }
        let world = &*self;
        let with_members = resolved.into_par_iter().enumerate();
        self.references = with_members.map(|(file, resolved)| follower::add(world, file, resolved)).collect();
    }

    /// For each family of languages whose imports are paths, what knows where they lead; only for those that occur.
    fn linkers(&self) -> Vec<Option<Box<dyn Linker + '_>>> {
        let mut made: Vec<Option<MakeLinker>> = vec![None; self.languages.len()];
        for language in self.project.files.iter().filter_map(|file| file.language) {
            made[self.table.roots[language].0 as usize] = self.languages[language].linker();
        }
        made.par_iter().map(|make| make.map(|make| make(self.project))).collect()
    }

    fn find_links(&self, linkers: &[Option<Box<dyn Linker + '_>>], file: usize) -> Links {
        let family = self.root_of_file(file).0 as usize;
        match linkers[family].as_ref() {
            Some(linker) => linker.links(file),
            None => paths::links_of(self, file),
        }
    }

    /// Where what `file` imports by path leads; mentions are left out unless they count as uses.
    pub fn links_of(&self, file: usize) -> impl Iterator<Item = &Link> {
        self.links[file].files.iter().filter(|link| self.weak || !link.weak)
    }

    /// For each entity, what it names as its bases.
    pub fn direct_bases(&self) -> &[Vec<EntityId>] {
        self.lineage.direct()
    }

    /// What the names of one file mean by the imports as they are now.
    pub fn references_of(&self, file: usize) -> FileReferences {
        let resolved = references::resolve_file(self, file, &mut Visibility::new(&self.table));
        follower::add(self, file, resolved)
    }

    /// The declared names' texts.
    pub fn texts(&self) -> &NameTexts {
        &self.table.texts
    }

    /// What `entity` derives from, itself first, each once; about 64 of them at most.
    pub fn with_bases(&self, entity: EntityId) -> impl Iterator<Item = EntityId> {
        std::iter::once(entity).chain(self.lineage.above(entity).iter().copied())
    }

    /// Whether several files declare `entity`.
    pub(crate) fn is_spread(&self, entity: EntityId) -> bool {
        let declared = &self.table.entities[entity.index()].declarations;
        declared.iter().any(|declaration| declaration.0 != declared[0].0)
    }

    /// How a declaration, by its file and its number there, stands to others of its name.
    fn share_of(&self, (file, at): (u32, u32)) -> Share {
        let facts = self.project.files[file as usize].facts.as_deref();
        facts.map_or(Share::Whole, |facts| facts.declarations[at as usize].share)
    }

    /// The files whose declarations `entity` means when it is used in `file`.
    pub fn declaring_files(&self, entity: EntityId, file: usize) -> DeclaringFiles {
        let declared = &self.table.entities[entity.index()].declarations;
        if let [only] = declared[..] {
            return smallvec![only.0];
        }
        let partial = |declaration| self.share_of(declaration) == Share::Part;
        // A file that declares the whole type itself means its own, whoever else declares one of that name.
        let own = declared.partition_point(|declaration| (declaration.0 as usize) < file);
        if let Some(&found) = declared.get(own).filter(|found| found.0 as usize == file)
            && !partial(found)
        {
            return smallvec![file as u32];
        }
        let mut files: DeclaringFiles = declared.iter().map(|declaration| declaration.0).collect();
        files.dedup();
        if self.table.expected.contains(&entity) {
            platforms::keep_meant(self, entity, file, &mut files);
        }
        if files.len() > 1 && !self.later_versions.is_empty() {
            platforms::keep_version(self, file, &mut files);
        }
        let mut files = match self.ownership.of_manifest(file, &files) {
            Some(told) => told,
            None => match self.alike.get(&entity) {
                Some(likes) => parts::meant(self.ownership.folders(), file, files, likes),
                None => self.ownership.nearest(file, files),
            },
        };
        let namespace = || self.table.namespace_text(self.table.namespace_of(entity));
        files = self.ownership.placed(self.project, file, files, namespace);
        // Many whole declarations equally near, such as in a folder of small programs: none of them is meant.
        if files.len() > MOST_WHOLE && !partial(declared[0]) { DeclaringFiles::new() } else { files }
    }

    /// The files that a reference in `file` leads to.
    pub fn files_of(&self, reference: &Reference, file: usize) -> DeclaringFiles {
        match reference.file {
            references::ANY_FILE => self.declaring_files(reference.entity, file),
            references::PARTS => self.references[file].parts_of(reference).collect(),
            only => smallvec![only],
        }
    }

    /// What `file` uses of other files and of itself: names and paths, without mentions.
    pub fn strong_uses(&self, file: usize) -> Vec<StrongUse> {
        let Some(facts) = &self.project.files[file].facts else { return Vec::new() };
        let named = self.references[file].strong().map(|reference| StrongUse {
            target: UseTarget::Entity(reference.entity),
            files: self.files_of(reference, file),
            offset: facts.uses[reference.used as usize].first,
        });
        let linked = self.links_of(file).map(|link| StrongUse {
            target: UseTarget::File(link.to, link.name),
            files: smallvec![link.to],
            offset: link.at,
        });
        named.chain(linked).collect()
    }

    /// The full name of what is used.
    pub fn use_text(&self, target: UseTarget) -> String {
        match target {
            UseTarget::Entity(entity) => self.table.entity_text(entity),
            UseTarget::File(file, Name(0)) => self.project.files[file as usize].path.as_str().to_owned(),
            UseTarget::File(_, name) => self.texts().text(name).to_owned(),
        }
    }

    /// The last part of the name of what is used; of a file that is used as a whole its path.
    pub fn short_use(&self, target: UseTarget) -> String {
        let full = self.use_text(target);
        match target {
            UseTarget::File(_, Name(0)) => full,
            _ => short_name(&full).to_owned(),
        }
    }
}
