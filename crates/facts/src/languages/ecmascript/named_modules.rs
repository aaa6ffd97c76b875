//! `declare module "name"`.

use super::reader::Reader;
use ferngate_model::{Declaration, DeclarationKind, Span};

impl Reader<'_, '_> {
    /// Notes where `declare module "name" { … }` stands; the cursor is behind `module`.
    pub(super) fn ambient_module(&mut self, start: usize) {
        let next = self.ahead();
        if matches!(next.peek(0), b'"' | b'\'') {
            self.skip();
            if let Some(span) = self.literal()
                && matches!(self.ahead().peek(0), b'{' | b';')
            {
                let whole = Span::new(start, self.cursor.at);
                self.named_modules.push((span, whole));
            }
        }
    }

    /// Notes what `declare module "name"` does: in a file that is no module it makes one of that name, in a module it
    /// adds to one that is there.
    pub(super) fn name_modules(&mut self) {
        for (span, whole) in std::mem::take(&mut self.named_modules) {
            if self.is_module {
                self.link(span, Vec::new());
            } else {
                let text = self.text(span);
                let name = self.recorder.facts().texts.add(&text);
                self.recorder.declare(Declaration::public(name, DeclarationKind::Module, 0, 0, span, whole));
            }
        }
    }
}
