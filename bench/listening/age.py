"""A worn disc: speed, wow, band limits, crackle, noise. Every amount is drawn from the generator."""

import numpy as np
from scipy.signal import butter, resample_poly, sosfilt


def speed_map(generator, seconds, ratio):
    """@returns (times of the original, times on the disc), both rising, and the depth of the wow"""
    depth = generator.uniform(0.0005, 0.002)
    rate = generator.uniform(0.45, 0.8)  # 33 and 45 turns a minute
    phase = generator.uniform(0, 2 * np.pi)
    step = 1e-3
    disc = np.arange(0, seconds / ratio + 1, step)
    speed = ratio * (1 + depth * np.sin(2 * np.pi * rate * disc + phase))
    original = np.concatenate([[0], np.cumsum(speed[:-1] * step)])
    return original, disc, depth


def played_back(sound, rate, original, disc):
    """The sound as the disc plays it, by four-fold oversampling and straight lines."""
    length = int(np.interp(len(sound) / rate, original, disc) * rate)
    at = np.interp(np.arange(length) / rate, disc, original) * rate * 4
    fine = resample_poly(sound, 4, 1, axis=0)
    index = np.clip(at.astype(int), 0, len(fine) - 2)
    part = (at - index)[:, None]
    return (fine[index] * (1 - part) + fine[index + 1] * part).astype(np.float32)


def tilted(generator, sound, rate):
    """Towards the lows or the highs."""
    corner = generator.uniform(300, 3000)
    high = sosfilt(butter(1, corner, "highpass", fs=rate, output="sos"), sound, axis=0)
    return sound + high * (10 ** (generator.uniform(-10, 6) / 20) - 1)


def dirtied(generator, sound, rate):
    """Band limits, crackle, rumble and noise."""
    out = sosfilt(butter(2, generator.uniform(40, 110), "highpass", fs=rate, output="sos"), sound, axis=0)
    out = sosfilt(butter(3, generator.uniform(5500, 11000), "lowpass", fs=rate, output="sos"), out, axis=0)
    peak = max(1e-6, float(np.abs(out).max()))
    length = len(out)
    hiss = generator.standard_normal((length, 2)) * peak * 10 ** (generator.uniform(-56, -42) / 20)
    rumble = sosfilt(butter(2, 60, "lowpass", fs=rate, output="sos"),
                     generator.standard_normal((length, 2)), axis=0) * peak * 0.01
    crackle = np.zeros((length, 2))
    for _ in range(generator.poisson(generator.uniform(3, 12) * length / rate)):
        at = int(generator.integers(0, length))
        size = min(int(generator.integers(4, 60)), length - at)
        tick = generator.standard_normal(size) * np.exp(-np.arange(size) / (size / 4))
        crackle[at:at + size] += tick[:, None] * peak * 10 ** (generator.uniform(-34, -8) / 20)
    return (out + hiss + rumble + crackle).astype(np.float32)
