"""Fits the network that names hits (core/listen/hit_weights.h) on the clips of drums.py.

usage: fit_hits.py LEFT-OUT CLIPS.json FEATURES.bin OUT.h CHECK.json   (features from `learning-inputs hits` over the clips)
LEFT-OUT is an origin of which neither pieces nor sounds are seen, or `none`.
Two layers hear a rise by itself; attention hears it beside those like it, as the same drums come
again and again; gated recurrent units in both directions hear it among its neighbours.
core/listen/hit_names.cpp says it in C++, and CHECK.json has what PyTorch says of a few rises. PyTorch;
the weights written are a running mean over the last steps. A twentieth of the clips is not learnt from,
and the figures printed are of them.
"""

import json
import sys

import numpy as np
import torch
from torch import nn

import network_text
import training
from kits import DRUMS

CLASSES = ["kick", "snare", "hat", "other"]
OUTPUTS = 1 + len(CLASSES) + len(DRUMS)
HIDDEN, HEARD, HEADS, SEEN, STATE, EPOCHS, BATCH, MOST = 192, 64, 4, 16, 64, 14, 32, 64
# On music that it never met the network is right less often than it says; so much of its log odds is
# written. Chosen on the breaks of all origins, each heard by the ear without it.
SURE = 0.8
# How HitDetector::Features are laid out: blocks of a level a band, of which the first is before the rise and the
# eighth its attack; then how noisy it is; then how much the bands rise, and the flux.
BANDS, BLOCKS, BEFORE, ATTACK, RISE = 24, 9, 0, 7, -2
FEATURES = BLOCKS * BANDS + 5 * 6 + 2


class Attention(nn.Module):
    """Scaled dot products of several heads (Vaswani et al. 2017)."""
    def __init__(self, inputs):
        super().__init__()
        self.asked = nn.Linear(inputs, 3 * HEADS * SEEN)

    def forward(self, x, there):
        asked, answer, told = self.asked(x).view(*x.shape[:2], 3, HEADS, SEEN).permute(2, 0, 3, 1, 4)
        likeness = asked @ answer.transpose(-1, -2) / SEEN ** 0.5
        likeness = likeness.masked_fill(~there[:, None, None, :], -1e9)
        return (torch.softmax(likeness, -1) @ told).transpose(1, 2).reshape(*x.shape[:2], -1)


class Namer(nn.Module):
    def __init__(self, features):
        super().__init__()
        self.hidden, self.heard = nn.Linear(features, HIDDEN), nn.Linear(HIDDEN, HEARD)
        self.like = Attention(HEARD)
        known = HEARD + HEADS * SEEN
        self.sight = nn.GRU(known + 2, STATE, batch_first=True, bidirectional=True)
        self.out = nn.Linear(known + 2 * STATE, OUTPUTS)
        self.drop = nn.Dropout(0.1)

    def forward(self, features, ways, there):
        heard = torch.relu(self.heard(self.drop(torch.relu(self.hidden(features)))))
        known = torch.cat([heard, self.like(heard, there)], 2)
        seen, _ = self.sight(torch.cat([known, ways], 2))
        return self.out(self.drop(torch.cat([known, seen], 2)))


def clips_of(left_out, truth_path, features_path, within=0.025):
    """@returns a list of (seconds, features, labels) by clip"""
    with open(truth_path) as file:
        truth = {c["file"]: c for c in json.load(file) if left_out not in c["origins"]}
    clips = []
    for name, rows, _ in training.read_inputs(features_path):
        if name not in truth or len(rows) == 0:
            continue
        labels = np.zeros((len(rows), OUTPUTS), np.float32)
        for hit, at, drum in truth[name]["hits"]:
            nearest = int(np.argmin(np.abs(rows[:, 0] - at)))
            if abs(rows[nearest, 0] - at) < within:
                labels[nearest, 0] = 1
                labels[nearest, 1 + CLASSES.index(hit)] = 1
                if drum:
                    labels[nearest, 1 + len(CLASSES) + DRUMS.index(drum)] = 1
        clips.append((rows[:, 0].copy(), rows[:, 1:].astype(np.float16), labels))
    return clips


def ways(seconds):
    """How far the neighbours are, as wayTo() in hit_names.cpp has it."""
    apart = np.log(np.clip(np.diff(seconds, prepend=seconds[0] - 1, append=seconds[-1] + 1), 0.02, 1) / 0.2)
    return np.stack([apart[:-1], apart[1:]], 1).astype(np.float32)


def cropped(random, clip):
    """A stretch of it; now and then only a few rises: the network must name what has few or no
    neighbours, too."""
    size = MOST if random.uniform() > 0.15 else int(random.integers(1, 13))
    if size >= len(clip[0]):
        return clip
    start = int(random.integers(0, max(1, len(clip[0]) - size)))
    return tuple(part[start:start + size] for part in clip)


def otherwise_heard(random, clip):
    """The same hits through another loudspeaker, and now and then a third of an octave higher or lower: no
    kit is learnt by its place in the spectrum."""
    seconds, features, labels = clip
    features = features.astype(np.float32)
    levels = features[:, :BLOCKS * BANDS].reshape(len(features), BLOCKS, BANDS)
    if random.uniform() < 0.3:
        aside = np.clip(np.arange(BANDS) + random.choice([-1, 1]), 0, BANDS - 1)
        levels = levels[:, :, aside]
    if random.uniform() < 0.8:
        curve = np.interp(np.linspace(0, 5, BANDS), np.arange(6), random.normal(0, 3.5, 6))
        curve -= curve.max() / 2
        levels = np.where(levels > 0, np.maximum(0, levels + curve / 20), 0)
    features[:, :BLOCKS * BANDS] = levels.reshape(len(features), -1)
    features[:, RISE] = np.maximum(0, levels[:, ATTACK] - levels[:, BEFORE]).sum(1) / 8
    return seconds, features, labels


def batch(clips, mean, scale):
    most = max(len(c[0]) for c in clips)
    x = np.zeros((len(clips), most, len(mean)), np.float32)
    w, y = np.zeros((len(clips), most, 2), np.float32), np.zeros((len(clips), most, OUTPUTS), np.float32)
    there = np.zeros((len(clips), most), bool)
    for i, (seconds, features, labels) in enumerate(clips):
        n = len(seconds)
        x[i, :n], w[i, :n], y[i, :n], there[i, :n] = (features - mean) * scale, ways(seconds), labels, True
    return tuple(map(torch.from_numpy, (x, w, y, there)))


def batches(random, clips):
    """Clips of like length together."""
    order, out = random.permutation(len(clips)), []
    for at in range(0, len(order), BATCH * 16):
        some = sorted(order[at:at + BATCH * 16], key=lambda i: len(clips[i][0]))
        out += [[cropped(random, clips[i]) for i in some[k:k + BATCH]] for k in range(0, len(some), BATCH)]
    random.shuffle(out)
    return out


def f_of(model, clips, mean, scale):
    counts = np.zeros((3, 3))
    with torch.no_grad():
        for clip in clips:
            x, w, y, there = batch([clip], mean, scale)
            named, true = torch.sigmoid(model(x, w, there))[0, :, 1:4].numpy() > 0.5, y[0, :, 1:4].numpy() > 0
            counts += np.stack([(named & true).sum(0), named.sum(0), true.sum(0)], 1)
    return {name: round(2 * m / (a + b), 3) for name, (m, a, b) in zip(CLASSES, counts)}


def fit(clips, seed=1):
    torch.manual_seed(seed)
    random = np.random.default_rng(seed)
    kept, learnt = clips[::20], [c for i, c in enumerate(clips) if i % 20]
    some = np.concatenate([c[1][::5].astype(np.float32) for c in learnt])
    mean, scale = some.mean(0), 1 / (some.std(0) + 1e-6)
    model, smooth = Namer(len(mean)), Namer(len(mean))
    smooth.load_state_dict(model.state_dict())
    smooth.eval()
    steps = EPOCHS * len(batches(random, learnt))
    optimizer = torch.optim.AdamW(model.parameters(), 2e-3, weight_decay=1e-2)
    rate = torch.optim.lr_scheduler.OneCycleLR(optimizer, 4e-3, total_steps=steps)
    loss_of = nn.BCEWithLogitsLoss(reduction="none")
    for epoch in range(EPOCHS):
        model.train()
        for some in batches(random, learnt):
            x, w, y, there = batch([otherwise_heard(random, c) for c in some], mean, scale)
            loss = loss_of(model(x, w, there), y)[there].mean()
            optimizer.zero_grad()
            loss.backward()
            nn.utils.clip_grad_norm_(model.parameters(), 1.0)
            optimizer.step()
            rate.step()
            with torch.no_grad():
                for mine, now in zip(smooth.parameters(), model.parameters()):
                    mine.lerp_(now, 0.01)
        print(f"epoch {epoch + 1} of {EPOCHS}: last loss {loss.item():.4f}", flush=True)
    with torch.no_grad():
        smooth.out.weight *= SURE
        smooth.out.bias *= SURE
    return smooth, mean, scale, kept


def write(path, model, mean, scale):
    p = {name: value.detach().numpy() for name, value in model.state_dict().items()}
    arrays = [("Mean", mean), ("Scale", scale),
              ("HiddenWeights", p["hidden.weight"].T), ("HiddenBias", p["hidden.bias"]),
              ("HeardWeights", p["heard.weight"].T), ("HeardBias", p["heard.bias"]),
              ("LikeWeights", p["like.asked.weight"].T), ("LikeBias", p["like.asked.bias"])]
    arrays += network_text.of_both_ways(p, "sight", None)
    arrays += [("OutWeights", p["out.weight"].T), ("OutBias", p["out.bias"])]
    network_text.write(path, "fit_hits.py", "the network that names hits", "kHit", {"Heard": HEARD, "Heads": HEADS, "Seen": SEEN, "State": STATE}, arrays)


def write_check(path, model, mean, scale, clip):
    """Some rises of a clip that was not learnt from, and their likelihoods."""
    frames = np.round(clip[0][:12] * 22050 / 64).astype(int)
    features = np.round(clip[1][:12].astype(np.float64), 3)
    x, w, _, there = batch([(frames * 64 / 22050, features, clip[2][:12])], mean, scale)
    with torch.no_grad():
        likelihoods = torch.sigmoid(model(x, w, there))[0].numpy()
    with open(path, "w") as file:
        json.dump({"frames": frames.tolist(), "features": [[round(float(v), 3) for v in row] for row in features],
                   "likelihoods": [[round(float(v), 5) for v in row] for row in likelihoods]}, file)


def main(left_out, truth_path, features_path, out_path, check_path):
    clips = clips_of(left_out, truth_path, features_path)
    assert clips[0][1].shape[1] == FEATURES, "HitDetector::Features are laid out otherwise"
    print(len(clips), "clips,", sum(len(c[0]) for c in clips), "rises")
    model, mean, scale, kept = fit(clips)
    mean, scale = network_text.rounded(model, mean, scale)
    print("F on the clips not learnt from:", f_of(model, kept, mean, scale))
    write(out_path, model, mean, scale)
    write_check(check_path, model, mean, scale, kept[0])


if __name__ == "__main__":
    main(*sys.argv[1:6])
