"""Songs in many styles: our own progressions and melodies, accompanied by the grooves of the mma
package. Chords, keys, meters and downbeats are known because they were written down first.

Its grooves come in several folders, each by other hands: the folder `stdlib` is one origin, the
others together are another one. What a groove's file is called is never told to anybody.
"""

import os
import re
import subprocess
import tempfile
import zlib
from multiprocessing import Pool

import mido
import numpy as np

from music import DRUMS, Note, Piece, notes_and_controls

GROOVES = "/usr/share/mma/lib"
LEFT_OUT = re.compile(r"metronome|none", re.I)
# Up to eight bars each, gone round: degrees above the tonic in semitones with their kind. The key is
# what musicians would call it: the tonic begins, ends or is led to by its fifth. The two origins
# have progressions of their own.
PROGRESSIONS = {
    "styles": {
        "major": [
            "0 9m 5 7", "0 4m 5 7", "0maj7 9m7 2m7 77", "0 10 5 7", "0 2m7 77 0maj7", "0maj7 4m7 5maj7 77", "0 7 5 7",
            "0 9m 2m 77", "0 0maj7 07 5 5m 0 77 77", "2m7 77 0maj7 0maj7", "0 8 10 0", "5maj7 77 0maj7 9m7",
            "0 5 0 0 5 5 0 0", "0maj7 57 0maj7 77",
        ],
        "minor": [
            "0m 8 3 7", "0m 10 8 77", "0m7 5m7 2dim 77", "0m 10 5m 7", "0m7 5m7 0m7 77", "0m 5 0m 77", "0m 0m 8 10",
            "5m7 5m7 0m7 0m7", "2dim 77 0m7 0m7", "0m7 8maj7 0m7 77", "0m 5m 0m 0m 8 77 0m 77",
        ],
        "dorian": ["0m7 57", "0m 3 10 5"],
        "mixolydian": ["0 10 5 0", "0 5m 10 0"],
    },
    "keyboards": {
        "major": [
            "0 5 0 7 7", "0 7 9m 5 0 5 7 7", "0 5 2m 7", "07 57 07 77", "0 4 9m 5 2m 77 0 77", "0sus4 0 7sus4 7",
            "0 5m 0 77", "0maj7 5maj7", "5 7 0 0", "0 3 5 0", "0maj7 2m7 4m7 5maj7 77 77 0maj7 0maj7",
            "07 57 07 07 57 57 07 77", "0 9m 7 5",
        ],
        "minor": [
            "0m 5m 77 0m", "0m 0m 5m 7", "0m 3 5m 7 0m 8 77 77", "0m 8 5m 77", "0m 2dim 77 0m", "0m7 3maj7 8maj7 77",
            "8 10 0m 0m", "0m7 0m7 5m7 0m7", "0m 7 0m 7", "0m7 10 8maj7 10", "5m 77 0m 0m",
        ],
        "dorian": ["0m7 57 0m7 57", "0m7 2m7 0m7 57"],
        "mixolydian": ["07 10 57 0", "0 0 10 10"],
    },
}
# For fitting alone progressions are drawn as well: what a mode has on each degree, and how often. What is heard
# in unknown songs is not learnt from thirty known ones.
DEGREES = {
    "major": {"0": 5, "2m": 3, "4m": 2, "5": 5, "7": 5, "9m": 4, "10": 1, "5m": 1, "27": 1, "47": 0.5, "97": 1, "8": 0.5,
              "3": 0.5, "0sus4": 0.3, "7sus4": 0.5, "11dim": 0.3, "07": 0.5},
    "minor": {"0m": 5, "2dim": 1, "3": 3, "5m": 4, "7m": 1.5, "7": 2, "8": 4, "10": 4, "5": 0.5, "1": 0.4, "2m": 0.3,
              "0m7": 1, "7sus4": 0.3, "11dim": 0.3},
    "dorian": {"0m": 5, "2m": 2, "3": 2, "5": 4, "7m": 2, "10": 3},
    "mixolydian": {"0": 5, "2m": 1, "5": 4, "7m": 2, "9m": 1, "10": 4, "07": 2},
}
SEVENTHS = {"": "maj7", "m": "m7"}
MODES = [("major", False, 0.42), ("minor", True, 0.38), ("dorian", True, 0.1), ("mixolydian", False, 0.1)]
NAMES = ["C", "Db", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B"]
KINDS = {"": "maj", "m": "min", "7": "7", "m7": "min7", "maj7": "maj7", "dim": "dim", "sus4": "sus4"}
TONES = {"maj": (0, 4, 7), "min": (0, 3, 7), "dim": (0, 3, 6), "sus4": (0, 5, 7), "maj7": (0, 4, 7, 11),
         "min7": (0, 3, 7, 10), "7": (0, 4, 7, 10)}
SOLOS = [4, 11, 16, 24, 26, 56, 65, 66, 73, 80]  # programs of General MIDI


def grooves():
    """(origin, path of the file, its first groove), in an order of their own."""
    out = []
    for folder in sorted(os.listdir(GROOVES)):
        place = os.path.join(GROOVES, folder)
        for file in sorted(os.listdir(place)) if os.path.isdir(place) else []:
            if not file.endswith(".mma") or LEFT_OUT.search(file):
                continue
            with open(os.path.join(place, file), encoding="latin-1") as text:
                found = re.search(r"^\s*DefGroove\s+(\S+)", text.read(), re.I | re.M)
            if found:
                origin = "styles" if folder == "stdlib" else "keyboards"
                out.append((origin, os.path.join(folder, file[:-4]), found.group(1)))
    return out


def read_progression(text):
    """[(semitones above the tonic, kind)] of "0 9m 5 77"."""
    out = []
    for word in text.split():
        degree, kind = re.fullmatch(r"(10|11|\d)(.*)", word).groups()
        out.append((int(degree), KINDS[kind]))
    return out


def drawn_progression(g, mode):
    """Two to eight bars that the tonic begins or ends, or to which a fifth leads."""
    degrees = DEGREES[mode]
    names, shares = list(degrees), np.array(list(degrees.values()))
    home, led = ("0m", "7") if mode in ("minor", "dorian") else ("0", "7")
    length = int(g.choice([2, 4, 4, 4, 8, 8, 5, 6]))
    out = [str(d) for d in g.choice(names, length, p=shares / shares.sum())]
    how = g.uniform()
    if how < 0.7:
        out[0] = home
    elif how < 0.85:
        out[-1] = home
    if how > 0.85 or g.uniform() < 0.3:
        out[-1] = led if mode != "mixolydian" else "10"
        out[0] = home
    if g.uniform() < 0.35:  # with sevenths
        for i, name in enumerate(out):
            degree, kind = re.fullmatch(r"(10|11|\d)(.*)", name).groups()
            seventh = "7" if degree == "7" and kind == "" else SEVENTHS.get(kind, kind)
            out[i] = degree + (seventh if g.uniform() < 0.8 else kind)
    return " ".join(out)


def written(g, origin, drawn=False):
    """Key and one chord a bar, 32 bars: A A B A, each of eight bars.
    @param drawn  of progressions that nobody wrote"""
    mode, minor, _ = MODES[int(g.choice(len(MODES), p=[share for _, _, share in MODES]))]
    tonic = int(g.integers(12))
    parts = []
    for loop in [drawn_progression(g, mode) for _ in range(2)] if drawn else g.choice(PROGRESSIONS[origin][mode], 2):
        chords = read_progression(loop)
        parts.append([chords[i % len(chords)] for i in range(8)])
    bars = parts[0] + parts[0] + parts[1] + parts[0]
    return [tonic, minor], [((tonic + degree) % 12, kind) for degree, kind in bars]


def accompanied(groove, bars, tempo):
    """The MIDI file that mma makes of the bars; nothing where it cannot."""
    suffix = {kind: text for text, kind in KINDS.items()}
    # mma plays each time a little differently; the same every time for us.
    lines = ["RndSeed 1", f"Tempo {tempo}", f"Groove {groove}"]
    lines += [f"{i + 1} {NAMES[root]}{suffix[kind]}" for i, (root, kind) in enumerate(bars)]
    with tempfile.TemporaryDirectory() as folder:
        source, out = os.path.join(folder, "a.mma"), os.path.join(folder, "a.mid")
        with open(source, "w") as file:
            file.write("\n".join(lines) + "\n")
        done = subprocess.run(["mma", source, "-f", out], capture_output=True, timeout=60)
        return mido.MidiFile(out) if done.returncode == 0 and os.path.exists(out) else None


def melody(g, bars, per_bar, tonic, minor):
    """Phrases of two bars over the chords, on eighths, mostly in steps; rests between them."""
    scale = [(tonic + s) % 12 for s in ((0, 2, 3, 5, 7, 8, 10) if minor else (0, 2, 4, 5, 7, 9, 11))]
    pitch, notes = int(g.integers(64, 76)), []
    for bar in range(0, len(bars), 2):
        if g.uniform() < 0.2:
            continue
        at, end = bar * per_bar + float(g.choice([0, 0, 0.5, 1])), (bar + 2) * per_bar - 0.5
        while at < end:
            length = float(g.choice([0.5, 0.5, 1, 1, 1.5, 2]))
            root, kind = bars[min(len(bars) - 1, int(at // per_bar))]
            inside = {(root + t) % 12 for t in TONES[kind]} if at == int(at) else set(scale)
            near = [p for p in range(pitch - 5, pitch + 6) if p % 12 in inside and 58 <= p <= 84]
            pitch = int(g.choice(near)) if near else pitch
            notes.append(Note(at, min(at + length * 0.9, end), pitch, int(g.integers(70, 112)), 0))
            at += length
    return notes


def swing_of(notes, per_beat=2):
    """Where the second eighth of a beat lies, 0.5 to 0.75; nothing where too few notes lie there."""
    places = np.array([n.start % 1 for n in notes])
    off = places[(places > 0.45) & (places < 0.78)]
    if len(off) < 0.1 * len(places) or len(off) < 16:
        return None
    return float(np.median(off))


def make(job):
    origin, name, groove, drawn = job
    seed = zlib.crc32((name + f"#{drawn}" * (drawn > 0)).encode())
    g = np.random.default_rng(seed)
    key, bars = written(g, origin, drawn > 0)
    midi = accompanied(groove, bars, 100)
    if midi is None:
        return "not accompanied"
    notes, controls, meters = notes_and_controls(midi)
    if len(notes) < 100:
        return "empty"
    pulses = round(max(n.end for n in notes) / len(bars))  # of mma, in a bar
    numerator, unit = meters[0][1:] if meters else (4, 4)
    scale, meter = 1.0, pulses
    if unit == 8 and pulses % 3 == 0:
        scale, meter = 1 / 3, pulses // 3
    elif (numerator, unit) != (pulses, 4):
        return "a meter of its own"
    for note in notes:
        note.start, note.end = note.start * scale, note.end * scale
    controls = [(at * scale, message) for at, message in controls]
    drums = [n for n in notes if n.channel == DRUMS]
    # Some grooves are drums alone, or next to it: nothing of what is written over them would be heard.
    accompanied_by = sum(n.channel not in (DRUMS, 0) for n in notes)
    sung = accompanied_by >= 2 * len(bars)
    if g.uniform() < 0.5:
        program, tune = int(g.choice(SOLOS)), melody(g, bars, meter, *key)
        if sung:
            controls.insert(0, (0.0, mido.Message("program_change", channel=0, program=program)))
            notes = [n for n in notes if n.channel != 0] + tune
    if drums and g.uniform() < 0.15 and len(notes) > len(drums) + 100:
        notes = [n for n in notes if n.channel != DRUMS]
    notes.sort(key=lambda n: (n.start, n.pitch))
    tempo = float(np.clip(np.exp(g.normal(np.log(108), 0.26)), 60, 180))
    piece = Piece(f"{origin}-{seed:08x}", tempo, meter, notes, controls, len(bars) * meter, 1.0, seed)
    piece.origin, piece.chords = origin, []
    if sung:
        piece.key = key
        piece.chords = [(bar * meter, root, kind) for bar, (root, kind) in enumerate(bars)]
    else:
        piece.notes = [n for n in notes if n.channel == DRUMS]
    piece.swing = swing_of(notes)
    return piece


def pieces(origin, drawn=0):
    """@param drawn  with progressions that are drawn, others for every number
    @returns pieces in the order of their names, and how many were left out, by reason"""
    kept, left = [], {}
    jobs = [(*job, drawn) for job in grooves() if job[0] == origin]
    with Pool() as pool:
        for job, got in zip(jobs, pool.imap(make, jobs)):
            left.setdefault(got, []).append(job[1]) if isinstance(got, str) else kept.append(got)
    kept.sort(key=lambda p: p.name)
    return kept, left


if __name__ == "__main__":
    some, out = [], {}
    for origin in ("styles", "keyboards"):
        kept, left = pieces(origin)
        some += kept
        out[origin] = left
    for p in some:
        print(f"{p.name} {p.bpm:6.1f} BPM meter {p.meter} {p.beats} beats, swing {p.swing}, key {p.key}, "
              f"drums {sum(n.channel == DRUMS for n in p.notes)} of {len(p.notes)}")
    print({name: {why: len(names) for why, names in left.items()} for name, left in out.items()}, len(some))
