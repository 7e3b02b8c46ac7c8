#!/usr/bin/env python3
"""Scores `hollowkey why --json` against a folder of logs with answers.

usage: score.py PROGRAM FOLDER [PREFIXES]
"""
import glob, json, os, subprocess, sys

program, folder = sys.argv[1], sys.argv[2]
prefixes = sys.argv[3] if len(sys.argv) > 3 else ""
fold = lambda s: str(s).lower()


def as_list(v):
    return [] if v is None else v if isinstance(v, list) else [v]


def judge(answer, got):
    miss = []
    want = as_list(answer["outcome"]) + answer.get("also_outcome", [])
    if got["outcome"] not in want:
        miss.append(f"outcome {got['outcome']} not {want}")
    codes = [answer.get("exit_code")] + answer.get("also_exit_code", [])
    if answer.get("exit_code") is not None and got["exit_code"] not in codes:
        miss.append(f"exit {got['exit_code']} not {codes}")
    p = answer.get("product")
    if isinstance(p, str):
        p = {"name": p}
    for k, v in (p or {}).items():
        g = got["product"][k]
        ok = g is not None and (fold(g) == fold(v) or any(fold(g) == fold(o) for o in answer.get("also_product", [])))
        if v is not None and not ok:
            miss.append(f"product {k} {g} not {v}")
    if answer.get("action"):
        names = [answer["action"]] + answer.get("also_action", [])
        g = got["broke_at"]["action"] or ""
        if not any(fold(n) in fold(g) or fold(g) and fold(g) in fold(n) for n in names):
            miss.append(f"action {g} not {names}")
    c = got["cause"]
    if answer["class"] is None:
        if c["class"] not in [None] + answer.get("also_ok", []):
            miss.append(f"FALSE ALARM {c['class']}")
    elif c["class"] not in [answer["class"]] + answer.get("also_ok", []):
        miss.append(f"CLASS {c['class']} not {answer['class']}")
    if answer.get("message") is not None:
        if c["message"] not in [answer["message"]] + [int(m) for m in answer.get("also_message", [])]:
            miss.append(f"message {c['message']} not {answer['message']}")
    s = answer.get("subject")
    if s:
        names = [s] if isinstance(s, str) else [s["name"]] + s.get("also", [])
        names += answer.get("also_subject", [])
        g = fold((c["subject"] or {}).get("name", ""))
        if not any(g and (fold(n) in g or g in fold(n)) for n in names):
            miss.append(f"subject {g!r} not {names}")
    if answer.get("line_any"):
        lines = {l["line"] for l in got["evidence"] + got["chain"]}
        if not lines & set(answer["line_any"]):
            miss.append(f"lines {sorted(lines)} none of {answer['line_any'][:8]}")
    if answer.get("remedy_any"):
        if not {r["class"] for r in got["remedies"]} & set(answer["remedy_any"]):
            miss.append(f"remedies {[r['class'] for r in got['remedies']]} none of {answer['remedy_any']}")
    return miss


good = total = 0
for path in sorted(glob.glob(os.path.join(folder, "*.json"))):
    if prefixes and os.path.basename(path)[0] not in prefixes:
        continue
    answer = json.load(open(path))
    logs = [os.path.join(folder, l) for l in as_list(answer.get("logs") or answer["log"])]
    run = subprocess.run([program, "why", "--json", *logs], capture_output=True, text=True)
    total += 1
    try:
        got = json.loads(run.stdout)
    except ValueError:
        print(f"{os.path.basename(path)}: no verdict: {run.stderr.strip()}")
        continue
    miss = judge(answer, got)
    good += not miss
    print(f"{os.path.basename(path)}: {'ok' if not miss else '; '.join(miss)}  ({got['cause']['confidence']}, {got.get('sign')})")
print(f"{good} of {total} right in every point")
