#!/usr/bin/env python3
"""Fits how sure a verdict on a foreign log is, and shows how the certainty holds.

usage: calibrate.py PROGRAM FOLDER... [--write]

Each FOLDER holds labelled logs: an answer NAME.json beside the log or logs that it
names ("log" or "logs"), with "class" and "also_ok". Only verdicts that were weighed
count. The numbers are fitted on four fifths of the logs and tried on the fifth that
is left, five times over, so that no log speaks for itself; the table is of those
tries. --write puts the numbers fitted on all logs into
core/why/evidence/fitted.txt.
"""
import json
import math
import pathlib
import subprocess
import sys

FOLDS = 5
STEPS = 4000  # of descent; the loss moves by less than a thousandth behind them
RATE = 0.05
SHRINK = 0.02  # keeps the numbers small where few logs speak
BANDS = (0.9, 0.75, 0.5, 0.25, 0.0)
NAMES = ("margin", "total", "base")


def cases(program, folders):
    """Each weighed verdict as (margin, total, 1), and whether it was right."""
    for folder in folders:
        for answer in sorted(pathlib.Path(folder).glob("*.json")):
            want = json.loads(answer.read_text(encoding="utf-8"))
            logs = want.get("logs") or [want.get("log")]
            if not isinstance(want, dict) or "class" not in want or not all(logs):
                continue
            call = [program, "why", "--json", "--explain", *(str(answer.parent / x) for x in logs)]
            ran = subprocess.run(call, capture_output=True, text=True)
            try:
                said = json.loads(ran.stdout)
            except ValueError:
                continue
            weighed = said.get("hypotheses") or []
            if said["logs"][0]["dialect"] not in ("generic", "script") or not weighed or said["cause"]["class"] is None:
                continue
            first = weighed[0]["weight"]
            second = max(weighed[1]["weight"], 0) if len(weighed) > 1 else 0
            right = said["cause"]["class"] in [want["class"], *want.get("also_ok", [])]
            yield (first - second, first, 1.0), right


def odds(numbers, x):
    return 1 / (1 + math.exp(-sum(a * b for a, b in zip(numbers, x))))


def fit(data):
    numbers = [0.9, 0.35, -1.6]
    for _ in range(STEPS):
        slope = [SHRINK * a for a in numbers[:2]] + [0.0]
        for x, right in data:
            miss = odds(numbers, x) - right
            for k in range(3):
                slope[k] += miss * x[k] / len(data)
        numbers = [a - RATE * b for a, b in zip(numbers, slope)]
    return numbers


def main():
    write = "--write" in sys.argv
    program, *folders = [a for a in sys.argv[1:] if a != "--write"]
    data = list(cases(program, folders))
    tried = []
    for fold in range(FOLDS):
        numbers = fit([c for i, c in enumerate(data) if i % FOLDS != fold])
        tried += [(odds(numbers, x), right) for i, (x, right) in enumerate(data) if i % FOLDS == fold]
    print(f"{len(data)} verdicts, {sum(r for _, r in data)} right")
    above = 1.01
    for least in BANDS:
        band = [(p, r) for p, r in tried if least <= p < above]
        if band:
            print(f"{least:.2f} and over: {sum(r for _, r in band):3d} of {len(band):3d} right, "
                  f"{sum(p for p, _ in band):5.1f} expected")
        above = least
    numbers = fit(data)
    print(" ".join(f"{n} {v:.3f}" for n, v in zip(NAMES, numbers)))
    if write:
        path = pathlib.Path(__file__).parent.parent / "core/why/evidence/fitted.txt"
        head = [l for l in path.read_text().splitlines() if l.startswith("#")]
        path.write_text("\n".join(head + [f"{n} {v:.3f}" for n, v in zip(NAMES, numbers)]) + "\n")


main()
