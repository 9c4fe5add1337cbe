"""Fits the sense of beats (core/listen/beat_weights.h).

usage: fit_beats.py LEFT-OUT OUT.h CHECK.json FOLDER...
Each folder has a corpus (truth.json) and what `learning-inputs beats` says of it (beat-inputs.bin). LEFT-OUT is
an origin of which neither pieces nor sounds are seen, or `none`. Stretches of nine seconds at drawn
speeds, bands louder and quieter by chance; PyTorch; the weights written are a running mean over the
last steps. CHECK.json has what PyTorch says of a few moments.
"""

import json
import sys

import numpy as np
import torch
from torch import nn

import network_text
import training

RATE = 22050 / 384
RISES, STATE, STRETCH, BATCH, STEPS = 20, 32, int(9 * RATE), 96, 280


class Sense(nn.Module):
    def __init__(self, inputs):
        super().__init__()
        self.both = nn.GRU(inputs, STATE, 2, batch_first=True, bidirectional=True, dropout=0.15)
        self.out = nn.Linear(2 * STATE, 2)

    def forward(self, x):
        seen, _ = self.both(x)
        return self.out(seen)


def examples(folders, left_out):
    """@returns [(truth, frames × inputs)]"""
    return [(t, rows.astype(np.float16)) for t, rows, _ in training.examples(folders, "beat-inputs.bin", left_out)]


def near(times, frames):
    """How near each frame is to one of the times: 1 on it, a bell 17 ms wide around it."""
    out = np.zeros(frames, np.float32)
    for at in times:
        centre = int(round(at * RATE))
        for t in range(max(0, centre - 3), min(frames, centre + 4)):
            out[t] = max(out[t], np.exp(-0.5 * ((t / RATE - at) / 0.017) ** 2))
    return out


def drawn(g, example):
    """A stretch at another speed. @returns inputs, targets, where it is anything at all"""
    truth, inputs = example
    bpm = truth["bpm"] or 100
    speed = np.exp(g.uniform(max(np.log(0.75), np.log(52 / bpm)), max(np.log(0.8), min(np.log(1.33), np.log(205 / bpm)))))
    # A clip that is shorter than the stretch is heard whole.
    whole = int(len(inputs) / speed)
    size = min(STRETCH, whole)
    begin = int(g.integers(0, whole - size + 1))
    places = (begin + np.arange(size)) * speed
    low = np.minimum(places.astype(int), len(inputs) - 2)
    part = (places - low)[:, None].astype(np.float32)
    x = inputs[low].astype(np.float32) * (1 - part) + inputs[low + 1].astype(np.float32) * part
    tilt = np.exp(np.interp(np.linspace(0, 1, RISES), np.linspace(0, 1, 5), g.normal(0, 0.25, 5)))
    x[:, :RISES] *= tilt
    x[:, RISES:-6] += np.interp(np.linspace(0, 1, x.shape[1] - RISES - 6), np.linspace(0, 1, 4), g.normal(0, 0.3, 4))
    y = np.stack([near(np.array(truth[name]) / speed - begin / RATE, size) for name in ("beats", "downbeats")], 1)
    return x, y


def batch(g, some, mean, scale):
    pairs = [drawn(g, e) for e in some]
    most = max(len(x) for x, _ in pairs)
    x, y = np.zeros((len(some), most, len(mean)), np.float32), np.zeros((len(some), most, 2), np.float32)
    there = np.zeros((len(some), most), bool)
    for i, (given, wanted) in enumerate(pairs):
        n = len(given)
        x[i, :n], y[i, :n], there[i, :n] = (given - mean) * scale, wanted, True
    return tuple(map(torch.from_numpy, (x, y, there)))


def fit(rows, seed=1):
    torch.manual_seed(seed)
    torch.set_num_threads(1)
    g = np.random.default_rng(seed)
    some = np.concatenate([x[::20].astype(np.float32) for _, x in rows])
    mean, scale = some.mean(0), 1 / (some.std(0) + 1e-6)
    bce = nn.BCEWithLogitsLoss(reduction="none")

    def loss_of(model):
        x, y, there = batch(g, [rows[i] for i in g.choice(len(rows), BATCH, replace=False)], mean, scale)
        return bce(model(x), y)[there].mean()

    return training.fit(lambda: Sense(len(mean)), loss_of, STEPS, 1e-2), mean, scale


def write(path, model, mean, scale):
    p = {name: value.detach().numpy() for name, value in model.state_dict().items()}
    arrays = [("Mean", mean), ("Scale", scale)]
    for layer in (0, 1):
        arrays += network_text.of_both_ways(p, "both", layer)
    arrays += [("OutWeights", p["out.weight"].T), ("OutBias", p["out.bias"])]
    network_text.write(path, "fit_beats.py", "the sense of beats", "kBeat", {"State": STATE}, arrays)


def main(left_out, out_path, check_path, *folders):
    rows = examples(folders, left_out)
    print(len(rows), "files without", left_out, flush=True)
    model, mean, scale = fit(rows)
    mean, scale = network_text.rounded(model, mean, scale)
    write(out_path, model, mean, scale)
    inputs = np.round(rows[0][1][:120].astype(np.float64), 2)
    with torch.no_grad():
        said = torch.sigmoid(model(torch.from_numpy(((inputs - mean) * scale)[None].astype(np.float32))))[0].numpy()
    with open(check_path, "w") as file:
        json.dump({"inputs": [[round(float(v), 2) for v in row] for row in inputs],
                   "said": [[round(float(v), 5) for v in row] for row in said]}, file)


if __name__ == "__main__":
    main(*sys.argv[1:])
