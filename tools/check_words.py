#!/usr/bin/env python3
"""Reads every text of the program and fails on words that musicians do not use so.

    tools/check_words.py SOURCE

The list is tools/banned_words.txt: a word as a regular expression, what to say instead, and, where there is a
third field, what a text may say all the same. Texts are what stands in tr() in app/, and the sentences in words/,
core/, devices/ and cli/. Words that files are written in are no sentences: folders in FILES are left out.
"""
import pathlib
import re
import sys

LITERAL = r'"(?:\\.|[^"\\])*"'
FOLDERS = ["app", "words", "core", "devices", "cli"]
FILES = ["core/formats", "core/mix/faust"]


def texts_of(source, in_window):
    """Every text of a file: its line, and the literals that stand beside each other as one."""
    code = re.sub(r"(?m)^\s*(//|#).*$", "", source)
    for match in re.finditer(rf"(?:{LITERAL}\s*)+", code):
        text = "".join(each[1:-1] for each in re.findall(LITERAL, match.group(0)))
        shown = re.search(r"\btr\(\s*$", code[:match.start()][-20:]) if in_window else " " in text
        if shown:
            yield code.count("\n", 0, match.start()) + 1, text


def banned(path):
    for line in path.read_text().splitlines():
        if line and not line.startswith("#"):
            word, instead, *unless = (each.strip() for each in line.split(" | "))
            yield re.compile(rf"\b(?:{word})\b", re.I), instead, unless


def findings(root, rules):
    for folder in FOLDERS:
        for path in sorted((root / folder).rglob("*.*")):
            where = path.relative_to(root)
            if path.suffix not in (".cpp", ".h") or any(where.is_relative_to(f) for f in FILES):
                continue
            for line, text in texts_of(path.read_text(), folder == "app"):
                if "INSERT INTO" in text or "CREATE " in text:
                    continue  # what the database is asked
                for word, instead, unless in rules:
                    found = word.search(text)
                    if found and not any(each in text for each in unless):
                        yield f"{where}:{line}: \"{found.group(0)}\": say {instead}. In: {text}"


def main():
    root = pathlib.Path(sys.argv[1])
    rules = list(banned(pathlib.Path(__file__).parent / "banned_words.txt"))
    bad = list(findings(root, rules))
    for each in bad:
        print(each)
    read = sum(1 for folder in FOLDERS for path in (root / folder).rglob("*.cpp")
               for _ in texts_of(path.read_text(), folder == "app"))
    print(f"{len(bad)} of {read} texts")
    return 1 if bad or read < 500 else 0


if __name__ == "__main__":
    sys.exit(main())
