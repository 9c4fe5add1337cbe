"""A softmax over the candidates of each file with linear scores (fit_tempo.py, fit_bars.py)."""

import numpy as np
from scipy.optimize import minimize, minimize_scalar


def fit(some, ridge, scaled=False):
    """@param some  [(candidates × evidence, which are right, truth)]; several may be right
    @param scaled  the ridge counts for evidence over its spread @returns a weight for each evidence"""
    sizes = np.array([len(x) for x, _, _ in some])
    x, y = np.concatenate([x for x, _, _ in some]), np.concatenate([y for _, y, _ in some])
    starts = np.concatenate([[0], np.cumsum(sizes)[:-1]])
    spread = x.std(0) + 1e-9 if scaled else np.ones(x.shape[1])
    z = x / spread

    def loss(w):
        score = z @ w
        p = np.exp(score - np.repeat(np.maximum.reduceat(score, starts), sizes))
        whole, good = np.add.reduceat(p, starts), np.add.reduceat(p * y, starts)
        gradient = z.T @ (p / np.repeat(whole, sizes) - p * y / np.repeat(good + 1e-300, sizes))
        return -(np.log(good + 1e-300) - np.log(whole)).sum() + ridge * (w @ w), gradient + 2 * ridge * w

    return minimize(loss, np.zeros(x.shape[1]), jac=True, method="L-BFGS-B", options={"maxiter": 400}).x / spread


GUESSED = 0.05  # of what is said: one wrong answer that was thought sure does not decide everything


def surest(what, some, ridges, same=lambda y: y, scaled=False):
    """By leaving out one origin in turn: with which ridge, and made how many times as sure, what is right is the
    likeliest, each origin counting alike. @param same  from which are right to all that say the same as those
    @returns the ridge, and by how much its scores have to be multiplied"""
    origins, found = sorted({t["origin"] for _, _, t in some}), {}
    for ridge in ridges:
        parts = []
        for o in origins:
            w = fit([s for s in some if o not in (s[2]["origin"], s[2]["sounds"])], ridge, scaled)
            parts.append([(x @ w, same(y)) for x, y, t in some if t["origin"] == o])

        def loss(times, parts=parts):
            out = 0.0
            for part in parts:
                for score, y in part:
                    p = np.exp(times * (score - score.max()))
                    out -= np.log((1 - GUESSED) * (p * y).sum() / p.sum() + GUESSED * y.mean()) / len(part)
            return out / len(parts)

        best = minimize_scalar(loss, bounds=(0.3, 4), method="bounded")
        found[ridge] = best.fun, best.x
        print(what, "ridge", ridge, f"loss on origins inside left out {best.fun:.4f}, made {best.x:.2f} times as sure", flush=True)
    ridge = min(found, key=found.get)
    return ridge, found[ridge][1]


def report(what, left_out, origins, make, right, w):
    """@param make  the examples of an origin"""
    for name in origins:
        mine = [e for e in make(name) if e[2]["sounds"] == name]
        got = right(mine, w)
        by = {kind: round(float(np.mean([g for g, e in zip(got, mine) if e[2]["kind"] == kind])), 3)
              for kind in ("song", "disc", "loop", "break", "drift") if any(e[2]["kind"] == kind for e in mine)}
        print(what, "left out" if name == left_out else "fitted on", name, round(float(np.mean(got)), 3), by, len(mine))
