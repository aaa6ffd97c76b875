//! Imports follow: those that lead elsewhere, those that become necessary, those that serve nobody any more.

use super::conditions::Conditions;
use super::names::{Follower, ImportMeant, Meant, line_end};
use super::past::origin_of_taken;
use super::texts::Texts;
use crate::resolve::{EntityId, ImportTarget, NamespaceId};
use ferngate_model::{Access, Edit, FileFacts, Import, ImportKind, LineIndex, Root, ScopeKind, Span};
use std::collections::BTreeSet;

impl Follower<'_, '_> {
    /// Imports of types and aliases: their target is spelled anew in full.
    pub(super) fn imports_of_types(&mut self, facts: &FileFacts, text: &[u8], texts: &mut Texts) {
        for (at, (import, meant)) in facts.imports.iter().zip(self.imports).enumerate() {
            match meant {
                ImportMeant::Entity(entity) => {
                    let now = self.world.imports[self.file].get(at).copied();
                    self.world.imports[self.file][at] = ImportTarget::Entity(*entity);
                    if now != Some(ImportTarget::Entity(*entity)) {
                        self.retarget(import, &self.world.table.entity_text(*entity), text, texts);
                    }
                }
                ImportMeant::Namespace(old) if matches!(import.kind, ImportKind::Alias(_)) => {
                    // An alias of a namespace that has gone follows its types, if they all went to one place.
                    let gone = self.world.table.namespace_named(old).is_none();
                    let now: BTreeSet<NamespaceId> = self.aliased(facts, import);
                    if let (true, 1, Some(only)) = (gone, now.len(), now.first().copied()) {
                        self.world.imports[self.file][at] = ImportTarget::Namespace(only);
                        self.retarget(import, &self.world.table.namespace_text(only), text, texts);
                    }
                }
                _ => {}
            }
        }
    }

    /// The namespaces that now hold what the file names through an alias.
    pub(super) fn aliased(&self, facts: &FileFacts, import: &Import) -> BTreeSet<NamespaceId> {
        let ImportKind::Alias(name) = import.kind else { return BTreeSet::new() };
        let through = self.meant.iter().filter(|meant| {
            let (_, chain) = self.chain(facts, meant.used);
            chain.len() > self.depth(meant.entity) && facts.uses[chain[0] as usize].name == name
        });
        through.map(|meant| self.world.table.namespace_of(meant.entity)).collect()
    }

    pub(super) fn retarget(&self, import: &Import, name: &str, text: &[u8], texts: &mut Texts) {
        let written = import.target_span.of(text);
        let prefix = if written.starts_with(b"global::") { "global::" } else { "" };
        let new = format!("{prefix}{name}");
        if written != new.as_bytes() {
            let edit = Edit { span: import.target_span, text: new, what: "import follows" };
            texts.edit(self.path, edit, name);
        }
    }

    /// Takes out imports that served only what went elsewhere, and those of namespaces that are gone. `added` says
    /// whether others come in their place.
    pub(super) fn drop_imports(&self, facts: &FileFacts, text: &[u8], added: bool, texts: &mut Texts) {
        let mut dropped: Vec<(Span, &str)> = Vec::new();
        let now = &self.world.imports[self.file];
        for ((import, meant), now) in facts.imports.iter().zip(self.imports).zip(now) {
            let (ImportMeant::Namespace(old), ImportKind::Namespace) = (meant, import.kind) else { continue };
            // A partly written name may mean another namespace from where the file is now.
            let current = match now {
                ImportTarget::Namespace(id) => self.world.table.namespace_text(*id),
                _ => old.clone(),
            };
            if import.global && current != *old {
                continue; // it follows already
            }
            let gone = !self.lives(&current);
            let became_own = !self.seen_before.contains(old) && self.sees_without_import(facts, &current);
            let serves = |meant: &Meant| {
                self.world.table.namespace_text(self.world.table.namespace_of(meant.entity)) == current
            };
            let needs =
                |meant: &Meant| self.needs_import(facts, meant) && !self.is_unseen_mention(facts, meant);
            let left = self.meant.iter().any(|meant| serves(meant) && needs(meant));
            // A file that the move makes was given all imports of the file that it leaves.
            let made = origin_of_taken(self.path).is_some();
            let served_taken = self.taken.is_some_and(|taken| taken.contains(old.as_str()));
            let emptied = (self.served_before(facts, old) || made || served_taken) && !left;
            let unseen = !left && matches!(now, ImportTarget::Namespace(id) if self.is_unseen(*id));
            // What the platform's part of a namespace serves is not known here.
            let serves_nobody = (emptied || unseen) && !self.platform_may_declare(old);
            if gone || became_own || serves_nobody {
                dropped.push((line_with_end(text, import.span), old));
                continue;
            }
            // What is left of the namespace may exist under a condition only, under which this import does not stand.
            let left_behind = match now {
                ImportTarget::Namespace(id) if self.moved_from(&current) => {
                    self.condition_of(*id, text, texts)
                }
                _ => None,
            };
            match left_behind {
                Some(condition) if left => self.guard_import(import, &condition, text, texts),
                Some(_) => dropped.push((line_with_end(text, import.span), old)),
                None => {}
            }
        }
        if !added {
            with_gap_at_top(&mut dropped, text);
        }
        for (span, name) in dropped {
            let edit = Edit { span, text: String::new(), what: "using removed" };
            texts.edit(self.path, edit, name);
        }
    }

    fn platform_may_declare(&self, namespace: &str) -> bool {
        let language = self.world.project.files[self.file].language;
        language.is_some_and(|language| self.world.languages[language].platform_may_declare(namespace))
    }

    fn guard_import(&self, import: &Import, condition: &str, text: &[u8], texts: &mut Texts) {
        let Some(language) = self.world.project.files[self.file].language else { return };
        let (span, newline) = (line_with_end(text, import.span), line_end(text));
        let line = String::from_utf8_lossy(span.of(text)).into_owned();
        let end = self.world.languages[language].condition_end();
        let new = format!("{condition}{newline}{line}{end}{newline}");
        let edit = Edit { span, text: new, what: "using under a condition" };
        texts.edit(self.path, edit, &*import.text);
    }

    /// Whether the file's project sees no type of the namespace, though another project declares some. What lies in files
    /// that no project builds is seen by none.
    fn is_unseen(&self, id: NamespaceId) -> bool {
        let owners = &self.world.ownership.owners;
        let is_built = |entity: &EntityId| {
            let declarations = &self.world.table.entities[entity.index()].declarations;
            owners[self.file].is_empty()
                || declarations.iter().any(|(file, _)| !owners[*file as usize].is_empty())
        };
        let may_use = |entity: &EntityId| is_built(entity) && self.may_use(*entity);
        self.held.get(&id).is_some_and(|held| !held.iter().any(may_use))
    }

    /// Whether the file's project refers to one that declares `entity`, and that shows it.
    pub(super) fn may_use(&self, entity: EntityId) -> bool {
        let world = &*self.world;
        let entity = &world.table.entities[entity.index()];
        let is_shown = |file: usize| {
            entity.access == Access::Public || self.friends.shares(&world.ownership, self.file, file)
        };
        let mut declaring = entity.declarations.iter().map(|(file, _)| *file as usize);
        declaring.any(|file| world.ownership.may_use(self.file, file) && is_shown(file))
    }

    /// Whether some type left the namespace `text`.
    fn moved_from(&self, text: &str) -> bool {
        self.world.former.values().any(|former| former == text)
    }

    /// Whether any type still lives in or below the namespace `text`, or an import of it must be left alone because
    /// nothing of it was ever declared here.
    pub(super) fn lives(&self, text: &str) -> bool {
        let Some(id) = self.world.table.namespace_named(text) else { return false };
        let table = &self.world.table;
        (0..table.namespaces.len()).any(|at| {
            let mut up = NamespaceId(at as u32);
            if !table.namespaces[at].holds_types {
                return false;
            }
            while up != id && !self.world.table.is_outermost(up) {
                up = table.namespaces[up.0 as usize].parent;
            }
            up == id
        })
    }

    pub(super) fn needs_import(&self, facts: &FileFacts, meant: &Meant) -> bool {
        if meant.extension {
            return true;
        }
        let (root, chain) = self.chain(facts, meant.used);
        matches!(root, Some(Root::Scope(_))) && chain.len() == self.depth(meant.entity)
    }

    /// Whether, before the move, some name without qualifier was found in the namespace `old` that is now elsewhere.
    pub(super) fn served_before(&self, facts: &FileFacts, old: &str) -> bool {
        self.meant.iter().any(|meant| {
            let now = self.world.table.namespace_text(self.world.table.namespace_of(meant.entity));
            self.needs_import(facts, meant) && now != old && self.was_in(meant.entity, old)
        })
    }

    /// Whether the declaration of `entity` stood in the namespace `old`: by the text that its file still has.
    pub(super) fn was_in(&self, entity: EntityId, old: &str) -> bool {
        let outermost = self.world.table.outermost(entity);
        self.world.former.get(&outermost).is_some_and(|former| former == old)
    }

    /// Whether the namespace `text` is now around the file's own code.
    pub(super) fn sees_without_import(&self, facts: &FileFacts, text: &str) -> bool {
        let spaces = &self.world.table.scope_namespaces[self.file];
        let declared =
            facts.scopes.iter().enumerate().filter(|(_, s)| matches!(s.kind, ScopeKind::Namespace { .. }));
        let mut any = false;
        for (at, _) in declared {
            let own = spaces.get(at).map(|id| self.world.table.namespace_text(*id)).unwrap_or_default();
            any = true;
            if !(own == text || own.starts_with(&format!("{text}."))) {
                return false;
            }
        }
        any
    }

    /// Adds an import in the file's own order and style.
    pub(super) fn add_import(
        &self,
        facts: &FileFacts,
        text: &[u8],
        scope: u32,
        namespace: NamespaceId,
        texts: &mut Texts,
    ) {
        let Some(language) = self.world.project.files[self.file].language else { return };
        let spelling = self.world.languages[language].import_spelling();
        let name = self.world.table.namespace_text(namespace);
        let newline = line_end(text);
        let mut statement = format!("{}{name}{}", spelling.before, spelling.after);
        if let Some(condition) = self.condition_of(namespace, text, texts) {
            let end = self.world.languages[language].condition_end();
            statement = format!("{condition}{newline}{statement}{newline}{end}");
        }
        let conditions = Conditions { language: self.world.languages[language], text };
        let base = conditions.depth_of(facts, scope);
        let plain = |import: &&Import| {
            import.scope == scope
                && import.kind == ImportKind::Namespace
                && !import.global
                // Beside an import under a condition the new one would count under it only.
                && conditions.depth(import.span.start as usize) == base
        };
        let known: Vec<&Import> = facts.imports.iter().filter(plain).collect();
        let (at, new) = match place_among(&known, &name, text) {
            Some((at, indent, true)) => (at, format!("{indent}{statement}{newline}")),
            Some((at, indent, false)) => (at, format!("{newline}{indent}{statement}")),
            None => {
                let at = conditions.outside(first_code(facts, text), base);
                let gap = if spelling.after.is_empty() { "" } else { newline };
                (at, format!("{statement}{newline}{gap}"))
            }
        };
        let edit = Edit { span: Span::new(at, at), text: new, what: "using added" };
        texts.edit(self.path, edit, name);
    }
}

/// Where an import of `name` goes among `known`, with the indent of its neighbour, and whether before it.
fn place_among(known: &[&Import], name: &str, text: &[u8]) -> Option<(usize, String, bool)> {
    let last = known.last()?;
    let key = |name: &str| {
        let system = name == "System" || name.starts_with("System.");
        (!system, name.to_lowercase())
    };
    let plain = |name: &str| (true, name.to_lowercase());
    let sorted_by =
        |key: &dyn Fn(&str) -> (bool, String)| known.is_sorted_by(|a, b| key(&a.text) <= key(&b.text));
    let system_first = known.len() < 2 || sorted_by(&key);
    let sorted = system_first || sorted_by(&plain);
    let order = |name: &str| if system_first { key(name) } else { plain(name) };
    let indent = |import: &Import| {
        let start = import.span.start as usize;
        let line = text[..start].iter().rposition(|&byte| byte == b'\n').map_or(0, |at| at + 1);
        String::from_utf8_lossy(&text[line..start])
            .chars()
            .filter(|c| *c == ' ' || *c == '\t')
            .collect::<String>()
    };
    if sorted && let Some(next) = known.iter().find(|import| order(&import.text) > order(name)) {
        let line = line_with_end(text, next.span);
        return Some((line.start as usize, indent(next), true));
    }
    // Behind the line of the last one, so that it may itself go.
    let line = line_with_end(text, last.span);
    let ends = line.of(text).ends_with(b"\n");
    Some((line.end as usize, indent(last), ends))
}

/// Where a file begins with nothing but `dropped`, the empty line behind them goes too.
fn with_gap_at_top(dropped: &mut [(Span, &str)], text: &[u8]) {
    let mut end = if text.starts_with(b"\xEF\xBB\xBF") { 3 } else { 0 };
    let mut last = None;
    while let Some(next) = dropped.iter().position(|(span, _)| span.start == end && !span.is_empty()) {
        (end, last) = (dropped[next].0.end, Some(next));
    }
    let rest = &text[end as usize..];
    let gap = [&b"\r\n"[..], b"\n"].into_iter().find(|newline| rest.starts_with(newline));
    if let (Some(last), Some(gap)) = (last, gap) {
        dropped[last].0.end += gap.len() as u32;
    }
}

/// The lines of a statement that stands alone on them, with the line end; else the statement.
pub(super) fn line_with_end(text: &[u8], span: Span) -> Span {
    let (mut start, mut end) = (span.start as usize, span.end as usize);
    while start > 0 && matches!(text[start - 1], b' ' | b'\t') {
        start -= 1;
    }
    while matches!(text.get(end), Some(b' ' | b'\t' | b'\r')) {
        end += 1;
    }
    let begins = start == 0 || text[start - 1] == b'\n' || text[..start].ends_with(b"\xEF\xBB\xBF");
    match text.get(end) {
        Some(b'\n') if begins => Span::new(start, end + 1),
        _ => span,
    }
}

/// The line on which the first code stands, behind comments at the top and a byte order mark.
fn first_code(facts: &FileFacts, text: &[u8]) -> usize {
    let scopes = facts.scopes.iter().skip(1).map(|scope| scope.span.start);
    let declarations = facts.declarations.iter().map(|declaration| declaration.span.start);
    let occurrences = facts.occurrences.iter().map(|occurrence| occurrence.span.start);
    let first = scopes.chain(declarations).chain(occurrences).min().unwrap_or(0);
    let mark = if text.starts_with(b"\xEF\xBB\xBF") { 3 } else { 0 };
    if facts.implicit_namespace {
        return mark;
    }
    let lines = LineIndex::new(text);
    let mut line = lines.position(text, first).line;
    // A comment on the declaration stays with it.
    while line > 1 && lines.line_text(text, line - 1).trim_ascii_start().starts_with(b"///") {
        line -= 1;
    }
    let start =
        text.split_inclusive(|&byte| byte == b'\n').take(line as usize - 1).map(<[u8]>::len).sum::<usize>();
    start.max(mark)
}
