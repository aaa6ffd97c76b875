//! Pictures of any sketch: boxes on shelves, the core at the bottom, arrows downwards; what runs upwards is drawn to be
//! noticed. Knows no modules and no rules.
//!
//! ```
//! use ferngate_draw::{Shape, Sketch, Tie, to_dot};
//! let shape = |name: &str, shelf| Shape { name: name.into(), note: String::new(), shelf };
//! let sketch = Sketch {
//!     title: "garden".into(),
//!     shapes: vec![shape("visits", 1), shape("catalogue", 0)],
//!     ties: vec![Tie { from: 0, to: 1, weight: 3, in_cycle: false }],
//! };
//! assert!(to_dot(&sketch).contains("\"visits\" -> \"catalogue\""));
//! ```

mod dot;
mod layout;
mod png;
mod sketch;
mod svg;
mod text;

pub use dot::to_dot;
pub use layout::{Layout, PlacedShape, PlacedTie, lay_out};
pub use png::{PngError, to_png};
pub use sketch::{Shape, Sketch, Tie};
pub use svg::to_svg;
pub use text::to_text;
