"""Fits the network that names hits (core/listen/hit_weights.h) on the clips of drums.py.

usage: fit_hits.py CLIPS.json FEATURES.jsonl OUT.h   (features from hit-features over the clips)
Three nets of forty hidden units from different starts, their outputs averaged before the logistic;
scikit-learn's MLPClassifier. Nothing of the held-out half and nothing of the kit left out is seen.
"""

import json
import sys
from multiprocessing import Pool

import numpy as np
from sklearn.neural_network import MLPClassifier

CLASSES = ["kick", "snare", "hat", "other"]


def load(clips_path, features_path, within=0.025):
    with open(clips_path) as file:
        clips = {c["file"]: c for c in json.load(file)}
    x, y = [], []
    with open(features_path) as file:
        for line in file:
            heard = json.loads(line)
            clip = clips.get(heard["path"].split("/")[-1])
            if not clip or not heard["rises"]:
                continue
            rises = np.array(heard["rises"])
            labels = np.zeros((len(rises), 5))
            for name, at in clip["hits"]:
                nearest = int(np.argmin(np.abs(rises[:, 0] - at)))
                if abs(rises[nearest, 0] - at) < within:
                    labels[nearest, 0] = 1
                    labels[nearest, 1 + CLASSES.index(name)] = 1
            x.append(rises[:, 1:])
            y.append(labels)
    return np.concatenate(x), np.concatenate(y)


def floats(values):
    return ", ".join(f"{v:.4g}f" if "." in f"{v:.4g}" or "e" in f"{v:.4g}" else f"{v:.4g}.0f" for v in values)


def fit(job):
    x, y, start = job
    # The same number of steps whatever the number of clips, but each at least ten times over.
    epochs = int(np.clip(12e6 / len(x), 10, 28))
    return MLPClassifier((40,), alpha=0.03, batch_size=256, max_iter=epochs, learning_rate_init=1.5e-3,
                         random_state=start).fit(x, y)


def main(clips_path, features_path, out_path):
    x, y = load(clips_path, features_path)
    mean, scale = x.mean(0), 1 / (x.std(0) + 1e-6)
    scaled = ((x - mean) * scale).astype(np.float32)
    with Pool() as pool:
        nets = pool.map(fit, [(scaled, y, start) for start in (10, 11, 12)])
    hidden = np.concatenate([n.coefs_[0] for n in nets], axis=1).T
    bias = np.concatenate([n.intercepts_[0] for n in nets])
    out = np.concatenate([n.coefs_[1] for n in nets], axis=0).T / len(nets)
    out_bias = np.mean([n.intercepts_[1] for n in nets], axis=0)
    with open(out_path, "w") as file:
        file.write("// Written by bench/listening/fit_hits.py: the network that names hits.\n#pragma once\n\n"
                   "namespace tuvvo {\n\n// clang-format off\n"
                   f"inline constexpr int kHitHidden = {len(bias)};\n"
                   f"inline constexpr float kHitMean[{len(mean)}] = {{{floats(mean)}}};\n"
                   f"inline constexpr float kHitScale[{len(scale)}] = {{{floats(scale)}}};\n"
                   f"inline constexpr float kHitHiddenBias[kHitHidden] = {{{floats(bias)}}};\n"
                   f"inline constexpr float kHitHiddenWeights[kHitHidden][{len(mean)}] = {{\n")
        for row in hidden:
            file.write(f"  {{{floats(row)}}},\n")
        file.write(f"}};\ninline constexpr float kHitOutBias[5] = {{{floats(out_bias)}}};\n"
                   "inline constexpr float kHitOutWeights[5][kHitHidden] = {\n")
        for row in out:
            file.write(f"  {{{floats(row)}}},\n")
        file.write("};\n// clang-format on\n\n} // namespace tuvvo\n")
    print(len(x), "rises,", dict(zip(["struck"] + CLASSES, y.mean(0).round(3))))


if __name__ == "__main__":
    main(*sys.argv[1:4])
