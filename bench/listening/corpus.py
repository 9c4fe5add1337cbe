"""Renders the corpus: five kinds from every piece, with the truth that follows from the notes.

song   30 s from inside, starting anywhere
disc   the same idea off a worn disc, up to 0.8 semitone off speed
loop   exactly four bars, cut to the frame, at a tempo drawn from 70 to 170
break  the drums alone, eight bars, likewise; one of ten kits, half of them off a disc
drift  40 s whose tempo wanders by 3 % and whose notes are up to 8 ms off
free   15 s of the same notes at random times: nothing with a pulse
A fifth of the songs, discs, loops and breaks are swung.
"""

import json
import os
import sys
import zlib
from multiprocessing import Pool

import numpy as np
import soundfile

import age
import music
from mido import Message
from render import RATE, render
from truth import chords_of, key_of

KINDS = ["song", "disc", "loop", "break", "drift", "free"]
KITS = [("timgm6mb", 0), ("timgm6mb", 8), ("timgm6mb", 16), ("timgm6mb", 24), ("timgm6mb", 25),
        ("timgm6mb", 32), ("csound", 0), ("opl3", 0), ("freepats", 0), ("quay", 0), ("opl3", 0),
        ("freepats", 0), ("quay", 0)]
FONTS = ["timgm6mb", "csound", "opl3", "freepats"]
HITS = {35: "kick", 36: "kick", 38: "snare", 40: "snare", 42: "hat", 44: "hat", 46: "hat"}
QUAY = {"kick": ["01 kick", "02 kick knock"], "snare": ["07 snare", "08 snare dusty"],
        42: ["14 hat"], 44: ["15 hat half"], 46: ["16 hat open"], 49: ["20 crash"], 57: ["20 crash"],
        51: ["19 ride"], 59: ["19 ride"], 53: ["19 ride"], 37: ["09 rim"], 39: ["10 clap"],
        54: ["18 tambourine"], 70: ["17 shaker"], 69: ["17 shaker"], 82: ["17 shaker"]}


def swung(beats, amount):
    """Where a place in beats sounds when the second eighth of every beat is late."""
    whole = np.floor(beats)
    part = beats - whole
    middle = 0.5 + amount
    return whole + np.where(part < 0.5, part / 0.5 * middle, middle + (part - 0.5) / 0.5 * (1 - middle))


def events_of(piece, first, last, clock, channels, jitter=None):
    """Notes between two beats as (seconds, message), after the controls in force at the start."""
    events = [(0.0, m) for m in music.state_at(piece, first) if m.channel in channels]
    events += [(max(0.0, clock(at)), m) for at, m in piece.controls
               if first < at < last and m.channel in channels]
    for i, note in enumerate(piece.notes):
        if note.channel not in channels or not first - 1e-3 <= note.start < last - 1e-3:
            continue
        late = jitter[i] if jitter is not None else 0.0
        on = max(0.0, clock(note.start) + late)
        off = max(on + 0.03, clock(min(note.end, last)) + late)
        events.append((on, Message("note_on", channel=note.channel, note=note.pitch, velocity=note.velocity)))
        events.append((off, Message("note_off", channel=note.channel, note=note.pitch)))
    events.sort(key=lambda e: e[0])
    return events


def with_quay_kit(data, events, seconds):
    """The kit that ships, one-shots laid to the frame."""
    out = np.zeros((int(seconds * RATE) + 1, 2), np.float32)
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


def make_free(piece, g, folder):
    """Notes of the piece in a random order at random times, one to four a second."""
    seconds, at, events = 15.0, float(g.uniform(0, 0.8)), [(0.0, m) for m in music.state_at(piece, piece.beats)]
    density = g.uniform(1, 4)
    while at < seconds - 0.3:
        note = piece.notes[int(g.integers(len(piece.notes)))]
        on = Message("note_on", channel=note.channel, note=note.pitch, velocity=note.velocity)
        events += [(at, on), (at + g.uniform(0.1, 1.5), on.copy(velocity=0))]
        at += float(g.exponential(1 / density)) + 0.03
    events.sort(key=lambda e: e[0])
    font = FONTS[zlib.crc32(piece.name.encode()) % len(FONTS)]
    sound = render(font, events, seconds)
    sound *= 0.7 / max(1e-4, float(np.abs(sound).max()))
    if g.uniform() < 0.5:
        sound = age.dirtied(g, sound, RATE)
        sound *= min(1.0, 0.98 / float(np.abs(sound).max()))
    name = f"free-{piece.name.lower()}.wav"
    soundfile.write(os.path.join(folder, name), sound, RATE, subtype="PCM_16")
    return {"file": name, "kind": "free", "fold": piece.fold, "piece": piece.name, "font": font, "kit": None,
            "bpm": 0, "beats": [], "downbeats": [], "hits": [], "key": None, "chords": [], "cents": 0,
            "seconds": len(sound) / RATE}


def make(job):
    piece, kind, folder, data = job
    g = np.random.default_rng(zlib.crc32((piece.name + kind).encode()))
    if kind == "free":
        return make_free(piece, g, folder)
    drums = [n for n in piece.notes if n.channel == music.DRUMS]
    if kind == "break" and len(drums) < 100:
        return None
    swing = g.uniform(0.08, 0.17) if kind != "drift" and g.uniform() < 0.2 else 0.0
    bpm = piece.bpm
    tones = set(range(16)) - {music.DRUMS}
    channels = set(range(16))
    if kind in ("loop", "break"):
        bars = 4 if kind == "loop" else 8
        bpm = float(g.uniform(70, 170))
        starts = [b * piece.meter for b in range(int(piece.beats // piece.meter) - bars)]
        heard = drums if kind == "break" else piece.notes
        busy = []
        for s in starts:
            inside = [n for n in heard if s <= n.start < s + bars * piece.meter]
            filled = {int((n.start - s) // piece.meter) for n in inside}
            if len(filled) == bars and len(inside) >= 6 * bars:
                busy.append(s)
        if not busy:
            return None
        first = float(g.choice(busy))
        last = first + bars * piece.meter
        if kind == "break":
            channels = {music.DRUMS}
    else:
        length = (40.0 if kind == "drift" else 30.0) * bpm / 60
        sounding = piece.notes[0].start
        first = float(g.uniform(sounding, max(sounding + 1, piece.beats - length - 2)))
        last = min(first + length + 4, piece.beats)
    beat_s = 60 / bpm

    def steady(beats):
        return (swung(beats, swing) if swing else beats) * beat_s

    # What rings into the excerpt is played as well: it starts up to two bars earlier.
    lead = 0.0 if kind in ("loop", "break") else min(8.0, first)
    begin = first - lead
    if kind == "drift":
        t = np.linspace(0, last - begin, 2000)
        bend = sum(np.sin(2 * np.pi * t / g.uniform(16, 60) + g.uniform(0, 6.28)) for _ in range(3))
        bend = 1 + 0.03 * bend / np.abs(bend).max()
        seconds = np.concatenate([[0], np.cumsum(np.diff(t) * beat_s / bend[:-1])])
        origin = begin

        def clock(beats):
            return np.interp(beats - origin, t, seconds)
    else:
        origin = float(steady(begin))

        def clock(beats):
            return steady(beats) - origin

    jitter = g.uniform(-0.008, 0.008, len(piece.notes)) if kind == "drift" else None
    events = events_of(piece, begin, last, clock, channels, jitter)
    cut_from = float(clock(first))
    whole = float(clock(last)) - cut_from
    if kind in ("song", "disc"):
        whole = min(30.0, whole)
    if kind == "drift":
        whole = min(40.0, whole)
    kit = None
    if kind == "break":
        font, program = kit = KITS[zlib.crc32(piece.name.encode()) // 7 % len(KITS)]
        events = [e for e in events if e[1].type in ("note_on", "note_off")]
        events.insert(0, (0.0, Message("program_change", channel=music.DRUMS, program=program)))
    else:
        font = FONTS[zlib.crc32((piece.name + kind).encode()) // 11 % len(FONTS)]
    need = cut_from + whole + 0.5
    sound = with_quay_kit(data, events, need) if font == "quay" else render(font, events, need)
    start = int(round(cut_from * RATE))
    sound = sound[start:start + int(round(whole * RATE))]
    peak = float(np.abs(sound).max())
    if peak < 1e-4:
        return None
    sound = sound / peak * 10 ** (g.uniform(-9, -0.5) / 20)

    beats = np.arange(np.ceil(first - 1e-9), last + 1e-9)
    times = np.array([float(clock(b)) - cut_from for b in beats])
    hits = [(HITS.get(n.pitch, "other"), float(clock(n.start)) - cut_from, n.velocity)
            for n in drums if first - 1e-3 <= n.start < last - 1e-3]
    begins = np.array(sorted({float(clock(n.start)) - cut_from for n in piece.notes
                              if n.channel in channels and first - 1e-3 <= n.start < last - 1e-3}))
    chords = chords_of(piece, beats, tones)
    tuning, ratio, wow = 0.0, 1.0, 0.0
    dirty = kind == "disc" or (kind == "break" and g.uniform() < 0.5)
    if dirty:
        # A dirty break keeps its frame-exact length: only a disc of a passage is off speed.
        if kind == "disc":
            tuning = float(g.uniform(-0.8, 0.8))
            ratio = 2 ** (tuning / 12)
            original, disc, wow = age.speed_map(g, whole, ratio)
            sound = age.played_back(sound, RATE, original, disc)
            times = np.interp(times, original, disc)
            hits = [(c, float(np.interp(t, original, disc)), v) for c, t, v in hits]
            begins = np.interp(begins, original, disc)
        sound = age.dirtied(g, sound, RATE)
        sound *= min(1.0, 0.98 / float(np.abs(sound).max()))
    seconds = len(sound) / RATE
    inside = (times >= -1e-6) & (times < seconds)
    key = key_of(piece, first, last, tones) if kind in ("song", "disc", "loop") else None
    name = f"{kind}-{piece.name.lower()}"
    soundfile.write(os.path.join(folder, name + ".wav"), sound, RATE, subtype="PCM_16")
    return {"file": name + ".wav", "kind": kind, "fold": piece.fold, "piece": piece.name, "font": font,
            "kit": f"{kit[0]}/{kit[1]}" if kit else None, "bpm": bpm * ratio, "meter": piece.meter,
            "beats": times[inside].tolist(),
            "downbeats": times[inside & (np.round(beats) % piece.meter == 0)].tolist(),
            "swing": float(swing), "dirty": bool(dirty), "cents": tuning * 100, "wow": float(wow),
            "hits": [h for h in hits if 0 <= h[1] < seconds] if kind == "break" else [],
            "begins": [] if kind == "drift" else begins[(begins >= 0) & (begins < seconds)].tolist(),
            "key": key, "chords": [c for c, ok in zip(chords, inside) if ok] if kind != "break" else [],
            "seconds": seconds}


def build(folder, data):
    os.makedirs(folder, exist_ok=True)
    kept, left = music.pieces()
    jobs = [(p, kind, folder, data) for p in kept for kind in KINDS]
    with Pool() as pool:
        truth = [t for t in pool.imap(make, jobs) if t]
    with open(os.path.join(folder, "truth.json"), "w") as file:
        json.dump({"left_out": left, "pieces": len(kept), "files": truth}, file)
    return truth


if __name__ == "__main__":
    files = build(sys.argv[1], sys.argv[2])
    for kind in KINDS:
        some = [f for f in files if f["kind"] == kind]
        print(kind, len(some), "files", round(sum(f["seconds"] for f in some) / 60, 1), "minutes,",
              sum(1 for f in some if f["key"]), "with a key")
