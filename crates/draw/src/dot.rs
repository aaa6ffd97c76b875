use crate::sketch::Sketch;
use std::fmt::Write;

/// The sketch in the DOT language, for other drawing programs.
pub fn to_dot(sketch: &Sketch) -> String {
    let mut out = String::from("digraph modules {\n  rankdir=TB;\n  node [shape=box];\n");
    for shape in &sketch.shapes {
        let note = if shape.note.is_empty() { String::new() } else { format!("\\n{}", escape(&shape.note)) };
        // Writing to a string cannot fail.
        let _ = writeln!(out, "  \"{0}\" [label=\"{0}{note}\"];", escape(&shape.name));
    }
    for tie in &sketch.ties {
        let wrong = if tie.in_cycle || sketch.runs_upwards(tie) { " style=dashed" } else { "" };
        let (from, to) = (escape(&sketch.shapes[tie.from].name), escape(&sketch.shapes[tie.to].name));
        let _ = writeln!(out, "  \"{from}\" -> \"{to}\" [label={}{wrong}];", tie.weight);
    }
    out.push_str("}\n");
    out
}

fn escape(text: &str) -> String {
    text.replace('\\', "\\\\").replace('"', "\\\"").replace(char::is_control, " ")
}
