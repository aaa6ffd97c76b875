use crate::layout::{Layout, PlacedTie, label_width, lay_out};
use crate::sketch::Sketch;
use std::fmt::Write;

const FONT: &str = "Hack, 'DejaVu Sans Mono', Menlo, Consolas, monospace";
const INK: &str = "#23352b";
const FAINT: &str = "#66756b";
const PAPER: &str = "#fbfaf6";
const BOX: &str = "#eef2e6";
const EDGE: &str = "#7c9274";
const TIE: &str = "#8fa08c";
const WRONG: &str = "#c2410c";

/// The picture as SVG. Ties that run upwards and ties of cycles are drawn in another colour and dashed.
pub fn to_svg(sketch: &Sketch) -> String {
    let layout = lay_out(sketch);
    let mut out = String::new();
    // Writing to a string cannot fail.
    let _ = write_all(&mut out, sketch, &layout);
    out
}

fn write_all(out: &mut String, sketch: &Sketch, layout: &Layout) -> std::fmt::Result {
    let (width, height) = (layout.width, layout.height);
    writeln!(
        out,
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{width:.0}\" height=\"{height:.0}\" viewBox=\"0 0 {width:.0} {height:.0}\" font-family=\"{FONT}\">"
    )?;
    writeln!(out, "<title>{}</title>", escape(&sketch.title))?;
    writeln!(out, "<defs>")?;
    for (id, color) in [("tie", TIE), ("wrong", WRONG)] {
        writeln!(
            out,
            "<marker id=\"{id}\" viewBox=\"0 0 10 10\" refX=\"9\" refY=\"5\" markerWidth=\"11\" markerHeight=\"11\" markerUnits=\"userSpaceOnUse\" orient=\"auto\"><path d=\"M0,0.8 L10,5 L0,9.2 z\" fill=\"{color}\"/></marker>"
        )?;
    }
    writeln!(out, "</defs>\n<rect width=\"{width:.0}\" height=\"{height:.0}\" fill=\"{PAPER}\"/>")?;
    writeln!(
        out,
        "<text x=\"36\" y=\"38\" font-size=\"15\" fill=\"{INK}\">{}</text>",
        escape(&sketch.title)
    )?;
    // What is wrong is drawn last, on top.
    for wrong in [false, true] {
        for tie in layout.ties.iter().filter(|tie| is_wrong(tie) == wrong) {
            write_tie(out, tie)?;
        }
    }
    for (shape, placed) in sketch.shapes.iter().zip(&layout.shapes) {
        let middle = placed.x + placed.width / 2.0;
        writeln!(
            out,
            "<rect x=\"{:.1}\" y=\"{:.1}\" width=\"{:.1}\" height=\"{:.1}\" rx=\"9\" fill=\"{BOX}\" stroke=\"{EDGE}\" stroke-width=\"1.3\"/>",
            placed.x, placed.y, placed.width, placed.height
        )?;
        let name_y = placed.y + if shape.note.is_empty() { 30.0 } else { 21.0 };
        writeln!(
            out,
            "<text x=\"{middle:.1}\" y=\"{name_y:.1}\" font-size=\"14\" text-anchor=\"middle\" fill=\"{INK}\">{}</text>",
            escape(&shape.name)
        )?;
        if !shape.note.is_empty() {
            writeln!(
                out,
                "<text x=\"{middle:.1}\" y=\"{:.1}\" font-size=\"11\" text-anchor=\"middle\" fill=\"{FAINT}\">{}</text>",
                placed.y + 38.0,
                escape(&shape.note)
            )?;
        }
    }
    for (tie, placed) in sketch.ties.iter().zip(&layout.ties) {
        write_label(out, tie.weight, placed)?;
    }
    writeln!(out, "</svg>")
}

fn is_wrong(tie: &PlacedTie) -> bool {
    tie.upwards || tie.in_cycle
}

fn write_tie(out: &mut String, tie: &PlacedTie) -> std::fmt::Result {
    let [a, b, c, d] = tie.points;
    let (color, id, dash) =
        if is_wrong(tie) { (WRONG, "wrong", " stroke-dasharray=\"7 4\"") } else { (TIE, "tie", "") };
    writeln!(
        out,
        "<path d=\"M{:.1},{:.1} C{:.1},{:.1} {:.1},{:.1} {:.1},{:.1}\" fill=\"none\" stroke=\"{color}\" stroke-width=\"{:.1}\"{dash} marker-end=\"url(#{id})\"/>",
        a.0, a.1, b.0, b.1, c.0, c.1, d.0, d.1, tie.width
    )
}

fn write_label(out: &mut String, weight: u32, tie: &PlacedTie) -> std::fmt::Result {
    let Some((x, y)) = tie.label else { return Ok(()) };
    let color = if is_wrong(tie) { WRONG } else { FAINT };
    let width = label_width(weight);
    writeln!(
        out,
        "<rect x=\"{:.1}\" y=\"{:.1}\" width=\"{width:.1}\" height=\"14\" rx=\"3\" fill=\"{PAPER}\" fill-opacity=\"0.88\"/><text x=\"{x:.1}\" y=\"{:.1}\" font-size=\"11\" text-anchor=\"middle\" fill=\"{color}\">{weight}</text>",
        x - width / 2.0,
        y - 8.0,
        y + 3.0
    )
}

/// Text as XML allows it.
fn escape(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            '&' => out.push_str("&amp;"),
            '<' => out.push_str("&lt;"),
            '>' => out.push_str("&gt;"),
            '"' => out.push_str("&quot;"),
            c if c.is_control() => out.push('\u{fffd}'),
            c => out.push(c),
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::sketch::{Shape, Tie};

    #[test]
    fn names_from_strangers_cannot_leave_their_place() {
        let shape = Shape { name: "<script>\"&\u{1}".into(), note: String::new(), shelf: 0 };
        let sketch = Sketch { title: "</title>".into(), shapes: vec![shape], ties: Vec::new() };
        let svg = to_svg(&sketch);
        assert!(!svg.contains("<script>") && !svg.contains('\u{1}'));
        assert_eq!(svg.matches("</title>").count(), 1);
    }

    #[test]
    fn what_runs_upwards_is_dashed() {
        let shape = |name: &str, shelf| Shape { name: name.into(), note: String::new(), shelf };
        let tie = |from, to| Tie { from, to, weight: 2, in_cycle: false };
        let sketch = |tie| Sketch {
            title: String::new(),
            shapes: vec![shape("a", 0), shape("b", 1)],
            ties: vec![tie],
        };
        assert!(to_svg(&sketch(tie(0, 1))).contains("stroke-dasharray"));
        assert!(!to_svg(&sketch(tie(1, 0))).contains("stroke-dasharray"));
    }
}
