#!/usr/bin/env python3
"""Layers point down only, and no files include each other in a circle.

Which layer may include which follows from the LINK lists of loom_layer() in CMakeLists.txt. Prints what is wrong and
exits with 1; the folder of the sources may be given (a test of this check gives one that is wrong).
"""
import pathlib
import re
import sys

ROOT = pathlib.Path(__file__).resolve().parent.parent


def layers(cmake):
    """Of each layer the layers below it, directly or through others."""
    links = {}
    for name, linked in re.findall(r"loom_layer\((\w+)([^)]*)\)", cmake):
        links[name] = set(re.findall(r"loom_(\w+)", linked))

    def below(name, seen=()):
        if name in seen:
            raise SystemExit(f"layers link each other in a circle: {' -> '.join((*seen, name))}")
        return set().union(*({one} | below(one, (*seen, name)) for one in links[name]))

    return {name: below(name) for name in links if name != "name"}


def unit(path):
    """A header and its body are one."""
    return path.rsplit(".", 1)[0]


def circles(includes):
    """Sets of units that reach each other (Tarjan, 1972)."""
    index, low, stack, found = {}, {}, [], []

    def visit(u):
        index[u] = low[u] = len(index)
        stack.append(u)
        for v in includes.get(u, ()):
            if v not in index:
                visit(v)
                low[u] = min(low[u], low[v])
            elif v in stack:
                low[u] = min(low[u], index[v])
        if low[u] == index[u]:
            circle = []
            while not circle or circle[-1] != u:
                circle.append(stack.pop())
            if len(circle) > 1:
                found.append(sorted(circle))

    sys.setrecursionlimit(100000)
    for u in list(includes):
        if u not in index:
            visit(u)
    return found


def main():
    source = pathlib.Path(sys.argv[1]) if len(sys.argv) > 1 else ROOT / "src"
    allowed = layers((ROOT / "CMakeLists.txt").read_text())
    wrong, includes = [], {}
    for path in sorted(source.glob("**/*")):
        if path.suffix not in (".h", ".cpp"):
            continue
        name = path.relative_to(source).as_posix()
        layer = name.split("/")[0]
        for other in re.findall(r'^#include "([^"]+)"', path.read_text(), re.M):
            below = other.split("/")[0]
            if unit(other) != unit(name):
                includes.setdefault(unit(name), set()).add(unit(other))
            if layer in allowed and below in allowed and below != layer and below not in allowed[layer]:
                wrong.append(f"{name} includes {other}: {layer}/ does not lie above {below}/")
    wrong += ["these include each other in a circle: " + " ".join(c) for c in circles(includes)]
    print("\n".join(wrong) or f"{len(includes)} units, no circle, one direction")
    return bool(wrong)


sys.exit(main())
