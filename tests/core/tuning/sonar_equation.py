"""Terms of the active sonar equation, worked by themselves, one case a line of standard input.

After R. J. Urick, Principles of Underwater Sound, 3rd edition (1983), chapters 2, 5 and 8 (from memory), with the
absorption of fresh water after R. E. Francois and G. R. Garrison, J. Acoust. Soc. Am. 72(6), 1982, pure-water term.
Input: slant range m, altitude m, frequency Hz, beam width along degrees, bandwidth Hz, temperature C,
       Lambert strength dB, fish length m. Output: the terms in decibels, in the order of the test.
"""
import sys

import gsw
import numpy as np


def absorption_db_per_km(f_khz, t):
    if t <= 20:
        a = 4.937e-4 - 2.59e-5 * t + 9.11e-7 * t**2 - 1.50e-8 * t**3
    else:
        a = 3.964e-4 - 1.146e-5 * t + 1.45e-7 * t**2 - 6.5e-10 * t**3
    return a * f_khz**2


for line in sys.stdin:
    r, a, f, width, band, t, lambert, fish = map(float, line.split())
    c = gsw.sound_speed(0.0, gsw.CT_from_t(0.0, t, 0.0), 0.0)  # TEOS-10 (IOC, 2010)
    sin_grazing = a / r
    cos_grazing = np.sqrt(1 - sin_grazing**2)
    loss = 2 * (20 * np.log10(r) + absorption_db_per_km(f / 1e3, t) / 1e3 * r)
    across = 0.5 * c / band / cos_grazing
    area = 10 * np.log10(across * r * np.radians(width))
    bottom = lambert + 10 * np.log10(sin_grazing**2)
    love = 19.1 * np.log10(fish * 100) - 0.9 * np.log10(f / 1e3) - 62.0
    print(c, loss, area, bottom, love)
