"""What key and chords the notes say; None where they do not say it clearly."""

import numpy as np

# Krumhansl & Kessler 1982, as printed in Krumhansl 1990 (values from memory).
MAJOR = np.array([6.35, 2.23, 3.48, 2.33, 4.38, 4.09, 2.52, 5.19, 2.39, 3.66, 2.29, 2.88])
MINOR = np.array([6.33, 2.68, 3.52, 5.38, 2.60, 3.53, 2.54, 4.75, 3.98, 2.69, 3.34, 3.17])
CHORDS = {"maj": (0, 4, 7), "min": (0, 3, 7), "dim": (0, 3, 6), "sus2": (0, 2, 7), "sus4": (0, 5, 7),
          "maj7": (0, 4, 7, 11), "min7": (0, 3, 7, 10), "7": (0, 4, 7, 10)}


def _weights(piece, first, last, tones):
    out = np.zeros(12)
    for n in piece.notes:
        if n.channel in tones:
            shared = min(n.end, last) - max(n.start, first)
            if shared > 0:
                out[n.pitch % 12] += min(shared, 4) * n.velocity
    return out


def _best_key(weights):
    if weights.sum() <= 0:
        return None, 0.0
    scores = []
    for tonic in range(12):
        for minor, profile in ((False, MAJOR), (True, MINOR)):
            scores.append((np.corrcoef(weights, np.roll(profile, tonic))[0, 1], tonic, minor))
    scores.sort(reverse=True)
    return scores[0][1:], scores[0][0] - scores[1][0]


def key_of(piece, first, last, tones):
    """(tonic 0 to 11, minor) when the passage and the whole piece agree and both are clear."""
    here, margin = _best_key(_weights(piece, first, last, tones))
    whole, _ = _best_key(_weights(piece, 0, piece.beats, tones))
    if here is None or here != whole or margin < 0.06:
        return None
    return [int(here[0]), bool(here[1])]


def chords_of(piece, beats, tones):
    """For every beat (root, kind) or None when no chord holds nearly all that sounds."""
    out = []
    for beat in beats:
        weights, lowest = np.zeros(12), None
        for n in piece.notes:
            if n.channel not in tones or n.start > beat + 1:
                continue
            shared = min(n.end, beat + 1) - max(n.start, beat)
            if shared > 0.15:
                weights[n.pitch % 12] += shared * n.velocity
                lowest = n.pitch if lowest is None else min(lowest, n.pitch)
        if lowest is None or np.count_nonzero(weights > 0.1 * weights.max()) < 3:
            out.append(None)
            continue
        best = []
        for root in range(12):
            for kind, steps in CHORDS.items():
                inside = [weights[(root + s) % 12] for s in steps]
                if min(inside[:3]) <= 0.05 * weights.max():
                    continue
                share = sum(inside) / weights.sum() - 0.06 * (len(steps) - 3)
                best.append((share + (0.05 if lowest % 12 == root else 0), root, kind, sum(inside) / weights.sum()))
        best.sort(reverse=True)
        out.append(_named(*best[0][1:3], lowest % 12) if best and best[0][3] > 0.85 else None)
    return out


def _named(root, kind, bass):
    """A minor seventh over its third is the major chord of that third with a sixth (`maj6` of Harte, Sandler,
    Abdallah & Gómez, ISMIR 2005), which has no kind of its own here."""
    third = (root + 3) % 12
    return [third, "maj"] if kind == "min7" and bass == third else [root, kind]


def written_chords(piece, beats):
    """For every beat the chord that was written there."""
    out, at = [], 0
    for beat in beats:
        while at + 1 < len(piece.chords) and piece.chords[at + 1][0] <= beat + 1e-6:
            at += 1
        out.append(list(piece.chords[at][1:]))
    return out
