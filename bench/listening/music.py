"""The music of the listening bench: MIDI pieces packaged in Debian, read into notes.

The pieces of `games` are the music lumps of the freedoom package (WAD: a header, then a directory of
offset, size and eight-letter name), those of `travels` the files of simutrans-data. Only pieces of
one tempo are used, and of those only the ones whose notes follow the written beat; what is left out
is counted.
"""

import bisect
import glob
import io
import os
import struct
import zlib
from dataclasses import dataclass, field

import mido

TRAVELS = "/usr/share/games/simutrans/music"
WADS = ["/usr/share/games/doom/freedoom1.wad", "/usr/share/games/doom/freedoom2.wad"]
DRUMS = 9  # MIDI channel 10


@dataclass
class Note:
    start: float  # in beats
    end: float
    pitch: int
    velocity: int
    channel: int


@dataclass
class Piece:
    name: str
    bpm: float  # beats a minute as written
    meter: int  # beats in a bar
    notes: list = field(default_factory=list)
    controls: list = field(default_factory=list)  # (beats, mido message), in order
    beats: float = 0  # length
    on_grid: float = 0  # share of notes on sixteenths or triplets
    seed: int = 0
    origin: str = "games"  # where the music is from
    key: list = None  # [tonic, minor] where it was written down; else the notes say it
    chords: list = None  # (beat, root, kind) likewise
    swing: float = None  # where the second eighth of a beat lies, where it is felt at all


def lumps():
    """(name, bytes) of every different MIDI lump."""
    seen = set()
    for path in WADS:
        with open(path, "rb") as file:
            data = file.read()
        count, directory = struct.unpack("<ii", data[4:12])
        for i in range(count):
            at, size, name = struct.unpack("<ii8s", data[directory + 16 * i:directory + 16 * i + 16])
            body = data[at:at + size]
            if body[:4] == b"MThd" and zlib.crc32(body) not in seen:
                seen.add(zlib.crc32(body))
                yield name.rstrip(b"\0").decode(), body


def notes_and_controls(midi):
    """Notes, controls and meters (at, beats in a bar, unit) of a MIDI file, in quarters."""
    notes, controls, meters, open_notes = [], [], [], {}
    for track in midi.tracks:
        tick = 0
        for message in track:
            tick += message.time
            at = tick / midi.ticks_per_beat
            if message.type == "time_signature":
                meters.append((at, message.numerator, message.denominator))
            elif message.type == "note_on" and message.velocity > 0:
                open_notes.setdefault((message.channel, message.note), []).append((at, message.velocity))
            elif message.type in ("note_off", "note_on"):
                held = open_notes.get((message.channel, message.note))
                if held:
                    start, velocity = held.pop(0)
                    notes.append(Note(start, max(at, start + 0.02), message.note, velocity, message.channel))
            elif message.type in ("program_change", "control_change", "pitchwheel"):
                controls.append((at, message))
    return notes, controls, meters


def read(name, body):
    """@returns a Piece, or why it is left out (a word)."""
    try:
        midi = mido.MidiFile(file=io.BytesIO(body))
    except mido.KeySignatureError:
        return "cannot be read"
    notes, controls, meters = notes_and_controls(midi)
    tempos = []
    for track in midi.tracks:
        tick = 0
        for message in track:
            tick += message.time
            if message.type == "set_tempo":
                tempos.append((tick / midi.ticks_per_beat, message.tempo))
    if not notes:
        return "empty"
    notes.sort(key=lambda n: (n.start, n.pitch))
    first, last = notes[0].start, max(n.end for n in notes)
    running = [t for t in tempos if t[0] < last]
    inside = {round(t, 0) for at, t in running if at > first + 1e-6}
    before = [t for at, t in sorted(running, key=lambda x: x[0]) if at <= first + 1e-6]
    tempo = before[-1] if before else 500000
    if any(abs(t - tempo) > 1 for t in inside):
        return "several tempos"
    changes = {m[1:] for m in meters if m[0] < last}
    if len(changes) > 1:
        return "several meters"
    beats_bar, unit = next(iter(changes)) if changes else (4, 4)
    scale = 1.0  # quarters to beats
    meter = beats_bar
    if unit == 8 and beats_bar % 3 == 0:
        scale, meter = 1 / 1.5, beats_bar // 3
    elif unit != 4:
        scale = unit / 4
    for note in notes:
        note.start *= scale
        note.end *= scale
    controls = sorted(((at * scale, m) for at, m in controls), key=lambda c: c[0])
    grid = sum(1 for n in notes
               if min(abs(n.start * k - round(n.start * k)) / k for k in (4, 3)) < 0.03) / len(notes)
    piece = Piece(name, 60e6 / tempo * scale, meter, notes, controls,
                  last * scale, grid, zlib.crc32(body))
    if grid < 0.5:
        return "notes off the written beat"
    if piece.beats < 64:
        return "short"
    return piece


def travels():
    """(name, bytes); what a file is called is told to nobody."""
    for path in sorted(glob.glob(os.path.join(TRAVELS, "*.mid"))):
        with open(path, "rb") as file:
            yield f"travels-{zlib.crc32(os.path.basename(path).encode()):08x}", file.read()


def pieces(origin="games"):
    """@returns pieces in the order of their names, and how many were left out, by reason."""
    kept, left = [], {}
    for name, body in lumps() if origin == "games" else travels():
        got = read(name, body)
        if isinstance(got, str):
            left.setdefault(got, []).append(name)
        else:
            got.origin = origin
            kept.append(got)
    kept.sort(key=lambda p: p.name)
    return kept, left


def state_at(piece, beats):
    """The controls in force at a place: the last of each kind and channel before it."""
    last = {}
    at = bisect.bisect_right([c[0] for c in piece.controls], beats)
    for _, message in piece.controls[:at]:
        last[(message.type, message.channel, getattr(message, "control", 0))] = message
    return list(last.values())


if __name__ == "__main__":
    kept, left = pieces()
    for p in kept:
        drums = sum(1 for n in p.notes if n.channel == DRUMS)
        print(f"{p.name:9} {p.bpm:6.1f} BPM meter {p.meter} {p.beats:6.0f} beats "
              f"on grid {p.on_grid:.2f} drums {drums} of {len(p.notes)}")
    print({k: v for k, v in left.items()}, len(kept))
