"""Reading breaks and rebuilding them from their own hits, on the corpus' breaks.

usage: breaks.py BUILD-FOLDER   (./tuvvo.sh listen-bench calls it after run.py)

F by class counts hits over all files at 20 ms (mir_eval's one-to-one matching). "wrong" is the share of
hits that stand within 20 ms of no true hit of their class, among those shown as sure and as unsure.
"""

import json
import os
import subprocess
import sys

import numpy as np

from score import class_f, merged

OWED = {"kick": 0.95, "snare": 0.92, "hat": 0.90, "correlation": 0.9}


def wrong(hits, truth, sure):
    some = [(at, name) for at, name, s in hits if s == sure and name in truth]
    missed = sum(1 for at, name in some if len(truth[name]) == 0 or np.min(np.abs(truth[name] - at)) > 0.02)
    return missed, len(some)


def main(build):
    folder = os.path.join(build, "bench", "corpus")
    with open(os.path.join(folder, "truth.json")) as file:
        truth = {t["file"]: t for t in json.load(file)["files"] if t["kind"] == "break"}
    paths = [os.path.join(folder, name) for name in truth]
    lines = []
    for at in range(0, len(paths), 8):
        done = subprocess.run([os.path.join(build, "bin", "break-reading"), *paths[at:at + 8]], check=True,
                              capture_output=True)
        lines += [json.loads(line) for line in done.stdout.decode().splitlines()]
    figures = {}
    for origin in sorted({t["origin"] for t in truth.values()}):
        some = [(truth[os.path.basename(x["path"])], x) for x in lines
                if truth[os.path.basename(x["path"])]["origin"] == origin]
        got = figures[origin] = {"files": len(some), "not read": sum(1 for _, x in some if not x["read"])}
        for name in ("kick", "snare", "hat"):
            counts = np.array([class_f([h[0] for h in x["hits"] if h[1] == name],
                                       merged([h[1] for h in t["hits"] if h[0] == name])) for t, x in some])
            matched, heard, true = counts.sum(0)
            got[name] = 2 * matched / max(1, heard + true)
        for sure in (True, False):
            pairs = [wrong(x["hits"], {n: np.array([h[1] for h in t["hits"] if h[0] == n])
                                       for n in ("kick", "snare", "hat")}, sure) for t, x in some]
            missed, hits = np.array(pairs).sum(0)
            got["wrong of sure" if sure else "wrong of unsure"] = missed / max(1, hits)
            got["sure" if sure else "unsure"] = int(hits)
        got["correlation"] = float(np.median([x["correlation"] for _, x in some if x["read"]]))
    print(f"{'':16}" + "".join(f"{origin:>12}" for origin in figures))
    for name in got:
        owed = f"   owed {OWED[name]}" if name in OWED else ""
        print(f"{name:16}" + "".join(f"{got[name]:12.3f}" for got in figures.values()) + owed)
    with open(os.path.join(build, "bench", "breaks.json"), "w") as file:
        json.dump(figures, file, indent=1)
    return lines, truth


if __name__ == "__main__":
    main(sys.argv[1])
