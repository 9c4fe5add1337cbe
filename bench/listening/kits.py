"""Drums: what the notes of General MIDI mean for the classes of hits, and the kit that ships."""

import os

import numpy as np
import soundfile

from render import RATE

HITS = {35: "kick", 36: "kick", 38: "snare", 40: "snare", 42: "hat", 44: "hat", 46: "hat"}
QUAY = {"kick": ["01 kick", "02 kick knock"], "snare": ["07 snare", "08 snare dusty"],
        42: ["14 hat"], 44: ["15 hat half"], 46: ["16 hat open"], 49: ["20 crash"], 57: ["20 crash"],
        51: ["19 ride"], 59: ["19 ride"], 53: ["19 ride"], 37: ["09 rim"], 39: ["10 clap"],
        54: ["18 tambourine"], 70: ["17 shaker"], 69: ["17 shaker"], 82: ["17 shaker"]}


def with_quay_kit(data, events, seconds):
    """The kit that ships, one-shots laid to the frame."""
    out = np.zeros((int(round(seconds * RATE)), 2), np.float32)
    for at, m in events:
        if m.type != "note_on":
            continue
        names = QUAY.get(m.note) or QUAY.get(HITS.get(m.note)) or ["13 wood"]
        name = names[m.note % len(names)]
        hit, rate = soundfile.read(os.path.join(data, "kit", name + ".flac"), dtype="float32", always_2d=True)
        if rate != RATE:
            grid = np.arange(int(len(hit) * RATE / rate)) * rate / RATE
            hit = np.stack([np.interp(grid, np.arange(len(hit)), hit[:, c % hit.shape[1]]) for c in (0, 1)], 1)
        place = int(round(at * RATE))
        size = min(len(hit), len(out) - place)
        if size > 0:
            out[place:place + size] += hit[:size] * (m.velocity / 127) ** 2
    return out
