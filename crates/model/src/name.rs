use rustc_hash::FxHashMap;

/// An identifier, known by a 64-bit hash of its bytes.
///
/// Scanning meets tens of millions of identifiers of which almost all name nothing in the project, so a
/// used name is kept as its hash alone; only declared names keep their text ([`NameTexts`]). The hash folds
/// 128-bit products as in wyhash (Wang Yi, public domain). Among a million distinct names the chance that
/// any two share a hash is about 3 in 10⁸.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Name(pub u64);

const SEED: u64 = 0xa076_1d64_78bd_642f;
const STEP: u64 = 0xe703_7ed1_a0b4_28db;

impl Name {
    /// The name spelled by `bytes`.
    #[inline]
    pub fn new(bytes: &[u8]) -> Self {
        let mut hash = SEED ^ (bytes.len() as u64).wrapping_mul(STEP);
        let (words, tail) = bytes.as_chunks::<8>();
        for word in words {
            hash = fold(hash ^ u64::from_le_bytes(*word));
        }
        if !tail.is_empty() {
            hash = fold(hash ^ short_word(tail));
        }
        Self(hash)
    }

    /// The same name told apart by `extra`, such as a number of type parameters.
    #[inline]
    pub fn mixed(self, extra: u64) -> u64 {
        if extra == 0 { self.0 } else { fold(self.0 ^ extra.wrapping_mul(STEP)) }
    }
}

/// Up to seven bytes as one word, without a loop over them.
#[inline]
fn short_word(tail: &[u8]) -> u64 {
    if tail.len() >= 4 {
        let low = u32::from_le_bytes([tail[0], tail[1], tail[2], tail[3]]);
        let at = tail.len() - 4;
        let high = u32::from_le_bytes([tail[at], tail[at + 1], tail[at + 2], tail[at + 3]]);
        u64::from(low) | u64::from(high) << 32
    } else {
        let middle = tail[tail.len() / 2];
        u64::from(tail[0]) | u64::from(middle) << 8 | u64::from(tail[tail.len() - 1]) << 16
    }
}

#[inline]
fn fold(word: u64) -> u64 {
    let product = u128::from(word) * u128::from(STEP);
    (product as u64) ^ ((product >> 64) as u64) ^ word.rotate_left(29)
}

/// The texts of names that somebody declares.
#[derive(Clone, Debug, Default)]
pub struct NameTexts {
    texts: FxHashMap<Name, Box<str>>,
}

impl NameTexts {
    /// Remembers `text` and returns its name.
    pub fn add(&mut self, text: &str) -> Name {
        let name = Name::new(text.as_bytes());
        self.texts.entry(name).or_insert_with(|| text.into());
        name
    }

    /// Takes over all of `other`.
    pub fn extend(&mut self, other: &NameTexts) {
        for (name, text) in &other.texts {
            self.texts.entry(*name).or_insert_with(|| text.clone());
        }
    }

    /// The text of `name`; `?` for one that nobody declared.
    pub fn text(&self, name: Name) -> &str {
        self.texts.get(&name).map_or("?", |text| text)
    }

    /// All names with their texts, in no order.
    pub fn iter(&self) -> impl Iterator<Item = (Name, &str)> {
        self.texts.iter().map(|(name, text)| (*name, &**text))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::HashMap;

    #[test]
    fn near_alike_names_differ() {
        let mut seen = HashMap::new();
        for length in 1..20usize {
            for number in 0..5000usize {
                let text = format!("{number:0length$}");
                let name = Name::new(text.as_bytes());
                assert_eq!(*seen.entry(name).or_insert_with(|| text.clone()), text);
            }
        }
    }
}
