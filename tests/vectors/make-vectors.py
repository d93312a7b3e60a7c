#!/usr/bin/python3
"""Reference responses from SciPy (python3-scipy); writes filters.json beside this file. Run by hand, result committed."""
import json, math, pathlib
import numpy as np
from scipy import signal

rows = []

def add(kind, settings, rate, sos):
    hz = np.geomspace(10, 0.45 * rate, 37)
    _, h = signal.sosfreqz(sos, worN=2 * np.pi * hz / rate)
    rows.append({"kind": kind, "settings": settings, "rate": rate, "hz": hz.tolist(), "re": h.real.tolist(), "im": h.imag.tolist()})

for rate in (44100, 48000, 96000):
    for kind, side in (("highpass", "highpass"), ("lowpass", "lowpass")):
        for corner in (31.5, 110, 1000, 9000):
            for order in range(1, 9):
                sos = signal.butter(order, corner, side, fs=rate, output="sos")
                add(kind, {"corner": corner, "shape": 0, "slope": order - 1}, rate, sos)
                if order >= 2:
                    sos = signal.bessel(order, corner, side, norm="mag", fs=rate, output="sos")
                    add(kind, {"corner": corner, "shape": 2, "slope": order - 1}, rate, sos)
                if order % 2 == 0:
                    half = signal.butter(order // 2, corner, side, fs=rate, output="sos")
                    add(kind, {"corner": corner, "shape": 1, "slope": order - 1}, rate, np.vstack([half, half]))

def cookbook(kind, f, gain, q, rate):
    """R. Bristow-Johnson, Audio EQ Cookbook, from its analogue prototypes by SciPy's bilinear transform."""
    a = 10 ** (gain / 40)
    r = math.sqrt(a)
    b, d = {
        0: ([1, a / q, 1], [1, 1 / (a * q), 1]),
        1: (np.multiply(a, [1, r / q, a]), [a, r / q, 1]),
        2: (np.multiply(a, [a, r / q, 1]), [1, r / q, a]),
        3: ([1, 0, 1], [1, 1 / q, 1]),
        4: ([1, -1 / q, 1], [1, 1 / q, 1]),
    }[kind]
    # s is normalised to the centre; prewarp it there.
    z, p = signal.bilinear(b, d, fs=1 / (2 * math.tan(math.pi * f / rate)))
    return np.hstack([z, p]).reshape(1, 6)

for rate in (44100, 48000, 96000):
    for kind in range(5):
        for f, gain, q in ((40, 6, 0.5), (250, -12, 1.41), (3100, 3, 2), (12000, 9, 4), (1000, -24, 10)):
            add("eq", {"2.on": 1, "2.kind": kind, "2.hz": f, "2.gain": gain, "2.q": q}, rate, cookbook(kind, f, gain, q, rate))
    both = np.vstack([cookbook(0, 100, 4, 1, rate), cookbook(2, 8000, -6, 0.7, rate)])
    add("eq", {"1.on": 1, "1.kind": 0, "1.hz": 100, "1.gain": 4, "1.q": 1, "8.on": 1, "8.kind": 2, "8.hz": 8000, "8.gain": -6, "8.q": 0.7}, rate, both)

def delay(samples, rate):
    """The declared delay: whole below 32 samples, else the ideal one."""
    hz = np.geomspace(10, 0.45 * rate, 37)
    real = round(samples) if samples < 32 else samples
    h = np.exp(-2j * np.pi * hz / rate * real)
    rows.append({"kind": "delay", "settings": {"time": samples / rate * 1000}, "rate": rate, "hz": hz.tolist(), "re": h.real.tolist(), "im": h.imag.tolist()})

for rate in (44100, 48000, 96000):
    for samples in (0, 7, 31.4, 32.5, 100.25, 393.6):
        delay(samples, rate)

out = pathlib.Path(__file__).with_name("filters.json")
out.write_text(json.dumps(rows, separators=(",", ":")).replace("},{", "},\n{"))
print(len(rows), "responses")
