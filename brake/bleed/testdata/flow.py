"""A second opinion on the bleeding: flow by a root search over the pressures along the path, the laminar profile
integrated, washout by solving the cavity's balance with solve_ivp, bubble speed by brentq on Bretherton's relation.
Written from the equations; it shares no code with the Go core.

  geminate pattern --all DIR && /usr/bin/python3 flow.py DIR > flow.json
"""
import json, math, pathlib, sys

from scipy.integrate import quad, solve_ivp
from scipy.optimize import brentq

NU = {"DOT 3": (1200, 2.2), "DOT 4": (1400, 2.2)}  # mm2/s at -40 and 100 C, as brake/fluid states them


def viscosity(cls, temp):
    w = lambda nu: math.log10(math.log10(nu + 0.7))
    cold, hot = NU[cls]
    t1, t2 = math.log10(233.15), math.log10(373.15)
    b = (w(cold) - w(hot)) / (t2 - t1)
    return 10 ** (10 ** (w(cold) + b * t1 - b * math.log10(temp + 273.15))) - 0.7


def flow(s, w, drive_pa, temp):
    rho = s["fluid"].get("density_kg_m3", 1050)
    mu = viscosity(s["fluid"]["class"], temp) * 1e-6 * rho
    bl = w.get("bleeder", {"bore_mm": 1.8, "length_mm": 8})
    pipes = [(w["line"]["bore_mm"], w["line"]["length_mm"]), (w["hose"].get("bore_mm", 3.2), w["hose"]["length_mm"]), (bl["bore_mm"], bl["length_mm"])]
    port = math.pi * s["master_cylinder"].get("compensating_port_mm", 0.7) ** 2 / 4 * 1e-6
    # per unit pressure gradient, the flow through each pipe
    through = [quad(lambda x, r=d / 2000: 2 * math.pi * x * (r * r - x * x) / (4 * mu), 0, d / 2000)[0] for d, _ in pipes]

    def short(q):  # pressure not yet used up by a flow of q m3/s
        return drive_pa - rho / 2 * (q / (0.65 * port)) ** 2 - sum(q / g * length / 1000 for g, (_, length) in zip(through, pipes))

    return brentq(short, 0, 1e-3, xtol=1e-18, rtol=1e-13) * 1e6  # cm3/s


def washout(pipe, cavity, old):
    enter = lambda v: 1 if v <= pipe / 2 else (pipe / v) ** 2 / 4
    done = lambda v, c: c[0] - old
    done.terminal = True
    return solve_ivp(lambda v, c: [(enter(v) - c[0]) / cavity], (0, 50 * (pipe + cavity)), [1.0], events=done, rtol=1e-9, atol=1e-12, max_step=(pipe + cavity) / 50).t_events[0][0]


def rise(s, bore, temp):
    rho, sigma = s["fluid"].get("density_kg_m3", 1050), 0.035
    bo = rho * 9.80665 * (bore / 2000) ** 2 / sigma
    if bo <= 0.842:
        return 0
    ca = brentq(lambda c: 1.25 * c ** (2 / 9) + 2.24 * c ** (1 / 3) - (bo - 0.842), 1e-15, 10, xtol=1e-18)
    u = ca * sigma / (viscosity(s["fluid"]["class"], temp) * 1e-6 * rho) * 1000
    u = min(u, 345 * math.sqrt(9.80665 * bore / 1000))  # inertia bounds it (Dumitrescu 1943, from memory)
    return u if u >= 1 else 0


if __name__ == "__main__":
    out = []
    for name in ["pickup-front-rear-vacuum", "car-diagonal-vacuum", "truck-hydraulic", "special-vacuum", "trailer-surge", "clutch-hydraulic"]:
        s = json.loads((pathlib.Path(sys.argv[1]) / (name + ".json")).read_text())
        for w in (s["wheels"][0], s["wheels"][-1]):
            pipe = math.pi / 4 * (w["line"]["bore_mm"] ** 2 * w["line"]["length_mm"] + w["hose"].get("bore_mm", 3.2) ** 2 * w["hose"]["length_mm"]) / 1000
            for temp in (-5, 20, 35):
                out.append({"pattern": name, "wheel": w["id"], "temperature_c": temp, "viscosity": viscosity(s["fluid"]["class"], temp),
                            "pressure_100kpa": flow(s, w, 1e5, temp), "gravity_400mm": flow(s, w, 1050 * 9.80665 * 0.4, temp),
                            "rise_6mm": rise(s, 6.0, temp), "path_cm3": pipe + w["brake"]["cavity_cm3"],
                            "washout_10": washout(pipe, w["brake"]["cavity_cm3"], 0.1), "washout_3": washout(pipe, w["brake"]["cavity_cm3"], 0.03)})
    json.dump(out, sys.stdout, indent=1)
