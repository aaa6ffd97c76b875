//! What each type derives from, directly and further up.

use super::EntityId;

/// More types than this are not followed above one.
const MOST_ABOVE: usize = 64;

/// The types that each type derives from. Looked up at nearly every name, so all are worked out once.
#[derive(Clone, Debug, Default)]
pub struct Lineage {
    /// For each entity, the entities that it names as bases.
    direct: Vec<Vec<EntityId>>,
    /// For each entity that names any, where its lineage begins and ends in `all`; else nothing.
    places: Vec<(u32, u32)>,
    all: Vec<EntityId>,
}

impl Lineage {
    /// From what each type names as its bases.
    pub fn new(direct: Vec<Vec<EntityId>>) -> Self {
        let mut lineage = Self { places: Vec::with_capacity(direct.len()), direct, all: Vec::new() };
        for entity in 0..lineage.direct.len() {
            let begin = lineage.all.len();
            if !lineage.direct[entity].is_empty() {
                lineage.follow(EntityId(entity as u32));
            }
            lineage.places.push((begin as u32, lineage.all.len() as u32));
        }
        lineage
    }

    /// Appends what `entity` derives from, the nearest first, each once.
    fn follow(&mut self, entity: EntityId) {
        let begin = self.all.len();
        self.all.push(entity);
        let mut at = begin;
        while at < self.all.len() && self.all.len() - begin < MOST_ABOVE {
            for base in &self.direct[self.all[at].index()] {
                if !self.all[begin..].contains(base) {
                    self.all.push(*base);
                }
            }
            at += 1;
        }
        // The type itself is no base of its own.
        self.all.remove(begin);
    }

    /// For each entity, what it names as its bases.
    pub fn direct(&self) -> &[Vec<EntityId>] {
        &self.direct
    }

    /// How many types stand one above the other from `entity` up, on the longest way.
    pub fn rank(&self, entity: EntityId) -> usize {
        let mut level = vec![entity];
        for rank in 0..MOST_ABOVE {
            let mut next: Vec<EntityId> =
                level.iter().filter_map(|of| self.direct.get(of.index())).flatten().copied().collect();
            next.sort_unstable();
            next.dedup();
            if next.is_empty() {
                return rank;
            }
            level = next;
        }
        MOST_ABOVE
    }

    /// What `entity` derives from, the nearest first, each once; about 64 of them at most.
    #[inline]
    pub fn above(&self, entity: EntityId) -> &[EntityId] {
        let place = self.places.get(entity.index()).copied().unwrap_or_default();
        self.all.get(place.0 as usize..place.1 as usize).unwrap_or_default()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn lineage(direct: &[&[u32]]) -> Lineage {
        Lineage::new(direct.iter().map(|bases| bases.iter().copied().map(EntityId).collect()).collect())
    }

    #[test]
    fn nearest_bases_come_first_and_each_once() {
        let of = lineage(&[&[1, 2], &[3], &[3], &[]]);
        assert_eq!(of.above(EntityId(0)), [1, 2, 3].map(EntityId));
        assert_eq!(of.above(EntityId(1)), [3].map(EntityId));
        assert!(of.above(EntityId(3)).is_empty());
        assert!(of.above(EntityId(99)).is_empty());
    }

    #[test]
    fn types_that_derive_from_each_other_end() {
        let of = lineage(&[&[1], &[0], &[2]]);
        assert_eq!(of.above(EntityId(0)), [1].map(EntityId));
        assert_eq!(of.above(EntityId(1)), [0].map(EntityId));
        assert!(of.above(EntityId(2)).is_empty());
    }
}
