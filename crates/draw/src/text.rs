use crate::sketch::{Sketch, Tie};
use unicode_width::UnicodeWidthStr as _;

/// The sketch as lines of text: shelves from the top, under each box what it uses, the strongest first. `!` marks a
/// tie that runs upwards, `o` one that is part of a cycle.
pub fn to_text(sketch: &Sketch) -> String {
    let mut out = String::new();
    let top = sketch.shapes.iter().map(|shape| shape.shelf).max().unwrap_or(0);
    let width = sketch.shapes.iter().map(|shape| shape.name.width()).max().unwrap_or(0);
    for shelf in (0..=top).rev() {
        let on_shelf: Vec<usize> =
            (0..sketch.shapes.len()).filter(|&at| sketch.shapes[at].shelf == shelf).collect();
        if on_shelf.is_empty() {
            continue;
        }
        let place = if shelf == 0 { " (core)" } else { "" };
        out.push_str(&format!("shelf {shelf}{place}\n"));
        for at in on_shelf {
            let shape = &sketch.shapes[at];
            let pad = " ".repeat(width - shape.name.width());
            out.push_str(format!("  {}{pad}  {}", shape.name, shape.note).trim_end());
            out.push('\n');
            let mut ties: Vec<&Tie> = sketch.ties.iter().filter(|tie| tie.from == at).collect();
            ties.sort_by_key(|tie| (std::cmp::Reverse(tie.weight), tie.to));
            for tie in ties {
                let mark = if sketch.runs_upwards(tie) {
                    '!'
                } else if tie.in_cycle {
                    'o'
                } else {
                    ' '
                };
                out.push_str(&format!("   {mark} → {}  {}\n", sketch.shapes[tie.to].name, tie.weight));
            }
        }
    }
    out.push_str(&legend(sketch));
    out
}

/// What the marks before arrows mean, of those that are there.
fn legend(sketch: &Sketch) -> String {
    let upwards = sketch.ties.iter().any(|tie| sketch.runs_upwards(tie));
    let cyclic = sketch.ties.iter().any(|tie| tie.in_cycle && !sketch.runs_upwards(tie));
    let marks = [(cyclic, "o → is part of a cycle"), (upwards, "! → runs against the layers")];
    let shown: Vec<&str> = marks.iter().filter(|(there, _)| *there).map(|(_, mark)| *mark).collect();
    if shown.is_empty() { String::new() } else { format!("\n{}\n", shown.join("    ")) }
}
