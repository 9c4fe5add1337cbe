"""Fits the sense of chords and keys (core/listen/tone_weights.h).

usage: fit_tones.py LEFT-OUT OUT.h CHECK.json FOLDER...
Each folder has a corpus (truth.json) and what `learning-inputs tones` says of it (tone-inputs.bin). LEFT-OUT is
an origin of which neither pieces nor sounds are seen, or `none`. Stretches are beats, at times of
half or twice the pulse, or not of the music at all; registers are louder or softer by chance, and
the notes that drums seem to play are added to others. PyTorch; the weights written are a running
mean over the last steps. CHECK.json has what PyTorch says of a few stretches.
"""

import json
import sys

import numpy as np
import torch
from torch import nn

import network_text
import training

KINDS = ["maj", "min", "dim", "sus2", "sus4", "maj7", "min7", "7"]
GRAIN_S = 2 * 1024 / 11025
LOW, STATE, BATCH, TOGETHER, STEPS, MOST, NONE, KEYLESS = 28, 32, 48, 8, 900, 56, 96, 24
FOLD = np.zeros((56, 3, 12), np.float32)
for note in range(56):
    FOLD[note, 0 if note + LOW < 48 else 1 if note + LOW < 64 else 2, (note + LOW) % 12] = 1
# What speaks for a key beside what is learnt: the two profiles and the bass on the tonic. It begins at
# the first weights and is fitted with the rest; then the second are added. Profiles know no style
# better than another, so on music that was never met they are worth more than the fit thinks: of 0 to
# 12 more, 4 was best for the mean likelihood over the origins left out, whichever of them was not asked.
AGREE, AGREE_MORE = [4.0, 2.0, 1.0], [3.0, 1.0, 0.0]
ROTATED = np.array([[(root + k) % 12 for k in range(12)] for root in range(12)])
# Major and minor. Krumhansl & Kessler (1982), as printed in Krumhansl, Cognitive Foundations of Musical
# Pitch, 1990; Albrecht & Shanahan (2013), Music Perception 31(1), table 2, from memory.
PROFILES = [[[6.35, 2.23, 3.48, 2.33, 4.38, 4.09, 2.52, 5.19, 2.39, 3.66, 2.29, 2.88],
             [6.33, 2.68, 3.52, 5.38, 2.60, 3.53, 2.54, 4.75, 3.98, 2.69, 3.34, 3.17]],
            [[.238, .006, .111, .006, .137, .094, .016, .214, .009, .080, .008, .081],
             [.220, .006, .104, .123, .019, .103, .012, .214, .062, .022, .061, .052]]]


class Sense(nn.Module):
    def __init__(self):
        super().__init__()
        self.both = nn.GRU(38, STATE, 1, batch_first=True, bidirectional=True)
        self.chord, self.key = nn.Linear(2 * STATE, len(KINDS) + 1), nn.Linear(2 * STATE, 3)
        self.drop, self.keydrop = nn.Dropout(0.2), nn.Dropout(0.5)
        p = torch.tensor(PROFILES)
        p = p - p.mean(2, keepdim=True)
        self.profiles = p / p.norm(dim=2, keepdim=True)  # no parameter: it is not learnt
        self.agree = nn.Parameter(torch.tensor(AGREE))

    def agreement(self, x):
        """How well each tonic's two modes agree with the profiles, and how much its bass sounds.
        @returns files × 12 × 2"""
        power = (x[..., :36] ** 2 * x[..., 36:37] ** 2).sum(2)
        power = power / (power.sum(2, keepdim=True) + 1e-6)
        chroma = power.reshape(*power.shape[:2], 3, 12).sum(2)
        bass = power[..., 0] / (power[..., :12].sum(2) + 1e-6)
        chroma = chroma - chroma.mean(2, keepdim=True)
        chroma = chroma / (chroma.norm(dim=2, keepdim=True) + 1e-6)
        like = torch.einsum("fck,pmk->fcmp", chroma, self.profiles)
        return like @ self.agree[:2] + (bass * self.agree[2])[..., None]

    def forward(self, x):
        """@param x  files × 12 × stretches × 38 @returns files × stretches × 97, files × 25"""
        files, roots, count, width = x.shape
        seen, _ = self.both(x.reshape(files * 12, count, width))
        mean = seen.mean(1)
        seen = self.drop(seen)
        chords = self.chord(seen).reshape(files, 12, count, -1).permute(0, 2, 1, 3)
        none = chords[..., -1].mean(2, keepdim=True)
        chords = torch.cat([chords[..., :-1].reshape(files, count, -1), none], 2)
        keys = self.key(self.keydrop(mean)).reshape(files, 12, 3)
        modes = keys[..., :2] + self.agreement(x)
        return chords, torch.cat([modes[..., 0], modes[..., 1], keys[..., 2].mean(1, keepdim=True)], 1)


def examples(folders, left_out):
    """@returns [(truth, grains × 56, cents)]"""
    return [row for row in training.examples(folders, "tone-inputs.bin", left_out) if len(row[1]) > 4]


def chord_at(t, beats, when, shift):
    """The number of the chord that sounds at a time; −1 where it is not known."""
    if not t["chords"]:
        return NONE
    k = int(np.searchsorted(beats, when + 1e-3)) - 1
    if not 0 <= k < len(t["chords"]) or t["chords"][k] is None:
        return -1
    root, kind = t["chords"][k]
    return (root + shift) % 12 * len(KINDS) + KINDS.index(kind)


def between(grains, edges):
    """What sounds between each edge and the next, on average."""
    places = np.round(edges / GRAIN_S).astype(int)
    first = np.clip(places[:-1], 0, len(grains) - 1)
    last = np.clip(places[1:], first + 1, len(grains))
    sums = np.concatenate([np.zeros((1, grains.shape[1])), np.cumsum(grains, 0, np.float64)])
    return (sums[last] - sums[first]) / (last - first)[:, None]


def inputs_of(notes, downbeat):
    """12 × stretches × 38, as senseTones() in tone_sense.cpp has it."""
    sums = notes.sum(1, keepdims=True) + 1e-6
    usual = sums.mean()
    chroma = np.sqrt(np.einsum("sn,nrk->srk", notes, FOLD) / sums[:, :, None])
    turned = chroma[:, :, ROTATED].transpose(2, 0, 1, 3).reshape(12, len(notes), 36)
    more = np.stack([np.minimum(2, np.sqrt(sums[:, 0] / usual)), downbeat], 1).astype(np.float32)
    return np.concatenate([turned, np.repeat(more[None], 12, 0)], 2).astype(np.float32)


def stretches(t, seconds, g=None):
    """(edges, which begin a bar): beats, or what may be heard instead of them."""
    beats, downs = np.array(t["beats"]), set(t["downbeats"])
    if len(beats) < 4 or (g is not None and g.uniform() < 0.12):
        edges = np.arange(0, seconds, 4096 / 11025)
        return edges, np.zeros(len(edges), bool)
    if g is not None:
        way = g.uniform()
        if way < 0.12:
            beats = beats[int(g.integers(2))::2]
        elif way < 0.2:
            beats = np.interp(np.arange(0, len(beats) - 0.9, 0.5), np.arange(len(beats)), beats)
    first = np.array([b in downs for b in beats])
    if g is not None:
        way = g.uniform()
        first = np.zeros(len(beats), bool) if way < 0.1 else np.roll(first, int(g.integers(4))) if way < 0.3 else first
        beats = beats + g.normal(0, 0.01) + (g.uniform() < 0.08) * g.uniform(-0.5, 0.5) * np.median(np.diff(beats))
        beats = beats[beats >= 0] if (beats >= 0).sum() > 4 else np.maximum(beats, 0)
        first = first[-len(beats):]
    return beats, first


def drawn(example, g=None, drums=None):
    """@returns inputs, chords, key"""
    t, grains, cents = example
    shift = int(round((t["cents"] - cents) / 100))
    seconds = len(grains) * GRAIN_S
    if g is not None:
        gain = np.exp(np.interp(np.arange(56), np.linspace(0, 55, 5), g.normal(0, 0.5, 5)))
        grains = grains * gain.astype(np.float32)
        if t["kind"] not in ("break", "free") and drums and g.uniform() < 0.4:
            other = drums[int(g.integers(len(drums)))][1]
            other = np.resize(other, grains.shape)
            grains = grains + other * (g.uniform(0, 0.8) * grains.mean() / (other.mean() + 1e-6))
    edges, first = stretches(t, seconds, g)
    edges = np.append(edges, seconds)
    notes = between(grains, edges)
    true_beats = np.array(t["beats"])
    chords = np.array([chord_at(t, true_beats, (a + b) / 2, shift) for a, b in zip(edges[:-1], edges[1:])])
    key = -1
    if t["key"]:
        key = (t["key"][0] + shift) % 12 + 12 * t["key"][1]
    elif t["kind"] in ("break",):
        key = KEYLESS
    if t["kind"] == "free":
        chords[:] = -1
    return inputs_of(notes.astype(np.float32), first), chords, key


def cropped(g, item, size):
    x, chords, key = item
    begin = int(g.integers(0, x.shape[1] - size + 1))
    return x[:, begin:begin + size], chords[begin:begin + size], key


def batch(items):
    """Of the same length."""
    x, chords, keys = zip(*items)
    return tuple(map(torch.from_numpy, (np.stack(x), np.stack(chords), np.array(keys, np.int64))))


def batches(g, rows):
    """Without end; what has about as many stretches goes together, and is cut to the fewest of them."""
    drums = [r for r in rows if r[0]["kind"] == "break"]
    while True:
        some = [drawn(rows[i], g, drums) for i in g.choice(len(rows), BATCH * TOGETHER, replace=len(rows) < BATCH * TOGETHER)]
        some.sort(key=lambda item: item[0].shape[1])
        for first in BATCH * g.permutation(TOGETHER):
            mine = some[first:first + BATCH]
            size = min(MOST, mine[0][0].shape[1])
            yield batch([cropped(g, item, size) for item in mine])


def fit(rows, seed=1):
    torch.manual_seed(seed)
    torch.set_num_threads(1)
    g = np.random.default_rng(seed)
    given = batches(g, rows)
    entropy = nn.CrossEntropyLoss(ignore_index=-1, label_smoothing=0.02)

    def loss_of(model):
        x, chords, keys = next(given)
        said, key = model(x)
        loss = entropy(said.reshape(-1, 97), chords.reshape(-1))
        return loss + 0.5 * entropy(key, keys) if (keys >= 0).any() else loss

    return training.fit(Sense, loss_of, STEPS, 2e-2)


def told(model, rows, name):
    """Right roots, chords and keys on given beats, and how sure the model is of them."""
    roots = kinds = count = 0
    keys, sure = [], []
    with torch.no_grad():
        for row in rows:
            if row[0]["kind"] == "free":
                continue
            x, chords, key = batch([drawn(row)])
            said, heard = model(x)
            known = (chords >= 0) & (chords != NONE)
            best = said.argmax(2)
            roots += int(((best // 8 == chords // 8) & known).sum())
            kinds += int(((best == chords) & known).sum())
            count += int(known.sum())
            if key[0] >= 0 and key[0] != KEYLESS:
                keys.append(int(heard[0].argmax() == key[0]))
                sure.append(float(torch.softmax(heard[0], 0).max()))
    keys, sure = np.array(keys), np.array(sure)
    print(f"{name}: root {roots / max(1, count):.3f}, with quality {kinds / max(1, count):.3f} of {count} beats; "
          f"key {keys.mean():.3f} of {len(keys)}, said likelihood {sure.mean():.3f}", flush=True)


def write(path, model):
    p = {name: value.detach().numpy() for name, value in model.state_dict().items()}
    arrays = network_text.of_both_ways(p, "both", 0)
    arrays += [("ChordWeights", p["chord.weight"].T), ("ChordBias", p["chord.bias"]),
               ("KeyWeights", p["key.weight"].T), ("KeyBias", p["key.bias"]), ("KeyAgree", p["agree"])]
    network_text.write(path, "fit_tones.py", "the sense of chords and keys", "kTone", {"State": STATE}, arrays)


def main(left_out, out_path, check_path, *folders):
    rows = examples(folders, left_out)
    print(len(rows), "files without", left_out, flush=True)
    model = fit(rows)
    with torch.no_grad():
        model.agree += torch.tensor(AGREE_MORE)
    network_text.rounded(model)
    write(out_path, model)
    for origin in ("games", "travels", "styles", "keyboards"):
        mine = [r for r in examples(folders[:1], "none") if r[0]["origin"] == origin]
        told(model, mine, ("left out " if origin == left_out else "fitted on ") + origin)
    t, grains, cents = rows[0]
    grains = np.round(grains[:8].astype(np.float64), 3)
    x = inputs_of(grains.astype(np.float32), np.array([i % 4 == 0 for i in range(8)]))
    with torch.no_grad():
        said, key = model(torch.from_numpy(x[None]))
    with open(check_path, "w") as file:
        json.dump({"notes": [[round(float(v), 3) for v in row] for row in grains],
                   "chords": [[round(float(v), 5) for v in row] for row in torch.softmax(said[0], 1)],
                   "key": [round(float(v), 5) for v in torch.softmax(key[0], 0)]}, file)


if __name__ == "__main__":
    main(*sys.argv[1:])
