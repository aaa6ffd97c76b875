//! Choices that look random and are the same every time.

/// Numbers that look random and are the same every time (xorshift, Marsaglia 2003).
pub struct Numbers(u64);

impl Numbers {
    pub fn new(seed: u64) -> Self {
        Self(seed.wrapping_mul(0x9E37_79B9_7F4A_7C15) | 1)
    }

    pub fn next(&mut self) -> usize {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        (self.0 >> 11) as usize
    }

    pub fn of<'t, T>(&mut self, list: &'t [T]) -> &'t T {
        &list[self.next() % list.len()]
    }

    /// True once in so many times.
    pub fn one_in(&mut self, times: usize) -> bool {
        self.next().is_multiple_of(times)
    }

    /// Some of a list, in its order.
    pub fn some<'t, T>(&mut self, list: &'t [T]) -> Vec<&'t T> {
        list.iter().filter(|_| self.one_in(2)).collect()
    }
}
