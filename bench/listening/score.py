"""Scores what was heard against the truth of the notes, beside aubio and QM-DSP in the same run.

Every origin is scored by itself, heard by the ear that was fitted without it. The figure that counts
is the mean over the origins, and the worst of them in brackets. An origin for which there is no such
ear is heard by the one that ships, which knows it: it is shown as fitted, and not counted.
Metrics by mir_eval (beats, onsets); the rest is arithmetic, written out below.
"""

import json
import os
import re
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
# Above what likelihood a class of hits is said (core/listen/onsets.cpp); "sure" is how far it is above it.
SAID = 0.5
DRUM_WINDOW_S = 0.02
LEAST_WOW = 0.0012  # of the speed: 2 cents; less is nobody's fault
SURE = 0.5  # from here on a tempo or a key is said without "perhaps"


def score_file(t, ours, witness):
    """@returns {(who, figure): value} for one file"""
    right_kind = float(ours["kind"]["name"] == KIND_OF[t["kind"]])
    out = {("tuvvo", "kind"): right_kind, ("tuvvo", "calibration of kind"): (ours["kind"]["confidence"], right_kind)}
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
    if t["kind"] != "drift":
        out["tuvvo", "meter"] = float(ours["meter"] == t["meter"]) if ours["tempo"] else 0.0
        if ours["tempo"]:
            out["tuvvo", "calibration of tempo"] = (ours["tempo"]["confidence"], float(near(bpm, t["bpm"], 0.04)))
    if t["kind"] == "disc" and t["wow"] > LEAST_WOW:
        true = 1200 / np.log(2) * t["wow"]
        out["tuvvo", "wow found"] = float(bool(ours["wow"]) and abs(ours["wow"]["depthCents"] / true - 1) < 0.5)
    elif t["kind"] in ("song", "loop"):
        out["tuvvo", "wow where is none"] = float(bool(ours["wow"]))
    beats = {"tuvvo": ours["beatsS"], "aubio": witness["aubio_beats"], "qm": witness["qm_beats"]}
    for who, heard in beats.items():
        out[who, "beats F"] = beat_f(heard, t["beats"])
    if t["kind"] != "drift":
        for who, downs in {"tuvvo": ours["downbeatsS"], "qm": witness["qm_downbeats"]}.items():
            if len(t["downbeats"]) > 1:
                out[who, "downbeats F"] = mir_eval.beat.f_measure(np.array(t["downbeats"]), np.sort(np.array(downs)))
    if t["key"]:
        tonic, minor = t["key"]
        said = ours["key"]
        ok = False
        if said:
            name = said["name"]
            off = (100 * pitch_class(name) + said["tuningCents"] - 100 * tonic - t["cents"]) % 1200
            ok = (off < 25 or off > 1175) and name.endswith("m") == minor
            if said["confidence"] >= SURE:
                out["tuvvo", "key right when sure"] = float(ok)
            out["tuvvo", "key sure"] = float(said["confidence"] >= SURE)
            out["tuvvo", "calibration of key"] = (said["confidence"], float(ok))
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
        # What is struck within 30 ms is one onset for most who measure (Böck, Krebs & Schedl, ISMIR 2012), and nobody
        # cuts it twice; ours lies on the first of it.
        one = merged([h[1] for h in t["hits"]], 0.03)
        out["tuvvo", "cut F, 30 ms one"] = onset_f([o["cutS"] for o in ours["onsets"]], one, 0.012)
        out["aubio", "cut F, 30 ms one"] = onset_f(witness["aubio_onsets"], one, 0.012)
        for name in ("kick", "snare", "hat"):
            heard = [o["atS"] for o in ours["onsets"] if name in o["hits"]]
            out["tuvvo", name + " F"] = class_f(heard, merged([h[1] for h in t["hits"] if h[0] == name]))
        out["tuvvo", "calibration of hits"] = hits_said(t["hits"], ours["onsets"])
        out["tuvvo", "drums right when said"] = drums_said(t["hits"], ours["onsets"])
        out["tuvvo", "velocity within 3 dB"] = velocity_share(t["hits"], ours["onsets"])
        if t["swing"] and t["swing"] > 0.52:
            out["tuvvo", "swing within 2 %"] = swing_heard(t, ours)
    chords = [(b, c) for b, c in zip(t["beats"], t["chords"]) if c]
    if chords and len(t["beats"]) > 1:
        step = float(np.median(np.diff(t["beats"])))
        shift = round((t["cents"] - ours["key"]["tuningCents"]) / 100) if ours["key"] else 0
        roots = kinds = thirds = known = 0
        said_so = []
        for at, (root, kind) in chords:
            middle = at + step / 2
            said = next((c for c in ours["chords"] if c["startS"] <= middle < c["endS"]), None)
            third = MAJ_MIN.get(kind)
            known += third is not None
            if said and said["name"] not in ("", "none"):
                right = (pitch_class(said["name"]) - root - shift) % 12 == 0
                roots += right
                whole = right and same_quality(said["name"], kind)
                kinds += whole
                thirds += right and third is not None and third == MAJ_MIN.get(quality_of(said["name"]))
                said_so.append((said["confidence"], float(whole)))
        out["tuvvo", "chord root"] = roots / len(chords)
        out["tuvvo", "chord with quality"] = kinds / len(chords)
        out["tuvvo", "calibration of chords"] = said_so
        if known:
            out["tuvvo", "chord majmin"] = thirds / known
    return out


def swing_ratio(onsets, beats):
    """Where in the beat what stands between beats begins: the middle of them; None for too few."""
    onsets, beats = np.array(onsets), np.array(beats)
    if len(beats) < 4:
        return None
    inside = onsets[(onsets > beats[0]) & (onsets < beats[-1])]
    part = np.interp(inside, beats, np.arange(len(beats))) % 1
    between = part[(part > 0.45) & (part < 0.8)]
    return float(np.median(between)) if len(between) > 3 else None


def swing_heard(t, ours):
    """1 where what was heard, on beats of the level that is played, has the ratio of what is played, else 0; None
    for a passage of a swung piece in which nothing is struck between beats."""
    true = swing_ratio([h[1] for h in t["hits"]], t["beats"])
    if true is None:
        return None
    period = np.median(np.diff(t["beats"]))
    levels = [b for b in beat_levels(ours["beatsS"]) if abs(np.median(np.diff(b)) / period - 1) < 0.04] \
        if len(ours["beatsS"]) > 3 else []
    heard = [swing_ratio([o["atS"] for o in ours["onsets"]], b) for b in levels]
    return float(any(h is not None and abs(h - true) < 0.02 for h in heard))


def near_hits(hits, at, part):
    """What of hits (part of each) is struck about there."""
    return {h[part] for h in hits if abs(h[1] - at) <= DRUM_WINDOW_S}


def hits_said(hits, onsets):
    """[(likelihood, right)] of every kick, snare and hat that is said"""
    return [(SAID + sure * (1 - SAID), float(name in near_hits(hits, o["atS"], 0)))
            for o in onsets for name, sure in zip(CLASSES, o["sure"]) if name in o["hits"]]


def drums_said(hits, onsets):
    """Counts as class_f() has them, of drums with a name: those that are said and right, are said, are said."""
    said = [drum in near_hits(hits, o["atS"], 3) for o in onsets for drum in o["drums"]]
    return (sum(said), len(said), len(said)) if said else None


QUALITIES = {"maj": "", "min": "m", "7": "7", "min7": "m7", "maj7": "maj7", "dim": "dim", "sus2": "sus2",
             "sus4": "sus4"}


# mir_eval.chord.majmin: sevenths count as the triad they stand on, and what has no third is not judged.
MAJ_MIN = {"maj": "major", "7": "major", "maj7": "major", "min": "minor", "min7": "minor"}


def quality_of(name):
    ending = re.sub(r"^[A-G][#b]?", "", name)
    return next((kind for kind, text in QUALITIES.items() if text == ending), None)


def same_quality(name, kind):
    return quality_of(name) == kind


CLASSES = ["kick", "snare", "hat"]


def velocity_share(hits, onsets):
    """Of kicks, snares and hats that were heard as such, how many are within 3 dB of how hard they
    were struck, each class about its own middle. Velocity to gain as in the SoundFont 2.04
    specification, 8.4.2 (default modulator): 40 log10(v / 127) dB."""
    right = count = 0
    for name in CLASSES:
        true = sorted((h[1], 40 * np.log10(max(1, h[2]) / 127)) for h in hits if h[0] == name)
        heard = sorted((o["atS"], o["levels"][CLASSES.index(name)]) for o in onsets if name in o["hits"])
        pairs = mir_eval.util.match_events(np.array([t for t, _ in true]), np.array([t for t, _ in heard]), 0.02) \
            if true and heard else []
        apart = np.array([heard[j][1] - true[i][1] for i, j in pairs])
        if len(apart) > 3:
            right += int((np.abs(apart - np.median(apart)) < 3).sum())
            count += len(apart)
    return right / count if count else None


def table(truth, ours, witnesses):
    rows = defaultdict(lambda: defaultdict(list))  # (figure, who) -> (kind, origin) -> values
    worst = defaultdict(list)
    for t in truth["files"]:
        mine, other = ours.get(t["file"]), witnesses.get(t["file"])
        if mine is None or other is None:
            continue
        got = score_file(t, mine, other)
        for (who, figure), value in got.items():
            if value is not None:
                # A few files of a kind say nothing of how often what is said is right.
                kind = "all" if figure.startswith("calibration") else t["kind"]
                kept = rows[figure, who][kind, t["origin"]]
                kept.extend(value) if isinstance(value, list) else kept.append(value)
        for figure in ("right level", "beats F", "key exact", "cut F 12 ms"):
            value = got.get(("tuvvo", figure))
            if value is not None and not isinstance(value, tuple) and value < 0.6:
                bpm = (mine["tempo"] or {}).get("bpm", 0)
                detail = f"{bpm:.1f} for {t['bpm']:.1f}" if figure == "right level" else \
                    f"{(mine['key'] or {}).get('name')} for {t['key']}" if figure == "key exact" else f"{value:.2f}"
                worst[figure].append((t["file"], detail))
    return rows, worst


def calibration_error(pairs, bins=10):
    """Expected calibration error (Naeini, Cooper & Hauskrecht 2015): bins of equal width. Of few answers it is
    too large, since each bin errs by chance; so the origins together are told beside the mean."""
    said, right = np.array(pairs).T
    place = np.minimum((said * bins).astype(int), bins - 1)
    return float(sum((place == b).mean() * abs(said[place == b].mean() - right[place == b].mean())
                     for b in range(bins) if (place == b).any()))


def summed(figure, values):
    if not values:
        return None
    if figure.startswith("calibration"):
        return calibration_error(values)
    if isinstance(values[0], tuple):
        matched, heard, true = (sum(v[i] for v in values) for i in range(3))
        return 2 * matched / (heard + true) if heard + true else None
    if figure == "tuning error":
        return float(np.median(values))
    return float(np.mean(values))


# figure: mean over the origins, worst of them
OWED = {"right level": (0.90, 0.84), "any level": (0.98, 0.95), "within 0.2 %": (0.96, 0.92),
        "beats F": (0.92, 0.87), "downbeats F": (0.82, 0.72), "meter": (0.93, 0.93),
        "key exact": (0.90, 0.84), "tuning error": (2.0, 2.0), "chord root": (0.80, 0.72),
        "chord with quality": (0.70, 0.60), "cut F 12 ms": (0.96, 0.94), "kick F": (0.95, 0.91),
        "snare F": (0.93, 0.88), "hat F": (0.90, 0.82), "velocity within 3 dB": (0.8, 0.8),
        "swing within 2 %": (0.9, 0.9), "calibration of tempo": (0.05, 0.05), "calibration of key": (0.05, 0.05),
        "calibration of kind": (0.05, 0.05), "calibration of hits": (0.05, 0.05), "calibration of chords": (0.05, 0.05)}
SMALLER_IS_BETTER = ("tuning error",) + tuple(f for f in OWED if f.startswith("calibration"))


def main(truth_path, ours_path, witness_path, out_path, ours_seconds):
    with open(truth_path) as file:
        truth = json.load(file)
    with open(ours_path) as file:
        ours = {x["file"]: x for x in map(json.loads, file)}
    with open(witness_path) as file:
        witnesses = {x["path"].split("/")[-1]: x for x in map(json.loads, file)}
    rows, worst = table(truth, ours, witnesses)
    kinds = ["song", "disc", "loop", "break", "drift", "free", "all"]
    origins = sorted({t["origin"] for t in truth["files"]})
    without = os.path.join(os.path.dirname(os.path.abspath(__file__)), "without")
    fitted = [o for o in origins if not os.path.isdir(os.path.join(without, o))]
    print(f"{truth['pieces']} pieces, left out: {truth['left_out']}; {len(ours)} files heard of "
          f"{len(truth['files'])}")
    print(f"{'figure':22}{'who':7}{'origin':11}" + "".join(f"{k:>14}" for k in kinds))
    missed, figures = [], {}
    for figure, who in sorted(rows, key=lambda k: (list(OWED).index(k[0]) if k[0] in OWED else 99, k)):
        means = f"{figure:22}{who:7}{'mean':11}"
        lines = {o: f"{'':22}{who:7}{o + (' *' if o in fitted else ''):11}" for o in origins}
        for kind in kinds:
            by_origin = {o: summed(figure, rows[figure, who][kind, o]) for o in origins}
            there = [v for o, v in by_origin.items() if v is not None and o not in fitted]
            for origin, value in by_origin.items():
                figures[f"{figure}|{who}|{origin}|{kind}"] = value
                count = len(rows[figure, who][kind, origin])
                lines[origin] += f"{value:9.3f} {count:<4}" if value is not None else f"{'':14}"
            if not there:
                means += f"{'':14}"
                continue
            smaller = figure in SMALLER_IS_BETTER
            mean, last = float(np.mean(there)), max(there) if smaller else min(there)
            means += f"{mean:8.3f}" + f" ({last:.2f})".ljust(6)[:7].rjust(6)
            if who == "tuvvo" and figure in OWED and kind not in ("drift", "free"):
                for value, need, name in zip((mean, last), OWED[figure], ("mean", "worst")):
                    if value > need if smaller else value < need - 1e-9:
                        missed.append(f"{figure} {kind}: {name} {value:.3f}, owed {need:.3f}")
        print(means)
        for line in lines.values():
            print(line)
        if figure.startswith("calibration"):
            pairs = [pair for o in origins if o not in fitted for pair in rows[figure, who]["all", o]]
            print(f"{'':22}{who:7}{'together':11}{'':84}{summed(figure, pairs):9.3f} {len(pairs)}")
    if fitted:
        print("* fitted on and not counted: there are no weights without it yet")
    seconds = sum(t["seconds"] for t in truth["files"])
    aubio = sum(w["aubio_seconds"] for w in witnesses.values())
    print(f"processor time a minute of sound: tuvvo's whole report {ours_seconds / seconds * 60:.2f} s, "
          f"aubio's onsets and tempo {aubio / seconds * 60:.2f} s; ratio {ours_seconds / aubio:.2f}, owed at most 1")
    for figure, files in worst.items():
        print(f"worst by {figure}: " + "; ".join(f"{name} ({detail})" for name, detail in files))
    print("missed: " + ("none" if not missed else ""))
    for line in missed:
        print("  " + line)
    with open(out_path, "w") as file:
        json.dump({"figures": figures, "missed": missed, "ratio_to_aubio": ours_seconds / aubio,
                   "left_out": truth["left_out"], "files": len(ours)}, file, indent=1)


if __name__ == "__main__":
    main(*sys.argv[1:5], float(sys.argv[5]))
