/// What is to be drawn.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Sketch {
    /// A line above the picture.
    pub title: String,
    /// The boxes.
    pub shapes: Vec<Shape>,
    /// The arrows.
    pub ties: Vec<Tie>,
}

/// A box.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Shape {
    /// Its name.
    pub name: String,
    /// A smaller line under it.
    pub note: String,
    /// Its shelf, 0 at the bottom.
    pub shelf: usize,
}

/// An arrow between two boxes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Tie {
    /// The box at its start, by index.
    pub from: usize,
    /// The box at its end, by index.
    pub to: usize,
    /// Its strength; the width follows its square root.
    pub weight: u32,
    /// It is part of a cycle.
    pub in_cycle: bool,
}

impl Sketch {
    /// Whether a tie runs upwards, or along its own shelf in a cycle.
    pub fn runs_upwards(&self, tie: &Tie) -> bool {
        self.shapes[tie.to].shelf > self.shapes[tie.from].shelf
    }
}
