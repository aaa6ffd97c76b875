/// What a spore looks like.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Shape {
    /// As wide as it is long.
    Ball,
    /// Longer than wide.
    Bean,
}

/// The outline of one spore, in micrometres.
pub struct Outline {
    pub length: f32,
    pub width: f32,
}

impl Outline {
    /// The shape by the ratio of the sides.
    pub fn shape(&self) -> Shape {
        if self.length > 1.3 * self.width { Shape::Bean } else { Shape::Ball }
    }
}
