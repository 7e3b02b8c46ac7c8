#!/usr/bin/env python3
"""Fits how sure a verdict on a foreign log is, on logs that were seen for the first time.

usage: calibrate.py see PROGRAM FOLDER [FROM TO]   notes how the program does on logs
       calibrate.py fit [--write]                  fits the numbers to all that was noted

A program that has learned from logs is surer of them than of others, so only what it
said of logs before anybody learned from them may be noted: run "see" first, look at
the logs afterwards. The notes are scripts/first-sight.txt, a line each: how far the
first hypothesis was ahead, what spoke for it, and 1 where it was right.

FOLDER holds labelled logs: an answer NAME.json beside the log or logs that it names
("log" or "logs"), with "class" and "also_ok"; FROM and TO are numbers in the names.
A verdict is only told to be proved when more speaks for it than for any that was wrong.
"fit" fits the numbers on four fifths of the notes and tries them on the fifth that is
left, five times over, and prints the table of those tries; --write puts the numbers
fitted on all notes into core/why/evidence/fitted.txt.
"""
import json
import math
import pathlib
import re
import subprocess
import sys

HERE = pathlib.Path(__file__).parent
NOTES = HERE / "first-sight.txt"
FITTED = HERE.parent / "core/why/evidence/fitted.txt"
FOLDS = 5
STEPS = 6000  # of descent; the loss moves by less than a thousandth behind them
RATE = 0.05
SHRINK = 0.02  # keeps the numbers small where few logs speak
BANDS = (0.9, 0.75, 0.5, 0.25, 0.0)
NAMES = ("margin", "total", "base")
ABOVE = 0.5  # how much more evidence than the best supported wrong verdict had counts as proof
WEIGHED = ("generic", "script", "events")  # dialects whose verdicts come from weighing


def cases(program, folder, least, most):
    """Each weighed verdict as margin, total, and whether it was right."""
    for answer in sorted(pathlib.Path(folder).glob("*.json")):
        number = re.search(r"\d+", answer.stem)
        want = json.loads(answer.read_text(encoding="utf-8"))
        if not isinstance(want, dict) or "class" not in want or number and not least <= int(number[0]) <= most:
            continue
        logs = [str(answer.parent / x) for x in want.get("logs") or [want["log"]]]
        ran = subprocess.run([program, "why", "--json", "--explain", *logs], capture_output=True, text=True)
        try:
            said = json.loads(ran.stdout)
        except ValueError:
            continue
        weighed = said.get("hypotheses") or []
        if "logs" not in said or said["logs"][0]["dialect"] not in WEIGHED or not weighed or said["cause"]["class"] is None:
            continue
        first = weighed[0]["weight"]
        second = max(weighed[1]["weight"], 0) if len(weighed) > 1 else 0
        yield first - second, first, said["cause"]["class"] in [want["class"], *want.get("also_ok", [])]


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
    if len(sys.argv) >= 4 and sys.argv[1] == "see":
        least, most = map(int, sys.argv[4:6] or (0, 10**9))
        with NOTES.open("a") as notes:
            for margin, total, right in cases(sys.argv[2], sys.argv[3], least, most):
                notes.write(f"{margin:.2f} {total:.2f} {int(right)}\n")
        return
    if sys.argv[1:2] != ["fit"]:
        sys.exit(__doc__)
    rows = [l.split() for l in NOTES.read_text().splitlines() if l and l[0] != "#"]
    data = [((float(a), float(b), 1.0), int(c)) for a, b, c in rows]
    tried = []
    for fold in range(FOLDS):
        numbers = fit([c for i, c in enumerate(data) if i % FOLDS != fold])
        tried += [(odds(numbers, x), right) for i, (x, right) in enumerate(data) if i % FOLDS == fold]
    print(f"{len(data)} verdicts, {sum(r for _, r in data)} right")
    above = 1.01
    for least in BANDS:
        band = [(p, r) for p, r in tried if least <= p < above]
        if band:
            print(f"{least:.2f} and over: {sum(r for _, r in band):3d} of {len(band):3d} right, {sum(p for p, _ in band):5.1f} expected")
        above = least
    found = dict(zip(NAMES, fit(data)))
    found["proof"] = max(x[0] + x[1] for x, right in data if not right) + ABOVE
    beyond = [right for x, right in data if x[0] + x[1] >= found["proof"]]
    print(" ".join(f"{n} {v:.3f}" for n, v in found.items()), f"({len(beyond)} verdicts are proved, all of them right)")
    if "--write" in sys.argv:
        head = [l for l in FITTED.read_text().splitlines() if l.startswith("#")]
        FITTED.write_text("\n".join(head + [f"{n} {v:.3f}" for n, v in found.items()]) + "\n")


main()
