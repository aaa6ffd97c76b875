use crate::sketch::Sketch;
use crate::svg::to_svg;
use resvg::tiny_skia::{Pixmap, Transform};
use resvg::usvg::{Options, Tree};
use std::sync::Arc;

/// A picture that cannot be painted.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum PngError {
    /// It has more pixels than memory should be spent on.
    #[error("the picture would be {width} × {height} pixels; draw fewer modules, or use svg")]
    TooLarge {
        /// Pixels across.
        width: u32,
        /// Pixels down.
        height: u32,
    },
    /// The painter refused it.
    #[error("the picture could not be painted: {0}")]
    Painter(String),
}

/// More pixels on one side than this are not painted.
const LARGEST: u32 = 16_000;

/// The picture as PNG, `scale` pixels to a point. The font is part of the program, so that a picture looks the same
/// on every machine.
///
/// # Errors
/// Where the picture is too large to paint.
pub fn to_png(sketch: &Sketch, scale: f32) -> Result<Vec<u8>, PngError> {
    let mut options = Options { font_family: "Hack".to_owned(), ..Options::default() };
    Arc::make_mut(&mut options.fontdb).load_font_data(epaint_default_fonts::HACK_REGULAR.to_vec());
    let svg = to_svg(sketch);
    let tree = Tree::from_str(&svg, &options).map_err(|error| PngError::Painter(error.to_string()))?;
    let size = tree.size().to_int_size().scale_by(scale).unwrap_or(tree.size().to_int_size());
    let (width, height) = (size.width(), size.height());
    if width > LARGEST || height > LARGEST {
        return Err(PngError::TooLarge { width, height });
    }
    let mut pixels = Pixmap::new(width, height).ok_or(PngError::TooLarge { width, height })?;
    resvg::render(&tree, Transform::from_scale(scale, scale), &mut pixels.as_mut());
    pixels.encode_png().map_err(|error| PngError::Painter(error.to_string()))
}
