"""The corpus: music of several origins, which share neither hands nor sounds. What is fitted is
fitted without an origin and then judged on it.

usage: corpus.py FOLDER DATA-FOLDER [crossed]
With `crossed`, for fitting only: every piece with the sounds of two other origins, and every groove under
progressions that are drawn, with the sounds of any; half of them worn.
"""

import json
import os
import sys
import zlib
from collections.abc import Callable
from dataclasses import dataclass
from multiprocessing import Pool

import numpy as np

import excerpt
import music
import styles

KINDS = ["song", "disc", "loop", "break", "drift", "free"]


@dataclass
class Origin:
    """Music by the same hands, and what it is played with. No two origins share a sound: fonts that
    have samples in common (timgm6mb and airfont do, as their spectra show) belong to the same one."""
    name: str
    pieces: Callable  # to (pieces, names left out by reason)
    fonts: list
    kits: list  # for breaks
    under: list  # kits that songs have under them; None is the font's own
    drawn: int  # so many kinds are drawn for a piece


ORIGINS = {origin.name: origin for origin in (
    Origin("games", music.pieces, ["timgm6mb", "airfont"],
           [("timgm6mb", p) for p in (0, 8, 16, 24, 25, 32)] + [("airfont", 0)], [None], 3),
    Origin("travels", lambda: music.pieces("travels"), ["opl3"], [("opl3", 0), ("quay", 0)], [None, ("quay", 0)], 6),
    Origin("styles", lambda: styles.pieces("styles"), ["general"],
           [("acoustic0", 0), ("acoustic1", 0)] + [("general", p) for p in (0, 8, 16, 24, 25, 32, 40)],
           [None, ("acoustic0", 0), ("acoustic1", 0)], 2),
    Origin("keyboards", lambda: styles.pieces("keyboards"), ["freepats"], [("freepats", 0)], [None], 2),
)}


def kinds_of(piece, origin):
    if all(n.channel == music.DRUMS for n in piece.notes):
        return ["break"]
    if origin.drawn >= len(KINDS):
        return KINDS
    g = np.random.default_rng(zlib.crc32(piece.name.encode()))
    drawn = [KINDS[i] for i in g.choice(4, origin.drawn, replace=False)]
    return drawn + (["free"] if g.uniform() < 0.15 else []) + (["drift"] if g.uniform() < 0.15 else [])


def make(job):
    piece, kind, sounds, folder, data, wearing = job
    if kind == "free":
        return excerpt.make_free(piece, ORIGINS[sounds], folder)
    return excerpt.make(piece, kind, ORIGINS[sounds], folder, data, wearing)


def crossed_jobs(piece):
    g = np.random.default_rng(zlib.crc32(piece.name.encode()) + 1)
    others = [name for name in ORIGINS if name != piece.origin]
    if all(n.channel == music.DRUMS for n in piece.notes):
        return [(piece, "break", str(g.choice(others)))]
    return [(piece, str(g.choice(KINDS[:5], p=[0.4, 0.2, 0.2, 0.1, 0.1])), str(name))
            for name in g.choice(others, 2, replace=False)]


def drawn_jobs():
    """Under drawn progressions, twice, each with sounds of any origin."""
    out = []
    for name in ("styles", "keyboards"):
        for drawn in (1, 2):
            for piece in styles.pieces(name, drawn)[0]:
                g = np.random.default_rng(zlib.crc32(piece.name.encode()))
                if piece.chords:
                    out.append((piece, str(g.choice(["song", "disc", "loop"])), str(g.choice(list(ORIGINS)))))
    return out


def build(folder, data, crossed=False):
    os.makedirs(folder, exist_ok=True)
    jobs, left, count = [(*job, folder, data, True) for job in drawn_jobs()] if crossed else [], {}, 0
    for name, origin in ORIGINS.items():
        kept, without = origin.pieces()
        left[name] = {reason: len(names) for reason, names in without.items()}
        count += len(kept)
        for piece in kept:
            some = crossed_jobs(piece) if crossed else [(piece, kind, name) for kind in kinds_of(piece, origin)]
            jobs += [(*job, folder, data, crossed) for job in some]
    with Pool() as pool:
        truth = [t for t in pool.imap(make, jobs, chunksize=4) if t]
    with open(os.path.join(folder, "truth.json"), "w") as file:
        json.dump({"left_out": left, "pieces": count, "files": truth}, file)
    return truth


if __name__ == "__main__":
    files = build(sys.argv[1], sys.argv[2], "crossed" in sys.argv[3:])
    for origin in ORIGINS:
        for kind in KINDS:
            some = [f for f in files if f["kind"] == kind and f["origin"] == origin]
            if some:
                print(origin, kind, len(some), "files", round(sum(f["seconds"] for f in some) / 60, 1), "minutes,",
                      sum(1 for f in some if f["key"]), "with a key")
