"""Fits the picture of a bar and the choice of the meter (core/listen/bar_weights.h).

usage: fit_bars.py LEFT-OUT OUT.h FOLDER[:EVIDENCE]...   (see evidence.py)
A softmax over the rotations of a bar with weights shared by like slots, and one over the numbers of
beats. Ridge by how likely the right ones are, leaving out one origin in turn of those that are fitted on.
"""

import sys

import numpy as np

import evidence
import ranking

# The first, second, third and fourth beat, eighths between beats, sixteenths between those.
TYPES = np.array([0, 5, 4, 5, 1, 5, 4, 5, 2, 5, 4, 5, 3, 5, 4, 5])
FEATURES = 11
TIED = np.zeros((FEATURES * 16, FEATURES * 6))
for feature in range(FEATURES):
    for slot in range(16):
        TIED[feature * 16 + slot, feature * 6 + TYPES[slot]] = 1
METERS = [2, 3, 4, 5, 6, 7]


def right_tempo(t, x):
    return "bpm" in x and abs(x["bpm"] / evidence.tempo_of(t) - 1) < 0.02


def rotated(picture):
    return np.stack([np.roll(picture, -r, axis=1).ravel() for r in range(16)]) @ TIED


def of_bars(rows):
    """[(rotations × weights, which is right, truth)]"""
    out = []
    for t, x in rows:
        downs = np.array(t["downbeats"])
        if not right_tempo(t, x) or x["triplet"] or t["meter"] != 4 or len(downs) < 2:
            continue
        knots = np.array(x["knots"])
        slots = np.interp(downs, knots[:, 0], knots[:, 1]) * 4
        rotations, counts = np.unique(np.round(slots).astype(int) % 16, return_counts=True)
        if counts.max() < 0.7 * counts.sum():
            continue  # the lattice slipped: nothing to learn from
        y = np.zeros(16)
        y[int(rotations[counts.argmax()])] = 1
        out.append((rotated(np.array(x["picture"]).reshape(FEATURES, 16)), y, t))
    return out


def of_meters(rows):
    """Likewise over the meters a sound is long enough for."""
    out = []
    for t, x in rows:
        if not right_tempo(t, x) or t["meter"] not in METERS:
            continue
        some = {int(m[0]): m[1:] for m in x["meters"]}
        there = [m for m in METERS if m in some]
        if t["meter"] not in there or len(there) < 2:
            continue
        z = np.array([list(some[m]) + [float(m == k) for k in METERS if k != 4] for m in there])
        out.append((z, np.array([float(m == t["meter"]) for m in there]), t))
    return out


def right(some, w):
    return [float(y[int(np.argmax(x @ w))]) for x, y, _ in some]


def fitted(what, make, rows, left_out):
    some = make(evidence.without(rows, left_out))
    # How sure they are is left as it is: what was fitted on these files senses them better than any others.
    w = ranking.fit(some, ranking.surest(what, some, (0.1, 0.3, 1, 3, 10, 30))[0])
    origins = sorted({t["origin"] for t, _ in rows})
    ranking.report(what, left_out, origins, lambda name: make(evidence.only(rows, name)), right, w)
    return w


def main(left_out, out_path, *folders):
    rows = evidence.read(folders)
    bars = fitted("bars", of_bars, rows, left_out).reshape(FEATURES, 6)
    meters = fitted("meter", of_meters, rows, left_out)
    with open(out_path, "w") as file:
        file.write("// Written by bench/listening/fit_bars.py: the picture of a bar, and the choice of the meter.\n#pragma once\n\n"
                   "#include <array>\n\nnamespace tuvvo {\n\n// clang-format off\n"
                   "/// By feature of BarPicture: beats one to four, the eighths between beats, the sixteenths between those.\n"
                   "inline constexpr std::array<std::array<double, 6>, 11> kBarWeights{{\n" +
                   "".join("    {" + ", ".join(f"{v:.3g}" for v in row) + "},\n" for row in bars) + "}};\n"
                   "/// Of what speaks for a meter: again, later, stress, whole.\n"
                   "inline constexpr std::array<double, 4> kMeterWeights{" + ", ".join(f"{v:.3g}" for v in meters[:4]) + "};\n"
                   "/// In favour of two to seven beats, in nepers; four is 0.\n"
                   "inline constexpr std::array<double, 6> kMeterPriors{" +
                   ", ".join(f"{v:.3g}" for v in [meters[4], meters[5], 0, *meters[6:]]) + "};\n"
                   "// clang-format on\n\n} // namespace tuvvo\n")


if __name__ == "__main__":
    main(*sys.argv[1:])
