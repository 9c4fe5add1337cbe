"""Fits the tempo ranker (core/listen/tempo_weights.h).

usage: fit_tempo.py LEFT-OUT OUT.h FOLDER[:EVIDENCE]...
A softmax over the candidates of a file, each with straight and with triplet beats: what speaks for a
tempo is weighed for both alike (but for what says how beats divide). Ridge, and how sure it is, by
leaving out one origin in turn of those that are fitted on.
"""

import sys

import numpy as np

import evidence
import ranking

NAMES = ["l2", "slow", "fast", "A1", "A2", "A3", "A4", "A6", "A8", "P1/4", "P1/3", "P1/2", "P1", "A1/2", "P2", "P4", "P8",
         "P3", "P6", "A1/3", "A2/3", "one", "B1/3", "B1/2", "B2/3", "B1", "B3/2", "B2", "O2", "O3", "O4", "T1/2", "T1", "T2", "T3",
         "S1", "S2", "S4", "K1", "K2", "K4", "H1/4", "H1/2", "H1"]
COUNT = len(NAMES)
TRIPLET = [NAMES.index(n) for n in ("one", "P3", "P6", "A1/3", "A2/3", "A1/2", "P2", "P4", "P8", "B1/3", "B2/3", "B1/2")]


def divides_in_three(t):
    """Whether beats do; None where it is not known."""
    if t["swing"]:
        return t["swing"] > 0.6
    return None


def examples(rows):
    """[(candidates × evidence, which are right, weight of the file)]; columns: straight then triplet"""
    out = []
    for t, x in rows:
        candidates = np.array(x["candidates"])
        if len(candidates) == 0:
            continue
        right = np.abs(candidates[:, 0] / evidence.tempo_of(t) - 1) < (0.03 if t["kind"] == "drift" else 0.015)
        if not right.any():
            continue
        e = candidates[:, 2:2 + COUNT]
        three = divides_in_three(t)
        x2 = np.zeros((2 * len(e), COUNT + len(TRIPLET)))
        x2[:len(e), :COUNT] = e
        x2[len(e):, :COUNT] = e
        x2[len(e):, COUNT:] = e[:, TRIPLET]
        x2[:, NAMES.index("one")] = 0
        y = np.concatenate([right & (three is not True), right & (three is not False)])
        out.append((x2, y, t))
    return out


def either(y):
    """A tempo is the same, however its beats divide."""
    return np.maximum(y, np.roll(y, len(y) // 2))


def right(some, w):
    return [float(y[int(np.argmax(x @ w))] or y[(int(np.argmax(x @ w)) + len(y) // 2) % len(y)]) for x, y, _ in some]


def arrays(w):
    straight = w[:COUNT].copy()
    triplet = straight.copy()
    triplet[TRIPLET] += w[COUNT:]
    return straight, triplet


def main(left_out, out_path, *folders):
    rows = evidence.read(folders)
    some = examples(evidence.without(rows, left_out))
    ridge, times = ranking.surest("tempo", some, (3, 10, 30, 100, 300), either, scaled=True)
    w = ranking.fit(some, ridge, True) * times
    origins = sorted({t["origin"] for t, _ in rows})
    ranking.report("tempo", left_out, origins, lambda name: examples(evidence.only(rows, name)), right, w)
    straight, triplet = arrays(w)
    lines = []
    for name, values in (("Straight", straight), ("Triplet", triplet)):
        body = ", ".join(f"{v:.4g}" for v in values)
        lines.append(f"inline constexpr TempoEvidence k{name}Weights{{{body}}};\n")
    with open(out_path, "w") as file:
        file.write("// Written by bench/listening/fit_tempo.py: the tempo ranker; in the order of TempoEvidence.\n#pragma once\n\n"
                   '#include "listen/tempo_ranking.h"\n\nnamespace tuvvo {\n\n// clang-format off\n' + "".join(lines) +
                   "// clang-format on\n\n} // namespace tuvvo\n")


if __name__ == "__main__":
    main(*sys.argv[1:])
