//! Pictures of any sketch: nothing is lost, nothing overlaps, nothing runs out of the picture.

#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, reason = "a test may fail loudly")]

use ferngate_draw::{PlacedShape, Shape, Sketch, Tie, lay_out, to_dot, to_png, to_svg, to_text};
use proptest::prelude::*;
use proptest::test_runner::{RngSeed, TestCaseError, TestRunner};
use resvg::usvg::{Node, Options, Tree};
use std::collections::{BTreeMap, BTreeSet};

/// Holds `test` against many sketches, the same ones at every run.
fn for_many_sketches(cases: u32, seed: u64, test: impl Fn(Sketch) -> Result<(), TestCaseError>) {
    let rng_seed = RngSeed::Fixed(seed);
    let config = ProptestConfig { cases, failure_persistence: None, rng_seed, ..ProptestConfig::default() };
    if let Err(error) = TestRunner::new(config).run(&sketch(), test) {
        panic!("{error}");
    }
}

/// Names as maps and projects have them, and those that a stranger may have chosen.
fn name() -> impl Strategy<Value = String> {
    prop_oneof![
        8 => "[a-z]{1,12}(-[a-z]{1,8}){0,3}",
        1 => "[A-Z][a-z]{2,9}(\\.[A-Z][a-z]{2,9}){2,6}",
        1 => "[\"<>&\\\\\u{7}\t äß☘苔庭]{1,9}",
    ]
}

fn sketch() -> impl Strategy<Value = Sketch> {
    let shapes = prop::collection::vec((name(), 0usize..6, any::<bool>()), 1..40);
    let ties = prop::collection::vec((any::<u16>(), any::<u16>(), 1u32..5000, any::<bool>()), 0..90);
    (shapes, ties, name()).prop_map(|(shapes, ties, title)| {
        let many = shapes.len();
        let shape = |(at, (name, shelf, noted)): (usize, (String, usize, bool))| Shape {
            // No two modules have one name.
            name: format!("{name}{at}"),
            note: if noted { format!("{} files, {} lines", at * 7, at * 1234) } else { String::new() },
            shelf,
        };
        let mut seen = BTreeSet::new();
        let tie = |(from, to, weight, in_cycle): (u16, u16, u32, bool)| {
            let (from, to) = (from as usize % many, to as usize % many);
            (from != to && seen.insert((from, to))).then_some(Tie { from, to, weight, in_cycle })
        };
        Sketch {
            title: format!("{title}: {many} modules"),
            shapes: shapes.into_iter().enumerate().map(shape).collect(),
            ties: ties.into_iter().filter_map(tie).collect(),
        }
    })
}

fn apart(a: &PlacedShape, b: &PlacedShape) -> bool {
    a.x + a.width <= b.x || b.x + b.width <= a.x || a.y + a.height <= b.y || b.y + b.height <= a.y
}

#[test]
fn boxes_lie_apart_and_lower_shelves_lower() {
    for_many_sketches(300, 1, |sketch| {
        let layout = lay_out(&sketch);
        for (at, a) in layout.shapes.iter().enumerate() {
            prop_assert!(a.x >= 0.0 && a.x + a.width <= layout.width, "{a:?}");
            prop_assert!(a.y >= 0.0 && a.y + a.height <= layout.height, "{a:?}");
            for (other, b) in layout.shapes.iter().enumerate().skip(at + 1) {
                prop_assert!(apart(a, b), "{a:?} {b:?}");
                if sketch.shapes[at].shelf < sketch.shapes[other].shelf {
                    prop_assert!(a.y > b.y, "{a:?} {b:?}");
                }
            }
        }
        Ok(())
    });
}

#[test]
fn ties_lead_from_box_to_box() {
    for_many_sketches(300, 2, |sketch| {
        let layout = lay_out(&sketch);
        prop_assert_eq!(layout.ties.len(), sketch.ties.len());
        for (tie, placed) in sketch.ties.iter().zip(&layout.ties) {
            let touches = |(x, y): (f64, f64), of: &PlacedShape| {
                let on_edge = (y - of.y).abs() < 0.1 || (y - of.y - of.height).abs() < 0.1;
                x >= of.x && x <= of.x + of.width && on_edge
            };
            prop_assert!(touches(placed.points[0], &layout.shapes[tie.from]), "{placed:?}");
            prop_assert!(touches(placed.points[3], &layout.shapes[tie.to]), "{placed:?}");
            let upwards = sketch.shapes[tie.to].shelf > sketch.shapes[tie.from].shelf;
            prop_assert_eq!(placed.upwards, upwards);
        }
        Ok(())
    });
}

#[test]
fn numbers_of_ties_cover_no_box_and_no_other_number() {
    for_many_sketches(200, 3, |sketch| {
        let layout = lay_out(&sketch);
        let labels: Vec<PlacedShape> = sketch
            .ties
            .iter()
            .zip(&layout.ties)
            .filter_map(|(tie, placed)| {
                let (x, y) = placed.label?;
                let width = tie.weight.to_string().len() as f64 * 6.0;
                Some(PlacedShape { x: x - width / 2.0, y: y - 7.0, width, height: 14.0 })
            })
            .collect();
        for (at, label) in labels.iter().enumerate() {
            prop_assert!(label.x >= 0.0 && label.x + label.width <= layout.width, "{label:?}");
            prop_assert!(label.y >= 44.0 && label.y + label.height <= layout.height, "{label:?}");
            prop_assert!(layout.shapes.iter().all(|shape| apart(label, shape)), "{label:?}");
            prop_assert!(labels[at + 1..].iter().all(|other| apart(label, other)), "{label:?}");
        }
        Ok(())
    });
}

/// The boxes around everything that a reader of vector pictures sees.
fn drawn(node: &Node, found: &mut Vec<(f32, f32, f32, f32)>) {
    if let Node::Group(group) = node {
        group.children().iter().for_each(|child| drawn(child, found));
        return;
    }
    let bounds = node.abs_stroke_bounding_box();
    found.push((bounds.left(), bounds.top(), bounds.right(), bounds.bottom()));
}

#[test]
fn nothing_runs_out_of_the_picture() {
    let mut options = Options::default();
    let fonts = options.fontdb_mut();
    fonts.load_font_data(epaint_default_fonts::HACK_REGULAR.to_vec());
    fonts.set_monospace_family("Hack");
    for_many_sketches(60, 4, |sketch| {
        let tree = Tree::from_str(&to_svg(&sketch), &options)
            .map_err(|error| TestCaseError::fail(format!("{error}")))?;
        let (width, height) = (tree.size().width(), tree.size().height());
        let mut found = Vec::new();
        tree.root().children().iter().for_each(|child| drawn(child, &mut found));
        prop_assert!(found.len() >= sketch.shapes.len() * 2 + sketch.ties.len());
        for (left, top, right, bottom) in found {
            let inside = left >= -0.5 && top >= -0.5 && right <= width + 0.5 && bottom <= height + 0.5;
            prop_assert!(inside, "{left} {top} {right} {bottom} in {width} × {height}");
        }
        Ok(())
    });
}

/// Text as XML spells it, read back.
fn unescaped(text: &str) -> String {
    text.replace("&lt;", "<").replace("&gt;", ">").replace("&quot;", "\"").replace("&amp;", "&")
}

#[test]
fn every_name_and_every_note_is_in_every_form() {
    for_many_sketches(200, 5, |sketch| {
        let (svg, dot, text) = (to_svg(&sketch), to_dot(&sketch), to_text(&sketch));
        for shape in &sketch.shapes {
            let plain = shape.name.replace(char::is_control, "\u{fffd}");
            prop_assert!(unescaped(&svg).contains(&format!(">{plain}<")), "{svg}");
            prop_assert!(unescaped(&svg).contains(&shape.note));
            prop_assert!(text.contains(&shape.note) && text.contains(shape.name.as_str()), "{text}");
            prop_assert!(dot.contains(&shape.note));
        }
        prop_assert_eq!(svg.matches("marker-end").count(), sketch.ties.len());
        prop_assert_eq!(text.matches(" → ").count() - legend(&text), sketch.ties.len());
        Ok(())
    });
}

/// How many arrows the last line explains.
fn legend(text: &str) -> usize {
    let last = text.lines().last().unwrap_or_default();
    if last.starts_with("o →") || last.starts_with("! →") { last.matches('→').count() } else { 0 }
}

/// The strings in quotes of a line, as a reader of the language takes them.
fn quoted(line: &str) -> Vec<String> {
    let (mut found, mut open, mut letters) = (Vec::new(), None::<String>, line.chars());
    while let Some(letter) = letters.next() {
        match (&mut open, letter) {
            (Some(text), '\\') => text.extend(letters.next()),
            (Some(_), '"') => found.extend(open.take()),
            (Some(text), letter) => text.push(letter),
            (None, '"') => open = Some(String::new()),
            (None, _) => {}
        }
    }
    assert_eq!(open, None, "{line}");
    found
}

#[test]
fn the_open_form_holds_the_same_graph() {
    for_many_sketches(200, 6, |sketch| {
        let dot = to_dot(&sketch);
        let plain = |text: &str| text.replace(char::is_control, " ");
        let mut ties: BTreeMap<(String, String), String> = BTreeMap::new();
        let mut boxes = BTreeSet::new();
        for line in dot.lines().filter(|line| line.starts_with("  \"")) {
            let names = quoted(line);
            if line.contains("\" -> \"") && names.len() == 2 {
                ties.insert((names[0].clone(), names[1].clone()), line.to_owned());
            } else {
                boxes.insert(names[0].clone());
            }
        }
        let named: BTreeSet<String> = sketch.shapes.iter().map(|shape| plain(&shape.name)).collect();
        prop_assert_eq!(&boxes, &named);
        prop_assert_eq!(ties.len(), sketch.ties.len());
        for tie in &sketch.ties {
            let pair = (plain(&sketch.shapes[tie.from].name), plain(&sketch.shapes[tie.to].name));
            let line = ties.get(&pair).ok_or_else(|| TestCaseError::fail(format!("{pair:?}")))?;
            prop_assert!(line.contains(&format!("[label={}", tie.weight)), "{line}");
            let wrong = tie.in_cycle || sketch.shapes[tie.to].shelf > sketch.shapes[tie.from].shelf;
            prop_assert_eq!(line.contains("dashed"), wrong);
        }
        Ok(())
    });
}

#[test]
fn a_bitmap_is_as_large_as_its_picture() {
    for_many_sketches(6, 7, |sketch| {
        let layout = lay_out(&sketch);
        let png = to_png(&sketch, 2.0).map_err(|error| TestCaseError::fail(error.to_string()))?;
        prop_assert_eq!(&png[..8], b"\x89PNG\r\n\x1a\n");
        let number = |at: usize| f64::from(u32::from_be_bytes(png[at..at + 4].try_into().unwrap()));
        let (wide, high) = (number(16) / layout.width, number(20) / layout.height);
        prop_assert!((wide - high).abs() < 0.02 && wide > 1.9, "{wide} {high}");
        Ok(())
    });
}
