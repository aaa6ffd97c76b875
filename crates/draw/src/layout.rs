//! Places boxes on shelves and routes the arrows between them.

use crate::sketch::Sketch;
use unicode_width::UnicodeWidthStr as _;

/// Width of one character of a name, in pixels, for the fonts that the pictures name.
pub const NAME_ADVANCE: f64 = 8.45;
/// The same for a note.
pub const NOTE_ADVANCE: f64 = 6.65;
/// The same for the title.
const TITLE_ADVANCE: f64 = 9.1;
/// Where the title ends, from the top.
const BELOW_TITLE: f64 = 48.0;
const BOX_HEIGHT: f64 = 50.0;
const GAP: f64 = 34.0;
const SHELF_GAP: f64 = 88.0;
const ROW_GAP: f64 = 40.0;
const MARGIN: f64 = 36.0;
const TITLE: f64 = 40.0;
/// A shelf wider than this is broken into rows.
const WIDEST: f64 = 1500.0;

/// A box with its place.
#[derive(Clone, Debug, PartialEq)]
pub struct PlacedShape {
    /// Left edge.
    pub x: f64,
    /// Top edge.
    pub y: f64,
    /// Width.
    pub width: f64,
    /// Height.
    pub height: f64,
}

impl PlacedShape {
    fn middle(&self) -> f64 {
        self.x + self.width / 2.0
    }
}

/// An arrow with its way: a cubic curve.
#[derive(Clone, Debug, PartialEq)]
pub struct PlacedTie {
    /// Start, two control points, end.
    pub points: [(f64, f64); 4],
    /// Where its number stands; `None` where there was no room.
    pub label: Option<(f64, f64)>,
    /// Line width.
    pub width: f64,
    /// It runs upwards.
    pub upwards: bool,
    /// It is part of a cycle.
    pub in_cycle: bool,
}

/// A picture with all places, in pixels.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Layout {
    /// Width of the picture.
    pub width: f64,
    /// Height of the picture.
    pub height: f64,
    /// Boxes in the order of the sketch.
    pub shapes: Vec<PlacedShape>,
    /// Ties in the order of the sketch.
    pub ties: Vec<PlacedTie>,
}

/// Places everything. Boxes of a shelf are ordered by the middle of what they are tied to (Sugiyama, Tagawa and Toda
/// 1981, the barycentre step), in a fixed number of sweeps; cost is O(sweeps · (boxes log boxes + ties)).
pub fn lay_out(sketch: &Sketch) -> Layout {
    let rows = order(sketch, rows(sketch));
    let widths: Vec<f64> = sketch.shapes.iter().map(|shape| box_width(&shape.name, &shape.note)).collect();
    let row_width =
        |row: &[usize]| row.iter().map(|&at| widths[at]).sum::<f64>() + GAP * (row.len().max(1) - 1) as f64;
    let title = sketch.title.width() as f64 * TITLE_ADVANCE;
    let inner = rows.iter().map(|row| row_width(row)).fold(title.max(320.0), f64::max);
    let mut layout = Layout { width: inner + 2.0 * MARGIN, ..Layout::default() };
    layout.shapes = vec![PlacedShape { x: 0.0, y: 0.0, width: 0.0, height: BOX_HEIGHT }; sketch.shapes.len()];
    let mut y = MARGIN + TITLE;
    let mut shelf = None;
    for row in rows.iter().rev() {
        let own = row.first().map(|&at| sketch.shapes[at].shelf);
        if shelf.is_some() {
            y += BOX_HEIGHT + if own == shelf { ROW_GAP } else { SHELF_GAP };
        }
        shelf = own;
        let mut x = MARGIN + (inner - row_width(row)) / 2.0;
        for &at in row {
            layout.shapes[at] = PlacedShape { x, y, width: widths[at], height: BOX_HEIGHT };
            x += widths[at] + GAP;
        }
    }
    layout.height = y + BOX_HEIGHT + MARGIN;
    route(sketch, &mut layout);
    make_room(&mut layout);
    layout
}

/// Moves everything down, and makes the picture higher, where an arc or a number would run into the title or out below.
fn make_room(layout: &mut Layout) {
    let (mut top, mut bottom) = (f64::MAX, f64::MIN);
    for tie in &layout.ties {
        let steps = (0..=16).map(|step| on_curve(&tie.points, f64::from(step) / 16.0).1);
        let (line, label) = (tie.width / 2.0 + 2.0, tie.label.map(|(_, y)| y));
        let ends = steps
            .flat_map(|y| [y - line, y + line])
            .chain(label.into_iter().flat_map(|y| [y - 8.0, y + 8.0]));
        (top, bottom) = ends.fold((top, bottom), |(top, bottom), y| (top.min(y), bottom.max(y)));
    }
    let down = (BELOW_TITLE - top).max(0.0);
    layout.height = layout.height.max(bottom + 8.0) + down;
    layout.shapes.iter_mut().for_each(|shape| shape.y += down);
    for tie in &mut layout.ties {
        let label = tie.label.iter_mut().map(|(_, y)| y);
        tie.points.iter_mut().map(|(_, y)| y).chain(label).for_each(|y| *y += down);
    }
}

fn box_width(name: &str, note: &str) -> f64 {
    let name = name.width() as f64 * NAME_ADVANCE;
    let note = note.width() as f64 * NOTE_ADVANCE;
    (name.max(note) + 28.0).max(96.0)
}

/// Boxes by row from the bottom; a shelf that is too wide takes several rows.
fn rows(sketch: &Sketch) -> Vec<Vec<usize>> {
    let top = sketch.shapes.iter().map(|shape| shape.shelf).max().unwrap_or(0);
    let mut rows = Vec::new();
    for shelf in 0..=top {
        let mut row = Vec::new();
        let mut width = 0.0;
        for (at, shape) in sketch.shapes.iter().enumerate().filter(|(_, shape)| shape.shelf == shelf) {
            let own = box_width(&shape.name, &shape.note) + GAP;
            if width + own > WIDEST && !row.is_empty() {
                rows.push(std::mem::take(&mut row));
                width = 0.0;
            }
            width += own;
            row.push(at);
        }
        if !row.is_empty() {
            rows.push(row);
        }
    }
    rows
}

fn order(sketch: &Sketch, mut rows: Vec<Vec<usize>>) -> Vec<Vec<usize>> {
    let mut neighbours: Vec<Vec<(usize, f64)>> = vec![Vec::new(); sketch.shapes.len()];
    for tie in &sketch.ties {
        let weight = f64::from(tie.weight.max(1)).sqrt();
        neighbours[tie.from].push((tie.to, weight));
        neighbours[tie.to].push((tie.from, weight));
    }
    let mut place = vec![0.0; sketch.shapes.len()];
    let settle = |rows: &[Vec<usize>], place: &mut Vec<f64>| {
        for row in rows {
            for (at, &shape) in row.iter().enumerate() {
                place[shape] = (at as f64 + 0.5) / row.len() as f64;
            }
        }
    };
    settle(&rows, &mut place);
    for _ in 0..12 {
        for at in 0..rows.len() {
            let key = |shape: usize| {
                let total: f64 = neighbours[shape].iter().map(|(_, weight)| weight).sum();
                if total == 0.0 {
                    return place[shape];
                }
                neighbours[shape].iter().map(|(other, weight)| place[*other] * weight).sum::<f64>() / total
            };
            let mut row = rows[at].clone();
            row.sort_by(|&a, &b| key(a).total_cmp(&key(b)).then(a.cmp(&b)));
            rows[at] = row;
            settle(&rows, &mut place);
        }
    }
    rows
}

fn route(sketch: &Sketch, layout: &mut Layout) {
    let heaviest = sketch.ties.iter().map(|tie| tie.weight).max().unwrap_or(1).max(1);
    for tie in &sketch.ties {
        let (from, to) = (&layout.shapes[tie.from], &layout.shapes[tie.to]);
        let width = 1.2 + 4.3 * (f64::from(tie.weight) / f64::from(heaviest)).sqrt();
        let points =
            if (from.y - to.y).abs() < 1.0 { beside(from, to) } else { between(from, to, tie.from < tie.to) };
        let upwards = sketch.runs_upwards(tie);
        layout.ties.push(PlacedTie { points, label: None, width, upwards, in_cycle: tie.in_cycle });
    }
    place_labels(sketch, layout);
}

/// Puts each number where it covers neither a box nor another number; the heaviest ties choose first, and those for
/// which nothing is free go without.
fn place_labels(sketch: &Sketch, layout: &mut Layout) {
    let mut by_weight: Vec<usize> = (0..sketch.ties.len()).filter(|&at| sketch.ties[at].weight > 0).collect();
    by_weight.sort_by_key(|&at| (std::cmp::Reverse(sketch.ties[at].weight), at));
    let mut taken: Vec<(f64, f64, f64)> = Vec::new();
    for at in by_weight {
        let half = label_width(sketch.ties[at].weight) / 2.0;
        let free = |&(x, y): &(f64, f64)| {
            let boxes = layout.shapes.iter().all(|shape| {
                x + half < shape.x
                    || x - half > shape.x + shape.width
                    || y + 8.0 < shape.y
                    || y - 8.0 > shape.y + shape.height
            });
            boxes
                && taken.iter().all(|&(other, line, width)| {
                    (x - other).abs() > half + width + 2.0 || (y - line).abs() > 15.0
                })
        };
        let points = layout.ties[at].points;
        let places = [0.42, 0.5, 0.34, 0.58, 0.26, 0.66, 0.2, 0.74, 0.14, 0.82];
        let label = places.into_iter().map(|t| on_curve(&points, t)).find(free);
        taken.extend(label.map(|(x, y)| (x, y, half)));
        layout.ties[at].label = label;
    }
}

/// Width of a tie's number with a little room around it.
pub fn label_width(weight: u32) -> f64 {
    weight.to_string().len() as f64 * NOTE_ADVANCE + 6.0
}

/// From the near edge of one box to the near edge of the other; the two directions of a pair run apart.
fn between(from: &PlacedShape, to: &PlacedShape, first: bool) -> [(f64, f64); 4] {
    let down = from.y < to.y;
    let shift = if first { -9.0 } else { 9.0 };
    let (start_y, end_y) = if down { (from.y + from.height, to.y) } else { (from.y, to.y + to.height) };
    let toward = |shape: &PlacedShape, other: &PlacedShape| {
        let offset = (other.middle() - shape.middle()) * 0.22;
        shape.middle() + offset.clamp(-shape.width * 0.36, shape.width * 0.36) + shift
    };
    let (start, end) = ((toward(from, to), start_y), (toward(to, from), end_y));
    let bend = (end_y - start_y) * 0.45;
    [start, (start.0, start.1 + bend), (end.0, end.1 - bend), end]
}

/// Between boxes of one row: an arc, above to the right and below to the left.
fn beside(from: &PlacedShape, to: &PlacedShape) -> [(f64, f64); 4] {
    let rightwards = from.x < to.x;
    let distance = (from.middle() - to.middle()).abs();
    let lift = (18.0 + distance * 0.10).min(SHELF_GAP * 0.6);
    let (y, control) = if rightwards {
        (from.y, from.y - lift)
    } else {
        (from.y + from.height, from.y + from.height + lift)
    };
    let (start, end) = if rightwards {
        (from.middle() + from.width * 0.25, to.middle() - to.width * 0.25)
    } else {
        (from.middle() - from.width * 0.25, to.middle() + to.width * 0.25)
    };
    [(start, y), (start, control), (end, control), (end, y)]
}

fn on_curve(points: &[(f64, f64); 4], t: f64) -> (f64, f64) {
    let weights = [(1.0 - t).powi(3), 3.0 * t * (1.0 - t).powi(2), 3.0 * t * t * (1.0 - t), t.powi(3)];
    points
        .iter()
        .zip(weights)
        .fold((0.0, 0.0), |sum, (point, weight)| (sum.0 + point.0 * weight, sum.1 + point.1 * weight))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::sketch::{Shape, Tie};

    #[test]
    fn nothing_overlaps_and_the_core_is_at_the_bottom() {
        let shapes =
            (0..40).map(|at| Shape { name: format!("module-{at}"), note: "3 files".into(), shelf: at % 4 });
        let tie = |at: usize| Tie { from: at, to: (at * 7 + 3) % 40, weight: at as u32, in_cycle: false };
        let sketch =
            Sketch { title: String::new(), shapes: shapes.collect(), ties: (0..40).map(tie).collect() };
        let layout = lay_out(&sketch);
        for (at, a) in layout.shapes.iter().enumerate() {
            assert!(a.x >= 0.0 && a.x + a.width <= layout.width && a.y + a.height <= layout.height);
            for b in &layout.shapes[at + 1..] {
                let apart = a.x + a.width <= b.x
                    || b.x + b.width <= a.x
                    || a.y + a.height <= b.y
                    || b.y + b.height <= a.y;
                assert!(apart);
            }
        }
        assert!(layout.shapes[0].y > layout.shapes[3].y);
        assert_eq!(lay_out(&sketch), layout);
    }
}
