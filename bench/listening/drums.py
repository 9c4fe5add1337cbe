"""Renders drum clips for fitting the hit classes: patterns of all origins' pieces on mixed kits.

A clip has the kits of two origins, and invented ones. Kick, snare, hats and the rest may each come
from another kit, at another level, and most kits are changed sound by sound (tuned, shortened,
filtered, pressed), so that no kit is learnt by heart; soft snares stand between the hits, some are
doubled, and short rolls are put in; the whole is shifted in speed, tilted, dirtied. What a clip is made
of is written beside it ("origins"), so that a fit can leave an origin out; a hit is its class, its time
and which drum it is, where that has a name (kits.DRUMS).
"""

import json
import os
import sys
from dataclasses import dataclass
from multiprocessing import Pool

import numpy as np
import soundfile
from scipy.signal import butter, fftconvolve, sosfilt

import age
import music
import wear
from corpus import ORIGINS
from kits import HITS, begin_of, drum_of, struck_alone
from played import music_struck, tones_struck
from render import RATE

INVENTED = ("invented", 0)
TOMS = {41, 43, 45, 47, 48, 50}
LONG = {49, 51, 52, 53, 55, 57, 59}  # crashes and rides
HATLIKE = [51, 53, 59, 51, 82, 70, 69, 54]  # rides, shakers, cabasa, tambourine
CLASSES = ["kick", "snare", "hat", "other"]
CHOICE = {"kick": [35, 36], "snare": [38, 40], "hat": [42, 44, 46],
          "other": [37, 39, 41, 45, 48, 49, 51, 53, 54, 56, 59, 62, 63, 64, 70, 75, 82]}


def invented(g, pitch):
    """A struck sound with drawn parameters, from noise and falling tones."""
    name = HITS.get(pitch, "other")
    seconds = 1.2
    t = np.arange(int(seconds * RATE)) / RATE
    noise = g.standard_normal(len(t))

    def band(low, high):
        low, high = min(low, 17000), min(high, 20000)
        return sosfilt(butter(2, [low, max(high, low * 1.3)], "bandpass", fs=RATE, output="sos"), noise)

    def fall(start, end, bend_s):
        f = end + (start - end) * np.exp(-t / bend_s)
        return np.sin(2 * np.pi * np.cumsum(f) / RATE + g.uniform(0, 6.28))

    def metal():
        parts = sum(np.sign(np.sin(2 * np.pi * f * t)) for f in g.uniform(250, 900, 6))
        return sosfilt(butter(2, g.uniform(4000, 9000), "highpass", fs=RATE, output="sos"), parts) / 3

    if name == "kick":
        end = g.uniform(38, 95)
        out = fall(end * g.uniform(1.2, 6), end, g.uniform(0.005, 0.05)) * np.exp(-t / g.uniform(0.05, 0.3))
        out += g.uniform(0, 0.5) * band(g.uniform(800, 3000), g.uniform(4000, 9000)) * np.exp(-t / g.uniform(0.002, 0.015))
        out += g.uniform(0, 0.3) * band(60, g.uniform(300, 900)) * np.exp(-t / g.uniform(0.01, 0.06))
    elif name == "snare":
        end = g.uniform(130, 330)
        out = g.uniform(0.1, 1.0) * fall(end * g.uniform(1, 2), end, g.uniform(0.005, 0.04)) * np.exp(-t / g.uniform(0.02, 0.15))
        out += g.uniform(0.3, 1.2) * band(g.uniform(300, 2500), g.uniform(5000, 14000)) * np.exp(-t / g.uniform(0.03, 0.22))
    elif name == "hat":
        source = metal() if g.uniform() < 0.5 else band(g.uniform(3500, 8000), g.uniform(10000, 18000))
        decay = g.uniform(0.06, 0.5) if pitch == 46 else g.uniform(0.008, 0.07)
        out = source * np.exp(-t / decay)
    elif pitch in TOMS:
        end = g.uniform(70, 260)
        out = fall(end * g.uniform(1, 2), end, g.uniform(0.01, 0.08)) * np.exp(-t / g.uniform(0.08, 0.4))
        out += g.uniform(0, 0.3) * band(300, 4000) * np.exp(-t / g.uniform(0.005, 0.03))
    elif pitch in LONG:
        out = (metal() + g.uniform(0, 1) * band(g.uniform(1500, 5000), 15000)) * np.exp(-t / g.uniform(0.25, 0.9))
    else:  # rims, claps, shakers, bells
        kind = {37: 0, 39: 1, 69: 2, 70: 2, 82: 2}.get(pitch, int(g.integers(4)))
        if kind == 0:
            out = fall(g.uniform(400, 1200), g.uniform(350, 1000), 0.01) * np.exp(-t / g.uniform(0.006, 0.06))
        elif kind == 1:
            out = band(g.uniform(600, 1500), g.uniform(2000, 5000)) * np.exp(-t / g.uniform(0.02, 0.12))
            for _ in range(int(g.integers(0, 4))):  # hands that do not meet at once
                late = int(g.uniform(0.006, 0.014) * RATE)
                out = np.concatenate([out[:late] * np.exp(-t[:late] / 0.003), out[:-late]])
        elif kind == 2:
            out = band(g.uniform(2500, 6000), 14000) * np.minimum(t / g.uniform(0.005, 0.04), 1) * np.exp(-t / g.uniform(0.02, 0.1))
        else:
            out = sum(np.sign(np.sin(2 * np.pi * f * t)) for f in (g.uniform(500, 700), g.uniform(750, 950))) * np.exp(-t / g.uniform(0.03, 0.3))
    out *= np.minimum(t / g.uniform(0.0003, 0.004), 1)
    if g.uniform() < 0.3:  # a little room
        tail = sosfilt(butter(1, 5000, "lowpass", fs=RATE, output="sos"), g.standard_normal(len(t))) * np.exp(-t / g.uniform(0.1, 0.4))
        out = out + g.uniform(0.02, 0.12) * fftconvolve(out[:4000], tail)[:len(out)] / np.sqrt(4000) * 4
    return (out / np.abs(out).max()).astype(np.float32)


def kits_of(g):
    """(two origins, their kits, each as often as the other's, and as many invented ones)"""
    origins = [str(o) for o in g.choice(list(ORIGINS), 2, replace=False)]
    kits = [kit for origin in origins for kit in np.resize(np.array(ORIGINS[origin].kits, object), (8, 2))]
    return origins, [(str(font), int(program)) for font, program in kits] + [INVENTED] * 8


def mutated(g, hit):
    """Another drum of the same kind: tuned, shorter, brighter or darker, pressed."""
    ratio = 2 ** (g.uniform(-5, 5) / 12)
    grid = np.arange(int(len(hit) / ratio)) * ratio
    hit = np.interp(grid, np.arange(len(hit)), hit).astype(np.float32)
    t = np.arange(len(hit)) / RATE
    if g.uniform() < 0.5:
        hit = hit * np.exp(-t / g.uniform(0.04, 0.6))
    if g.uniform() < 0.6:
        low = sosfilt(butter(1, g.uniform(150, 6000), "lowpass", fs=RATE, output="sos"), hit)
        hit = low * 10 ** (g.uniform(-9, 9) / 20) + (hit - low)
    if g.uniform() < 0.3:
        peak = np.abs(hit).max() + 1e-9
        hit = np.tanh(hit / peak * g.uniform(1.5, 5)) * peak
    return hit.astype(np.float32)


def sound_of(g, kit, pitch, data, mutating, velocity=112):
    """@returns the sound and its gain; no gain: it is to be as loud as its kind is here"""
    if kit[0] == "invented":
        return invented(g, pitch), None
    hit = struck_alone(kit, data, velocity).get(pitch)
    if hit is None or np.abs(hit).max() < 1e-3:
        return invented(g, pitch), None
    if not mutating:
        return hit, 1.0
    hit = mutated(g, hit)
    return hit / (np.abs(hit).max() + 1e-9), None


def embellished(g, notes, first, last, beat_s):
    """Ghost notes, flams and rolls on the snare, each now and then."""
    snares = [n for n in notes if HITS.get(n.pitch) == "snare"]
    if not snares:
        return []
    pitch, out = snares[0].pitch, []

    def add(start, velocity):
        if first <= start < last:
            out.append(music.Note(start, start + 0.1, pitch, int(np.clip(velocity, 8, 127)), music.DRUMS))

    if g.uniform() < 0.25:  # ghosts on sixteenths that are free
        taken = {round(4 * n.start) for n in snares}
        for place in range(int(4 * first), int(4 * last)):
            if place not in taken and g.uniform() < 0.2:
                add(place / 4, g.uniform(15, 45))
    if g.uniform() < 0.15:
        for n in snares:
            if g.uniform() < 0.4:
                add(n.start - g.uniform(0.028, 0.05) / beat_s, n.velocity * g.uniform(0.3, 0.8))
    if g.uniform() < 0.15:  # a roll into a bar's end
        gap, count = g.uniform(0.045, 0.1), int(g.integers(4, 14))
        end = first + float(g.integers(1, max(2, int(last - first) + 1)))
        for i in range(count):
            add(end - (count - i) * gap / beat_s, 40 + 70 * i / count)
    return out


@dataclass
class Drawn:
    """What a clip is played with. Kick, snare, hats and the rest may each come from another kit, at another level;
    rides, shakers and tambourines may play what hats play, and the other way round."""
    kit_of: dict
    level_of: dict
    swapped: dict
    loudness: dict
    mutating: bool


def drawn_kit(g, kits):
    usual = kits[int(g.integers(len(kits)))]
    kit_of, level_of, swapped = {}, {}, {}
    for name in CLASSES:
        kit_of[name] = usual if g.uniform() < 0.6 else kits[int(g.integers(len(kits)))]
        level_of[name] = g.uniform(0.45, 1.0)
    if g.uniform() < 0.3:
        stand_in = int(g.choice(HATLIKE))
        swapped = {p: stand_in for p in (42, 44, 46)}
    elif g.uniform() < 0.3:
        swapped = {p: int(g.choice([42, 42, 44, 46])) for p in HATLIKE}
    loudness = {"kick": g.uniform(0.6, 1), "snare": g.uniform(0.5, 1), "hat": g.uniform(0.12, 0.5),
                "other": g.uniform(0.2, 0.7)}
    return Drawn(kit_of, level_of, swapped, loudness, g.uniform() < 0.7)


def laid(g, drawn, notes, seconds, data):
    """@param notes  (seconds, pitch, velocity) @returns the sound and its hits"""
    out = np.zeros((int(seconds * RATE) + RATE, 2), np.float32)
    hits, sounds = [], {}
    for start, written, struck in notes:
        pitch = drawn.swapped.get(written, written)
        name = HITS.get(pitch, "other")
        if pitch not in sounds:
            hit, gain = sound_of(g, drawn.kit_of[name], pitch, data, drawn.mutating, struck)
            sounds[pitch] = hit, gain, begin_of(hit)
        hit, gain, late = sounds[pitch]
        velocity = float(np.clip(struck * drawn.level_of[name], 8, 127)) / 127
        at = max(0.0, start + float(g.normal(0, 0.004)))
        place = int(round(at * RATE))
        size = min(len(hit), len(out) - place)
        if size > 0:
            gain = np.float32(gain or drawn.loudness[name])
            out[place:place + size] += hit[:size, None] * gain * np.float32(0.35 * velocity ** 1.6)
        hits.append([name, at + late, drum_of(pitch)])
    return out, hits


def worn(g, out, hits):
    """Shifted in speed, tilted, pressed, dirtied; None for next to nothing."""
    speed = 2 ** (g.uniform(-3.5, 3.5) / 12)
    length = int(len(out) / speed)
    grid = np.arange(length) * speed
    out = np.stack([np.interp(grid, np.arange(len(out)), out[:, c]) for c in (0, 1)], axis=1)
    hits = [[c, t / speed, drum] for c, t, drum in hits]
    if g.uniform() < 0.5:
        out = age.tilted(g, out, RATE)
    peak = float(np.abs(out).max())
    if peak < 1e-4:
        return None, hits
    out = out / peak
    if g.uniform() < 0.3:  # pressed
        out = np.tanh(out * g.uniform(1.5, 4))
        out = out / np.abs(out).max()
    if g.uniform() < 0.45:
        out = age.dirtied(g, out, RATE)
        out = out / np.abs(out).max()
    if g.uniform() < 0.3:
        out = wear.worn(g, out, RATE)
    return out, hits


def written_clip(folder, name, piece, origins, out, hits):
    if out is None:
        return None
    soundfile.write(os.path.join(folder, name), 0.9 * out, RATE, subtype="PCM_16")
    return {"file": name, "piece": piece, "origins": sorted(origins), "hits": sorted(hits, key=lambda h: h[1])}


def clip(job):
    index, piece, folder, data = job
    g = np.random.default_rng(90000 + index)
    drums = [n for n in piece.notes if n.channel == music.DRUMS]
    if len(drums) < 100:
        return None
    bpm, bars = float(g.uniform(65, 175)), 4
    starts = [b * piece.meter for b in range(int(piece.beats // piece.meter) - bars)]
    busy = [s for s in starts if sum(s <= n.start < s + bars * piece.meter for n in drums) >= 5 * bars]
    if not busy:
        return None
    first = float(g.choice(busy))
    last = first + bars * piece.meter
    beat_s = 60 / bpm
    origins, kits = kits_of(g)
    drawn = drawn_kit(g, kits)
    notes = [n for n in drums if first - 1e-3 <= n.start < last - 1e-3]
    notes += embellished(g, notes, first, last, beat_s)
    out, hits = laid(g, drawn, [((n.start - first) * beat_s, n.pitch, n.velocity) for n in notes],
                     bars * piece.meter * beat_s, data)
    out, hits = worn(g, out, hits)
    return written_clip(folder, f"drums-{index:04}.wav", piece.name, {piece.origin, *origins}, out, hits)


def fill_struck(job):
    """A bar or two that end in a fill on the toms, and a crash after it: pieces have few of either."""
    index, folder, data = job
    g = np.random.default_rng(60000 + index)
    beat_s, bars = 60 / g.uniform(65, 175), int(g.integers(1, 3))
    origins, kits = kits_of(g)
    drawn = drawn_kit(g, kits)
    end = 4.0 * bars
    begin = end - float(g.choice([1, 2, 2, 4]))
    notes = []

    def add(beat, pitch, low=60, high=120):
        notes.append((beat * beat_s, pitch, int(g.integers(low, high))))

    time_keeper = int(g.choice([42, 42, 51, 46, 41]))
    for eighth in range(int(2 * end)):
        beat = eighth / 2
        if beat < begin or g.uniform() < 0.15:
            if g.uniform() < 0.9:
                add(beat, time_keeper)
            if beat % 2 == 1:
                add(beat, 38)
        if beat == 0 or g.uniform() < (0.3 if beat < begin else 0.2):
            add(beat, 36)
    toms = sorted(g.choice([41, 43, 45, 47, 48, 50], int(g.integers(1, 5)), replace=False), reverse=True)
    places = [begin + k / 4 for k in range(int(4 * (end - begin))) if g.uniform() < 0.75]
    for i, beat in enumerate(places):
        pitch = int(toms[i * len(toms) // len(places)]) if g.uniform() < 0.85 else 38
        add(beat, pitch, 40, 127)
    add(end, int(g.choice([49, 49, 57, 55, 52])), 80, 127)
    add(end, 36, 80, 127)
    out, hits = laid(g, drawn, sorted(notes), (end + 1) * beat_s, data)
    out, hits = worn(g, out, hits)
    return written_clip(folder, f"fill-{index:04}.wav", "", set(origins), out, hits)


def nothing_struck(job):
    """Noise that swells, tones that beat, hum: rises in them are nobody's hits."""
    index, folder = job
    g = np.random.default_rng(70000 + index)
    n = int(6 * RATE)
    t = np.arange(n) / RATE
    colour = index % 4
    if colour < 3:  # white, pink or brown, with slow swells
        spectrum = np.fft.rfft(g.standard_normal((n, 2)), axis=0)
        f = np.maximum(np.fft.rfftfreq(n, 1 / RATE), 20)[:, None]
        out = np.fft.irfft(spectrum / f ** (colour / 2), n, axis=0)
        out /= np.abs(out).max()
        out *= (1 + g.uniform(0, 0.7) * np.sin(2 * np.pi * g.uniform(0.1, 1.5) * t + g.uniform(0, 6)))[:, None]
    else:  # held tones with vibrato over a little noise
        out = np.zeros((n, 2))
        for _ in range(int(g.integers(1, 5))):
            base = g.uniform(60, 900)
            phase = 2 * np.pi * np.cumsum(base * (1 + 0.004 * np.sin(2 * np.pi * g.uniform(3, 7) * t))) / RATE
            for h in range(1, int(g.integers(2, 9))):
                out += (np.sin(h * phase) / h * g.uniform(0.2, 1))[:, None]
        out /= np.abs(out).max()
        out += g.standard_normal((n, 2)) * 10 ** (g.uniform(-60, -25) / 20)
    edge = np.minimum(1, np.minimum(t, 6 - t) / 0.3)[:, None]
    out = 0.8 * out * edge / np.abs(out).max()
    if g.uniform() < 0.3:
        out = age.dirtied(g, out, RATE)
        out = 0.8 * out / np.abs(out).max()
    name = f"nothing-{index:04}.wav"
    soundfile.write(os.path.join(folder, name), out, RATE, subtype="PCM_16")
    return {"file": name, "piece": "", "origins": [], "hits": []}


def few_struck(job):
    """One to four hits and nothing else: single sounds, and a bar that has barely begun."""
    index, folder, data = job
    g = np.random.default_rng(50000 + index)
    origins, kits = kits_of(g)
    kit = kits[int(g.integers(len(kits)))]
    pitches = [int(g.choice(CHOICE[str(g.choice(CLASSES, p=[0.25, 0.25, 0.25, 0.25]))]))
               for _ in range(int(g.integers(1, 3)))]
    count = int(g.choice([1, 1, 1, 2, 3, 4]))
    gap, lead = g.uniform(0.15, 0.9), g.choice([0.0, g.uniform(0.0, 0.3)])
    out = np.zeros((int((lead + count * gap + 1.6) * RATE), 2), np.float32)
    sounds = {p: sound_of(g, kit, p, data, True)[0] for p in pitches}
    late = {p: begin_of(sound) for p, sound in sounds.items()}
    hits = []
    for i in range(count):
        at = lead + i * gap
        for pitch in (pitches if g.uniform() < 0.3 else [int(g.choice(pitches))]):
            hit = sounds[pitch]
            place = int(round(at * RATE))
            size = min(len(hit), len(out) - place)
            out[place:place + size] += hit[:size, None] * np.float32(0.3 * g.uniform(0.3, 1))
            hits.append([HITS.get(pitch, "other"), at + late[pitch], drum_of(pitch)])
    if g.uniform() < 0.3:
        out = age.dirtied(g, out, RATE)
    peak = float(np.abs(out).max())
    return written_clip(folder, f"few-{index:04}.wav", "", origins, out / peak if peak >= 1e-4 else None, hits)


def build(folder, data, count):
    os.makedirs(folder, exist_ok=True)
    pieces = [p for origin in ORIGINS.values() for p in origin.pieces()[0]]
    np.random.default_rng(1).shuffle(pieces)
    jobs = [(i, pieces[i % len(pieces)], folder, data) for i in range(count)]
    with Pool() as pool:
        clips = [c for c in pool.imap(clip, jobs) if c]
        clips += [c for c in pool.imap(fill_struck, [(i, folder, data) for i in range(count // 6)]) if c]
        clips += [c for c in pool.imap(few_struck, [(i, folder, data) for i in range(count // 6)]) if c]
        clips += [c for c in pool.imap(music_struck, [(i, pieces[i % len(pieces)], folder) for i in range(count // 6)]) if c]
        clips += pool.map(tones_struck, [(i, folder) for i in range(count // 18)])
        clips += pool.map(nothing_struck, [(i, folder) for i in range(count // 9)])
    with open(os.path.join(folder, "truth.json"), "w") as file:
        json.dump(clips, file)
    return clips


if __name__ == "__main__":
    print(len(build(sys.argv[1], sys.argv[2], int(sys.argv[3]))), "clips")
