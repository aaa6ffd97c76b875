//! Aligned columns.

use unicode_width::UnicodeWidthStr as _;

/// Which way a column is aligned.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Align {
    /// Text.
    Left,
    /// Numbers.
    Right,
}

/// Lines of `rows` under `heads`, two blanks between columns; the last column is not padded.
pub fn table(heads: &[(&str, Align)], rows: &[Vec<String>]) -> Vec<String> {
    let columns = heads.len();
    let width = |at: usize| {
        let cells = rows.iter().filter_map(|row| row.get(at)).map(|cell| cell.width());
        cells.chain([heads[at].0.width()]).max().unwrap_or(0)
    };
    let widths: Vec<usize> = (0..columns).map(width).collect();
    let line = |cells: Vec<&str>| {
        let mut out = String::new();
        for (at, cell) in cells.iter().enumerate() {
            let pad = " ".repeat(widths[at].saturating_sub(cell.width()));
            match heads[at].1 {
                Align::Left => out.extend([*cell, &pad]),
                Align::Right => out.extend([&*pad, *cell]),
            }
            out.push_str("  ");
        }
        out.trim_end().to_owned()
    };
    let mut lines = vec![line(heads.iter().map(|head| head.0).collect())];
    lines.extend(rows.iter().map(|row| line(row.iter().map(String::as_str).collect())));
    lines
}
