"""Clips for fitting the hit classes in which more is played than drums (drums.py calls it).

What an instrument begins is struck, and is no kick, snare or hat; where a note ends nothing is.
"""

import os

import numpy as np
import soundfile

import age
import music
from corpus import ORIGINS
from excerpt import events_of
from kits import HITS, drum_of
from render import RATE, render



def finished(g, out):
    """Tilted and dirtied now and then, as loud as it may be; None for next to nothing."""
    if g.uniform() < 0.5:
        out = age.tilted(g, out, RATE)
    if np.abs(out).max() < 1e-4:
        return None
    if g.uniform() < 0.35:
        out = age.dirtied(g, out / np.abs(out).max(), RATE)
    return 0.9 * out / np.abs(out).max()


def music_struck(job):
    """Four bars of a piece, with drums or without, in another key and tempo, on any origin's font."""
    index, piece, folder = job
    g = np.random.default_rng(30000 + index)
    bars, beat_s = 4, 60 / g.uniform(65, 175)
    channels = set(range(16)) - ({music.DRUMS} if g.uniform() < 0.4 else set())
    notes = [n for n in piece.notes if n.channel in channels]
    starts = [b * piece.meter for b in range(int(piece.beats // piece.meter) - bars)]
    busy = [s for s in starts if sum(s <= n.start < s + bars * piece.meter for n in notes) >= 4 * bars]
    if not busy:
        return None
    first = float(g.choice(busy))
    last, up = first + bars * piece.meter, int(g.integers(-5, 6))
    events = events_of(piece, first, last, lambda beat: (beat - first) * beat_s, channels)
    moved = [(at, m.copy(note=int(np.clip(m.note + up, 0, 127)))
              if m.type in ("note_on", "note_off") and m.channel != music.DRUMS else m) for at, m in events]
    sounds = str(g.choice(list(ORIGINS)))
    out = finished(g, render(str(g.choice(ORIGINS[sounds].fonts)), moved, (last - first) * beat_s + 0.5))
    if out is None:
        return None
    hits = [[HITS.get(n.pitch, "other") if n.channel == music.DRUMS else "other", max(0.0, (n.start - first) * beat_s),
             drum_of(n.pitch) if n.channel == music.DRUMS else None] for n in notes if first - 1e-3 <= n.start < last - 1e-3]
    name = f"music-{index:04}.wav"
    soundfile.write(os.path.join(folder, name), out, RATE, subtype="PCM_16")
    return {"file": name, "piece": piece.name, "origins": sorted({piece.origin, sounds}), "hits": sorted(hits, key=lambda h: h[1])}


def tones_struck(job):
    """Notes and chords of drawn overtones, attacks and ends, one after the other."""
    index, folder = job
    g = np.random.default_rng(20000 + index)
    seconds = g.uniform(4, 10)
    out = np.zeros(int(seconds * RATE))
    step, filled = g.uniform(0.15, 0.9), g.uniform(0.3, 1.1)
    attack, release = g.uniform(0.001, 0.02), g.uniform(0.003, 0.06)
    fall, overtones, slope = g.uniform(0, 5), int(g.integers(1, 10)), g.uniform(0.6, 2)
    root, hits, at = g.uniform(36, 70), [], g.choice([0.0, g.uniform(0, 1.2)])
    while at < seconds - 0.1:
        t = np.arange(min(int(max(0.06, step * filled) * RATE), len(out) - int(at * RATE))) / RATE
        shape = np.minimum(1, np.minimum(t / attack, (t[-1] - t) / release)) * np.exp(-fall * t)
        for note in root + g.choice([0, 2, 3, 4, 5, 7, 9, 10, 12, 14], int(g.choice([1, 1, 2, 3])), replace=False):
            hz = 440 * 2 ** ((note - 69) / 12)
            for h in range(1, overtones + 1):
                if h * hz < 16000:
                    out[int(at * RATE):int(at * RATE) + len(t)] += shape * np.sin(2 * np.pi * h * hz * t) / h ** slope
        hits.append(["other", float(at), None])
        at += step * g.choice([1, 1, 1, 2])
    if g.uniform() < 0.5:
        out += g.standard_normal(len(out)) * np.abs(out).max() * 10 ** (g.uniform(-70, -35) / 20)
    out = finished(g, np.stack([out, out], 1))
    name = f"tones-{index:04}.wav"
    soundfile.write(os.path.join(folder, name), out, RATE, subtype="PCM_16")
    return {"file": name, "piece": "", "origins": [], "hits": hits}
