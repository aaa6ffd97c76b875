//! How long locals are in sight: to the end of the block, or of the statement, that declares them.

use super::Values;

/// An open block.
#[derive(Clone, Copy, Debug)]
pub(super) struct Block {
    /// The frames around it, and the open braces of the last with its own.
    place: (usize, u32),
    /// How many locals were in sight before the statement that it belongs to.
    locals: usize,
    /// Open parentheses around it.
    parentheses: usize,
    /// It is that of a function without a name.
    is_function: bool,
}

/// What a block belongs to, which tells what goes out of sight with it.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum BlockOf {
    /// A statement with a head, `for (Bed bed : beds) { … }`: what the head declares goes too.
    Head,
    /// A function: its parameters go too, where it stands between parentheses.
    Function,
    /// Nothing, or a list of values.
    Itself,
}

impl Values {
    /// Takes note that a statement begins.
    pub fn begin_statement(&mut self) {
        self.statement = self.locals.len();
        self.headed = false;
    }

    /// Takes note that the statement has a head, in which locals may be declared.
    pub fn begin_head(&mut self) {
        self.headed = true;
    }

    /// Takes note of the end of a statement without a block of its own; what its head declares goes out of sight, unless
    /// an `else` goes on with it.
    pub fn end_statement(&mut self, goes_on: bool) {
        if !goes_on {
            if self.headed {
                self.forget_behind(self.statement);
            }
            self.begin_statement();
        }
    }

    /// Notes that the local noted last is in sight behind the statement too: `if (!(o instanceof Bed bed)) return;`.
    pub fn last_is_kept(&mut self) {
        if let Some(local) = self.locals.last_mut() {
            local.is_kept = true;
        }
    }

    /// The parentheses around the statements of the innermost block; `base` of the frame, which is the last of so many
    /// `frames`.
    fn around(&self, frames: usize, base: usize) -> usize {
        let block = self.blocks.last().filter(|block| block.place.0 == frames);
        block.map_or(base, |block| block.parentheses)
    }

    /// Whether a semicolon here ends a statement, and is not one of those in the head of a loop.
    pub fn is_statement_end(&self, frames: usize, base: usize) -> bool {
        self.parentheses.len() <= self.around(frames, base)
    }

    /// Opens a block at `place`, in a frame that began between the first `base` parentheses.
    pub fn open_block(&mut self, place: (usize, u32), of: BlockOf, base: usize) {
        let inside = self.parentheses.get(self.around(place.0, base)..).and_then(<[_]>::last);
        let locals = match (of, inside) {
            (BlockOf::Head, None) if self.headed => self.statement,
            (BlockOf::Function, Some(call)) => call.locals,
            _ => self.locals.len(),
        };
        let (locals, parentheses) = (locals.min(self.locals.len()), self.parentheses.len());
        self.blocks.push(Block { place, locals, parentheses, is_function: of == BlockOf::Function });
        self.begin_statement();
    }

    /// Whether the code here is that of a function without a name, inside of the last of so many `frames`.
    pub(super) fn in_function(&self, frames: usize) -> bool {
        self.blocks.iter().rev().take_while(|block| block.place.0 == frames).any(|block| block.is_function)
    }

    /// Closes the block at `place`, if one was opened there; of several, as under `#if` and `#else`, the last counts.
    pub fn close_block(&mut self, place: (usize, u32)) {
        let mut closed = None;
        while let Some(block) = self.blocks.pop_if(|block| block.place >= place) {
            if block.place == place {
                closed = closed.or(Some(block.locals));
            }
        }
        if let Some(locals) = closed {
            self.forget_behind(locals);
            self.begin_statement();
        }
    }

    /// Forgets the locals behind the first `count`, but those that are kept, which are now like others.
    fn forget_behind(&mut self, count: usize) {
        let mut at = 0;
        self.locals.retain_mut(|local| {
            at += 1;
            at <= count || std::mem::take(&mut local.is_kept)
        });
        if self.untyped.is_some_and(|untyped| untyped.local >= self.locals.len()) {
            self.untyped = None;
        }
    }

    /// Forgets the parameters of functions of one expression that end the list of locals, but for the first `count`.
    pub(super) fn forget_parameters(&mut self, count: usize) {
        while self.locals.len() > count && self.locals.last().is_some_and(|local| local.is_parameter) {
            self.locals.pop();
        }
    }
}
