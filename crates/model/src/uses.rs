use crate::{ArgumentCounts, BUILT_IN, Name};

/// How a name is used, which decides what it may mean.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[repr(u8)]
pub enum Context {
    /// Only a type can stand here.
    Type = 0,
    /// A value or a type can stand here.
    Value = 1,
    /// An attribute, whose suffix may be left out.
    Attribute = 2,
    /// The target of an import.
    Import = 3,
    /// A mention in a comment or string that tools understand; no dependency by itself.
    Weak = 4,
}

/// Where a chain of names begins.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Root {
    /// In this scope.
    Scope(u32),
    /// At the outermost namespace, whatever the scope (`global::`).
    Global,
    /// After a dot, on a value of unknown type.
    Member,
    /// After a dot, on a value of this type: index into [`FileFacts::value_types`], or [`BUILT_IN`].
    Value(u32),
    /// A member of the types around this scope, or of what they inherit.
    This(u32),
}

/// The parent of a [`Use`]: another use or a [`Root`], in four bytes.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct UseParent(u32);

impl UseParent {
    const SCOPE: u32 = 0x8000_0000;
    const VALUE: u32 = 0x4000_0000;
    const THIS: u32 = Self::SCOPE | Self::VALUE;
    const INDEX: u32 = 0x3FFF_FFFF;
    const BUILT_IN_VALUE: u32 = Self::VALUE | (BUILT_IN & Self::INDEX);
    const GLOBAL: u32 = 0xFFFF_FFFE;
    const MEMBER: u32 = 0xFFFF_FFFF;

    /// A chain that goes on from a value of unknown type.
    pub const MEMBER_OF_ANY: Self = Self(Self::MEMBER);

    /// A chain that begins at the outermost namespace.
    pub(crate) const GLOBAL_ROOT: Self = Self(Self::GLOBAL);

    /// A chain that begins at `root`.
    pub fn root(root: Root) -> Self {
        match root {
            Root::Scope(scope) => Self(Self::SCOPE | (scope & Self::INDEX)),
            Root::This(scope) => Self(Self::THIS | (scope & Self::INDEX)),
            Root::Value(value_type) => Self(Self::VALUE | (value_type & Self::INDEX)),
            Root::Global => Self(Self::GLOBAL),
            Root::Member => Self(Self::MEMBER),
        }
    }

    /// A chain that goes on from the use with this index.
    pub fn node(index: u32) -> Self {
        Self(index)
    }

    /// The root, or the index of the parent use.
    pub fn get(self) -> Result<Root, u32> {
        match self.0 {
            Self::MEMBER => Ok(Root::Member),
            Self::GLOBAL => Ok(Root::Global),
            packed => match packed & Self::THIS {
                Self::THIS => Ok(Root::This(packed & Self::INDEX)),
                Self::SCOPE => Ok(Root::Scope(packed & Self::INDEX)),
                Self::VALUE if packed == Self::BUILT_IN_VALUE => Ok(Root::Value(BUILT_IN)),
                Self::VALUE => Ok(Root::Value(packed & Self::INDEX)),
                _ => Err(packed),
            },
        }
    }

    /// The packed form, for hashing.
    pub fn raw(self) -> u32 {
        self.0
    }
}

/// A distinct name used in one place of the tree of uses.
#[derive(Clone, Copy, Debug)]
pub struct Use {
    /// The name before the dot, or where the chain begins.
    pub parent: UseParent,
    /// First byte of the first such use.
    pub first: u32,
    /// The name.
    pub name: Name,
    /// How often.
    pub count: u32,
    /// Number of type arguments given.
    pub arity: u8,
    /// How it is used.
    pub context: Context,
    /// At least once it is called.
    pub called: bool,
    /// With how many arguments, where the reader counts them.
    pub arguments: ArgumentCounts,
}
