"""What `hear-ORIGIN --evidence` says of a corpus, beside the truth."""

import json
import os

import numpy as np


def read(folders, name="evidence.jsonl"):
    """@returns [(truth, evidence)] of every file with a pulse; folders as "CORPUS" or "CORPUS:EVIDENCE.jsonl" """
    out = []
    for folder in folders:
        folder, _, given = folder.partition(":")
        with open(os.path.join(folder, "truth.json")) as file:
            truth = {t["file"]: t for t in json.load(file)["files"]}
        with open(given or os.path.join(folder, name)) as file:
            for line in file:
                x = json.loads(line)
                t = truth.get(x["file"])
                if t and t["kind"] != "free":
                    out.append((t, x))
    return out


def without(rows, origin):
    return [(t, x) for t, x in rows if origin not in (t["origin"], t["sounds"])]


def only(rows, origin):
    return [(t, x) for t, x in rows if origin in (t["origin"], "all")]


def tempo_of(t):
    """Of what is played, by its beats: a wandering one's mean."""
    return t["bpm"] if t["kind"] != "drift" else 60 / float(np.mean(np.diff(t["beats"])))
