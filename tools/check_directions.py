#!/usr/bin/env python3
"""Reads every #include and fails on one that points up, sideways into a stage, or round.

Usage: check_directions.py [ROOT]
Prints one line for each wrong include and exits with 1; exits with 0 when all point down.
docs/architecture.md says what the folders are for.
"""
import os
import re
import sys

# From the lowest up. A folder includes those before its own line; those that share a line do not
# include each other.
LAYERS = [
    ["core/base"],
    ["core/audio"],
    ["core/listen"],
    ["core/model"],
    ["core/midi"],
    ["core/cut"],
    ["core/shape"],
    ["core/beat"],
    ["core/tones"],
    ["core/mix"],
    ["core/song"],
    ["core/play"],
    ["core/formats"],
    ["core/crate"],
    ["core/catch"],
    ["core/notes"],
    ["words"],
    ["devices", "plugins"],
    ["cli"],
    ["app/theme"],
    ["app/widgets"],
    ["app/panel"],
    ["app/session"],
    ["app/parts"],
    ["app/catch"],
    ["app/beat", "app/crate", "app/cut", "app/keys", "app/print", "app/song"],
    ["app/shell"],
    ["app"],
    ["support"],
    ["bench", "tests", "tools"],
]
LEVEL = {folder: level for level, folders in enumerate(LAYERS) for folder in folders}
TOP = ("core", "words", "devices", "plugins", "cli", "app", "support", "bench", "tests", "tools")
INCLUDE = re.compile(r'^\s*#\s*include\s*(?:"([^"]+)"|<([^>]+)>)', re.MULTILINE)


def folder_of(path):
    """The folder of LAYERS that a file lies in; None for one that is in none of them."""
    parts = path.split("/")[:-1]
    while parts:
        folder = "/".join(parts)
        if folder in LEVEL:
            return folder
        parts.pop()
    return None


def resolve(files, path, name):
    """The file that a quoted include means, as the build would find it; None for one from outside."""
    places = [os.path.dirname(path)]
    if path.startswith("app/") or path.startswith(("tests/", "bench/")):
        places.append("app")
    places += ["core", "", "tests"]
    for place in places:
        candidate = os.path.normpath(os.path.join(place, name)) if place else os.path.normpath(name)
        if candidate in files:
            return candidate
    return None


def find_cycle(graph):
    """One way round through the includes, as a list of files that begins and ends with the same; or None."""
    state = {}
    for start in sorted(graph):
        if start in state:
            continue
        trail, stack = [], [(start, iter(sorted(graph[start])))]
        state[start] = "open"
        trail.append(start)
        while stack:
            node, targets = stack[-1]
            for target in targets:
                if state.get(target) == "open":
                    return trail[trail.index(target):] + [target]
                if target not in state:
                    state[target] = "open"
                    trail.append(target)
                    stack.append((target, iter(sorted(graph.get(target, ())))))
                    break
            else:
                state[node] = "done"
                trail.pop()
                stack.pop()
    return None


def check(root):
    """What is wrong in the tree under root, as sentences."""
    texts = {}
    for top in TOP:
        for folder, _, names in os.walk(os.path.join(root, top)):
            for name in names:
                if name.endswith((".h", ".cpp")):
                    path = os.path.relpath(os.path.join(folder, name), root).replace(os.sep, "/")
                    with open(os.path.join(root, path), encoding="utf-8") as file:
                        texts[path] = file.read()
    wrong, graph = [], {}
    for path in sorted(texts):
        graph[path] = set()
        here = folder_of(path)
        if here is None:
            wrong.append(f"{path} lies in a folder that tools/check_directions.py does not know")
            continue
        for quoted, angled in INCLUDE.findall(texts[path]):
            if angled:
                if path.startswith("core/") and re.match(r"Q[A-Z]|Qt", angled):
                    wrong.append(f"{path} includes <{angled}>: core does without Qt")
                continue
            target = resolve(texts, path, quoted)
            if target is None:
                continue
            graph[path].add(target)
            there = folder_of(target)
            if there is None or there == here:
                continue
            if LEVEL[there] > LEVEL[here]:
                wrong.append(f"{path} includes {target}: {here} stands below {there}")
            elif LEVEL[there] == LEVEL[here]:
                wrong.append(f"{path} includes {target}: {here} and {there} do not know each other")
    cycle = find_cycle(graph)
    if cycle:
        wrong.append("these include each other in a circle: " + " -> ".join(cycle))
    return wrong


def main():
    root = sys.argv[1] if len(sys.argv) > 1 else os.path.join(os.path.dirname(__file__), "..")
    wrong = check(root)
    for line in wrong:
        print(line)
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
