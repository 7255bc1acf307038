"""Times the SciPy reference on the same work as the Go benchmarks. Run it through scripts/speed."""
import json, sys, time

from reference import Twin

s = json.load(open(sys.argv[1]))


def best(work, n):
    out = []
    for _ in range(n):
        t = time.perf_counter()
        work()
        out.append(time.perf_counter() - t)
    return min(out)


whole = Twin(s)
print("apply_ns", best(lambda: [whole.solve(5 * (i + 1), True) for i in range(100)], 20) * 1e9)
s["circuits"][0]["bypass_mm3_s_mpa"], s["circuits"][1]["leak_mm3_s_mpa"] = 60, 25
leaky = Twin(s)
print("hold_ns", best(lambda: leaky.hold(200, 60, True), 5) * 1e9)
