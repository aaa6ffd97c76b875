//! XAML: the class that a page belongs to (`x:Class`), the namespaces that its prefixes stand for
//! (`clr-namespace:…;assembly=…`, `using:…`), and the names used with a prefix in tags, attributes and `{x:Type …}`.
//!
//! Not read: bindings to members, and names without a prefix, which are the framework's.

use super::csharp::{NAMING, read_import_target};
use crate::cursor::in_word;
use crate::xml::{Attribute, Piece, pieces};
use ferngate_model::{
    ChainLink, Context, Import, ImportKind, ImportSpelling, Language, Name, Naming, Recorder, Root,
    ScopeKind, Span,
};

/// XAML files.
#[derive(Debug)]
pub struct Xaml;

impl Language for Xaml {
    fn name(&self) -> &'static str {
        "XAML"
    }

    fn extensions(&self) -> &'static [&'static str] {
        &["xaml", "axaml"]
    }

    fn naming(&self) -> Naming {
        NAMING
    }

    fn import_spelling(&self) -> ImportSpelling {
        ImportSpelling { before: "clr-namespace:", after: "" }
    }

    fn read(&self, text: &[u8], recorder: &mut Recorder) {
        let mut page = Page { text, prefixes: Vec::new(), recorder };
        for piece in pieces(text) {
            if let Piece::Open { name, attributes, .. } = piece {
                page.element(name, &attributes);
            }
        }
    }
}

struct Page<'t, 'r> {
    text: &'t [u8],
    prefixes: Vec<(Vec<u8>, u32)>,
    recorder: &'r mut Recorder,
}

impl Page<'_, '_> {
    fn element(&mut self, name: Span, attributes: &[Attribute]) {
        for attribute in attributes {
            if attribute.name.of(self.text).starts_with(b"xmlns:") {
                self.prefix(attribute);
            }
        }
        self.prefixed(name);
        for attribute in attributes {
            let attribute_name = attribute.name.of(self.text);
            if attribute_name.ends_with(b":Class") {
                self.class(attribute.value);
            } else if !attribute_name.starts_with(b"xmlns") {
                self.prefixed(attribute.name);
                self.value(attribute.value);
            }
        }
    }

    /// `xmlns:labels="clr-namespace:Mossgrove.Labels;assembly=Mossgrove.Labels"`
    fn prefix(&mut self, attribute: &Attribute) {
        let value = attribute.value.of(self.text);
        let Some(scheme) =
            [&b"clr-namespace:"[..], b"using:"].into_iter().find(|scheme| value.starts_with(scheme))
        else {
            return;
        };
        let start = attribute.value.start as usize + scheme.len();
        let length = value[scheme.len()..].iter().take_while(|&&byte| in_word(byte) || byte == b'.').count();
        let target_span = Span::new(start, start + length);
        let scope = self.recorder.open_scope(0, ScopeKind::Isolated, start);
        if let Some(target) = read_import_target(self.text, target_span, 0, self.recorder) {
            let (kind, span) = (ImportKind::Namespace, target_span);
            let text = span.text(self.text).into();
            self.recorder.import(Import::of_file(kind, scope, target, span, target_span, text));
        }
        let prefix = attribute.name.of(self.text)[6..].to_vec();
        self.prefixes.push((prefix, scope));
    }

    /// The page's own class, by its full name.
    fn class(&mut self, value: Span) {
        let links = links(self.text, value);
        self.recorder.chain(Root::Global, &links, Context::Type, false);
    }

    /// `labels:Printer` in a tag or attribute name; `labels:Printer.Tray` sets a member of it.
    fn prefixed(&mut self, name: Span) {
        let bytes = name.of(self.text);
        let Some(colon) = memchr::memchr(b':', bytes) else { return };
        let Some(&(_, scope)) = self.prefixes.iter().find(|(prefix, _)| prefix == &bytes[..colon]) else {
            return;
        };
        let rest = Span::new(name.start as usize + colon + 1, name.end as usize);
        let links = links(self.text, rest);
        self.recorder.chain(Root::Scope(scope), &links, Context::Type, false);
    }

    /// `{x:Type labels:Printer}`, `{x:Static labels:Printer.Default}`, `labels:Printer`
    fn value(&mut self, value: Span) {
        let bytes = value.of(self.text);
        for colon in memchr::memchr_iter(b':', bytes) {
            let before = bytes[..colon].iter().rev().take_while(|&&byte| in_word(byte)).count();
            let after = bytes[colon + 1..].iter().take_while(|&&byte| in_word(byte) || byte == b'.').count();
            let start = value.start as usize + colon - before;
            self.prefixed(Span::new(start, start + before + 1 + after));
        }
    }
}

fn links(text: &[u8], span: Span) -> Vec<ChainLink> {
    let mut start = span.start as usize;
    let mut links = Vec::new();
    for part in span.of(text).split(|&byte| byte == b'.') {
        let link = ChainLink { name: Name::new(part), arity: 0, span: Span::new(start, start + part.len()) };
        start += part.len() + 1;
        if !part.is_empty() {
            links.push(link);
        }
    }
    links
}
