use spore_shapes::{Outline, Shape};
use std::fmt;

/// How many of each shape.
#[derive(Default)]
pub struct Tally {
    balls: u32,
    beans: u32,
}

impl Tally {
    /// Counts one more.
    pub fn add(&mut self, outline: &Outline) {
        match outline.shape() {
            Shape::Ball => self.balls += 1,
            Shape::Bean => self.beans += 1,
        }
    }
}

impl fmt::Display for Tally {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} round, {} long", self.balls, self.beans)
    }
}
