//! One pass over the bytes: lines that begin with `#`, and outside of function bodies the names that are declared.

use crate::cursor::{ByteClass, Cursor, class};
use ferngate_model::{Declaration, DeclarationKind, Name, PathBase, Recorder, Span};

/// Reads `text` into `recorder`.
pub fn read(text: &[u8], recorder: &mut Recorder) {
    Reader {
        cursor: Cursor::new(text),
        recorder,
        open: Vec::new(),
        hidden: 0,
        head: Head::default(),
        fresh: true,
        own_module: None,
    }
    .run();
}

/// No name of a module is longer.
const LONGEST_NAME: usize = 300;

/// What has been seen of the statement that is being read.
#[derive(Clone, Copy, Debug, Default)]
struct Head {
    /// Where it begins.
    start: usize,
    /// The last word outside of parentheses.
    word: Option<(usize, usize)>,
    /// The word before the first parenthesis.
    called: Option<(usize, usize)>,
    /// A `class`, `struct`, `union` or `enum`, and the name behind it.
    tag: Option<DeclarationKind>,
    tagged: Option<(usize, usize)>,
    /// It opens a namespace or `extern "C"`, so its braces hide nothing.
    open: bool,
    /// A colon or an `=` stood outside of parentheses: the name behind `class` is complete.
    closed: bool,
    typedef: bool,
    parentheses: usize,
    words: usize,
}

struct Reader<'t, 'r> {
    cursor: Cursor<'t>,
    recorder: &'r mut Recorder,
    /// For each open brace that hides nothing: true.
    open: Vec<bool>,
    /// Number of braces that hide what they hold.
    hidden: usize,
    head: Head,
    /// Nothing but blanks stood on this line so far.
    fresh: bool,
    /// The name of the module that the file belongs to.
    own_module: Option<Span>,
}

impl Reader<'_, '_> {
    fn run(&mut self) {
        while !self.cursor.done() {
            let byte = self.cursor.text[self.cursor.at];
            match class(byte) {
                ByteClass::Blank => {
                    self.fresh |= byte == b'\n';
                    self.cursor.at += 1;
                    continue;
                }
                ByteClass::Letter => self.word(),
                ByteClass::Digit => self.number(),
                _ => {
                    if self.mark(byte) {
                        continue;
                    }
                }
            }
            self.fresh = false;
        }
    }

    /// Reads a mark; true where it leaves the line as fresh as it was.
    fn mark(&mut self, byte: u8) -> bool {
        match (byte, self.cursor.peek(1)) {
            (b'#', _) if self.fresh => {
                self.directive();
                return true;
            }
            (b'/', b'/') => {
                self.skip_logical_line();
                return true;
            }
            (b'/', b'*') => {
                self.cursor.at += 2;
                self.cursor.past(b"*/");
                return true;
            }
            (b'"' | b'\'', _) => self.cursor.past_quoted(byte),
            (b'{', _) => self.open_brace(),
            (b'}', _) => self.close_brace(),
            (b';', _) => self.end_statement(),
            (b'(', _) => {
                if self.head.parentheses == 0 && self.head.called.is_none() {
                    self.head.called = self.head.word;
                }
                self.head.parentheses += 1;
                self.cursor.at += 1;
            }
            (b')', _) => {
                self.head.parentheses = self.head.parentheses.saturating_sub(1);
                self.cursor.at += 1;
            }
            (b':', b':') => {
                // `struct Outer::Inner`, `void Tour::start()`: a part of another name is no name of its own
                self.cursor.at += 2;
                if self.head.parentheses == 0 {
                    self.head.tagged = None;
                    self.head.word = None;
                }
            }
            (b':' | b'=' | b'<', _) => {
                self.head.closed |= self.head.parentheses == 0 && self.head.tagged.is_some();
                self.cursor.at += 1;
            }
            _ => self.cursor.at += 1,
        }
        false
    }

    fn word(&mut self) {
        let start = self.cursor.at;
        let word = self.cursor.word();
        if self.cursor.peek(0) == b'"' && matches!(word, b"R" | b"LR" | b"uR" | b"UR" | b"u8R") {
            return self.raw_string();
        }
        if self.hidden > 0 {
            return;
        }
        let exported =
            self.head.words == 1 && self.cursor.text[..start].trim_ascii_end().ends_with(b"export");
        let head = &mut self.head;
        if head.words == 0 {
            head.start = start;
        }
        head.words += 1;
        match word {
            b"class" | b"struct" | b"union" | b"enum" if head.parentheses == 0 && head.called.is_none() => {
                // `enum class` is one thing; `template <class T>` is none
                let kind = match word {
                    b"enum" => DeclarationKind::Enum,
                    b"class" => DeclarationKind::Class,
                    _ => DeclarationKind::Struct,
                };
                if head.tag != Some(DeclarationKind::Enum) {
                    head.tag = Some(kind);
                }
                (head.tagged, head.closed) = (None, false);
            }
            b"namespace" | b"extern" => head.open = true,
            b"typedef" => head.typedef = true,
            b"template" => self.template(),
            b"import" | b"module" if head.words == 1 || exported => {
                self.module(word == b"import", exported, start)
            }
            b"final" | b"alignas" | b"__attribute__" | b"__declspec" => {}
            _ => {
                let span = (start, self.cursor.at);
                if head.tag.is_some() && !head.closed && head.parentheses == 0 {
                    head.tagged = Some(span);
                }
                head.word = Some(span);
            }
        }
    }

    /// Goes behind the parameters of a template, whose `class` declares nothing.
    fn template(&mut self) {
        self.cursor.skip_blanks();
        if self.cursor.peek(0) != b'<' {
            return;
        }
        let mut depth = 0usize;
        while !self.cursor.done() {
            match self.cursor.peek(0) {
                b'<' | b'(' => depth += 1,
                b'>' | b')' => depth -= 1,
                b';' | b'{' => return,
                _ => {}
            }
            self.cursor.at += 1;
            if depth == 0 {
                return;
            }
        }
    }

    /// `import name;`, `import <x>;`, `export module name;`: modules of C++20. `module name;` goes on with a module that
    /// another file exports, so it is an import of that.
    fn module(&mut self, imported: bool, exported: bool, start: usize) {
        self.cursor.skip_blanks();
        let text = self.cursor.text;
        let from = self.cursor.at;
        // The name stands on one line, so a short look is enough.
        let window = &text[from..self.cursor.end.min(from + LONGEST_NAME)];
        let end = from + window.iter().position(|byte| matches!(byte, b';' | b'\n')).unwrap_or(window.len());
        let line = &text[from..end];
        let inside = |byte: &u8| byte.is_ascii_alphanumeric() || matches!(byte, b'_' | b'.' | b':');
        if !line.is_empty() && line.iter().all(inside) && !line.starts_with(b"::") {
            let mut name = String::from_utf8_lossy(line).into_owned();
            let span = Span::new(from, end);
            let goes_on = !imported && !exported && !name.contains(':');
            if imported && name.starts_with(':') {
                name.insert_str(0, &self.own_module());
            }
            if goes_on {
                self.own_module = Some(span);
            }
            if imported || goes_on {
                self.recorder.path(span, &name, PathBase::Name, false);
            } else if !name.starts_with(':') {
                self.own_module = Some(span);
                let name = self.recorder.facts().texts.add(&name);
                let kind = DeclarationKind::Module;
                self.recorder.declare(Declaration::public(name, kind, 0, 0, span, Span::new(start, end)));
            }
            self.cursor.at = end;
        } else if imported && matches!(line.first(), Some(b'<' | b'"')) {
            self.included(from);
        }
    }

    /// The name of the module that the file belongs to, without its part.
    fn own_module(&self) -> String {
        let name = self.own_module.map_or(&[][..], |span| span.of(self.cursor.text));
        let whole = name.split(|byte| *byte == b':').next().unwrap_or_default();
        String::from_utf8_lossy(whole).into_owned()
    }

    fn number(&mut self) {
        loop {
            self.cursor.word();
            // `1'000` is one number, `1.5` too
            match (self.cursor.peek(0), self.cursor.peek(1)) {
                (b'\'', next) if next.is_ascii_alphanumeric() => self.cursor.at += 1,
                (b'.', next) if next.is_ascii_alphanumeric() => self.cursor.at += 1,
                _ => return,
            }
        }
    }

    /// `R"marks( … )marks"`.
    fn raw_string(&mut self) {
        let open = self.cursor.at + 1;
        let rest = &self.cursor.text[open..self.cursor.end.min(open + 18)];
        let Some(length) = rest.iter().position(|&byte| byte == b'(') else {
            return self.cursor.past_quoted(b'"');
        };
        let mut end = vec![b')'];
        end.extend(&rest[..length]);
        end.push(b'"');
        self.cursor.at = open + length;
        self.cursor.past(&end);
    }

    fn skip_logical_line(&mut self) {
        loop {
            self.cursor.to_line_end();
            let before = self.cursor.text[..self.cursor.at]
                .strip_suffix(b"\r")
                .unwrap_or(&self.cursor.text[..self.cursor.at]);
            if !before.ends_with(b"\\") || self.cursor.done() {
                return;
            }
            self.cursor.at += 1;
        }
    }

    fn directive(&mut self) {
        self.cursor.at += 1;
        self.blanks_in_line();
        let word = self.cursor.word();
        self.blanks_in_line();
        match word {
            b"include" | b"include_next" | b"import" => self.included(self.cursor.at),
            b"define" => {
                let start = self.cursor.at;
                if !self.cursor.word().is_empty() {
                    self.declare(DeclarationKind::Constant, (start, self.cursor.at));
                    self.header_name(start);
                }
            }
            _ => {}
        }
        // A comment may begin on the line and end on another.
        loop {
            match (self.cursor.peek(0), self.cursor.peek(1)) {
                _ if self.cursor.done() => return,
                (b'\n', _) => return,
                (b'\\', b'\n') => self.cursor.at += 2,
                (b'\\', b'\r') => self.cursor.at = (self.cursor.at + 3).min(self.cursor.end),
                (b'/', b'/') => return self.skip_logical_line(),
                (b'/', b'*') => {
                    self.cursor.at += 2;
                    self.cursor.past(b"*/");
                }
                (b'"', _) => self.cursor.past_quoted(b'"'),
                _ => self.cursor.at += 1,
            }
        }
    }

    /// Passes blanks, comments within the line, and line ends behind a backslash, which join lines (C23 5.1.1.2).
    fn blanks_in_line(&mut self) {
        loop {
            match (self.cursor.peek(0), self.cursor.peek(1), self.cursor.peek(2)) {
                (b' ' | b'\t', ..) => self.cursor.at += 1,
                (b'\\', b'\n', _) => self.cursor.at += 2,
                (b'\\', b'\r', b'\n') => self.cursor.at += 3,
                (b'/', b'*', _) => {
                    self.cursor.at += 2;
                    self.cursor.past(b"*/");
                }
                _ => return,
            }
        }
    }

    /// The name in quotes or angle brackets that begins at `from`, or a macro that stands for one.
    fn included(&mut self, from: usize) {
        if let Some((span, path, base)) = self.quoted_path(from) {
            self.recorder.path(span, &path, base, false);
            self.cursor.at = span.end as usize + 1;
            return;
        }
        let mut ahead = Cursor { at: from, ..self.cursor };
        let word = ahead.word();
        if !word.is_empty() {
            let (name, text) = (Name::new(word), String::from_utf8_lossy(word).into_owned());
            let span = Span::new(from, ahead.at);
            self.recorder.path_with_names(span, &text, PathBase::Name, false, vec![(name, name)]);
        }
    }

    /// What stands in quotes or angle brackets at `from`.
    fn quoted_path(&self, from: usize) -> Option<(Span, String, PathBase)> {
        let text = self.cursor.text;
        let (end, base) = match text.get(from)? {
            b'"' => (b'"', PathBase::Folder),
            b'<' => (b'>', PathBase::Anywhere),
            _ => return None,
        };
        let line = &text[from + 1..self.cursor.end];
        let length = line.iter().position(|&byte| byte == end || byte == b'\n')?;
        let path = String::from_utf8_lossy(&line[..length]).replace('\\', "/");
        let span = Span::new(from + 1, from + 1 + length);
        (line[length] == end && length > 0).then_some((span, path, base))
    }

    /// A macro that may stand for a header: its value is kept beside its name.
    fn header_name(&mut self, start: usize) {
        let name = Name::new(&self.cursor.text[start..self.cursor.at]);
        self.blanks_in_line();
        if let Some((span, path, base)) = self.quoted_path(self.cursor.at)
            && (path.contains(".h") || super::EXTENSIONS.iter().any(|end| path.ends_with(&format!(".{end}"))))
        {
            self.recorder.path_with_names(span, &path, base, true, vec![(name, name)]);
        }
    }

    fn open_brace(&mut self) {
        self.cursor.at += 1;
        if self.hidden > 0 {
            self.hidden += 1;
            return;
        }
        let head = self.head;
        if head.open && head.called.is_none() && head.tag.is_none() {
            self.open.push(true);
            self.head = Head::default();
            return;
        }
        if let (Some(kind), Some(name), None) = (head.tag, head.tagged, head.called) {
            self.declare(kind, name);
        } else if let (Some(name), None, false) = (head.called, head.tag, head.typedef)
            && head.words > 1
        {
            self.declare(DeclarationKind::Function, name);
        }
        self.hidden = 1;
    }

    fn close_brace(&mut self) {
        self.cursor.at += 1;
        if self.hidden > 1 {
            self.hidden -= 1;
        } else if self.hidden == 1 {
            self.hidden = 0;
            // `typedef struct { … } Name;` goes on; a function's body is its end
            let goes_on = self.head.tag.is_some() || self.head.typedef;
            if self.head.called.is_some() || !goes_on {
                self.head = Head::default();
            } else {
                (self.head.word, self.head.closed) = (None, true);
            }
        } else {
            self.open.pop();
            self.head = Head::default();
        }
    }

    fn end_statement(&mut self) {
        self.cursor.at += 1;
        if self.hidden == 0 && self.head.parentheses == 0 {
            if let (true, Some(name)) = (self.head.typedef, self.head.word) {
                self.declare(DeclarationKind::Class, name);
            }
            self.head = Head::default();
        }
    }

    fn declare(&mut self, kind: DeclarationKind, (start, end): (usize, usize)) {
        let text = String::from_utf8_lossy(&self.cursor.text[start..end]).into_owned();
        let name = self.recorder.facts().texts.add(&text);
        let (span, whole) = (Span::new(start, end), Span::new(self.head.start.min(start), end));
        self.recorder.declare(Declaration::public(name, kind, 0, 0, span, whole));
    }
}

#[cfg(test)]
mod tests {
    use super::super::C;
    use ferngate_model::{Language, PathBase};

    #[test]
    fn reads_includes_and_names() {
        let text = b"#include \"valve.h\" // one\n  # include <sensors/flow.h>\n#include VALVE_H\n\
            /* #include \"no.h\" */ const char *s = \"#include \\\"no.h\\\"\";\n\
            const char *r = R\"x(\n#include \"no.h\"\n)x\";\n#define LIMIT 1'000 \\\n#include \"no.h\"\n\
            namespace moss::water {\ntemplate <class T> class Flow : public Base { void inner() { struct Local {}; } };\n\
            enum class State { open }; struct Ahead; typedef struct { int a; } Pair;\nint turn(int by) { return by; }\n}\n\
            void Valve::close() {}\nint main(void) { int x = '\"'; }\n";
        let facts = C.facts(text, Default::default());
        let paths: Vec<(&str, PathBase)> = facts.paths.iter().map(|path| (&*path.path, path.base)).collect();
        let expected = [
            ("valve.h", PathBase::Folder),
            ("sensors/flow.h", PathBase::Anywhere),
            ("VALVE_H", PathBase::Name),
        ];
        assert_eq!(paths, expected);
        let names: Vec<&str> = facts.declarations.iter().map(|found| facts.texts.text(found.name)).collect();
        assert_eq!(names, ["LIMIT", "Flow", "State", "Pair", "turn", "close", "main"]);
    }

    #[test]
    fn reads_modules() {
        let text = b"module;\n#include \"old.h\"\nexport module moss.water;\nimport moss.valves;\nexport import :flow;\nimport <vector>;\nint import = 3;\n";
        let facts = C.facts(text, Default::default());
        let paths: Vec<&str> = facts.paths.iter().map(|path| &*path.path).collect();
        assert_eq!(paths, ["old.h", "moss.valves", "moss.water:flow", "vector"]);
        assert_eq!(facts.texts.text(facts.declarations[0].name), "moss.water");
        let rest = C.facts(b"module moss.water;\nimport :flow;\n", Default::default());
        assert!(rest.declarations.is_empty());
        assert_eq!(
            rest.paths.iter().map(|path| &*path.path).collect::<Vec<_>>(),
            ["moss.water", "moss.water:flow"]
        );
    }
}
