//! Several names declared with one type: `Bed first = north(), second;`.

use super::Reader;
use crate::lexis::Kind;
use ferngate_model::{Member, UseParent};

/// A declaration that may name more behind a comma.
#[derive(Clone, Copy)]
pub(super) struct Declaring {
    /// How deep it stands in frames, braces and parentheses.
    place: (usize, u32, usize),
    /// What is known of the values by their type.
    value: UseParent,
    /// The field that was declared first, for fields.
    field: Option<Member>,
}

impl Reader<'_, '_> {
    fn declarator_place(&self) -> (usize, u32, usize) {
        (self.frames.len(), self.frame().depth, self.values.parentheses.len())
    }

    /// Notes that more names may follow the local that was declared last, or the field with this index.
    pub(super) fn declares_more(&mut self, value: UseParent, field: Option<usize>) {
        let field = field.and_then(|field| self.recorder.facts().members.get(field).copied());
        self.declaring = Some(Declaring { place: self.declarator_place(), value, field });
    }

    /// Reads a further name of the declaration, right behind a comma.
    pub(super) fn further_declarator(&mut self) {
        let Some(declaring) = self.declaring.filter(|declaring| declaring.place == self.declarator_place())
        else {
            return;
        };
        if !self.is_name() || !matches!(self.peek().0.kind, Kind::Mark(b'=' | b',' | b';' | b'[')) {
            return;
        }
        let name = self.tokens.token.name;
        match declaring.field {
            Some(field) => self.recorder.member(Member { name, ..field }),
            None => self.values.local(name, declaring.value),
        }
        // What is assigned to it may be a function.
        self.values.value = declaring.value;
        self.advance();
    }
}
