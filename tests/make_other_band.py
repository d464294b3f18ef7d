# A copy of a recording, of another band and sounded a day later: python3 make_other_band.py FROM TO [DEGREES]
# With DEGREES it was sounded so far to the north and to the east.
import sys

import netCDF4
import numpy

source, target = sys.argv[1:3]
degrees = float(sys.argv[3]) if len(sys.argv) > 3 else 0
with open(source, "rb") as a, open(target, "wb") as b:
    b.write(a.read())
with netCDF4.Dataset(target, "r+") as d:
    changed = []

    def walk(group):
        for name, v in group.variables.items():
            if name.startswith("time") or name.endswith("_time"):
                v[:] = v[:] + numpy.array(86400 * (10**9 if v.units.startswith("nanoseconds") else 1), v.dtype)
                changed.append(name)
            if name in ("latitude", "longitude"):
                v[:] = v[:] + degrees
            if "frequency" in name:
                v[:] = v[:] / 2
                changed.append(name)
        for g in group.groups.values():
            walk(g)

    walk(d)
    print(changed)
