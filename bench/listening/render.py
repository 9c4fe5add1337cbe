"""Notes to sound: libfluidsynth for SoundFonts, TiMidity++ for the freepats patch set.

Events are laid to the frame (fluidsynth takes them at its next 64 frames, TiMidity++ at its next
millisecond), so that truth holds to about a millisecond and a half.
"""

import ctypes
import ctypes.util
import glob
import os
import subprocess
import tempfile

import mido
import numpy as np
import soundfile

from music import DRUMS

RATE = 44100
FONTS = {
    "timgm6mb": "/usr/share/sounds/sf2/TimGM6mb.sf2",
    "opl3": "/usr/share/sounds/sf2/OPL-3_FM_128M.sf2",
    "airfont": "/usr/share/sounds/sf2/A320U.sf2",
    "general": "/usr/share/minuet/soundfonts/GeneralUser-v1.47.sf2",
    "freepats": None,
}
# Sampled acoustic kits, each a font of its own whose only instrument is a kit.
for _i, _path in enumerate(sorted(glob.glob("/usr/share/sounds/sf2/*_LV2.sf2"))):
    FONTS[f"acoustic{_i}"] = _path
# How far the fonts' own samples are off A4 = 440 Hz, in cents: the middle over instruments, as
# `python3 render.py` measures it on single notes.
CENTS = {"timgm6mb": 2.8, "airfont": 0.3, "opl3": -8.7, "general": 2.4, "freepats": 0.1}
# Their notes for those of General MIDI (percussion key map) that lie elsewhere on them.
ACOUSTIC = {35: 36, 48: 45, 50: 45, 52: 57, 70: 64, 69: 64, 82: 64, 80: 37, 81: 37, 75: 37, 76: 37, 77: 37,
            62: 45, 63: 45, 64: 41, 60: 45, 61: 41, 65: 45, 66: 41}

_fluid = None


def _library():
    global _fluid
    if _fluid is None:
        _fluid = ctypes.CDLL(ctypes.util.find_library("fluidsynth") or "libfluidsynth.so.3")
        for name in ("new_fluid_settings", "new_fluid_synth"):
            getattr(_fluid, name).restype = ctypes.c_void_p
    return _fluid


def _with_fluid(font, events, seconds):
    lib = _library()
    settings = ctypes.c_void_p(lib.new_fluid_settings())
    lib.fluid_settings_setnum(settings, b"synth.sample-rate", ctypes.c_double(RATE))
    lib.fluid_settings_setnum(settings, b"synth.gain", ctypes.c_double(0.3))
    lib.fluid_settings_setint(settings, b"synth.threadsafe-api", 0)
    synth = ctypes.c_void_p(lib.new_fluid_synth(settings))
    if lib.fluid_synth_sfload(synth, FONTS[font].encode(), 1) < 0:
        raise RuntimeError("cannot load " + FONTS[font])
    total = int(round(seconds * RATE))
    left, right = np.zeros(total, np.float32), np.zeros(total, np.float32)
    done = 0

    def write(until):
        nonlocal done
        until = min(until, total)
        if until > done:
            lib.fluid_synth_write_float(
                synth, until - done, left[done:].ctypes.data_as(ctypes.c_void_p), 0, 1,
                right[done:].ctypes.data_as(ctypes.c_void_p), 0, 1)
            done = until

    acoustic = font.startswith("acoustic")
    if acoustic:
        lib.fluid_synth_set_channel_type(synth, DRUMS, 0)  # a kit as an instrument
        lib.fluid_synth_program_change(synth, DRUMS, 0)
    for at, m in events:
        write(int(round(at * RATE)))
        if acoustic:
            if m.type not in ("note_on", "note_off"):
                continue
            m = m.copy(note=ACOUSTIC.get(m.note, m.note))
        if m.type == "note_on" and m.velocity > 0:
            lib.fluid_synth_noteon(synth, m.channel, m.note, m.velocity)
        elif m.type in ("note_off", "note_on"):
            lib.fluid_synth_noteoff(synth, m.channel, m.note)
        elif m.type == "program_change":
            lib.fluid_synth_program_change(synth, m.channel, m.program)
        elif m.type == "control_change":
            lib.fluid_synth_cc(synth, m.channel, m.control, m.value)
        elif m.type == "pitchwheel":
            lib.fluid_synth_pitch_bend(synth, m.channel, m.pitch + 8192)
    write(total)
    lib.delete_fluid_synth(synth)
    lib.delete_fluid_settings(settings)
    return np.stack([left, right], axis=1)


def _with_timidity(events, seconds):
    # A beat is a second and a tick a millisecond. A click at the start marks where time begins.
    lead = 1.0
    midi = mido.MidiFile(type=0, ticks_per_beat=1000)
    track = mido.MidiTrack()
    midi.tracks.append(track)
    track.append(mido.MetaMessage("set_tempo", tempo=1000000))
    track.append(mido.Message("note_on", channel=DRUMS, note=37, velocity=127))
    tick = 0
    for at, m in events:
        now = max(tick, int(round((at + lead) * 1000)))
        track.append(m.copy(time=now - tick))
        tick = now
    with tempfile.TemporaryDirectory() as folder:
        midi.save(os.path.join(folder, "a.mid"))
        # Else it drops voices where the machine is busy, and the same music is another sound.
        subprocess.run(["timidity", "-c", "/etc/timidity/freepats.cfg", "-Ow", "-s", str(RATE), "-A60",
                        "--no-polyphony-reduction", "-o", os.path.join(folder, "a.wav"), os.path.join(folder, "a.mid")],
                       check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        sound, _ = soundfile.read(os.path.join(folder, "a.wav"), dtype="float32", always_2d=True)
    loud = np.abs(sound).max(axis=1)
    start = int(np.argmax(loud[:RATE] > 0.02 * loud[:RATE].max())) if loud[:RATE].max() > 0 else 0
    start += int(lead * RATE)
    total = int(round(seconds * RATE))
    out = np.zeros((total, 2), np.float32)
    part = sound[start:start + total]
    out[:len(part)] = part
    return out


def render(font, events, seconds):
    """@param events  (seconds, mido message), in order. @returns frames × 2 float32"""
    if font == "freepats":
        return _with_timidity(events, seconds)
    return _with_fluid(font, events, seconds)


def _cents_of(sound, hertz):
    """Of the stronger of two partials, by the peak of a long spectrum."""
    size, best = 1 << 18, []
    magnitude = np.abs(np.fft.rfft(sound * np.hanning(len(sound)), size))
    for f in (hertz, 2 * hertz):
        low, high = (int(f * 2 ** (c / 1200) * size / RATE) for c in (-60, 60))
        k = low + int(np.argmax(magnitude[low:high]))
        if low < k < high - 1:
            a, b, c = np.log(magnitude[k - 1:k + 2] + 1e-12)
            place = k + 0.5 * (a - c) / (a - 2 * b + c)
            best.append((magnitude[k], 1200 * np.log2(place * RATE / size / f)))
    return max(best)[1] if best else None


def measured_cents(font):
    found = []
    for program in range(0, 80, 3):
        for note in (57, 64, 72):
            events = [(0.0, mido.Message("program_change", channel=0, program=program)),
                      (0.05, mido.Message("note_on", channel=0, note=note, velocity=100)),
                      (1.15, mido.Message("note_off", channel=0, note=note))]
            sound = render(font, events, 1.2).mean(axis=1)[int(0.15 * RATE):int(1.1 * RATE)]
            cents = _cents_of(sound, 440 * 2 ** ((note - 69) / 12)) if np.abs(sound).max() > 1e-3 else None
            if cents is not None:
                found.append(cents)
    return float(np.median(found))


if __name__ == "__main__":
    for name in CENTS:
        print(name, f"{measured_cents(name):.1f}")
