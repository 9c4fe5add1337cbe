"""Fits the tempo ranker (core/listen/tempo_weights.h).

usage: fit_tempo.py LEFT-OUT OUT.h FOLDER[:EVIDENCE]...
A softmax over the candidates of a file, each with straight and with triplet beats: what speaks for a
tempo is weighed for both alike (but for what says how beats divide). Ridge by leaving out one origin
in turn of those that are fitted on.
"""

import sys

import numpy as np
from scipy.optimize import minimize

import evidence

NAMES = ["l2", "slow", "fast", "A1", "A2", "A3", "A4", "A6", "A8", "P1/4", "P1/3", "P1/2", "P1", "A1/2", "P2", "P4", "P8",
         "P3", "P6", "A1/3", "A2/3", "one", "B1/3", "B1/2", "B2/3", "B1", "B3/2", "B2", "O2", "O3", "O4"]
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


def fit(some, ridge):
    sizes = np.array([len(x) for x, _, _ in some])
    x, y = np.concatenate([x for x, _, _ in some]), np.concatenate([y for _, y, _ in some])
    starts = np.concatenate([[0], np.cumsum(sizes)[:-1]])
    spread = x.std(0) + 1e-9
    z = x / spread

    def loss(w):
        score = z @ w
        top = np.repeat(np.maximum.reduceat(score, starts), sizes)
        p = np.exp(score - top)
        whole = np.add.reduceat(p, starts)
        good = np.add.reduceat(p * y, starts)
        gradient = z.T @ (p / np.repeat(whole, sizes) - p * y / np.repeat(good + 1e-300, sizes))
        return -(np.log(good + 1e-300) - np.log(whole)).sum() + ridge * (w @ w), gradient + 2 * ridge * w

    return minimize(loss, np.zeros(x.shape[1]), jac=True, method="L-BFGS-B", options={"maxiter": 400}).x / spread


def right(some, w):
    return [float(y[int(np.argmax(x @ w))] or y[(int(np.argmax(x @ w)) + len(y) // 2) % len(y)]) for x, y, _ in some]


def sure(some, w):
    """How likely the best one's tempo is by the softmax, and whether it is right."""
    out = []
    for x, y, _ in some:
        p = np.exp(x @ w - (x @ w).max())
        p = (p / p.sum()).reshape(2, -1).sum(0)
        out.append((float(p.max()), bool(y.reshape(2, -1)[:, int(np.argmax(p))].any())))
    return out


def best_ridge(some):
    origins = sorted({t["origin"] for _, _, t in some})
    scores = {}
    for ridge in (3, 10, 30, 100, 300):
        got = []
        for origin in origins:
            w = fit([s for s in some if origin not in (s[2]["origin"], s[2]["sounds"])], ridge)
            got.append(np.mean(right([s for s in some if s[2]["origin"] == origin], w)))
        scores[ridge] = np.mean(got)
        print("ridge", ridge, "right, origins inside left out:", [round(v, 3) for v in got], flush=True)
    return max(scores, key=scores.get)


def arrays(w):
    straight = w[:COUNT].copy()
    triplet = straight.copy()
    triplet[TRIPLET] += w[COUNT:]
    return straight, triplet


def main(left_out, out_path, *folders):
    rows = evidence.read(folders)
    some = examples(evidence.without(rows, left_out))
    w = fit(some, best_ridge(some))
    for name in sorted({t["origin"] for t, _ in rows}):
        mine = [e for e in examples(evidence.only(rows, name)) if e[2]["sounds"] == name]
        got = right(mine, w)
        by = {kind: round(float(np.mean([g for g, e in zip(got, mine) if e[2]["kind"] == kind])), 3)
              for kind in ("song", "disc", "loop", "break", "drift") if any(e[2]["kind"] == kind for e in mine)}
        print("left out" if name == left_out else "fitted on", name, round(float(np.mean(got)), 3), by, len(mine),
              "of", len(evidence.only(rows, name)))
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
