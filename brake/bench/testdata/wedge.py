"""SciPy's quad of the trapped wedge: python3 wedge.py (Debian package python3-scipy)."""
from math import acos, radians, sqrt, tan
from scipy.integrate import quad

def segment(h, d):
    r = d / 2
    h = max(0, min(d, h))
    return r * r * acos((r - h) / r) - (r - h) * sqrt(max(0, 2 * r * h - h * h))

for port, tilt in ((12, 10), (15, 15)):
    print(port, tilt, quad(lambda z: segment(z * tan(radians(tilt)), 25.4), 0, port)[0])
