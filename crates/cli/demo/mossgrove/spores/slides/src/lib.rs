//! The shelf of slides.

/// Where a slide stands.
pub struct Slide {
    pub shelf: u16,
    pub slot: u16,
}
