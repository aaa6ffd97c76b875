"""Prints, for each pair of files of which one names what the other declares, `from,to`, after a line `,path` for each
file that has a page.

The compiler's documentation tool links every name in its pages of sources to the place that declares it, or, if that
is in another crate, to the page of what is declared, which links to its source: rust_pages.py FOLDER_OF_PAGES
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
    return os.path.normpath(re.search(r"Source of the Rust file `([^`]*)`", text).group(1))


described = {}


def declaring(page, anchor):
    """The page of the source of what `page` describes, or of its part that is called `anchor`."""
    if page not in described:
        described[page] = open(page, encoding="utf-8").read() if os.path.isfile(page) else ""
    text = described[page]
    # What stands in the page of a name that another package declares is not that name's own.
    start = text.find(f'id="{anchor}"' if anchor else '<span class="sub-heading">')
    found = re.search(r'<a class="src[^"]*" href="([^"#]*)', text[max(0, start) :][:400])
    if start < 0 or not found:
        return None
    return os.path.normpath(os.path.join(os.path.dirname(page), unquote(found.group(1))))


def module(page, line, name):
    """The page of the file that the module called `name` has, if it is stated at this line of a source: `mod beds;`"""
    text = re.search(rf"<a href=#{line} id={line} [^>]*>{line}</a>(.*)", pages[page])
    stated = text and re.search(r"\bmod (\w+);", re.sub(r"<[^>]*>", "", text.group(1)))
    if not stated or stated.group(1) != name:
        return page
    folder, own = os.path.dirname(page), os.path.basename(page).removesuffix(".rs.html")
    # Only the first file of a crate and a `mod.rs` have their modules beside themselves.
    folders = [os.path.join(folder, own), folder]
    files = [f"{stated.group(1)}.rs.html", os.path.join(stated.group(1), "mod.rs.html")]
    choices = [os.path.join(folder, file) for folder in folders for file in files]
    return next((choice for choice in choices if choice in pages), page)


ties = set()
for path, text in pages.items():
    print(f",{source(text)}")
    body = text[text.index('<pre class="rust">') :]
    for found in re.finditer(r'<a href="([^"#:]*\.html)(?:#([^"]*))?"[^>]*>', body):
        # A method is found by the type of the value in front, which is spelled nowhere.
        before = re.sub(r"<[^>]*>", "", body[max(0, found.start() - 200) : found.start()])
        if before.endswith(".") and not before.endswith(".."):
            continue
        target = os.path.normpath(os.path.join(os.path.dirname(path), unquote(found.group(1))))
        if not target.endswith(".rs.html"):
            target = declaring(target, found.group(2))
        elif target in pages and (found.group(2) or "").isdigit():
            name = re.match(r"[\w:]*", re.sub(r"<[^>]*>", "", body[found.end() : found.end() + 400]))
            target = module(target, found.group(2), name.group().split("::")[-1])
        if target in pages and target != path:
            ties.add((source(text), source(pages[target])))
for tie in sorted(ties):
    print(",".join(tie))
