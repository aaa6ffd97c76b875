//! What people see: answers on standard output, everything else on standard error.

use crate::args::{Common, When};
use crate::snippet;
use ferngate_model::{LineIndex, Span};
use std::io::{self, BufWriter, IsTerminal, Stderr, Stdout, Write};
use std::path::PathBuf;
use unicode_width::UnicodeWidthChar as _;

/// What a piece of text is, which decides its colour.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Style {
    /// The answer in one line.
    Verdict,
    /// All is well.
    Good,
    /// Something is wrong.
    Bad,
    /// Something may be wrong.
    Doubt,
    /// A heading.
    Heading,
    /// Something less important.
    Faint,
    /// A command to type.
    Command,
}

impl Style {
    fn codes(self) -> &'static str {
        match self {
            Style::Verdict => "1",
            Style::Good => "1;32",
            Style::Bad => "1;31",
            Style::Doubt => "33",
            Style::Heading => "1;34",
            Style::Faint => "2",
            Style::Command => "36",
        }
    }
}

/// The way to the user.
pub struct Ui {
    out: BufWriter<Stdout>,
    err: Stderr,
    color_out: bool,
    color_err: bool,
    /// Whether only the answer is wanted.
    pub quiet: bool,
    /// Whether stages and omissions are wanted.
    pub verbose: bool,
    /// Whether one JSON object is wanted.
    pub json: bool,
    /// Whether standard input and output are a terminal.
    pub interactive: bool,
    /// Width of the terminal that shows the answer; `None` where none does.
    columns: Option<usize>,
    /// The options by which a command that is suggested means the same project.
    again: String,
}

impl Ui {
    /// As the options and the terminal say.
    pub fn new(common: &Common) -> Self {
        let plain = std::env::var_os("NO_COLOR").is_some_and(|value| !value.is_empty());
        let color = |terminal: bool| match common.color {
            When::Always => true,
            When::Never => false,
            When::Auto => terminal && !plain,
        };
        let out_terminal = io::stdout().is_terminal();
        Self {
            out: BufWriter::new(io::stdout()),
            err: io::stderr(),
            color_out: color(out_terminal) && !common.json,
            color_err: color(io::stderr().is_terminal()),
            quiet: common.quiet,
            verbose: common.verbose,
            json: common.json,
            interactive: out_terminal && io::stdin().is_terminal(),
            columns: terminal_size::terminal_size()
                .filter(|_| out_terminal && !common.json)
                .map(|size| size.0.0.into()),
            again: again(common),
        }
    }

    /// `text` in the colour of `style`, for the answer.
    pub fn paint(&self, style: Style, text: &str) -> String {
        paint(self.color_out, style, text)
    }

    /// A line of the answer.
    pub fn line(&mut self, text: impl AsRef<str>) -> io::Result<()> {
        match self.columns {
            Some(columns) => writeln!(self.out, "{}", wrapped(text.as_ref(), columns)),
            None => writeln!(self.out, "{}", text.as_ref()),
        }
    }

    /// Bytes of the answer.
    pub fn bytes(&mut self, bytes: &[u8]) -> io::Result<()> {
        self.out.write_all(bytes)
    }

    /// An empty line and a heading.
    pub fn heading(&mut self, text: &str) -> io::Result<()> {
        let text = self.paint(Style::Heading, text);
        self.line(format!("\n{text}"))
    }

    /// Says at the end of a list that `left` of it are not shown; `what` is ` names` or nothing.
    pub fn left_out(&mut self, indent: &str, left: usize, what: &str) -> io::Result<()> {
        if left == 0 {
            return Ok(());
        }
        let line = self.paint(Style::Faint, &format!("{indent}… and {left} more{what}; --all shows them"));
        self.line(line)
    }

    /// The next useful command, as the last line.
    pub fn next(&mut self, command: &str, why: &str) -> io::Result<()> {
        if self.quiet {
            return Ok(());
        }
        let command = command.replacen("ferngate ", &format!("ferngate {}", self.again), 1);
        let command = self.paint(Style::Command, &command);
        self.line(format!("\nnext: {command}  {why}"))
    }

    /// A JSON object as the whole answer.
    pub fn answer(&mut self, value: &serde_json::Value) -> io::Result<()> {
        let text = serde_json::to_string_pretty(value).map_err(io::Error::other)?;
        self.line(text)
    }

    /// A note beside the answer, under `-v`.
    pub fn note(&mut self, text: &str) {
        if self.verbose {
            let text = paint(self.color_err, Style::Faint, text);
            // Nothing is left to tell if standard error is gone.
            let _ = writeln!(self.err, "{text}");
        }
    }

    /// A note beside the answer unless `-q`.
    pub fn remark(&mut self, text: &str) {
        if !self.quiet {
            let _ = writeln!(self.err, "{text}");
        }
    }

    /// What went wrong, and what to do.
    pub fn complain(&mut self, message: &str, hint: Option<&str>) {
        let _ = self.out.flush();
        let word = paint(self.color_err, Style::Bad, "error:");
        let _ = writeln!(self.err, "{word} {}", clean_lines(message));
        if let Some(hint) = hint {
            self.hint(hint);
        }
    }

    /// What to do.
    pub fn hint(&mut self, hint: &str) {
        let word = paint(self.color_err, Style::Good, "help:");
        let _ = writeln!(self.err, "{word} {}", clean_lines(hint));
    }

    /// What is wrong at a place of a text.
    pub fn complain_at(&mut self, path: &str, text: &[u8], span: Span, message: &str) {
        let _ = self.out.flush();
        let word = paint(self.color_err, Style::Bad, "error:");
        let place = LineIndex::new(text).position(text, span.start);
        let _ = writeln!(self.err, "{word} {}", clean_lines(message));
        let _ = writeln!(self.err, "  {path}:{}:{}", place.line, place.column);
        for line in snippet::lines(text, span, 0) {
            let _ = writeln!(self.err, "{line}");
        }
    }

    /// Asks a question; `false` unless the answer begins with `y`.
    pub fn ask(&mut self, question: &str) -> io::Result<bool> {
        write!(self.out, "{question} [y/N] ")?;
        self.out.flush()?;
        let mut answer = String::new();
        io::stdin().read_line(&mut answer)?;
        Ok(answer.trim_start().starts_with(['y', 'Y']))
    }

    /// Lets everything written so far appear.
    pub fn finish(&mut self) -> io::Result<()> {
        self.out.flush()
    }
}

/// `line` broken between words so that it fits `columns`; what goes on is set in deeper. Lines of source stay as they are.
fn wrapped(line: &str, columns: usize) -> String {
    let blanks = line.len() - line.trim_start_matches([' ', '\n']).len();
    let is_source =
        line.trim_start().split_once(" | ").is_some_and(|(head, _)| head.chars().all(|c| c.is_ascii_digit()));
    if is_source || blanks + 20 > columns || visible(line) <= columns {
        return line.to_owned();
    }
    let indent = " ".repeat(line[..blanks].trim_start_matches('\n').len() + 2);
    let mut out = line[..blanks].to_owned();
    let mut used = blanks;
    for (at, word) in line[blanks..].split(' ').enumerate() {
        let length = visible(word);
        if at > 0 && used + 1 + length > columns {
            out.push('\n');
            out.push_str(&indent);
            used = indent.len();
        } else if at > 0 {
            out.push(' ');
            used += 1;
        }
        out.push_str(word);
        used += length;
    }
    out
}

/// The options of `common` that say which project is meant, and what counts in it.
fn again(common: &Common) -> String {
    let path = |option: &str, path: &Option<PathBuf>| {
        path.as_ref().map(|path| format!("{option} {} ", quoted(&path.display().to_string())))
    };
    let options = [path("-C", &common.directory), path("--map", &common.map)];
    let weak = common.weak.then(|| "--weak ".to_owned());
    options.into_iter().flatten().chain(weak).collect()
}

/// `text` as one word of a shell.
pub fn quoted(text: &str) -> String {
    let plain = |c: char| c.is_alphanumeric() || "_./:@%+,=-".contains(c);
    if !text.is_empty() && text.chars().all(plain) {
        return text.to_owned();
    }
    format!("'{}'", text.replace('\'', "'\\''"))
}

/// How many columns a terminal takes for `text`, colours left out.
fn visible(text: &str) -> usize {
    let mut colour = false;
    let columns = |c: char| match c {
        '\x1b' => {
            colour = true;
            0
        }
        'm' if colour => {
            colour = false;
            0
        }
        _ if colour => 0,
        c => c.width().unwrap_or(0),
    };
    text.chars().map(columns).sum()
}

fn paint(color: bool, style: Style, text: &str) -> String {
    if color { format!("\x1b[{}m{text}\x1b[0m", style.codes()) } else { text.to_owned() }
}

/// `text` from a stranger's file with control bytes shown instead of sent, and tabs as blanks.
pub fn clean(text: &str) -> String {
    clean_lines(text).replace('\n', "\\n")
}

/// The same for texts of several lines.
pub fn clean_lines(text: &str) -> String {
    let odd = |c: char| c.is_control() || matches!(c, '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}');
    if !text.contains(odd) {
        return text.to_owned();
    }
    let mut out = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            '\t' => out.push_str("    "),
            '\n' => out.push('\n'),
            c if odd(c) => out.extend(c.escape_unicode()),
            c => out.push(c),
        }
    }
    out
}

/// How many of `length` are shown where `limit` are enough. One above the limit is shown: the line that would say
/// that it is left out takes as much room.
pub fn shown(length: usize, limit: usize, all: bool) -> usize {
    if all || length <= limit + 1 { length } else { limit }
}

/// A number with its thousands apart: `12,345`.
pub fn number(value: u64) -> String {
    let digits = value.to_string();
    let mut out = String::new();
    for (at, digit) in digits.chars().enumerate() {
        if at > 0 && (digits.len() - at).is_multiple_of(3) {
            out.push(',');
        }
        out.push(digit);
    }
    out
}

/// `1 file`, `12,345 files`.
pub fn count(value: u64, one: &str, many: &str) -> String {
    format!("{} {}", number(value), if value == 1 { one } else { many })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn long_lines_break_between_words() {
        assert_eq!(
            wrapped("    way out: move `Taxon` nearer to the core", 30),
            "    way out: move `Taxon`\n      nearer to the core"
        );
        assert_eq!(
            wrapped("   12 | public class Taxon extends Nothing", 20),
            "   12 | public class Taxon extends Nothing"
        );
        assert_eq!(wrapped("\x1b[1mshort\x1b[0m enough", 30), "\x1b[1mshort\x1b[0m enough");
    }

    #[test]
    fn numbers_and_odd_names() {
        assert_eq!(number(1_234_567), "1,234,567");
        assert_eq!(count(1, "file", "files"), "1 file");
        assert_eq!([5, 6, 7].map(|length| shown(length, 5, false)), [5, 6, 5]);
        assert_eq!(shown(7, 5, true), 7);
        assert_eq!(clean("a\u{1b}[2J\tb"), "a\\u{1b}[2J    b");
    }
}
