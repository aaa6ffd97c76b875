//! What common types of the framework have themselves, of which a method that extends something more general in the
//! project may be called like: `beds.Contains(bed)` on a `List` means the list's own.

use ferngate_model::OwnMethods;

const COLLECTION: &[(&str, usize)] =
    &[("Add", 1), ("Clear", 0), ("Contains", 1), ("CopyTo", 2), ("GetEnumerator", 0), ("Remove", 1)];
const KEYED: &[(&str, usize)] =
    &[("Add", 2), ("Clear", 0), ("ContainsKey", 1), ("GetEnumerator", 0), ("Remove", 1), ("TryGetValue", 2)];
const LINE: &[(&str, usize)] =
    &[("Clear", 0), ("Contains", 1), ("CopyTo", 2), ("GetEnumerator", 0), ("Peek", 0), ("ToArray", 0)];
const SET: &[(&str, usize)] = &[
    ("Add", 1),
    ("Clear", 0),
    ("Contains", 1),
    ("ExceptWith", 1),
    ("GetEnumerator", 0),
    ("IntersectWith", 1),
    ("Overlaps", 1),
    ("Remove", 1),
    ("SetEquals", 1),
    ("UnionWith", 1),
];

/// Methods of every version of the framework, with the most arguments that they take.
pub(super) const OWN_METHODS: &[OwnMethods] = &[
    // The words for what is built in, of which texts have the most.
    OwnMethods {
        of: "",
        methods: &[
            ("CompareTo", 1),
            ("CopyTo", 4),
            ("EndsWith", 3),
            ("GetEnumerator", 0),
            ("GetTypeCode", 0),
            ("IndexOf", 4),
            ("IndexOfAny", 3),
            ("Insert", 2),
            ("LastIndexOf", 4),
            ("PadLeft", 2),
            ("PadRight", 2),
            ("Remove", 2),
            ("Replace", 2),
            ("StartsWith", 3),
            ("Substring", 2),
            ("ToCharArray", 2),
        ],
    },
    OwnMethods {
        of: "List",
        methods: &[
            ("Add", 1),
            ("AddRange", 1),
            ("AsReadOnly", 0),
            ("BinarySearch", 4),
            ("Clear", 0),
            ("Contains", 1),
            ("ConvertAll", 1),
            ("CopyTo", 4),
            ("Exists", 1),
            ("Find", 1),
            ("FindAll", 1),
            ("FindIndex", 3),
            ("FindLast", 1),
            ("FindLastIndex", 3),
            ("ForEach", 1),
            ("GetEnumerator", 0),
            ("GetRange", 2),
            ("IndexOf", 3),
            ("Insert", 2),
            ("InsertRange", 2),
            ("LastIndexOf", 3),
            ("Remove", 1),
            ("RemoveAll", 1),
            ("RemoveAt", 1),
            ("RemoveRange", 2),
            ("Reverse", 2),
            ("Sort", 3),
            ("ToArray", 0),
            ("TrueForAll", 1),
        ],
    },
    OwnMethods {
        of: "IList",
        methods: &[
            ("Add", 1),
            ("Clear", 0),
            ("Contains", 1),
            ("CopyTo", 2),
            ("GetEnumerator", 0),
            ("IndexOf", 1),
            ("Insert", 2),
            ("Remove", 1),
            ("RemoveAt", 1),
        ],
    },
    OwnMethods { of: "ICollection", methods: COLLECTION },
    OwnMethods { of: "IEnumerable", methods: &[("GetEnumerator", 0)] },
    OwnMethods { of: "IEnumerator", methods: &[("MoveNext", 0), ("Reset", 0)] },
    OwnMethods { of: "Dictionary", methods: KEYED },
    OwnMethods { of: "IDictionary", methods: KEYED },
    OwnMethods { of: "SortedDictionary", methods: KEYED },
    OwnMethods { of: "HashSet", methods: SET },
    OwnMethods { of: "ISet", methods: SET },
    OwnMethods { of: "SortedSet", methods: SET },
    OwnMethods { of: "Queue", methods: LINE },
    OwnMethods { of: "Stack", methods: LINE },
    OwnMethods {
        of: "StringBuilder",
        methods: &[
            ("Append", 3),
            ("AppendFormat", 7),
            ("AppendLine", 1),
            ("Insert", 4),
            ("Remove", 2),
            ("Replace", 4),
        ],
    },
];
