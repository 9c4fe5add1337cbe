"""How much of what is heard stays when the same sounds come through rooms, presses and codecs (wear.py).

Some files of every origin, heard plain and worn by the ear that never met them, each judged by the same truth.
"""

import json
import os
import subprocess
import zlib
from collections import defaultdict

import numpy as np
import soundfile

import score
import wear

FIGURES = ["right level", "beats F", "downbeats F", "key exact", "chord root", "cut F 12 ms", "kick F", "snare F", "hat F"]
EVERY = 15  # of the songs, loops and breaks of an origin, one in so many


def chosen(truth):
    out, seen = [], defaultdict(int)
    for t in truth:
        if t["kind"] in ("song", "loop", "break"):
            seen[t["origin"], t["kind"]] += 1
            if seen[t["origin"], t["kind"]] % EVERY == 1:
                out.append(t)
    return out


def worn_files(folder, some):
    """@returns {way: [path]}, in the order of the files; the plain ones under no way"""
    place = os.path.join(folder, "worn")
    os.makedirs(place, exist_ok=True)
    out = defaultdict(list)
    for t in some:
        sound, rate = soundfile.read(os.path.join(folder, t["file"]), dtype="float32", always_2d=True)
        out[""].append(os.path.join(folder, t["file"]))
        for way, change in wear.WAYS.items():
            path = os.path.join(place, f"{way} {t['file']}")
            if not os.path.exists(path):
                g = np.random.default_rng(zlib.crc32(os.path.basename(path).encode()))
                soundfile.write(path, change(g, sound, rate), rate, subtype="PCM_16")
            out[way].append(path)
    return out


def table(build, folder, truth, witnesses):
    some = chosen(truth)
    paths = worn_files(folder, some)
    rows = defaultdict(lambda: defaultdict(list))
    for way, files in paths.items():
        for t, path in zip(some, files):
            ear = os.path.join(build, "bin", f"hear-{t['origin']}")
            done = subprocess.run([ear, path], check=True, stdout=subprocess.PIPE)
            got = score.score_file(t, json.loads(done.stdout), witnesses[t["file"]])
            for (who, figure), value in got.items():
                if who == "tuvvo" and figure in FIGURES and value is not None:
                    rows[figure][way].append(value)
    print(f"the same {len(some)} files, plain and worn")
    print(f"{'figure':14}" + "".join(f"{way or 'plain':>9}" for way in paths))
    for figure in FIGURES:
        print(f"{figure:14}" + "".join(f"{score.summed(figure, rows[figure][way]):9.3f}" for way in paths))
