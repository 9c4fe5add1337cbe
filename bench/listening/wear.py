"""What happens to sounds on their way: rooms, presses, old samplers, codecs. None of it moves anything in time."""

import os
import subprocess
import tempfile

import numpy as np
import soundfile
from scipy.signal import butter, fftconvolve, sosfilt


def _levelled(out):
    return (out * min(1.0, 0.98 / max(1e-6, float(np.abs(out).max())))).astype(np.float32)


def in_a_room(g, sound, rate):
    """Direct sound and what comes back: noise that dies away, darker as it does (0.2 to 1.2 s to −60 dB)."""
    seconds = g.uniform(0.2, 1.2)
    t = np.arange(int(seconds * rate)) / rate
    tail = g.standard_normal((len(t), 2)) * (10 ** (-3 * t / seconds))[:, None]
    tail[:int(g.uniform(0.004, 0.02) * rate)] = 0
    tail = sosfilt(butter(1, g.uniform(2500, 7000), "lowpass", fs=rate, output="sos"), tail, axis=0)
    tail *= 10 ** (g.uniform(-14, -4) / 20) / np.sqrt(np.sum(tail ** 2, axis=0))
    wet = np.stack([fftconvolve(sound[:, c], tail[:, c])[:len(sound)] for c in (0, 1)], axis=1)
    return _levelled(sound + wet)


def pressed(g, sound, rate):
    """A fast compressor, four to one over a level that is often passed; then a soft ceiling."""
    step = rate // 500
    peaks = np.abs(sound).max(axis=1)
    level = np.maximum.reduceat(peaks, np.arange(0, len(peaks), step))
    fall = np.exp(-step / rate / g.uniform(0.05, 0.2))
    for i in range(1, len(level)):
        level[i] = max(level[i], level[i - 1] * fall)
    threshold = max(1e-4, float(np.quantile(level, 0.5)) * g.uniform(0.3, 0.8))
    gain = np.minimum(1, (np.maximum(level, threshold) / threshold) ** -0.75)
    out = sound * np.interp(np.arange(len(sound)), np.arange(len(gain)) * step, gain)[:, None]
    return _levelled(np.tanh(out / max(1e-6, float(np.abs(out).max())) * g.uniform(1, 2)))


def on_tape(g, sound, rate):
    """Soft saturation, less of the highs, hiss."""
    out = np.tanh(sound / max(1e-6, float(np.abs(sound).max())) * g.uniform(1, 2.5))
    out = sosfilt(butter(1, g.uniform(7000, 13000), "lowpass", fs=rate, output="sos"), out, axis=0)
    return _levelled(out + g.standard_normal(out.shape) * 10 ** (g.uniform(-58, -44) / 20))


def in_mono(g, sound, rate):
    return np.repeat(sound.mean(axis=1, keepdims=True), 2, axis=1).astype(np.float32)


def of_eight_bits(g, sound, rate):
    """As early samplers kept it: 256 steps, and 22 or 27 kHz without a good filter."""
    keep = int(g.choice([1, 2]))
    scale = 127 / max(1e-6, float(np.abs(sound).max()))
    held = np.repeat(sound[::keep], keep, axis=0)[:len(sound)]
    return _levelled(np.round(held * scale) / scale)


def _through(sound, rate, encode, decode, coded):
    """Through a file of another kind and back, by the command lines that write and read it."""
    with tempfile.TemporaryDirectory() as folder:
        paths = [os.path.join(folder, name) for name in ("a.wav", coded, "b.wav")]
        soundfile.write(paths[0], sound, rate, subtype="PCM_16")
        for command, pair in ((encode, paths[:2]), (decode, paths[1:])):
            subprocess.run([*command, *pair], check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        out, back = soundfile.read(paths[2], dtype="float32", always_2d=True)
    if back != rate:
        raise RuntimeError(f"{coded} came back at {back} Hz")
    out = out[:len(sound)]
    return _levelled(np.pad(out, ((0, len(sound) - len(out)), (0, 0))))


def as_mp3(g, sound, rate):
    # Unasked lame takes a lower rate for few bits.
    encode = ["lame", "-b", str(g.choice([64, 96, 128, 192, 320])), "--resample", str(rate / 1000)]
    return _through(sound, rate, encode, ["lame", "--decode"], "a.mp3")


def as_opus(g, sound, rate):
    return _through(sound, rate, ["opusenc", "--bitrate", str(g.choice([64, 96, 160, 256]))],
                    ["opusdec", "--rate", str(rate)], "a.opus")


def quiet(g, sound, rate):
    return (sound * 10 ** (g.uniform(-36, -18) / 20)).astype(np.float32)


WAYS = {"room": in_a_room, "pressed": pressed, "tape": on_tape, "mono": in_mono, "8 bits": of_eight_bits,
        "MP3": as_mp3, "Opus": as_opus, "quiet": quiet}


def worn(g, sound, rate):
    """One or two of them, drawn."""
    for name in g.choice(list(WAYS), int(g.integers(1, 3)), replace=False):
        sound = WAYS[str(name)](g, sound, rate)
    return sound
