"""Independent reference for the twin, with SciPy: brentq for the static apply, solve_ivp for the hold.

Run it again with:  go run ./cmd/geminate pattern --all DIR && python3 reference.py DIR > reference.json
(Debian package python3-scipy.) It shares no code with the Go core: it was written from the equations.
"""
import json, math, sys, pathlib
from scipy.integrate import solve_ivp
from scipy.optimize import brentq


class Twin:
    def __init__(self, s):
        self.s = s
        mc = s["master_cylinder"]
        self.area = math.pi * mc["bore_mm"] ** 2 / 4
        self.eta = mc["efficiency"]
        self.patm = s["ambient"]["atmosphere_kpa"] / 1000
        self.wheels = {w["id"]: w for w in s["wheels"]}
        self.circuits = {c["id"]: c for c in s["circuits"]}
        self.chambers = [mc["primary"]] + ([mc["secondary"]] if "secondary" in mc else [])
        gap = s.get("pushrod_gap_mm", 0)
        lever = s.get("actuator") or s["pedal"]
        self.ratio, self.floor = lever["ratio"], lever["floor_mm"]
        self.dead = max(0, gap) + lever.get("free_play_mm", 0)
        self.cut = [c["cutoff_mm"] for c in self.chambers]
        self.stroke = [c["stroke_mm"] for c in self.chambers]
        if gap < 0:
            self.cut[0] = max(0, self.cut[0] + gap)
            self.stroke[0] += gap

    def piston(self, b):
        return sum(math.pi * d * d / 4 for d in (b["pistons_mm"] if b["kind"] == "disc" else [b["cylinder_mm"]]))

    def vstar(self, cid, p):
        c, prop = self.circuits[cid], self.s.get("proportioning")
        fluid = v = 0.0
        for wid in c["wheels"]:
            w = self.wheels[wid]
            pw = p
            if prop and wid in prop["wheels"] and p > prop["knee_mpa"]:
                pw = prop["knee_mpa"] + prop["slope"] * (p - prop["knee_mpa"])
            b, h = w["brake"], w["hose"]
            v += 2 * b["clearance_mm"] * self.piston(b) * min(1, pw / b["take_up_mpa"])
            v += b["compliance_mm3_per_mpa"] * pw + h["length_mm"] / 1000 * h["expansion_mm3_per_m_mpa"] * pw
            fluid += w["line"]["length_mm"] * math.pi * w["line"]["bore_mm"] ** 2 / 4 + 1000 * b["cavity_cm3"]
        return v + fluid * p / self.s["fluid"]["bulk_modulus_mpa"] + 1000 * c["air_cm3"] * (1 - self.patm / (self.patm + p))

    def volume(self, cid, p):
        pr = self.circuits[cid].get("residual_mpa", 0)
        return self.vstar(cid, max(p, pr)) - self.vstar(cid, pr)

    def rod(self, foot):
        return max(0, self.ratio * foot - self.s.get("pedal", {}).get("return_force_n", 0))

    def output(self, foot, assist):
        if "actuator" in self.s:
            return max(0, self.ratio * foot - self.s["actuator"]["cut_in_n"])
        rod = self.rod(foot)
        b = self.s["booster"]
        if b["kind"] == "none":
            return rod
        u = rod - b["cut_in_n"]
        if u <= 0:
            return 0
        power = 0.0
        if assist:
            power = (b["efficiency"] * b["vacuum_kpa"] / 1000 * b["effective_area_mm2"] if b["kind"] == "vacuum"
                     else b["supply_mpa"] * b["power_area_mm2"])
        return max(0, min(b["jump_in_n"] + b["ratio"] * u, u + power - b["spring_n"]))

    def chamber(self, k, out, lost):
        """pressure, piston travel and whether it is at its end"""
        c = self.circuits[self.chambers[k]["circuit"]]
        load = self.eta * out - self.chambers[k]["preload_n"]
        if load <= 0:
            return 0, 0, False
        if c["open"]:
            return 0, self.stroke[k], True
        p = load / self.area
        y = self.cut[k] + (self.volume(c["id"], p) + lost) / self.area
        if y <= self.stroke[k]:
            return p, y, False
        room = self.area * (self.stroke[k] - self.cut[k]) - lost
        if room <= 0:
            return 0, self.stroke[k], True
        return brentq(lambda x: self.volume(c["id"], x) - room, 0, p, xtol=1e-13), self.stroke[k], True

    def solve(self, foot, assist, lost=(0, 0)):
        out = self.output(foot, assist)
        sim = self.s.get("booster", {}).get("simulator")
        every = lambda f: [self.chamber(k, f, lost[k]) for k in range(len(self.chambers))]
        travel = lambda f: self.ratio * (self.dead + sum(y for _, y, _ in every(f)))
        if self.rod(foot) == 0:
            return 0, every(0), 0, False
        if assist and sim and self.s["booster"]["supply_mpa"] > 0:  # the foot pushes a spring of its own
            rod = self.rod(foot)
            x = self.ratio * (self.s["pedal"]["free_play_mm"] + sim["free_mm"] + rod / sim["stiffness_n_per_mm"])
            return out, every(out), min(x, self.floor), x > self.floor
        if travel(out) <= self.floor:
            return out, every(out), travel(out), False
        at = brentq(lambda f: travel(f) - self.floor, 0, out, xtol=1e-11)
        while travel(at) > self.floor:
            at -= 1e-9 * max(1, at)
        return at, every(at), self.floor, True

    def hold(self, foot, seconds, assist):
        rate = [c["bypass_mm3_s_mpa"] + c["leak_mm3_s_mpa"] for c in (self.circuits[x["circuit"]] for x in self.chambers)]

        def flow(_, lost):
            _, ch, _, _ = self.solve(foot, assist, lost)
            return [q * p for q, (p, _, _) in zip(rate, ch)]

        times = [seconds * i / 6 for i in range(7)]
        sol = solve_ivp(flow, (0, seconds), [0.0] * len(rate), t_eval=times, rtol=1e-8, atol=1e-6, max_step=seconds / 200)
        rows = []
        for i, t in enumerate(times):
            lost = [sol.y[k][i] for k in range(len(rate))]
            _, ch, x, _ = self.solve(foot, assist, lost)
            leak = 0.0
            for k, c in enumerate(self.chambers):
                ci = self.circuits[c["circuit"]]
                leak -= lost[k] * ci["leak_mm3_s_mpa"] / rate[k] / 1000 if rate[k] else 0
                leak -= self.area * (self.stroke[k] - self.cut[k]) / 1000 if ci["open"] and ch[k][1] > 0 else 0
            rows.append({"t_s": t, "pedal_travel_mm": x, "pressure_mpa": [p for p, _, _ in ch], "reservoir_change_cm3": leak})
        return rows


    def heat(self, cid, rise):
        """pressure of a circuit trapped at rest, its fluid warmer by rise"""
        fluid = sum(w["line"]["length_mm"] * math.pi * w["line"]["bore_mm"] ** 2 / 4 + 1000 * w["brake"]["cavity_cm3"]
                    for w in (self.wheels[i] for i in self.circuits[cid]["wheels"]))
        return brentq(lambda p: self.volume(cid, p) - 8e-4 * fluid * rise, 0, 40, xtol=1e-12)

    def reserve(self):
        """vacuum or supply over three applications, as differential equations of what flows in or out"""
        b = self.s.get("booster", {})
        if b.get("kind") == "vacuum":
            # outside air drawn in and mixed: each application replaces its share of the chamber's air deficit
            v, out = b["vacuum_kpa"], []
            for _ in range(3):
                out.append(v)
                v = solve_ivp(lambda _, y: [-y[0]], (0, -math.log(1 - b["stroke_to_release_cm3"] / b["chamber_cm3"])), [v], rtol=1e-10).y[0][-1]
            return out
        if "accumulator" in b:
            a = b["accumulator"]
            p = a["charged_mpa"] + self.patm
            gas = (a["precharge_mpa"] + self.patm) * a["gas_cm3"] / p
            out = []
            for _ in range(3):  # isothermal: dp/dV = -p/V
                p = solve_ivp(lambda v, y: [-y[0] / v], (gas, gas + a["use_cm3"]), [p], rtol=1e-10).y[0][-1]
                gas += a["use_cm3"]
                out.append(p - self.patm)
            return out
        return []


def set_in(s, path, value):
    *head, last = path.split(".")
    for h in head:
        s = s[int(h)] if h.isdigit() else s[h]
    s[int(last) if last.isdigit() else last] = value


CASES = [
    ("pickup-front-rear-vacuum", {}),
    ("pickup-front-rear-vacuum", {"circuits.0.air_cm3": 6, "circuits.1.air_cm3": 3}),
    ("pickup-front-rear-vacuum", {"circuits.0.bypass_mm3_s_mpa": 8}),
    ("pickup-front-rear-vacuum", {"circuits.0.bypass_mm3_s_mpa": 60, "circuits.1.leak_mm3_s_mpa": 25}),
    ("pickup-front-rear-vacuum", {"circuits.1.leak_mm3_s_mpa": 400, "pedal.floor_mm": 90}),
    ("car-diagonal-vacuum", {}),
    ("car-diagonal-vacuum", {"circuits.1.open": True, "circuits.0.bypass_mm3_s_mpa": 20}),
    ("car-diagonal-vacuum", {"pushrod_gap_mm": 4.0, "circuits.0.residual_mpa": 0.07}),
    ("car-front-rear-vacuum", {"pushrod_gap_mm": -0.8}),
    ("car-front-rear-vacuum", {"pedal.floor_mm": 60, "circuits.0.bypass_mm3_s_mpa": 30, "circuits.1.leak_mm3_s_mpa": 10}),
    ("pickup-hydraulic", {"circuits.1.leak_mm3_s_mpa": 15}),
    ("special-manual", {"wheels.0.brake.clearance_mm": 0.6, "wheels.1.brake.clearance_mm": 0.6}),
    ("trailer-surge", {"circuits.0.leak_mm3_s_mpa": 30}),
    ("truck-hydraulic", {"circuits.0.air_cm3": 9, "circuits.0.leak_mm3_s_mpa": 40}),
    ("special-vacuum", {"circuits.1.air_cm3": 2, "circuits.0.bypass_mm3_s_mpa": 12}),
    ("special-vacuum", {"booster.vacuum_kpa": 0, "ambient.atmosphere_kpa": 84, "pedal.return_force_n": 25}),
    ("hybrid-electro-hydraulic", {"booster.supply_mpa": 0, "circuits.1.leak_mm3_s_mpa": 30}),
    ("hybrid-electro-hydraulic", {"circuits.0.bypass_mm3_s_mpa": 20}),
    ("hybrid-electro-hydraulic", {"circuits.0.leak_mm3_s_mpa": 30, "pedal.return_force_n": 30}),
    ("clutch-hydraulic", {"circuits.0.air_cm3": 1.5, "circuits.0.bypass_mm3_s_mpa": 5}),
]

if __name__ == "__main__":
    out = []
    for name, changes in CASES:
        s = json.loads((pathlib.Path(sys.argv[1]) / (name + ".json")).read_text())
        for path, v in changes.items():
            set_in(s, path, v)
        t = Twin(s)
        feet = [0, 20, 50, 100, 200, 300, 500, 1200] if "actuator" not in s else [0, 300, 800, 1500, 3000, 6000]
        apply = []
        for assist in (True, False):
            for f in feet:
                o, ch, x, floored = t.solve(f, assist)
                apply.append({"pedal_force_n": f, "assist": assist, "output_force_n": o, "pedal_travel_mm": x, "floored": floored,
                              "pressure_mpa": [c[0] for c in ch], "stroke_mm": [c[1] for c in ch]})
        foot = 2500 if "actuator" in s else 200
        first = t.chambers[0]["circuit"]
        heat = [{"rise_k": k, "pressure_mpa": t.heat(first, k)} for k in (5, 20, 40, 80)]
        out.append({"pattern": name, "changes": changes, "heat": heat, "reserve": t.reserve(), "apply": apply, "hold": {"force_n": foot, "seconds": 60, "samples": t.hold(foot, 60, True)}})
    json.dump(out, sys.stdout, indent=1)
