"""Puts random systems to the Go twin and to the SciPy reference and lists where they part.

  go build -o bin/geminate ./cmd/geminate && bin/geminate pattern --all DIR
  /usr/bin/python3 cross.py bin/geminate DIR SEED HOW_MANY

Tolerances: 0.01 % or 1 µm on travel, 0.1 % on pressure; for the hold 0.5 % or 0.02 mm. A circuit left open on a pedal that
is on the floor is left out of the reservoir's balance: the reference does not say how far that chamber went.
"""
import copy, json, pathlib, random, subprocess, sys, tempfile

from reference import Twin

binary, folder, seed, count = sys.argv[1], pathlib.Path(sys.argv[2]), int(sys.argv[3]), int(sys.argv[4])
random.seed(seed)
patterns = [json.loads(f.read_text()) for f in sorted(folder.glob("*.json"))]
uniform = random.uniform


def shake(s):
    def scale(o, k, most=1e9):
        o[k] = min(most, o[k] * uniform(0.6, 1.5))

    mc = s["master_cylinder"]
    scale(mc, "bore_mm")
    mc["efficiency"] = uniform(0.8, 1)
    for part in ("primary", "secondary"):
        if part in mc:
            scale(mc[part], "stroke_mm")
            mc[part]["preload_n"] = uniform(0, 150)
    if "pedal" in s:
        s["pushrod_gap_mm"] = random.choice([uniform(-1.5, 0), uniform(0, 4)])
        scale(s["pedal"], "floor_mm")
        s["pedal"]["return_force_n"] = random.choice([0, uniform(0, 60)])
    b = s.get("booster", {})
    for k in ("vacuum_kpa", "supply_mpa"):
        if k in b:
            b[k] = random.choice([b[k], uniform(0, b[k]), 0])
    for c in s["circuits"]:
        if random.random() < 0.4:
            c["air_cm3"] = uniform(0, 20)
        for k in ("bypass_mm3_s_mpa", "leak_mm3_s_mpa"):
            if random.random() < 0.4:
                c[k] = 10 ** uniform(0, 3)
        c["open"] = random.random() < 0.12
        if random.random() < 0.2:
            c["residual_mpa"] = uniform(0, 0.1)
    for w in s["wheels"]:
        scale(w["brake"], "compliance_mm3_per_mpa")
        scale(w["brake"], "clearance_mm", 5)
    return s


def ask(path, *args):
    return json.loads(subprocess.run([binary, "twin", *args[:1], path, *args[1:]], check=True, capture_output=True, text=True).stdout)


checked = parted = 0
path = tempfile.mkstemp(suffix=".json")[1]
for n in range(count):
    s = shake(copy.deepcopy(random.choice(patterns)))
    pathlib.Path(path).write_text(json.dumps(s))
    t = Twin(s)
    ids = [c["circuit"] for c in t.chambers]
    feet = [0, 15, 40, 80, 150, 250, 400, 700] if "pedal" in s else [0, 300, 600, 1500, 4000]
    for flag in ([], ["--no-assist"]):
        for foot, p in zip(feet, ask(path, "apply", "--pedal-force", ",".join(map(str, feet)), *flag)["points"]):
            _, ch, x, _ = t.solve(foot, not flag)
            checked += 1
            if abs(p["pedal_travel_mm"] - x) > max(1e-3, 1e-4 * x) or any(abs(p["pressure_mpa"][i] - c[0]) > max(2e-3, 1e-3 * c[0]) for i, c in zip(ids, ch)):
                parted += 1
                print("apply", n, s["name"], foot, flag, p["pedal_travel_mm"], x)
    foot = random.choice([100, 200, 300]) if "pedal" in s else 2500
    for a, b in zip(ask(path, "hold", "--pedal-force", str(foot), "--seconds", "60")["samples"], t.hold(foot, 60, True)):
        checked += 1
        wrong = abs(a["pedal_travel_mm"] - b["pedal_travel_mm"]) > max(0.02, 5e-3 * b["pedal_travel_mm"])
        wrong |= any(abs(a["pressure_mpa"][i] - c) > max(0.01, 5e-3 * c) for i, c in zip(ids, b["pressure_mpa"]))
        if not any(c["open"] for c in s["circuits"]):
            wrong |= abs(a["reservoir_change_cm3"] - b["reservoir_change_cm3"]) > max(0.01, 5e-3 * abs(b["reservoir_change_cm3"]))
        if wrong:
            parted += 1
            print("hold", n, s["name"], foot, a, b)
            break
print(f"{checked} figures compared, {parted} parted")
