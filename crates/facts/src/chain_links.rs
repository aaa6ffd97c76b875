//! A dotted name while it is read.

use ferngate_model::ChainLink;
use smallvec::SmallVec;
use std::ops::{Deref, DerefMut};

/// Parts beyond this many are dropped, but for the last: no person writes them.
const MOST: usize = 14;

/// The parts of a dotted name; a few stand in place, because a name is read at every other token.
#[derive(Clone, Debug, Default)]
pub struct ChainLinks(SmallVec<[ChainLink; 3]>);

impl ChainLinks {
    /// Adds a part; of a name that is too long it takes the place of the last one.
    #[inline]
    pub fn push(&mut self, link: ChainLink) {
        if self.0.len() == MOST {
            self.0.pop();
        }
        self.0.push(link);
    }

    /// Takes the last part away.
    pub fn pop(&mut self) -> Option<ChainLink> {
        self.0.pop()
    }

    /// Whether no further part would be kept.
    pub fn is_full(&self) -> bool {
        self.0.len() == MOST
    }
}

impl Deref for ChainLinks {
    type Target = [ChainLink];

    fn deref(&self) -> &[ChainLink] {
        &self.0
    }
}

impl DerefMut for ChainLinks {
    fn deref_mut(&mut self) -> &mut [ChainLink] {
        &mut self.0
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use ferngate_model::{Name, Span};

    #[test]
    fn a_name_without_end_keeps_its_first_parts_and_its_last() {
        let mut links = ChainLinks::default();
        for part in 0..100u64 {
            links.push(ChainLink { name: Name(part), arity: 0, span: Span::new(0, 0) });
        }
        assert!(links.is_full());
        let parts: Vec<u64> = links.iter().map(|link| link.name.0).collect();
        assert_eq!(parts, (0..13).chain([99]).collect::<Vec<u64>>());
    }
}
