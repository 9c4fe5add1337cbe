#!/usr/bin/env python3
"""Changes one operator, constant or branch of core/ at a time and runs the nearest tests, then the
other quick ones: what no test notices is a survivor.

    git worktree add ../mutants
    cmake -S ../mutants -B ../mutants/build -G Ninja -DTUVVO_SHARED_CORE=ON -DCMAKE_LINK_DEPENDS_NO_SHARED=ON
    tools/mutate.py --source ../mutants --build ../mutants/build --count 50 --seed 1

The core is shared there, so that a change links one library instead of every test.
Works in the folder it is given and puts every file back. Mutants that do not compile are not counted.
"""
import argparse
import pathlib
import random
import re
import subprocess
import sys

# The tests that stand nearest to a folder of core/: quick ones first.
NEAREST = {
    "audio": ["tst_sweep_sounds", "tst_audio", "tst_samples"],
    "base": ["tst_sweep_sources", "tst_base", "tst_keeping", "tst_tempo"],
    "beat": ["tst_sweep_beats", "tst_beat", "tst_patterns", "tst_take", "tst_vary", "tst_break", "tst_slices", "tst_demo",
             "tst_demo_edits", "tst_demo_figures"],
    "catch": ["tst_sweep_playing", "tst_catch", "tst_catcher", "tst_phrases", "tst_demo_figures"],
    "crate": ["tst_sweep_sources", "tst_service", "tst_sweep_files", "tst_query", "tst_crate", "tst_crate_kept"],
    "cut": ["tst_sweep_sources", "tst_cut", "tst_ways", "tst_slices", "tst_demo_figures", "tst_demo_edits"],
    "formats": ["tst_sweep_sources", "tst_sweep_files", "tst_formats", "tst_ranges", "tst_lists", "tst_kept", "tst_migrations", "tst_smf", "tst_pattern_text",
                "tst_slices_out", "tst_midi", "tst_graph", "tst_demo_files"],
    "listen": ["tst_spectra", "tst_heard", "tst_listen", "tst_hearing", "tst_demo"],
    "midi": ["tst_sweep_sources", "tst_sweep_files", "tst_midi"],
    "mix": ["tst_sweep_sounds", "tst_graph", "tst_processors", "tst_demo", "tst_demo_sounds"],
    "model": ["tst_sweep_sources", "tst_sweep_files", "tst_sweep_beats", "tst_model", "tst_rules", "tst_clamped", "tst_processors", "tst_beat", "tst_patterns", "tst_treat",
              "tst_slices", "tst_demo", "tst_demo_sounds", "tst_demo_edits"],
    "notes": ["tst_note_cases", "tst_note_cases_beat", "tst_sweep_beats", "tst_notes", "tst_free_space", "tst_demo_edits", "tst_demo_figures"],
    "play": ["tst_sweep_playing", "tst_sweep_sounds", "tst_engine", "tst_catch", "tst_scores", "tst_voice", "tst_key_sound", "tst_hands", "tst_audition", "tst_tempo", "tst_demo",
             "tst_slices", "tst_demo_sounds"],
    "shape": ["tst_sweep_shapes", "tst_sweep_sounds", "tst_shape", "tst_bake_cache", "tst_bake", "tst_treat", "tst_references", "tst_demo", "tst_demo_sounds"],
    "song": ["tst_sweep_sources", "tst_engine", "tst_slices", "tst_tempo", "tst_demo", "tst_demo_sounds"],
    "tones": ["tst_sweep_beats", "tst_theory", "tst_tones", "tst_demo_edits", "tst_demo_figures"],
}

# What takes ten seconds and more is run where it stands nearest only.
SLOW = {"tst_bake", "tst_demo_sounds", "tst_references", "tst_demo", "tst_catch", "tst_treat", "tst_hearing",
        "tst_listen", "tst_shape"}
EVERY = sorted({test for tests in NEAREST.values() for test in tests} - SLOW)

# What is changed into what. Each is tried where it stands in code, not in comments or texts.
CHANGES = [
    (r" \+ ", " - "), (r" - ", " + "), (r" \* ", " / "), (r" / ", " * "),
    (r" < ", " <= "), (r" <= ", " < "), (r" > ", " >= "), (r" >= ", " > "),
    (r" == ", " != "), (r" != ", " == "), (r" && ", " || "), (r" \|\| ", " && "),
    (r"\btrue\b", "false"), (r"\bfalse\b", "true"), (r"\+\+", "--"), (r" \+= ", " -= "),
    (r"std::min\(", "std::max("), (r"std::max\(", "std::min("), (r"\bif \((?!constexpr)", "if (!("),
    (r"(?<![\w.])(\d+)(?![\w.])", None), (r"(?<![\w.])(\d+\.\d+)(?![\w])", None),
]
LEFT_ALONE = re.compile(r"^\s*(//|\*|#|constexpr std::array|static_assert|namespace|case |\"|std::fprintf)"
                        r"|throw |Error\{|\.reserve\(|template|operator|friend|using ")


def code_of(line):
    """The line without texts and comments, as long as it is."""
    line = re.sub(r'"(\\.|[^"\\])*"', lambda m: '"' + " " * (len(m.group(0)) - 2) + '"', line)
    return re.sub(r"//.*", lambda m: " " * len(m.group(0)), line)


def places(path):
    """Every change that can be made in a file: line, from, to, new text."""
    found = []
    for number, line in enumerate(path.read_text().split("\n")):
        if LEFT_ALONE.search(line):
            continue
        code = code_of(line)
        for pattern, by in CHANGES:
            for match in re.finditer(pattern, code):
                text = by
                if by is None:
                    value = match.group(1)
                    text = str(int(value) + 1) if value.isdigit() else str(float(value) * 1.5)
                if by == "if (!(":
                    if not code.rstrip().endswith((";", "{")) or code.count("(") != code.count(")"):
                        continue
                    close = closing(code, match.end() - 1)
                    if close is None or ";" in code[match.end():close]:
                        continue
                    found.append((number, match.start(), close + 1,
                                  "if (!(" + line[match.end():close] + "))"))
                    continue
                found.append((number, match.start(), match.end(), text))
    return found


def closing(code, at):
    depth = 0
    for i in range(at, len(code)):
        depth += (code[i] == "(") - (code[i] == ")")
        if depth == 0:
            return i
    return None


def run(command, seconds):
    try:
        return subprocess.run(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
                              timeout=seconds).returncode
    except subprocess.TimeoutExpired:
        return 1  # a loop that never ends was noticed


def main():
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawTextHelpFormatter)
    parser.add_argument("--source", type=pathlib.Path, required=True)
    parser.add_argument("--build", type=pathlib.Path, required=True)
    parser.add_argument("--count", type=int, default=50)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--folder", help="only this folder of core/")
    options = parser.parse_args()
    chance = random.Random(options.seed)
    files = [f for f in sorted((options.source / "core").glob("*/*.cpp"))
             if f.parent.name in NEAREST and "weights" not in f.name
             and options.folder in (None, f.parent.name)]
    survivors, done = [], 0
    while done < options.count:
        path = chance.choice(files)
        everywhere = places(path)
        if not everywhere:
            continue
        number, start, end, text = chance.choice(everywhere)
        before = path.read_text()
        lines = before.split("\n")
        old = lines[number]
        lines[number] = old[:start] + text + old[end:]
        if lines[number] == old:
            continue  # nought and a half of nought are one
        nearest = NEAREST[path.parent.name]
        path.write_text("\n".join(lines))
        try:
            by = None
            for tests in nearest, [t for t in EVERY if t not in nearest]:
                if run(["cmake", "--build", str(options.build), "-j2", "--target", *tests], 900) != 0:
                    by = "the compiler"
                    break
                by = next((t for t in tests if run([str(options.build / "bin" / t)], 240) != 0), None)
                if by:
                    break
            if by == "the compiler":
                continue
        finally:
            path.write_text(before)
        done += 1
        where = f"{path.relative_to(options.source)}:{number + 1}"
        print(f"{done:3} {'killed by ' + by if by else 'SURVIVED':24} {where}\n      - {old.strip()}\n"
              f"      + {lines[number].strip()}", flush=True)
        if not by:
            survivors.append(where)
    print(f"{len(survivors)} of {done} survived")
    return 1 if len(survivors) * 10 > done else 0


if __name__ == "__main__":
    sys.exit(main())
