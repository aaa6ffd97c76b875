"""Prints, for each pair of files below a folder of which one imports the other, `from,to`.

The interpreter's own parser finds the imports and its own path finder the modules: judge.py FOLDER
"""

import ast
import importlib.machinery
import os
import sys

root = os.path.realpath(sys.argv[1])
paths = []
for folder, folders, names in os.walk(root):
    folders[:] = sorted(name for name in folders if not name.startswith(".") and name != "node_modules")
    paths += [os.path.join(folder, name) for name in sorted(names) if name.endswith((".py", ".pyi"))]


def is_package(folder):
    return os.path.isfile(os.path.join(folder, "__init__.py"))


def own_root(folder):
    while is_package(folder) and folder != root:
        folder = os.path.dirname(folder)
    return folder


def search(folder):
    found = [own_root(folder), root, os.path.join(root, "src")]
    return list(dict.fromkeys(found))


def find(parts, places):
    """The file of a module, and the folders of the package if it is one."""
    origin = None
    for at, part in enumerate(parts):
        found = None
        for place in places:
            spec = importlib.machinery.PathFinder.find_spec(part, [place])
            if spec and spec.origin:
                found = spec
                break
            # Of a module that is compiled elsewhere, only what describes its types may be here.
            stub = os.path.join(place, part + ".pyi")
            if os.path.isfile(stub) and not (spec and at + 1 < len(parts)):
                return stub, None
            found = found or spec
        if found is None:
            # A name inside of a package that is known: the package counts.
            return (origin, None) if at and origin else (None, None)
        origin = found.origin if found.origin and found.origin.endswith((".py", ".pyi")) else None
        places = list(found.submodule_search_locations or [])
    return origin, places


def shown(origin):
    """What a package shows to those who import everything, as its own file lists it."""
    with open(origin, "rb") as file:
        tree = ast.parse(file.read())
    for node in tree.body:
        targets = node.targets if isinstance(node, ast.Assign) else [getattr(node, "target", None)]
        if any(isinstance(target, ast.Name) and target.id == "__all__" for target in targets):
            try:
                yield from ast.literal_eval(node.value)
            except (TypeError, ValueError):
                pass  # put together from other lists


def imported(node, folder):
    """Files that an import statement leads to."""
    if isinstance(node, ast.Import):
        for alias in node.names:
            yield find(alias.name.split("."), search(folder))[0]
        return
    if node.level:
        base = folder
        for _ in range(node.level - 1):
            base = os.path.dirname(base)
        if not node.module:
            init = os.path.join(base, "__init__.py")
            origin, places = (init if os.path.isfile(init) else None), [base]
        else:
            origin, places = find(node.module.split("."), [base])
    else:
        origin, places = find(node.module.split("."), search(folder))
    for alias in node.names:
        if alias.name == "*" and origin and places:
            yield from (found for name in shown(origin) if (found := find([name], places)[0]))
        below = find([alias.name], places)[0] if places and alias.name != "*" else None
        yield below or origin


ties = set()
for path in paths:
    try:
        with open(path, "rb") as file:
            tree = ast.parse(file.read())
    except (SyntaxError, ValueError):
        continue
    for node in ast.walk(tree):
        if not isinstance(node, (ast.Import, ast.ImportFrom)):
            continue
        for target in imported(node, os.path.dirname(path)):
            if target and target != path and target.startswith(root + os.sep):
                ties.add((os.path.relpath(path, root), os.path.relpath(target, root)))
for tie in sorted(ties):
    print(",".join(tie))
