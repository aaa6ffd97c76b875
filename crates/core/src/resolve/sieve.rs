//! A quick no: most names in code are declared nowhere in the project.

/// Tells of most keys that were never put in that they were not, by one bit in a small table (Bloom, "Space/time
/// trade-offs in hash coding with allowable errors", CACM 13(7), 1970, with one hash). A look into the tables of
/// declared names misses the processor's caches; the sieve fits into them.
#[derive(Clone, Debug)]
pub struct Sieve {
    bits: Vec<u64>,
    /// How far a key is shifted so that it numbers a bit.
    shift: u32,
}

/// Bits for each key: about one in sixteen others passes.
const BITS_A_KEY: usize = 16;

impl Sieve {
    /// For about `keys` keys, which are hashes already.
    pub fn new(keys: usize) -> Self {
        let bits = (keys * BITS_A_KEY).next_power_of_two().max(64);
        Self { bits: vec![0; bits / 64], shift: 64 - bits.trailing_zeros() }
    }

    /// Puts `key` in.
    pub fn add(&mut self, key: u64) {
        let at = (key >> self.shift) as usize;
        self.bits[at / 64] |= 1 << (at % 64);
    }

    /// Whether `key` may have been put in; `false` is certain.
    #[inline]
    pub fn may_hold(&self, key: u64) -> bool {
        let at = (key >> self.shift) as usize;
        self.bits[at / 64] >> (at % 64) & 1 == 1
    }
}

impl Default for Sieve {
    fn default() -> Self {
        Self::new(0)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use ferngate_model::Name;

    fn key(at: usize) -> u64 {
        Name::new(format!("name{at}").as_bytes()).0
    }

    #[test]
    fn what_is_in_is_never_denied_and_little_else_passes() {
        let mut sieve = Sieve::new(1000);
        (0..1000).for_each(|at| sieve.add(key(at)));
        assert!((0..1000).all(|at| sieve.may_hold(key(at))));
        let passing = (1000..11_000).filter(|at| sieve.may_hold(key(*at))).count();
        assert!(passing < 1000, "{passing} of 10,000 pass");
    }

    #[test]
    fn an_empty_sieve_holds_nothing() {
        assert!(!Sieve::default().may_hold(u64::MAX));
    }
}
