"""Prints, for each pair of files of one crate of which one names what the other declares, `from,to`.

The compiler's documentation tool links every name in its pages of sources to the place that declares it. Files that
have no page come first, as `,path`, with those that have one as `+path`: rust_pages.py FOLDER_OF_PAGES
"""

import os
import re
import sys
from urllib.parse import unquote

pages = {}
root = os.path.join(sys.argv[1], "src")
for folder, _, names in os.walk(root):
    for name in names:
        if name.endswith(".rs.html"):
            path = os.path.join(folder, name)
            with open(path, encoding="utf-8") as file:
                pages[path] = file.read()


def source(text):
    return re.search(r"Source of the Rust file `([^`]*)`", text).group(1)


def crate(path):
    return os.path.relpath(path, root).split(os.sep)[0]


ties = set()
for path, text in pages.items():
    print(f"+{crate(path)}/{source(text)}")
    body = text[text.index('<pre class="rust">') :]
    for found in re.finditer(r'<a href="([^"#]*\.rs\.html)#[^"]*">', body):
        # A method is found by the type of the value in front, which is spelled nowhere.
        before = re.sub(r"<[^>]*>", "", body[max(0, found.start() - 200) : found.start()])
        if before.endswith(".") and not before.endswith(".."):
            continue
        target = os.path.normpath(os.path.join(os.path.dirname(path), unquote(found.group(1))))
        if target in pages and target != path and crate(target) == crate(path):
            ties.add((source(text), source(pages[target])))
for tie in sorted(ties):
    print(",".join(tie))
