#!/usr/bin/python3
"""Writes lawful, odd and damaged variants of a small recording with an independent netCDF library, and a manifest.

usage: make_variants.py FOLDER
manifest.txt: name <tab> exit code <tab> text that the answer must hold (empty: for code 0, no warning may be told) <tab> pings
"""
import os, sys
import numpy as np
import netCDF4

folder = sys.argv[1]
manifest = []
EPOCH = 13395473600 * 10**9  # 2025-06-27T04:53:20Z since 1601
UNITS = "nanoseconds since 1601-01-01 00:00:00Z"
N, S = 60, 200


def samples(i, side, n=S):
    rng = np.random.default_rng(1000 * i + side)
    k = np.arange(n)
    level = np.where(k < 50, 5, 100) + rng.normal(0, 8, n)
    return np.clip(level, 0, 255)


def make(path, *, units="count", dtype="u1", padded=False, names=("port", "starboard"), char_names=False, c=1467.7, temperature=15.5,
         nav=True, heading=True, drop=(), change=None, times=None, time_units=UNITS, time_dtype="u8", groups=1, group_names=None,
         counts=None, swap=False, attrs=None, nmea=True, char_nmea=False, extra=None, fill=None, directions=True, sonar="Sonar", n=N):
    f = netCDF4.Dataset(path, "w", format="NETCDF4")
    f.Conventions = "CF-1.7, SONAR-netCDF4-1.0, ACDD-1.3"
    env = f.createGroup("Environment")
    if c is not None:
        env.createVariable("sound_speed_indicative", "f8")[:] = c
    if temperature is not None:
        env.createVariable("water_temperature", "f8")[:] = temperature
    if nav:
        p = f.createGroup("Platform")
        p.createDimension("time1", 4 * n // 3); p.createDimension("time2", 2 * n); p.createDimension("transducer", 1); p.createDimension("position", 1)
        t1 = p.createVariable("time1", "u8", ("time1",)); t1.units = UNITS
        t1[:] = EPOCH + (np.arange(4 * n // 3) * 0.1 * 1e9).astype("u8")
        m = 4 * n // 3
        if "latitude" not in drop:
            p.createVariable("latitude", "f8", ("time1",))[:] = 57.23 + np.arange(m) * 1.35e-6 + 1e-8 * np.sin(np.arange(m))
            p.createVariable("longitude", "f8", ("time1",))[:] = 14.1098 + 1e-8 * np.cos(np.arange(m))
        if "speed_ground" not in drop:
            p.createVariable("speed_ground", "f4", ("time1",))[:] = 1.5
        if heading:
            t2 = p.createVariable("time2", "u8", ("time2",)); t2.units = UNITS
            t2[:] = EPOCH + (np.arange(2 * n) * 0.07 * 1e9).astype("u8")
            h = p.createVariable("heading", "f4", ("time2",))
            h[:] = (360 + 2 * np.sin(np.arange(2 * n) * 0.3)) % 360
        for axis, a, b in (("x", -1.5, -0.3), ("y", 0.2, 0.0), ("z", 0.7, -0.8)):
            if "offsets" not in drop:
                p.createVariable(f"transducer_offset_{axis}", "f4", ("transducer",))[:] = a
                p.createVariable(f"position_offset_{axis}", "f4", ("position",))[:] = b
        if "water_level" not in drop:
            p.createVariable("water_level", "f4")[:] = 0.3
        if nmea:
            g = p.createGroup("NMEA")
            g.createDimension("time", 3)
            t = g.createVariable("time", "u8", ("time",)); t.units = UNITS
            t[:] = EPOCH + np.arange(3) * 10**9
            lines = ["$SDDPT,5.64,0.40,60*7E", "$SDMTW,15.5,C*05", "$SDDPT,5.64,0.40,60*7E"]
            if char_nmea:
                g.createDimension("length", 40)
                v = g.createVariable("NMEA_datagram", "S1", ("time", "length"))
                v[:] = netCDF4.stringtochar(np.array(lines, dtype="S40"))
            else:
                v = g.createVariable("NMEA_datagram", str, ("time",))
                for i, s in enumerate(lines): v[i] = s
    root = f.createGroup(sonar)
    root.sonar_model = "test"
    names = list(names)
    vlen = None if padded else root.createVLType(np.dtype(dtype), "sample_t")
    for number in range(groups):
        g = root.createGroup((group_names or [f"Beam_group{i + 1}" for i in range(groups)])[number])
        b = len(names)
        g.createDimension("ping_time", n); g.createDimension("beam", b)
        if "beam" not in drop:
            if char_names:
                g.createDimension("name_length", 16)
                g.createVariable("beam", "S1", ("beam", "name_length"))[:] = netCDF4.stringtochar(np.array(names, dtype="S16"))
            else:
                v = g.createVariable("beam", str, ("beam",))
                for i, s in enumerate(names): v[i] = s
        if "ping_time" not in drop:
            pt = g.createVariable("ping_time", time_dtype, ("ping_time",)); pt.units = time_units
            base = EPOCH + (np.arange(n) * 0.12 * 1e9).astype("u8") + 10**8 + number * 60 * 10**6
            pt[:] = times(base) if times else base
        if "backscatter_r" not in drop:
            dims = ("beam", "ping_time") if swap else ("ping_time", "beam")
            if padded:
                g.createDimension("sample", S + 20)
                v = g.createVariable("backscatter_r", dtype, dims + ("sample",), fill_value=fill if fill is not None else None)
                data = np.full((n, b, S + 20), np.nan if fill is None else fill, dtype=dtype)
                for i in range(n):
                    for s in range(b): data[i, s, :S] = convert(samples(i, s), units, dtype)
                v[:] = np.swapaxes(data, 0, 1) if swap else data
            else:
                v = g.createVariable("backscatter_r", vlen, dims)
                cells = np.empty((n, b), object)
                for i in range(n):
                    for s in range(b): cells[i, s] = convert(samples(i, s, counts(i) if counts else S), units, dtype)
                v[:] = cells.T if swap else cells
            if units is not None: v.units = units
            if units == "count": v.db_at_zero = -91.4; v.db_per_count = 0.28; v.count_max = 255
            for key, value in (attrs or {}).items():
                if value is None: v.delncattr(key)
                else: v.setncattr(key, value)
        put = lambda name, kind, dims, value: name not in drop and g.createVariable(name, kind, dims).__setitem__(slice(None), value)
        put("sample_interval", "f8", ("ping_time",), 9e-5)
        put("sample_time_offset", "f8", ("ping_time",), 0.0)
        put("blanking_interval", "f4", ("ping_time",), 0.0)
        if directions and b == 2:
            put("beam_direction_x", "f8", ("ping_time", "beam"), 0.0)
            put("beam_direction_y", "f8", ("ping_time", "beam"), np.tile([-0.891, 0.891], (n, 1)))
            put("beam_direction_z", "f8", ("ping_time", "beam"), 0.454)
        put("transmit_frequency_start", "f4", ("ping_time",), 784e3)
        put("transmit_frequency_stop", "f4", ("ping_time",), 816e3)
        put("transducer_gain", "f4", ("ping_time", "beam"), 20.0)
    if change: change(f)
    f.close()


def convert(level, units, dtype):
    if units == "dB": level = -91.4 + 0.28 * level
    if units == "1": level = 10 ** ((-91.4 + 0.28 * level) / 20)
    return level.astype(dtype)


def case(name, code, text="", pings=N, **how):
    make(os.path.join(folder, name + ".nc"), **how)
    manifest.append((name, code, text, pings))


# Lawful, without remark.
case("plain", 0)
for kind in ("i1", "u2", "i2", "u4", "i4", "f4", "f8"):
    if kind == "i1": continue  # 255 does not fit
    case(f"vlen-{kind}", 0, dtype=kind)
for kind in ("u2", "i4", "f4", "f8"):
    case(f"padded-{kind}", 0, dtype=kind, padded=True, fill=65535 if kind == "u2" else -9999)
case("padded-nan", 0, dtype="f8", padded=True)
case("decibels", 0, units="dB", dtype="f4")
case("amplitudes", 0, units="1", dtype="f8")
case("amplitudes-padded", 0, units="1", dtype="f4", padded=True)
case("char-names", 0, char_names=True)
case("char-sentences", 0, char_nmea=True)
case("range-changed", 0, counts=lambda i: S if i < 30 else 120)
case("port-only", 0, names=("port",))
case("two-groups", 0, pings=2 * N, groups=2)
case("groups-in-any-order", 0, pings=2 * N, groups=2, group_names=["Beam_group7", "Beam_group2"])
case("no-sentences", 0, nmea=False)
case("no-offsets", 0, drop=("offsets", "water_level"))
case("no-optional-parts", 0, drop=("offsets", "water_level", "speed_ground", "blanking_interval", "sample_time_offset", "transducer_gain",
                                  "transmit_frequency_start", "transmit_frequency_stop"), nmea=False, temperature=None)
case("no-directions", 0, directions=False)
case("seconds-since-1970", 0, time_dtype="f8", time_units="seconds since 1970-01-01", times=lambda t: (t.astype("f8") / 1e9) - 11644473600)
case("signed-times", 0, time_dtype="i8", time_units="nanoseconds since 1970-01-01T00:00:00Z", times=lambda t: (t - np.uint64(11644473600 * 10**9)).astype("i8"))
case("capital-names", 0, names=("Port", "STARBOARD"))
def wrap(f): f["Platform"]["heading"][:] = (359.5 + np.arange(2 * N) * 0.02) % 360
case("heading-through-north", 0, change=wrap)
case("one-ping", 0, pings=1, n=1, nav=False, text="no positions")

# Numbers packed as CF lets them be, and what stands for none.
def again(group, name, kind, dims, data, **attributes):
    """Writes a variable anew, with stored numbers and attributes as told."""
    group.renameVariable(name, name + "_before")
    v = group.createVariable(name, kind, dims, fill_value=attributes.pop("fill_value", None), endian=attributes.pop("endian", "native"))
    v.set_auto_maskandscale(False)
    for key, value in attributes.items(): v.setncattr(key, value)
    v[...] = data
def packed_levels(f):
    data = np.full((N, 2, S + 20), -32768, "i2")
    for i in range(N):
        for s in range(2): data[i, s, :S] = np.round((-91.4 + 0.28 * samples(i, s)) / 0.01)
    again(f["Sonar/Beam_group1"], "backscatter_r", "i2", ("ping_time", "beam", "sample"), data, fill_value=-32768, units="dB", scale_factor=0.01, add_offset=0.0)
case("packed-levels", 0, units="dB", dtype="f4", padded=True, change=packed_levels)
def packed_track(f):
    p = f["Platform"]
    for name, off in (("latitude", 57.0), ("longitude", 14.0)):
        again(p, name, "i4", ("time1",), np.round((p[name][:] - off) * 1e9), scale_factor=1e-9, add_offset=off)
    again(p, "heading", "u2", ("time2",), np.round(p["heading"][:] * 100), scale_factor=0.01)
case("packed-track", 0, change=packed_track)
case("packed-interval", 0, change=lambda f: again(f["Sonar/Beam_group1"], "sample_interval", "i4", ("ping_time",), np.full(N, 90), scale_factor=1e-6))
def out_of_bounds(f):
    h = f["Platform"]["heading"][:]; h[30:50] = 500
    again(f["Platform"], "heading", "f4", ("time2",), h, valid_range=np.array([0, 360], "f4"))
case("headings-out-of-their-bounds", 0, "20 headings hold no number", change=out_of_bounds)
def missing_values(f):
    v = f["Platform"]["latitude"][:]; v[20:40] = 12.0
    again(f["Platform"], "latitude", "f8", ("time1",), v, missing_value=12.0)
case("missing-positions", 0, "20 positions hold no number", change=missing_values)
since = lambda each: (lambda t: ((t.astype("f8") / 1e9) - 11644473600) * each)
case("times-with-a-zone", 0, time_dtype="f8", time_units="seconds since 1970-01-01 02:00:00 +02:00", times=since(1))
case("times-west-of-it", 0, time_dtype="f8", time_units="seconds since 1969-12-31 18:30:00 -5:30", times=since(1))
case("microseconds", 0, time_dtype="f8", time_units="microseconds since 1970-01-01 00:00:00.0 UTC", times=since(1e6))
case("days", 0, time_dtype="f8", time_units="days since 1970-1-1", times=since(1 / 86400))
case("names-with-blanks", 0, names=("port  ", "starboard "))
case("big-endian", 0, change=lambda f: again(f["Sonar/Beam_group1"], "sample_interval", "f8", ("ping_time",), np.full(N, 9e-5), endian="big"))
case("dimension-of-another-name", 0, change=lambda f: (f["Platform"].renameDimension("time1", "when"), f["Platform"].renameDimension("time2", "when_turned")))
def kelvin(f): f["Environment"]["water_temperature"].units = "K"
case("temperature-in-kelvin", 0, "1467.7 m/s follows from 15.5", c=None, temperature=288.65, change=kelvin)
case("untold-parts", 0, change=lambda f: [f["Sonar/Beam_group1"][n].__setitem__(slice(None), np.nan) for n in ("blanking_interval", "sample_time_offset", "transducer_gain")])

# Odd: read, with a warning.
case("unknown-names", 0, "unknown", names=("links", "rechts"))
case("no-names", 0, "unknown", drop=("beam",))
case("c-missing", 0, "sound speed", c=None)
case("c-zero", 0, "sound speed", c=0.0)
case("c-nan", 0, "sound speed", c=float("nan"))
case("no-platform", 0, "no positions", nav=False)
case("no-position", 0, "no positions", drop=("latitude",))
case("no-heading", 0, "no headings", heading=False)
def nan_positions(f): f["Platform"]["latitude"][20:40] = np.nan
case("nan-positions", 0, "hold no number", change=nan_positions)
def nan_headings(f): f["Platform"]["heading"][30:70] = np.nan
case("nan-headings", 0, "hold no number", change=nan_headings)
def frozen(f):
    for v in ("latitude", "longitude"): f["Platform"][v][20:60] = f["Platform"][v][20]
case("frozen-positions", 0, "frozen", change=frozen)
def frozen_heading(f): f["Platform"]["heading"][30:90] = f["Platform"]["heading"][30]
case("frozen-headings", 0, "headings are frozen", change=frozen_heading)
def leap(f): f["Platform"]["latitude"][30:40] = f["Platform"]["latitude"][30:40] + 0.003
case("leaping-positions", 0, "leap", change=leap)
def leap_heading(f): f["Platform"]["heading"][40:50] = (f["Platform"]["heading"][40:50] + 120) % 360
case("leaping-headings", 0, "leap", change=leap_heading)
def outside(f): f["Platform"]["latitude"][10:30] = 5000.0
case("positions-off-the-globe", 0, "outside the globe", change=outside)
def gap(f): f["Platform"]["time1"][30:] = f["Platform"]["time1"][30:] + np.uint64(4 * 10**9)
case("gap-in-positions", 0, "gap", change=gap)
case("time-steps-back", 0, "steps back", times=lambda t: np.concatenate([t[:30], t[20:50]]))
def repeat(f):
    g = f["Sonar/Beam_group1"]
    for i in range(20, 25):
        g["ping_time"][i + 5] = g["ping_time"][i]
        g["backscatter_r"][i + 5] = g["backscatter_r"][i]
case("repeated-pings", 0, "repeated", pings=N - 5, change=repeat)
case("late-pings", 0, "no place", times=lambda t: t + np.uint64(6 * 10**9))
# What is missing without a word: each is told with its cause.
def hole(f):
    for i in range(20, 28):
        for b in range(2): f["Sonar/Beam_group1"]["backscatter_r"][i, b] = np.zeros(0, "u1")
case("samples-missing-in-a-stretch", 0, "samples are missing in 8 of 60 pings", change=hole)
def one_side(f):
    for i in range(25, N): f["Sonar/Beam_group1"]["backscatter_r"][i, 0] = np.zeros(0, "u1")
case("samples-missing-on-one-side", 0, "samples of the port beam are missing in 35 of 60 pings", change=one_side)
def silent_side(f):
    for i in range(N): f["Sonar/Beam_group1"]["backscatter_r"][i, 1] = np.zeros(0, "u1")
case("one-side-without-samples", 0, "the starboard beam has no samples", change=silent_side)
def no_samples(f):
    for i in range(N):
        for b in range(2): f["Sonar/Beam_group1"]["backscatter_r"][i, b] = np.zeros(0, "u1")
case("no-samples", 2, "no ping holds any samples", change=no_samples)
case("padded-without-samples", 2, "no ping holds any samples", padded=True, dtype="f4", change=lambda f: f["Sonar/Beam_group1"]["backscatter_r"].__setitem__(slice(None), np.nan))
def died(f):
    for i in range(31, N):
        for b in range(2): f["Sonar/Beam_group1"]["backscatter_r"][i, b] = np.zeros(0, "u1")
case("writer-died", 0, "samples are missing in 29 of 60 pings", change=died)
def zeros(f):
    for i in range(30, N):
        for b in range(2): f["Sonar/Beam_group1"]["backscatter_r"][i, b] = np.zeros(S, "u1")
case("zeros-from-half-way", 0, "nothing but zeros in 30 of 60 pings", change=zeros)
case("padded-zeros-from-half-way", 0, "nothing but zeros in 30 of 60 pings", padded=True, dtype="i4", fill=-9999,
     change=lambda f: f["Sonar/Beam_group1"]["backscatter_r"].__setitem__(slice(30, None), 0))
def stuck(f): f["Platform"]["heading"][:] = 40.0
case("heading-stuck-beside-the-track", 0, "the heading never changes from 40 degrees while the track runs elsewhere", change=stuck)
def stuck_in_a_turn(f):
    p = f["Platform"]; m = 4 * N // 3
    turn = np.radians(np.clip(np.arange(m) - 20, 0, 30) * 1.5)
    p["latitude"][:] = 57.23 + np.cumsum(np.cos(turn)) * 1.35e-6
    p["longitude"][:] = 14.1098 + np.cumsum(np.sin(turn)) * 1.35e-6 / np.cos(np.radians(57.23))
    p["heading"][:] = 1.0
case("heading-stuck-in-a-turn", 0, "the heading never changes from 1 degrees while the track turns", change=stuck_in_a_turn)
def aside(f): f["Platform"]["heading"][:] = (f["Platform"]["heading"][:] + 45) % 360
case("heading-beside-the-track", 0, "the heading lies 45 degrees beside the track", change=aside)
def two_transducers(f):
    p = f["Platform"]; p.createDimension("more", 2)
    v = p.createVariable("transducer_ids", str, ("more",)); v[0] = "a"; v[1] = "b"
case("unnamed-transducer", 0, "transducers", change=two_transducers)
def odd_speed(f): f["Environment"]["sound_speed_indicative"][:] = 343.0
case("sound-in-air", 0, "not one of water", change=odd_speed)

# What cannot be true is told, and does not come into the figures.
def put(variable, value, first=0):
    def change(f): f[variable][first:] = value
    return change
GROUP = "Sonar/Beam_group1/"
case("gain-without-number", 0, "transducer_gain: 60 of 120 values hold no number or cannot be true; the one before serves", change=put(GROUP + "transducer_gain", np.nan, 30))
case("gain-out-of-all-bounds", 0, "transducer_gain: 60 of 120 values", change=put(GROUP + "transducer_gain", 1e30, 30))
case("offset-without-number", 0, "sample_time_offset: 30 of 60 values", change=put(GROUP + "sample_time_offset", np.nan, 30))
case("frequency-out-of-all-bounds", 0, "transmit_frequency_start: cannot be true", change=put(GROUP + "transmit_frequency_start", -3.0))
def at(name, value):
    def change(f): f["Platform"][name][...] = value
    return change
case("water-level-out-of-all-bounds", 0, "water_level: 1e+06 m is farther than anything on a boat", change=at("water_level", 1e6))
case("transducer-out-of-all-bounds", 0, "transducer_offset_z: 1e+09 m is farther", change=at("transducer_offset_z", 1e9))
case("transducer-above-the-water", 0, "hangs 3.3 m above the waterline", change=at("transducer_offset_z", -3.0))
def full(f):
    for i in range(N):
        for b in range(2): f["Sonar/Beam_group1"]["backscatter_r"][i, b] = np.full(S, 255, "u1")
case("nothing-but-the-top", 0, "nothing but the top of their scale in 60 of 60", change=full)
def stands_still(f):
    for i in range(21, N):
        for b in range(2): f["Sonar/Beam_group1"]["backscatter_r"][i, b] = f["Sonar/Beam_group1"]["backscatter_r"][20, b]
case("the-same-samples", 0, "the same ping after ping in 38 of 60", change=stands_still)
def infinite(f):
    for i in range(N): f["Sonar/Beam_group1"]["backscatter_r"][i, 0] = np.full(S, np.inf, "f4")
case("infinite-levels", 0, "the port beam has no samples", units="dB", dtype="f4", change=infinite)
case("centimetres", 0, "reach no farther than", change=put(GROUP + "sample_interval", 1e-7))
case("port-twice", 0, "more than one beam looks port", names=("port", "starboard", "port"))
case("a-group-without-samples", 0, "Beam_group9/backscatter_r: is missing; the other", change=lambda f: f["Sonar"].createGroup("Beam_group9"))
def far(f):
    cell = np.zeros(200000, "u1"); cell[1::2] = 7
    f["Sonar/Beam_group1"]["backscatter_r"][30, 0] = cell
case("one-ping-too-far", 0, "a ping is damaged and was left out", pings=N - 1, change=far)

# Refused.
case("unknown-units", 2, "backscatter_r: unknown units", units="volts")
case("no-units", 2, "backscatter_r: has no units", units=None)
case("no-calibration", 2, "db_per_count", attrs={"db_per_count": None})
case("swapped-dimensions", 2, "backscatter_r: wrong dimensions", swap=True)
case("swapped-padded", 2, "backscatter_r: wrong dimensions", swap=True, padded=True, dtype="f4")
case("no-pings", 2, "no ping", n=0, nav=False)
case("no-backscatter", 2, "backscatter_r", drop=("backscatter_r",))
case("no-ping-time", 2, "ping_time", drop=("ping_time",))
case("no-interval", 2, "sample_interval", drop=("sample_interval",))
case("no-speed-no-temperature", 2, "sound_speed_indicative", c=None, temperature=None)
case("no-sonar-group", 2, "/Sonar", sonar="Radar")
case("strange-time-units", 2, "ping_time: unknown units", time_units="fortnights since 1601-01-01")
def zero(f): f["Sonar/Beam_group1"]["sample_interval"][10] = 0.0
case("interval-zero", 2, "sample_interval", change=zero)
def negative(f): f["Sonar/Beam_group1"]["sample_interval"][10] = -1e-5
case("interval-negative", 2, "sample_interval", change=negative)
def nan(f): f["Sonar/Beam_group1"]["sample_interval"][10] = np.nan
case("interval-nan", 2, "sample_interval", change=nan)
case("unknown-names-without-directions", 2, "beam", names=("a", "b"), directions=False)
def gain_shape(f):
    g = f["Sonar/Beam_group1"]; g.createDimension("odd", 7); g.createVariable("beamwidth_receive_minor", "f4", ("odd",))[:] = 1
case("odd-shape", 2, "beamwidth_receive_minor: wrong dimensions", change=gain_shape)

case("all-pings-too-far", 2, "farther than any lake; nothing was read", change=put(GROUP + "sample_interval", 1.0))
case("temperature-of-no-water", 2, "water_temperature: no sound speed is told, and 288.6", c=None, temperature=288.6)
case("times-of-no-clock", 2, "ping_time: no ping has a time that can be true", times=lambda t: t - t[0])
case("time-units-with-more-behind", 2, "ping_time: unknown units", time_units="seconds since 1970-01-01 00:00:00 of some kind")
case("packed-by-nothing", 2, "scale_factor or an add_offset that is no usable", units="dB", dtype="f4", padded=True, attrs={"scale_factor": 0.0})
plain = open(os.path.join(folder, "plain.nc"), "rb").read()
def raw(name, data, text):
    open(os.path.join(folder, name + ".nc"), "wb").write(data)
    manifest.append((name, 2, text, 0))
raw("empty", b"", "empty")
raw("text", b"This is no recording.\n" * 100, "no netCDF file")
raw("cut-short", plain[: len(plain) // 2], "cut short")
raw("only-a-header", plain[:600], "cut short")
with netCDF4.Dataset(os.path.join(folder, "classic.nc"), "w", format="NETCDF3_CLASSIC") as f:
    f.createDimension("x", 3); f.createVariable("y", "f4", ("x",))[:] = 1
manifest.append(("classic", 2, "/Sonar", 0))
with open(os.path.join(folder, "manifest.txt"), "w") as f:
    for row in manifest: f.write("\t".join(map(str, row)) + "\n")
print(len(manifest), "variants")
