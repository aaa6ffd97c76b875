use crate::lanes::Lanes;
use rustc_hash::FxHashMap;

/// An identifier, known by a 64-bit hash of its bytes.
///
/// Scanning meets tens of millions of identifiers of which almost all name nothing in the project, so a
/// used name is kept as its hash alone; only declared names keep their text ([`NameTexts`]). The hash folds
/// 128-bit products as in wyhash (Wang Yi, public domain), sixteen bytes at a time. Among a million distinct names the chance that
/// any two share a hash is about 3 in 10⁸.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Name(pub u64);

const SEED: u64 = 0xa076_1d64_78bd_642f;
const STEP: u64 = 0xe703_7ed1_a0b4_28db;

impl Name {
    /// Stands in a chain for what an index takes from a collection, or what is waited for.
    pub const ELEMENT: Self = Self(1);
    /// Stands in a chain for what a function is given that is an argument of the call before it.
    pub const PARAMETER: Self = Self(2);
    /// Stands in a chain for the value that a method belongs to, seen as what its type derives from.
    pub const SUPER: Self = Self(3);
    /// Stands in a chain for the value that a method belongs to.
    pub const THIS: Self = Self(4);
    /// Stands for a constructor, where it is declared and where it is called.
    pub const NEW: Self = Self(5);
    /// Stands in a chain for what a loop takes from a collection: an element, or a key with its value.
    pub const EACH: Self = Self(6);
    /// Stands for what a value gives that is called itself, where it is declared and where it is called.
    pub const CALL: Self = Self(7);

    const GIVEN: u64 = 0x100;
    const TYPE: u64 = 0x10_0000;
    const MOST_TYPES: u64 = 0x10_0000;
    const PROPERTY: u64 = 0x5eed;
    const MOST_GIVEN: usize = 16;
    /// As the place of an argument: the function is not an argument, but what is called or assigned to itself.
    pub const ITSELF: usize = Self::MOST_GIVEN - 1;

    /// As the place of an argument: it is the last one, whatever others are left out.
    pub const LAST: usize = Self::MOST_GIVEN - 2;
    /// As the number of a parameter: what the function needs no name for, because it extends its type.
    pub const RECEIVER: usize = Self::MOST_GIVEN - 2;

    /// As the number of a parameter: what the call itself gives the argument.
    pub const WHOLE: usize = Self::MOST_GIVEN - 1;

    /// Stands in a chain for parameter number `parameter` of the function that is argument number `argument` of the
    /// call before it, both from zero; [`Name::PARAMETER`] where the numbers are not told apart.
    pub fn given(argument: usize, parameter: usize) -> Self {
        if argument >= Self::MOST_GIVEN || parameter >= Self::MOST_GIVEN {
            return Self::PARAMETER;
        }
        Self(Self::GIVEN + (argument * Self::MOST_GIVEN + parameter) as u64)
    }

    /// The numbers that [`Name::given`] was made of.
    pub fn as_given(self) -> Option<(usize, usize)> {
        let numbers = self.0.checked_sub(Self::GIVEN).filter(|numbers| *numbers < 0x100)? as usize;
        Some((numbers / Self::MOST_GIVEN, numbers % Self::MOST_GIVEN))
    }

    /// Stands in a chain for what a call gives that was given the type with this index among the file's types of values,
    /// as in `find<Bed>()`; `None` beyond [`Name::MOST_TYPES`].
    pub fn of_type(value_type: u32) -> Option<Self> {
        (u64::from(value_type) < Self::MOST_TYPES).then_some(Self(Self::TYPE + u64::from(value_type)))
    }

    /// The index that [`Name::of_type`] was made of.
    pub fn as_type(self) -> Option<u32> {
        let index = self.0.checked_sub(Self::TYPE).filter(|index| *index < Self::MOST_TYPES)?;
        u32::try_from(index).ok()
    }

    /// The name of a value that only languages see which take `getBed()` for a value `bed`, where this name is that value's.
    pub fn property(self) -> Self {
        Self(self.mixed(Self::PROPERTY))
    }

    /// The name spelled by `bytes`.
    #[inline]
    pub fn new(bytes: &[u8]) -> Self {
        let (mut state, mut at) = (SEED, 0);
        while bytes.len() - at >= Lanes::COUNT {
            state = mix(state, Lanes::at(bytes, at).leading(Lanes::COUNT));
            at += Lanes::COUNT;
        }
        Self::finish(state, Lanes::at(bytes, at).leading(bytes.len() - at), bytes.len())
    }

    /// The identifier at `at`, as far as letters, digits, underscores and bytes beyond ASCII go: its length and name.
    #[inline]
    pub fn scan(text: &[u8], at: usize) -> (usize, Self) {
        let (mut state, mut length) = (SEED, 0);
        loop {
            let lanes = Lanes::at(text, at + length);
            let inside = lanes.leading_word_bytes();
            length += inside;
            if inside < Lanes::COUNT {
                return (length, Self::finish(state, lanes.leading(inside), length));
            }
            state = mix(state, lanes.leading(inside));
        }
    }

    #[inline]
    fn finish(state: u64, rest: u128, length: usize) -> Self {
        Self(mix(state ^ length as u64, rest))
    }

    /// The same name told apart by `extra`, such as a number of type parameters.
    #[inline]
    pub fn mixed(self, extra: u64) -> u64 {
        if extra == 0 { self.0 } else { fold(self.0 ^ extra.wrapping_mul(STEP)) }
    }
}

/// Folds sixteen bytes into `state`.
#[inline]
fn mix(state: u64, bytes: u128) -> u64 {
    let (low, high) = (state ^ bytes as u64, STEP ^ (bytes >> 64) as u64);
    let product = u128::from(low) * u128::from(high);
    product as u64 ^ (product >> 64) as u64 ^ low.rotate_left(29)
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

    /// Whether the text of `name` is known.
    pub fn knows(&self, name: Name) -> bool {
        self.texts.contains_key(&name)
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
    fn scanning_finds_what_is_spelled() {
        for byte in 0..=255u8 {
            let inside = byte.is_ascii_alphanumeric() || byte == b'_' || byte >= 0x80;
            for length in 0..40 {
                let mut text = vec![b'a'; length];
                text.push(byte);
                text.extend(b"+tail of the text");
                let expected = if inside { length + 1 } else { length };
                assert_eq!(Name::scan(&text, 0), (expected, Name::new(&text[..expected])), "{byte} {length}");
            }
        }
    }

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
