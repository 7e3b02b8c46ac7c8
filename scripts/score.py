#!/usr/bin/env python3
"""Scores `hollowkey why --json` against a folder of logs with answers.

An answer is a file named by a letter and digits, such as e02.json; a log may be
a .json file of another name. FROM and TO take a part of the folder by those
digits, so that a part can be kept unseen. The table at the end counts each point
by itself; a log that gets no verdict misses all of its points.

usage: score.py PROGRAM FOLDER [FROM TO]
"""
import collections, glob, json, os, re, subprocess, sys

program, folder = sys.argv[1], sys.argv[2]
first, last = (int(sys.argv[3]), int(sys.argv[4])) if len(sys.argv) > 4 else (0, 10**9)
fold = lambda s: str(s).lower()


def as_list(v):
    return [] if v is None else v if isinstance(v, list) else [v]


def points(answer):
    """The points that an answer asks for."""
    asked = ["outcome", "class"]
    for name in ("exit_code", "action", "message", "subject"):
        if answer.get(name) not in (None, ""):
            asked.append(name)
    if answer.get("product"):
        asked.append("product")
    if answer.get("line_any"):
        asked.append("line")
    if answer.get("remedy_any"):
        asked.append("remedy")
    return asked


def judge(answer, got):
    """What a verdict misses: point to words."""
    miss = {}
    want = as_list(answer["outcome"]) + answer.get("also_outcome", [])
    if got["outcome"] not in want:
        miss["outcome"] = f"outcome {got['outcome']} not {want}"
    codes = [answer.get("exit_code")] + answer.get("also_exit_code", [])
    if answer.get("exit_code") is not None and got["exit_code"] not in codes:
        miss["exit_code"] = f"exit {got['exit_code']} not {codes}"
    p = answer.get("product")
    if isinstance(p, str):
        p = {"name": p}
    for k, v in (p or {}).items():
        g = got["product"][k]
        ok = g is not None and (fold(g) == fold(v) or any(fold(g) == fold(o) for o in answer.get("also_product", [])))
        if v is not None and not ok:
            miss["product"] = f"product {k} {g} not {v}"
    if answer.get("action"):
        names = [answer["action"]] + answer.get("also_action", [])
        g = got["broke_at"]["action"] or ""
        if not any(fold(n) in fold(g) or fold(g) and fold(g) in fold(n) for n in names):
            miss["action"] = f"action {g} not {names}"
    c = got["cause"]
    if answer["class"] is None:
        if c["class"] not in [None] + answer.get("also_ok", []):
            miss["class"] = f"FALSE ALARM {c['class']}"
    elif c["class"] not in [answer["class"]] + answer.get("also_ok", []):
        miss["class"] = f"CLASS {c['class']} not {answer['class']}"
    if answer.get("message") is not None:
        if c["message"] not in [answer["message"]] + [int(m) for m in answer.get("also_message", []) if str(m).lstrip("-").isdigit()]:
            miss["message"] = f"message {c['message']} not {answer['message']}"
    s = answer.get("subject")
    if s:
        names = [s] if isinstance(s, str) else [s["name"]] + s.get("also", [])
        names += answer.get("also_subject", [])
        g = fold((c["subject"] or {}).get("name", ""))
        if not any(g and (fold(n) in g or g in fold(n)) for n in names):
            miss["subject"] = f"subject {g!r} not {names}"
    if answer.get("line_any"):
        # Where several logs are given, a line counts in the one that the answer names.
        here = lambda l: not answer.get("line_file") or not l.get("file") or os.path.basename(l["file"]) == answer["line_file"]
        lines = {l["line"] for l in got["evidence"] + got["chain"] if here(l)}
        if not lines & set(answer["line_any"]):
            miss["line"] = f"lines {sorted(lines)} none of {answer['line_any'][:8]}"
    if answer.get("remedy_any"):
        if not {r["class"] for r in got["remedies"]} & set(answer["remedy_any"]):
            miss["remedy"] = f"remedies {[r['class'] for r in got['remedies']]} none of {answer['remedy_any']}"
    return miss


asked, right = collections.Counter(), collections.Counter()
bands = collections.defaultdict(lambda: [0, 0])  # confidence, in tenths: class right, all
good = total = false_alarms = 0
for path in sorted(glob.glob(os.path.join(folder, "*.json"))):
    name = re.fullmatch(r"[a-z](\d+)\.json", os.path.basename(path))
    if not name or not first <= int(name[1]) <= last:
        continue
    answer = json.load(open(path))
    logs = [os.path.join(folder, l) for l in as_list(answer.get("logs") or answer["log"])]
    run = subprocess.run([program, "why", "--json", *logs], capture_output=True, text=True)
    total += 1
    asked.update(points(answer))
    try:
        got = json.loads(run.stdout)
    except ValueError:
        got = {}
    if "outcome" not in got:
        print(f"{os.path.basename(path)}: no verdict: {run.stderr.strip() or got.get('error')}")
        continue
    miss = judge(answer, got)
    good += not miss
    right.update(p for p in points(answer) if p not in miss)
    false_alarms += answer["class"] is None and "class" in miss
    band = bands[min(int(got["cause"]["confidence"] * 10), 9)]
    band[0] += "class" not in miss
    band[1] += 1
    print(f"{os.path.basename(path)}: {'ok' if not miss else '; '.join(miss.values())}  ({got['cause']['confidence']}, {got.get('sign')})")
print(f"{good} of {total} right in every point; {false_alarms} false alarms")
print("  ".join(f"{p} {right[p]}/{n}" for p, n in asked.items()))
print("class by confidence: " + "  ".join(f"0.{b}+ {r}/{n}" for b, (r, n) in sorted(bands.items(), reverse=True)))
