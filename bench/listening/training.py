"""How the networks are fitted (fit_beats.py, fit_tones.py), and what was written for them is read."""

import json
import os

import numpy as np
import torch
from torch import nn


def read_inputs(path):
    """(name, rows × values, cents) of what learning-inputs wrote"""
    with open(path, "rb") as file:
        while line := file.readline():
            name, rows, columns, cents = line.decode().rsplit(" ", 3)
            values = np.frombuffer(file.read(4 * int(rows) * int(columns)), np.float32)
            yield name, values.reshape(int(rows), int(columns)), float(cents)


def examples(folders, name, left_out):
    """[(truth, rows × values, cents)] of corpora, without an origin's pieces and sounds"""
    out = []
    for folder in folders:
        with open(os.path.join(folder, "truth.json")) as file:
            truth = {t["file"]: t for t in json.load(file)["files"]}
        for file_name, rows, cents in read_inputs(os.path.join(folder, name)):
            t = truth.get(file_name)
            if t and left_out not in (t["origin"], t["sounds"]):
                out.append((t, rows, cents))
    return out


def fit(make, loss_of, steps, weight_decay, told=25):
    """@param make  a new model @param loss_of  the loss of a model on a drawn batch
    @returns a running mean of the weights over the last steps"""
    model, smooth = make(), make()
    smooth.load_state_dict(model.state_dict())
    smooth.eval()
    optimizer = torch.optim.AdamW(model.parameters(), 2e-3, weight_decay=weight_decay)
    rate = torch.optim.lr_scheduler.OneCycleLR(optimizer, 1e-2, total_steps=steps, pct_start=0.2)
    model.train()
    total = 0.0
    for step in range(steps):
        loss = loss_of(model)
        optimizer.zero_grad()
        loss.backward()
        nn.utils.clip_grad_norm_(model.parameters(), 1.0)
        optimizer.step()
        rate.step()
        total += loss.item()
        with torch.no_grad():
            for mine, now in zip(smooth.parameters(), model.parameters()):
                mine.lerp_(now, max(0.03, 1 / (step + 1)))
        if step % told == told - 1:
            print(f"step {step + 1} of {steps}: loss {total / told:.4f}", flush=True)
            total = 0.0
    return smooth
