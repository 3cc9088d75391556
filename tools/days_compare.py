"""Holds Kame's calendar against a general constraint solver on generated instances (docs/DAYS.md).

    pip install ortools
    cargo build --release -p kame-server
    python3 tools/days_compare.py [seconds for the other solver, 30] [the program, target/release/kame]
"""

import json
import random
import subprocess
import sys
import tempfile
import time

from ortools.sat.python import cp_model

KAME = sys.argv[2] if len(sys.argv) > 2 else "target/release/kame"
TRADES = ["barrier", "window", "cladding"]
DAY, FROM, TO = 1440, 420, 930


def weather(rng, days):
    """Hours in which something that sticks may be done: spells of rain and cold mornings."""
    open_hours, wet = [], False
    for day in range(days):
        wet = rng.random() < (0.6 if wet else 0.25)
        if not wet:
            begin = FROM + rng.choice([0, 60, 120, 180])
            open_hours.append([day * DAY + begin, day * DAY + TO])
    return open_hours


def instance(places, crews, seed):
    rng = random.Random(seed)
    days = 40 + 3 * places // crews
    sky = weather(rng, days)
    works = lambda: [[d * DAY + FROM, d * DAY + TO] for d in range(days) if d % 7 < 5 and rng.random() > 0.04]
    people = [{"name": f"C{n}", "trades": TRADES if crews == 1 else [TRADES[n % 3]], "works": works()} for n in range(max(crews, 1))]
    if crews == 2:
        people[1]["trades"] = TRADES[1:]
    tasks = []
    for place in range(places):
        comes = rng.choice([0, 0, 0, rng.randrange(2, 12) * DAY])
        last = None
        for trade, sticks, earliest in [("barrier", True, 0), ("barrier", False, 0), ("window", False, comes), ("barrier", True, 0), ("cladding", False, 0)]:
            after = [] if last is None else [{"task": last, "minutes": rng.choice([0, 0, 0, 120, 1440])}]
            task = {"id": f"{place} {len(tasks)}", "trade": trade, "place": place, "minutes": rng.randrange(20, 150), "after": after, "earliest": earliest}
            if sticks:
                task["open"] = sky
            last = len(tasks)
            tasks.append(task)
    spots = [{"name": f"P{p}", "apart": [q for q in (p - 1, p + 1) if p // 2 == q // 2 and 0 <= q < places]} for p in range(places)]
    return {"format": "kame-days", "version": 1, "crews": people, "places": spots, "tasks": tasks}


def other(of, seconds):
    """The same by constraint programming: a start for each task, one crew each, nothing at once."""
    model = cp_model.CpModel()
    horizon = max(w[1] for c in of["crews"] for w in c["works"])
    starts, by_crew, by_place = [], [[] for _ in of["crews"]], [[] for _ in of["places"]]
    for n, task in enumerate(of["tasks"]):
        takes = task["minutes"]
        start = model.NewIntVar(task["earliest"], horizon, f"s{n}")
        chosen = []
        for c, crew in enumerate(of["crews"]):
            if task["trade"] not in crew["trades"]:
                continue
            windows = []
            for a, b in crew["works"]:
                for u, v in task.get("open") or [[0, horizon]]:
                    lo, hi = max(a, u), min(b, v) - takes
                    if lo <= hi:
                        windows.append([lo, hi])
            use = model.NewBoolVar(f"u{n} {c}")
            chosen.append(use)
            if not windows:
                model.Add(use == 0)
                continue
            model.AddLinearExpressionInDomain(start, cp_model.Domain.FromIntervals(windows)).OnlyEnforceIf(use)
            by_crew[c].append(model.NewOptionalIntervalVar(start, takes, start + takes, use, f"i{n} {c}"))
        model.AddExactlyOne(chosen)
        by_place[task["place"]].append(model.NewIntervalVar(start, takes, start + takes, f"p{n}"))
        starts.append(start)
    for n, task in enumerate(of["tasks"]):
        for a in task["after"]:
            model.Add(starts[n] >= starts[a["task"]] + of["tasks"][a["task"]]["minutes"] + a["minutes"])
    for intervals in by_crew:
        model.AddNoOverlap(intervals)
    for p, spot in enumerate(of["places"]):
        for q in [p] + [q for q in spot["apart"] if q > p]:
            model.AddNoOverlap(by_place[p] if q == p else by_place[p] + by_place[q])
    end = model.NewIntVar(0, horizon + DAY, "end")
    for n, task in enumerate(of["tasks"]):
        model.Add(end >= starts[n] + task["minutes"])
    model.Minimize(end)
    solver = cp_model.CpSolver()
    solver.parameters.max_time_in_seconds = seconds
    solver.parameters.num_workers = 2
    status = solver.Solve(model)
    return (int(solver.ObjectiveValue()), int(solver.BestObjectiveBound())) if status in (cp_model.OPTIMAL, cp_model.FEASIBLE) else (None, None)


def main():
    seconds = float(sys.argv[1]) if len(sys.argv) > 1 else 30
    worst, shares = 0, []
    print("places crews seed | Kame: end, bound, s | other: end, bound | days more, %")
    for places in (5, 20, 60):
        for crews in (1, 2, 3, 4):
            for seed in range(2):
                of = instance(places, crews, 1000 * places + 10 * crews + seed)
                with tempfile.NamedTemporaryFile("w", suffix=".json") as file:
                    json.dump(of, file)
                    file.flush()
                    began = time.time()
                    out = subprocess.run([KAME, "days", "--instance", file.name], capture_output=True, text=True)
                    took = time.time() - began
                if out.returncode:
                    print(places, crews, seed, out.stderr)
                    continue
                proof = json.loads(out.stdout)["proof"]
                end, bound = other(of, seconds)
                best = min(e for e in (end, proof["finish"]) if e is not None)
                more = -(-proof["finish"] // DAY) + -best // DAY
                share = 100 * (proof["finish"] / best - 1)
                worst = max(worst, more)
                shares.append(share)
                print(f"{places:3} {crews} {seed} | {proof['finish']} {proof['bound']} {took:.2f} | {end} {bound} | {more} {share:.2f}", flush=True)
    print(f"on average {sum(shares) / len(shares):.2f} % later than the better of both, at most {worst} days")


if __name__ == "__main__":
    main()
