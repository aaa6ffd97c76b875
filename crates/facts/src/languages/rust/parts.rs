//! What a type is given by blocks in other files than its own, and names that stand for another type.

use super::names::{Def, LONGEST_WAY, Lookup, Names, Want};
use ferngate_model::Name;
use rustc_hash::{FxHashMap, FxHashSet};

impl Names<'_, '_> {
    /// Finds the types of all blocks that give something to one, now that all names are known.
    pub fn enter_parts(&mut self) {
        let mut parts: FxHashMap<(Def, Name), Vec<u32>> = FxHashMap::default();
        let mut own: FxHashSet<(Def, Name)> = FxHashSet::default();
        for (&file, bases) in &self.instances {
            let Some(facts) = self.facts(file).filter(|facts| !facts.associated.is_empty()) else { continue };
            for &base in bases {
                let mut lookup = Lookup::new(self);
                let mut node_before: Option<(u32, Vec<Def>)> = None;
                for &(name, node) in &facts.associated {
                    if node_before.as_ref().is_none_or(|(known, _)| *known != node) {
                        node_before = Some((node, lookup.used(facts, base, node, Want::Around)));
                    }
                    for &def in node_before.iter().flat_map(|(_, found)| found) {
                        match def {
                            Def::Item(declaring, _) if declaring == file => _ = own.insert((def, name)),
                            Def::Item(..) => parts.entry((def, name)).or_default().push(file),
                            _ => {}
                        }
                    }
                }
            }
        }
        parts.retain(|part, files| {
            files.sort_unstable();
            files.dedup();
            !own.contains(part)
        });
        self.parts = parts;
    }
}

impl Lookup<'_, '_, '_> {
    /// The types that `def` stands for, if it is `type Name = …`; else itself.
    pub(super) fn stood_for(&mut self, def: Def) -> Vec<Def> {
        let names = self.names;
        let Def::Item(file, at) = def else { return vec![def] };
        let (Some(facts), Some(&base)) =
            (names.facts(file), names.instances.get(&file).and_then(|all| all.first()))
        else {
            return vec![def];
        };
        // What else would be found is found through the name's own file.
        match facts.bases.iter().find(|(declared, _)| *declared == at) {
            Some(&(_, node)) if self.open.len() < LONGEST_WAY => {
                let key = (base, facts.declarations[at as usize].name, Want::Around, true);
                if self.open.contains(&key) {
                    return Vec::new();
                }
                self.open.push(key);
                let found = self.used(facts, base, node, Want::Around);
                self.open.pop();
                found
            }
            _ => vec![def],
        }
    }
}
