"""The corpus: music of several origins. What was learnt was learnt on half of the pieces of one of
them, `games`; the others are there to say how well that carries.

usage: corpus.py FOLDER DATA-FOLDER
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
    """Music by the same hands, and what it is played with."""
    pieces: Callable  # to (pieces, names left out by reason)
    fonts: list
    kits: list  # for breaks
    under: list  # kits that songs have under them; None is the font's own
    drawn: int  # so many kinds are drawn for a piece


ORIGINS = {
    "games": Origin(music.pieces, ["timgm6mb", "csound", "opl3", "freepats"],
                    [("timgm6mb", 0), ("timgm6mb", 8), ("timgm6mb", 16), ("timgm6mb", 24), ("timgm6mb", 25),
                     ("timgm6mb", 32), ("csound", 0), ("opl3", 0), ("freepats", 0), ("quay", 0), ("opl3", 0),
                     ("freepats", 0), ("quay", 0)],
                    [None], 6),
    "styles": Origin(lambda: styles.pieces("styles"), ["csound", "timgm6mb"],
                     [("acoustic0", 0), ("acoustic1", 0)],
                     [None, ("acoustic0", 0), ("acoustic1", 0)], 2),
    "keyboards": Origin(lambda: styles.pieces("keyboards"), ["freepats", "opl3"], [("freepats", 0)], [None], 2),
}


def kinds_of(name, origin):
    if origin.drawn >= len(KINDS):
        return KINDS
    g = np.random.default_rng(zlib.crc32(name.encode()))
    return [KINDS[i] for i in g.choice(4, origin.drawn, replace=False)]


def make(job):
    piece, kind, folder, data = job
    origin = ORIGINS[piece.origin]
    if kind == "free":
        return excerpt.make_free(piece, origin, folder)
    return excerpt.make(piece, kind, origin, folder, data)


def build(folder, data):
    os.makedirs(folder, exist_ok=True)
    jobs, left, count = [], {}, 0
    for name, origin in ORIGINS.items():
        kept, without = origin.pieces()
        left[name] = {reason: len(names) for reason, names in without.items()}
        count += len(kept)
        jobs += [(piece, kind, folder, data) for piece in kept for kind in kinds_of(piece.name, origin)]
    with Pool() as pool:
        truth = [t for t in pool.imap(make, jobs, chunksize=4) if t]
    with open(os.path.join(folder, "truth.json"), "w") as file:
        json.dump({"left_out": left, "pieces": count, "files": truth}, file)
    return truth


if __name__ == "__main__":
    files = build(sys.argv[1], sys.argv[2])
    for origin in ORIGINS:
        for kind in KINDS:
            some = [f for f in files if f["kind"] == kind and f["origin"] == origin]
            if some:
                print(origin, kind, len(some), "files", round(sum(f["seconds"] for f in some) / 60, 1), "minutes,",
                      sum(1 for f in some if f["key"]), "with a key")
