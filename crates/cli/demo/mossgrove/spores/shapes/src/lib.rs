//! Shapes of spores under the microscope.

mod outline;

pub use outline::{Outline, Shape};
