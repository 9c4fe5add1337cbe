"""Fits the learnt picture of a bar (core/listen/bar_weights.h) on the open half of the corpus.

usage: fit_bars.py TRUTH.json EVIDENCE.jsonl   (the latter from tempo-evidence over the corpus)
A softmax over the sixteen rotations with shared weights, ridge chosen by leaving out one piece in
five of the open half; the held-out half is only reported on.
"""

import json
import sys
import zlib

import numpy as np
from scipy.optimize import minimize


def examples(truth_path, evidence_path):
    with open(truth_path) as file:
        truth = {t["file"]: t for t in json.load(file)["files"]}
    out = []
    with open(evidence_path) as file:
        for line in file:
            x = json.loads(line)
            t = truth.get(x["path"].split("/")[-1])
            if not t or t["origin"] != "games" or "gain" not in x or x["triplet"] or t["kind"] == "free" or t["meter"] != 4:
                continue
            downs = np.array(t["downbeats"])
            if len(downs) < 2 or (t["kind"] != "drift" and abs(x["bpm"] / t["bpm"] - 1) > 0.02):
                continue
            knots = np.array(x["knots"])
            slots = np.interp(downs, knots[:, 0], knots[:, 1]) * 4
            if np.median(np.abs(slots - np.round(slots))) > 0.35:
                continue
            rotations, counts = np.unique(np.round(slots).astype(int) % 16, return_counts=True)
            if counts.max() < 0.7 * counts.sum():
                continue  # the lattice slipped: nothing to learn from
            picture = np.array(x["picture"]).reshape(FEATURES, 16)
            out.append((t, picture, int(rotations[counts.argmax()])))
    return out


# The first, second, third and fourth beat, eighths between beats, sixteenths between those.
TYPES = np.array([0, 5, 4, 5, 1, 5, 4, 5, 2, 5, 4, 5, 3, 5, 4, 5])
FEATURES = 9
TIED = np.zeros((FEATURES * 16, FEATURES * 6))
for feature in range(FEATURES):
    for slot in range(16):
        TIED[feature * 16 + slot, feature * 6 + TYPES[slot]] = 1


def rotated(picture):
    return np.stack([np.roll(picture, -r, axis=1).ravel() for r in range(16)]) @ TIED


def fit(rows, ridge):
    x = np.stack([rotated(p) for _, p, _ in rows])
    y = np.array([r for _, _, r in rows])

    def loss(w):
        score = x @ w
        score -= score.max(axis=1, keepdims=True)
        p = np.exp(score)
        p /= p.sum(axis=1, keepdims=True)
        at = np.arange(len(y))
        gradient = np.einsum("nr,nrf->f", p, x) - x[at, y].sum(axis=0)
        return -np.log(p[at, y] + 1e-12).sum() + ridge * (w @ w), gradient + 2 * ridge * w

    return minimize(loss, np.zeros(FEATURES * 6), jac=True, method="L-BFGS-B").x


def right(rows, w, kinds=None):
    some = [r for r in rows if kinds is None or r[0]["kind"] in kinds]
    return np.mean([int(np.argmax(rotated(p) @ w)) == r for _, p, r in some]), len(some)


if __name__ == "__main__":
    rows = examples(*sys.argv[1:3])
    open_rows = [r for r in rows if r[0]["fold"] == 0]
    held = [r for r in rows if r[0]["fold"] == 1]
    best = None
    for ridge in (0.3, 1, 3, 10, 30):
        scores = []
        for part in range(5):
            inside = [r for r in open_rows if zlib.crc32(r[0]["piece"].encode()) // 2 % 5 == part]
            rest = [r for r in open_rows if zlib.crc32(r[0]["piece"].encode()) // 2 % 5 != part]
            if inside:
                w = fit(rest, ridge)
                scores += [int(np.argmax(rotated(p) @ w)) == r for _, p, r in inside]
        print(f"ridge {ridge}: {np.mean(scores):.3f} of {len(scores)} left out inside the open half")
        if best is None or np.mean(scores) > best[0]:
            best = (np.mean(scores), ridge)
    w = fit(open_rows, best[1])
    for kind in ("song", "disc", "loop", "break", "drift"):
        print(kind, "open %.2f (%d)" % right(open_rows, w, [kind]), "held %.2f (%d)" % right(held, w, [kind]))
    for row in w.reshape(FEATURES, 6):
        print("    {" + ", ".join(f"{v:.2f}" for v in row) + "},")
