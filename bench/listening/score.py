"""Scores what was heard against the truth of the notes, beside aubio and QM-DSP in the same run.

Fold 0 is open (Tuvvo was tuned on it), fold 1 is held out. Metrics by mir_eval (beats, onsets);
the rest is arithmetic, written out below.
"""

import json
import sys
from collections import defaultdict

import mir_eval
import numpy as np

LEVELS = (1, 2, 0.5, 3, 1 / 3)
NOTES = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}


def pitch_class(name):
    value = NOTES[name[0]]
    for sign in name[1:2]:
        value += {"#": 1, "b": -1}.get(sign, 0)
    return value % 12


def near(bpm, true, tolerance):
    return bpm > 0 and abs(bpm / true - 1) <= tolerance


def any_level(bpm, true):
    return any(near(bpm, true * k, 0.04) for k in LEVELS)


def beat_levels(beats):
    """The true beats and the same pulse twice, three times, half and a third as fast."""
    beats = np.asarray(beats)
    out = [beats]
    for k in (2, 3):
        fine = np.interp(np.arange(0, len(beats) - 1 + 1e-9, 1 / k), np.arange(len(beats)), beats)
        out.append(fine)
        out += [beats[offset::k] for offset in range(k)]
    return [b for b in out if len(b) > 1]


def beat_f(heard, true):
    heard = np.asarray(heard)
    if len(heard) == 0 or len(true) < 2:
        return 0.0
    return max(mir_eval.beat.f_measure(level, heard) for level in beat_levels(true))


def merged(times, within=0.012):
    out = []
    for t in sorted(times):
        if not out or t - out[-1] > within:
            out.append(t)
    return np.array(out)


def onset_f(heard, true, window):
    heard, true = np.sort(np.asarray(heard, float)), np.asarray(true, float)
    if len(true) == 0:
        return None
    if len(heard) == 0:
        return 0.0
    return mir_eval.onset.f_measure(true, np.maximum(heard, 0), window=window)[0]


def class_f(heard, true, window=0.02):
    """Counts, so that a file without a class cannot hide a wrong one: matched, heard, true."""
    heard, true = np.sort(np.asarray(heard, float)), np.sort(np.asarray(true, float))
    if len(heard) == 0 or len(true) == 0:
        return 0, len(heard), len(true)
    return len(mir_eval.util.match_events(true, heard, window)), len(heard), len(true)


KIND_OF = {"song": "passage", "disc": "passage", "drift": "passage", "free": "passage", "loop": "loop",
           "break": "break"}
LEFT_OUT_KIT = "freepats"  # see drums.py: nothing of it is in what the hits were learnt from


def score_file(t, ours, witness):
    """@returns {(who, figure): value} for one file"""
    out = {("tuvvo", "kind"): float(ours["kind"]["name"] == KIND_OF[t["kind"]])}
    if t["kind"] == "free":  # nothing with a pulse: saying nothing is right
        out["tuvvo", "no tempo said"] = float(ours["tempo"] is None)
        return out
    bpm = (ours["tempo"] or {}).get("bpm", 0)
    tempos = {"tuvvo": bpm, "aubio": witness["aubio_bpm"], "qm": witness["qm_bpm_beats"]}
    if t["kind"] != "drift":
        for who, value in tempos.items():
            right = near(value, t["bpm"], 0.04)
            out[who, "right level"] = float(right)
            out[who, "any level"] = float(any_level(value, t["bpm"]))
            if right:
                out[who, "within 0.2 %"] = float(near(value, t["bpm"], 0.002))
                out[who, "within 0.05 %"] = float(near(value, t["bpm"], 0.0005))
    beats = {"tuvvo": ours["beatsS"], "aubio": witness["aubio_beats"], "qm": witness["qm_beats"]}
    for who, heard in beats.items():
        out[who, "beats F"] = beat_f(heard, t["beats"])
    if t["kind"] in ("song", "loop", "break", "disc"):
        for who, downs in {"tuvvo": ours["downbeatsS"], "qm": witness["qm_downbeats"]}.items():
            if len(t["beats"]) > 1 and mir_eval.beat.f_measure(np.array(t["beats"]), np.array(beats[who])) > 0.9:
                true = np.array(t["downbeats"])
                hit = [np.min(np.abs(true - d)) < 0.07 for d in downs] if len(true) else []
                out[who, "downbeat phase"] = float(len(hit) > 0 and np.mean(hit) > 0.6)
    if t["key"]:
        tonic, minor = t["key"]
        said = ours["key"]
        ok = False
        if said:
            name = said["name"]
            off = (100 * pitch_class(name) + said["tuningCents"] - 100 * tonic - t["cents"]) % 1200
            ok = (off < 25 or off > 1175) and name.endswith("m") == minor
            if said["confidence"] >= 0.5:
                out["tuvvo", "key right when sure"] = float(ok)
            out["tuvvo", "key sure"] = float(said["confidence"] >= 0.5)
            error = abs((said["tuningCents"] - t["cents"] + 50) % 100 - 50)
            out["tuvvo", "tuning error"] = error
        out["tuvvo", "key exact"] = float(ok)
        q_tonic, q_minor = witness["qm_key"]
        out["qm", "key exact"] = float((q_tonic - tonic - round(t["cents"] / 100)) % 12 == 0 and q_minor == minor)
    if t["kind"] in ("song", "disc", "loop"):
        true = merged(t["begins"])  # of any note
        out["tuvvo", "begins F 50 ms"] = class_f([o["atS"] for o in ours["onsets"]], true, 0.05)
        out["aubio", "begins F 50 ms"] = class_f(witness["aubio_onsets"], true, 0.05)
    if t["kind"] == "break":
        true = merged([h[1] for h in t["hits"]])
        out["tuvvo", "cut F 12 ms"] = onset_f([o["cutS"] for o in ours["onsets"]], true, 0.012)
        out["aubio", "cut F 12 ms"] = onset_f(witness["aubio_onsets"], true, 0.012)
        for name in ("kick", "snare", "hat"):
            heard = [o["atS"] for o in ours["onsets"] if name in o["hits"]]
            out["tuvvo", name + " F"] = class_f(heard, merged([h[1] for h in t["hits"] if h[0] == name]))
            if (t["kit"] or "").startswith(LEFT_OUT_KIT):
                out["tuvvo", name + " F, kit left out"] = out["tuvvo", name + " F"]
    roots = [(b, c) for b, c in zip(t["beats"], t["chords"]) if c]
    if roots and len(t["beats"]) > 1:
        step = float(np.median(np.diff(t["beats"])))
        shift = 0
        if ours["key"]:
            shift = round((t["cents"] - ours["key"]["tuningCents"]) / 100)
        right = 0
        for at, (root, _) in roots:
            middle = at + step / 2
            said = next((c for c in ours["chords"] if c["startS"] <= middle < c["endS"]), None)
            if said and said["name"] not in ("", "none") and (pitch_class(said["name"]) - root - shift) % 12 == 0:
                right += 1
        out["tuvvo", "chord root"] = right / len(roots)
    return out


def table(truth, ours, witnesses):
    rows = defaultdict(lambda: defaultdict(list))  # (figure, who) -> (kind, fold) -> values
    worst = defaultdict(list)
    for t in truth["files"]:
        mine, other = ours.get(t["file"]), witnesses.get(t["file"])
        if mine is None or other is None:
            continue
        got = score_file(t, mine, other)
        for (who, figure), value in got.items():
            if value is not None:
                rows[figure, who][t["kind"], t["fold"]].append(value)
        for figure in ("right level", "beats F", "key exact", "cut F 12 ms"):
            value = got.get(("tuvvo", figure))
            if value is not None and not isinstance(value, tuple) and value < 0.6:
                bpm = (mine["tempo"] or {}).get("bpm", 0)
                detail = f"{bpm:.1f} for {t['bpm']:.1f}" if figure == "right level" else \
                    f"{(mine['key'] or {}).get('name')} for {t['key']}" if figure == "key exact" else f"{value:.2f}"
                worst[figure].append((t["file"], detail, t["fold"]))
    return rows, worst


def summed(figure, values):
    if not values:
        return None
    if isinstance(values[0], tuple):
        matched, heard, true = (sum(v[i] for v in values) for i in range(3))
        return 2 * matched / (heard + true) if heard + true else None
    if figure == "tuning error":
        return float(np.median(values))
    return float(np.mean(values))


OWED = {"within 0.2 %": {"": 0.97, "loop": 0.99}, "downbeat phase": {"": 0.75}, "key exact": {"": 0.85},
        "key right when sure": {"": 0.96}, "tuning error": {"": 3.0}, "cut F 12 ms": {"": 0.95},
        "kick F": {"": 0.95}, "snare F": {"": 0.90}, "hat F": {"": 0.85}, "chord root": {"": 0.72}}
SHARE = {"right level": 2 / 3, "any level": 2 / 3, "beats F": 0.5}


def owed(figure, kind, rows):
    """What is owed on the held-out half: a figure, or a share of the best library's errors."""
    if figure == "beats F" and kind == "drift":
        return 0.85
    if figure in SHARE:
        best = [summed(figure, rows[figure, who][kind, 1]) for who in ("aubio", "qm")]
        best = [b for b in best if b is not None]
        return 1 - SHARE[figure] * (1 - max(best)) if best else None
    if figure in OWED:
        return OWED[figure].get(kind, OWED[figure][""])
    return None


def main(truth_path, ours_path, witness_path, out_path, ours_seconds):
    with open(truth_path) as file:
        truth = json.load(file)
    with open(ours_path) as file:
        ours = {x["file"].split("/")[-1]: x for x in json.load(file) if "tempo" in x}
    with open(witness_path) as file:
        witnesses = {x["path"].split("/")[-1]: x for x in map(json.loads, file)}
    rows, worst = table(truth, ours, witnesses)
    kinds = ["song", "disc", "loop", "break", "drift", "free"]
    left = {k: len(v) for k, v in truth["left_out"].items()}
    print(f"{truth['pieces']} pieces, left out: {left}; {len(ours)} files heard of {len(truth['files'])}")
    print(f"{'figure':22}{'who':7}{'half':6}" + "".join(f"{k:>9}" for k in kinds))
    missed, figures = [], {}
    for figure, who in sorted(rows, key=lambda k: (list(OWED).index(k[0]) if k[0] in OWED else -1, k)):
        for fold, half in ((0, "open"), (1, "held")):
            line = f"{figure:22}{who:7}{half:6}"
            for kind in kinds:
                value = summed(figure, rows[figure, who][kind, fold])
                figures[f"{figure}|{who}|{half}|{kind}"] = value
                line += f"{value:9.3f}" if value is not None else f"{'':9}"
                need = owed(figure, kind, rows) if who == "tuvvo" and fold == 1 and value is not None else None
                if need is not None:
                    figures[f"{figure}|owed|held|{kind}"] = need
                    ok = value <= need if figure == "tuning error" else value >= need - 1e-9
                    if not ok:
                        missed.append(f"{figure} {kind}: {value:.3f}, owed {need:.3f}")
            print(line)
    seconds = sum(t["seconds"] for t in truth["files"])
    aubio = sum(w["aubio_seconds"] for w in witnesses.values())
    print(f"processor time a minute of sound: tuvvo's whole report {ours_seconds / seconds * 60:.2f} s, "
          f"aubio's onsets and tempo {aubio / seconds * 60:.2f} s; ratio {ours_seconds / aubio:.2f}, owed at most 1")
    for figure, files in worst.items():
        print(f"worst by {figure}: " + "; ".join(f"{name} ({detail}, {'held' if fold else 'open'})"
                                               for name, detail, fold in files))
    print("missed: " + ("none" if not missed else ""))
    for line in missed:
        print("  " + line)
    with open(out_path, "w") as file:
        json.dump({"figures": figures, "missed": missed, "ratio_to_aubio": ours_seconds / aubio,
                   "left_out": left, "files": len(ours)}, file, indent=1)


if __name__ == "__main__":
    main(*sys.argv[1:5], float(sys.argv[5]))
