"""The whole listening bench: renders the corpus, hears it with Tuvvo and with the witnesses side by
side, scores both, and writes the figures.

usage: run.py BUILD-FOLDER DATA-FOLDER   (./tuvvo.sh listen-bench calls it)
"""

import json
import os
import resource
import subprocess
import sys

import corpus
import score


def children_seconds():
    used = resource.getrusage(resource.RUSAGE_CHILDREN)
    return used.ru_utime + used.ru_stime


def main(build, data):
    folder = os.path.join(build, "bench", "corpus")
    truth_path = os.path.join(folder, "truth.json")
    if not os.path.exists(truth_path):
        print("rendering the corpus", flush=True)
        corpus.build(folder, data)
    with open(truth_path) as file:
        names = [t["file"] for t in json.load(file)["files"]]
    paths = [os.path.join(folder, name) for name in names]
    heard, witnessed = [], []
    seconds = 0.0
    # In turns of a few files, so that both meet the same weather on the machine.
    for at in range(0, len(paths), 12):
        some = paths[at:at + 12]
        before = children_seconds()
        ours = subprocess.run([os.path.join(build, "bin", "tuvvo-cli"), "listen", *some, "--json", "--jobs", "1"],
                              check=True, capture_output=True)
        seconds += children_seconds() - before
        heard += json.loads(ours.stdout)
        theirs = subprocess.run([os.path.join(build, "bin", "listen-witness"), *some], check=True, capture_output=True)
        witnessed += theirs.stdout.decode().splitlines()
        print(f"\rheard {min(at + 12, len(paths))} of {len(paths)}", end="", file=sys.stderr, flush=True)
    print(file=sys.stderr)
    ours_path = os.path.join(build, "bench", "heard.json")
    witness_path = os.path.join(build, "bench", "witnesses.jsonl")
    with open(ours_path, "w") as file:
        json.dump(heard, file)
    with open(witness_path, "w") as file:
        file.write("\n".join(witnessed))
    score.main(truth_path, ours_path, witness_path, os.path.join(build, "bench", "listening.json"), seconds)


if __name__ == "__main__":
    main(*sys.argv[1:3])
