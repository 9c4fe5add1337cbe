"""One file of the corpus: an excerpt of a piece, rendered, worn or not, with the truth of its notes.

song   30 s from inside, starting anywhere
disc   the same idea off a worn disc, up to 0.8 semitone off speed
loop   exactly four bars, cut to the frame, at a tempo drawn from 70 to 170
break  the drums alone, eight bars, likewise; half of them off a disc
drift  40 s whose tempo wanders by 3 % and whose notes are up to 8 ms off
free   15 s of the same notes at random times: nothing with a pulse
"""

import os
import zlib
from dataclasses import dataclass

import numpy as np
import soundfile
from mido import Message

import age
import music
import wear
from kits import HITS, begin_of, drum_of, struck_alone, with_quay_kit
from render import CENTS, RATE, render
from truth import chords_of, key_of, written_chords

TONES = set(range(16)) - {music.DRUMS}
LENGTH_S = {"song": 30.0, "disc": 30.0, "drift": 40.0}
BARS = {"loop": 4, "break": 8}


@dataclass
class Stretch:
    """What of a piece is heard, and when: places in beats, times in seconds."""
    first: float
    last: float
    begin: float  # what rings into it is played from here
    bpm: float
    swing: float
    clock: object  # beats to seconds, from `begin`
    jitter: object = None


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


def whole_bars(g, piece, kind):
    """(first, last) of a busy place; None where there is none."""
    bars = BARS[kind]
    heard = [n for n in piece.notes if kind == "loop" or n.channel == music.DRUMS]
    busy = []
    for bar in range(int(piece.beats // piece.meter) - bars):
        start = bar * piece.meter
        inside = [n for n in heard if start <= n.start < start + bars * piece.meter]
        filled = {int((n.start - start) // piece.meter) for n in inside}
        if len(filled) == bars and len(inside) >= 6 * bars:
            busy.append(start)
    if not busy:
        return None
    first = float(g.choice(busy))
    return first, first + bars * piece.meter


def stretch_of(g, piece, kind):
    # Pieces that are written straight are swung now and then; the others swing by themselves.
    swing = 0.0
    if kind != "drift" and piece.swing is None and g.uniform() < 0.2:
        swing = float(g.uniform(0.08, 0.17))
    bpm = piece.bpm
    if kind in BARS:
        if piece.chords is None:  # the tempi of the others are drawn already
            bpm = float(g.uniform(70, 170))
        place = whole_bars(g, piece, kind)
        if place is None:
            return None
        first, last = place
    else:
        length = LENGTH_S[kind] * bpm / 60
        sounding = piece.notes[0].start
        first = float(g.uniform(sounding, max(sounding + 1, piece.beats - length - 2)))
        last = min(first + length + 4, piece.beats)
    begin = first - (0.0 if kind in BARS else min(8.0, first))
    beat_s = 60 / bpm
    if kind == "drift":
        t = np.linspace(0, last - begin, 2000)
        bend = sum(np.sin(2 * np.pi * t / g.uniform(16, 60) + g.uniform(0, 6.28)) for _ in range(3))
        bend = 1 + 0.03 * bend / np.abs(bend).max()
        seconds = np.concatenate([[0], np.cumsum(np.diff(t) * beat_s / bend[:-1])])
        return Stretch(first, last, begin, bpm, swing, lambda beats: np.interp(beats - begin, t, seconds),
                       g.uniform(-0.008, 0.008, len(piece.notes)))

    def steady(beats):
        return (swung(beats, swing) if swing else beats) * beat_s

    origin = float(steady(begin))
    return Stretch(first, last, begin, bpm, swing, lambda beats: steady(beats) - origin)


def kit_alone(g, piece, events, need, kits, data):
    font, program = kit = kits[zlib.crc32(piece.name.encode()) // 7 % len(kits)]
    events = [e for e in events if e[1].type in ("note_on", "note_off")]
    events.insert(0, (0.0, Message("program_change", channel=music.DRUMS, program=program)))
    return (with_quay_kit(data, events, need) if font == "quay" else render(font, events, need)), kit


def with_kit_under(g, font, kit, events, need, data):
    """Tones of a font, and drums of another kit as loud under them as the font has its own."""
    of_drums = [e for e in events if e[1].channel == music.DRUMS]
    if kit is None or not of_drums:
        return render(font, events, need)
    tones = render(font, [e for e in events if e[1].channel != music.DRUMS], need)
    own = render(font, of_drums, need)
    other = with_quay_kit(data, of_drums, need) if kit[0] == "quay" else render(kit[0], of_drums, need)
    loudness = np.sqrt(np.mean(own ** 2) / max(1e-12, np.mean(other ** 2)))
    return tones + other * loudness * 10 ** (g.uniform(-3, 4) / 20)


def make(piece, kind, origin, folder, data, wearing=False):
    """Writes the file. @param wearing  half of them go through rooms, presses, codecs (wear.py)
    @returns its truth, or None where the piece has nothing of the kind"""
    crossed = "" if piece.origin == origin.name else origin.name
    name = "-".join(filter(None, (kind, piece.name.lower(), crossed)))
    drawn = zlib.crc32((piece.name + kind + crossed).encode())
    g = np.random.default_rng(drawn)
    if kind == "break" and sum(n.channel == music.DRUMS for n in piece.notes) < 100:
        return None
    stretch = stretch_of(g, piece, kind)
    if stretch is None:
        return None
    clock, first, last = stretch.clock, stretch.first, stretch.last
    channels = {music.DRUMS} if kind == "break" else set(range(16))
    events = events_of(piece, stretch.begin, last, clock, channels, stretch.jitter)
    cut_from = float(clock(first))
    whole = float(clock(last)) - cut_from
    whole = min(LENGTH_S.get(kind, whole), whole)
    font = origin.fonts[drawn // 11 % len(origin.fonts)]
    kit = None
    if kind == "break":
        sound, kit = kit_alone(g, piece, events, cut_from + whole + 0.5, origin.kits, data)
        font = kit[0]
    else:
        kit = origin.under[drawn // 13 % len(origin.under)]
        sound = with_kit_under(g, font, kit, events, cut_from + whole + 0.5, data)
    start = int(round(cut_from * RATE))
    sound = sound[start:start + int(round(whole * RATE))]
    peak = float(np.abs(sound).max()) if len(sound) else 0
    if peak < 1e-4:
        return None
    sound = sound / peak * 10 ** (g.uniform(-9, -0.5) / 20)

    beats = np.arange(np.ceil(first - 1e-9), last + 1e-9)
    times = np.array([float(clock(b)) - cut_from for b in beats])
    late = {pitch: begin_of(hit) for pitch, hit in struck_alone(kit, data, 112).items()} if kind == "break" else {}
    hits = [(HITS.get(n.pitch, "other"), float(clock(n.start)) - cut_from + late.get(n.pitch, 0.0), n.velocity,
             drum_of(n.pitch)) for n in piece.notes
            if n.channel == music.DRUMS and first - 1e-3 <= n.start < last - 1e-3]
    begins = np.array(sorted({float(clock(n.start)) - cut_from for n in piece.notes
                              if n.channel in channels and first - 1e-3 <= n.start < last - 1e-3}))
    ratio, tuning, wow = 1.0, 0.0, 0.0
    dirty = kind == "disc" or (kind == "break" and g.uniform() < 0.5)
    if kind == "disc":  # a dirty break keeps its frame-exact length
        tuning = float(g.uniform(-0.8, 0.8))
        ratio = 2 ** (tuning / 12)
        original, disc, wow = age.speed_map(g, whole, ratio)
        sound = age.played_back(sound, RATE, original, disc)
        times, begins = np.interp(times, original, disc), np.interp(begins, original, disc)
        hits = [(c, float(np.interp(t, original, disc)), v, drum) for c, t, v, drum in hits]
    if dirty:
        sound = age.dirtied(g, sound, RATE)
        sound *= min(1.0, 0.98 / float(np.abs(sound).max()))
    if wearing and g.uniform() < 0.5:
        sound = wear.worn(g, sound, RATE)
    seconds = len(sound) / RATE
    inside = (times >= -1e-6) & (times < seconds)
    key, chords = None, []
    if kind in ("song", "disc", "loop"):
        key = piece.key or key_of(piece, first, last, TONES)
    if kind != "break":
        chords = written_chords(piece, beats) if piece.chords else chords_of(piece, beats, TONES)
    soundfile.write(os.path.join(folder, name + ".wav"), sound, RATE, subtype="PCM_16")
    return {"file": name + ".wav", "kind": kind, "origin": piece.origin, "sounds": origin.name, "piece": piece.name,
            "font": font, "kit": f"{kit[0]}/{kit[1]}" if kit else None, "bpm": stretch.bpm * ratio,
            "meter": piece.meter, "beats": times[inside].tolist(),
            "downbeats": times[inside & (np.round(beats) % piece.meter == 0)].tolist(),
            "swing": stretch.swing + 0.5 if stretch.swing else piece.swing, "dirty": bool(dirty),
            "cents": tuning * 100 + CENTS.get(font, 0), "wow": float(wow),
            "hits": [h for h in hits if 0 <= h[1] < seconds],
            "begins": [] if kind == "drift" else begins[(begins >= 0) & (begins < seconds)].tolist(),
            "key": key, "chords": [c for c, ok in zip(chords, inside) if ok], "seconds": seconds}


def make_free(piece, origin, folder):
    """Notes of the piece in a random order at random times, one to four a second."""
    g = np.random.default_rng(zlib.crc32((piece.name + "free").encode()))
    seconds, at, events = 15.0, float(g.uniform(0, 0.8)), [(0.0, m) for m in music.state_at(piece, piece.beats)]
    density = g.uniform(1, 4)
    while at < seconds - 0.3:
        note = piece.notes[int(g.integers(len(piece.notes)))]
        on = Message("note_on", channel=note.channel, note=note.pitch, velocity=note.velocity)
        events += [(at, on), (at + g.uniform(0.1, 1.5), on.copy(velocity=0))]
        at += float(g.exponential(1 / density)) + 0.03
    events.sort(key=lambda e: e[0])
    font = origin.fonts[zlib.crc32(piece.name.encode()) % len(origin.fonts)]
    sound = render(font, events, seconds)
    sound *= 0.7 / max(1e-4, float(np.abs(sound).max()))
    if g.uniform() < 0.5:
        sound = age.dirtied(g, sound, RATE)
        sound *= min(1.0, 0.98 / float(np.abs(sound).max()))
    name = f"free-{piece.name.lower()}.wav"
    soundfile.write(os.path.join(folder, name), sound, RATE, subtype="PCM_16")
    return {"file": name, "kind": "free", "origin": piece.origin, "sounds": origin.name, "piece": piece.name,
            "font": font, "kit": None, "bpm": 0, "meter": piece.meter, "beats": [], "downbeats": [], "hits": [],
            "key": None, "chords": [], "cents": 0, "seconds": len(sound) / RATE}
