"""The whole listening bench: renders the corpus, hears it with Tuvvo and with the witnesses side by
side, scores both, and writes the figures. Every origin is heard by the ear that was fitted without it.

usage: run.py BUILD-FOLDER DATA-FOLDER [CORPUS-FOLDER]   (./tuvvo.sh listen-bench calls it)
"""

import json
import os
import resource
import subprocess
import sys

import corpus
import robust
import score


def children_seconds():
    used = resource.getrusage(resource.RUSAGE_CHILDREN)
    return used.ru_utime + used.ru_stime


def lines_of(program, paths):
    done = subprocess.run([program, *paths], check=True, stdout=subprocess.PIPE)
    return done.stdout.decode().splitlines()


def main(build, data, folder=None):
    folder = folder or os.path.join(build, "bench", "corpus")
    truth_path = os.path.join(folder, "truth.json")
    if not os.path.exists(truth_path):
        print("rendering the corpus", flush=True)
        corpus.build(folder, data)
    with open(truth_path) as file:
        truth = json.load(file)["files"]
    heard, witnessed = [], []
    seconds, done = 0.0, 0
    for origin in corpus.ORIGINS:
        paths = [os.path.join(folder, t["file"]) for t in truth if t["origin"] == origin]
        # In turns of a few files, so that both meet the same weather on the machine.
        for at in range(0, len(paths), 12):
            some = paths[at:at + 12]
            before = children_seconds()
            heard += lines_of(os.path.join(build, "bin", f"hear-{origin}"), some)
            seconds += children_seconds() - before
            witnessed += lines_of(os.path.join(build, "bin", "listen-witness"), some)
            done += len(some)
            print(f"\rheard {done} of {len(truth)}", end="", file=sys.stderr, flush=True)
    print(file=sys.stderr)
    ours_path = os.path.join(build, "bench", "heard.jsonl")
    witness_path = os.path.join(build, "bench", "witnesses.jsonl")
    for path, lines in ((ours_path, heard), (witness_path, witnessed)):
        with open(path, "w") as file:
            file.write("\n".join(lines))
    score.main(truth_path, ours_path, witness_path, os.path.join(build, "bench", "listening.json"), seconds)
    robust.table(build, folder, truth, {x["path"].split("/")[-1]: x for x in map(json.loads, witnessed)})


if __name__ == "__main__":
    main(*sys.argv[1:])
