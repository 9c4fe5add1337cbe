"""Drums: what the notes of General MIDI mean for the classes of hits, and the kit that ships."""

import os

import numpy as np
import soundfile
from mido import Message

from music import DRUMS as DRUM_CHANNEL
from render import RATE, render

HITS = {35: "kick", 36: "kick", 38: "snare", 40: "snare", 42: "hat", 44: "hat", 46: "hat"}
DRUMS = ["closed hat", "open hat", "ride", "crash", "tom", "clap", "rim", "shaker"]
_DRUM_OF = {**dict.fromkeys((42, 44), 0), 46: 1, **dict.fromkeys((51, 53, 59), 2), **dict.fromkeys((49, 52, 55, 57), 3),
            **dict.fromkeys((41, 43, 45, 47, 48, 50), 4), 39: 5, 37: 6, **dict.fromkeys((69, 70, 82), 7)}


def drum_of(pitch):
    """Which of DRUMS a note of General MIDI is; None for kicks, snares and what has no name here."""
    number = _DRUM_OF.get(pitch)
    return None if number is None else DRUMS[number]


QUAY = {"kick": ["01 kick", "02 kick knock"], "snare": ["07 snare", "08 snare dusty"],
        42: ["14 hat"], 44: ["15 hat half"], 46: ["16 hat open"], 49: ["20 crash"], 57: ["20 crash"],
        51: ["19 ride"], 59: ["19 ride"], 53: ["19 ride"], 37: ["09 rim"], 39: ["10 clap"],
        **dict.fromkeys((41, 43, 45, 47, 48, 50), ["04 tom low"]), **dict.fromkeys((60, 61, 62, 63, 64), ["12 conga"]),
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


_kits = {}


def struck_alone(kit, data, velocity):
    """Every sound of a kit by its note, struck once, mono, as loud as the kit has it. Softer strokes
    sound differently on some: of three strengths the nearest."""
    velocity = min((45, 80, 112), key=lambda v: abs(v - velocity))
    if (kit, velocity) not in _kits:
        font, program = kit
        gap, notes = 2.0, list(range(27, 88))
        events = [(0.0, Message("program_change", channel=DRUM_CHANNEL, program=program))] if font != "quay" else []
        for i, note in enumerate(notes):
            events.append((0.1 + gap * i, Message("note_on", channel=DRUM_CHANNEL, note=note, velocity=velocity)))
            if font != "quay":
                events.append((0.3 + gap * i, Message("note_off", channel=DRUM_CHANNEL, note=note)))
        length = gap * len(notes) + 0.5
        whole = with_quay_kit(data, events, length) * 0.25 if font == "quay" else render(font, events, length)
        whole = whole.mean(axis=1)
        whole *= 0.9 / max(1e-6, np.abs(whole).max())
        starts = [int((0.1 + gap * i) * RATE) for i in range(len(notes))]
        _kits[kit, velocity] = {note: whole[at:at + int(1.8 * RATE)].copy() for note, at in zip(notes, starts)}
    return _kits[kit, velocity]


def begin_of(hit):
    """How long after its note a struck sound begins, in seconds: the first millisecond within 20 dB of the
    loudest. Some kits have silence in front of their samples (opl3 has 7 ms), some sounds come slowly."""
    step = RATE // 1000
    levels = np.sqrt(np.mean(hit[:len(hit) // step * step].reshape(-1, step) ** 2, axis=1))
    return float(np.argmax(levels > 0.1 * levels.max())) / 1000
