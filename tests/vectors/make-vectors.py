#!/usr/bin/python3
"""Reference responses from SciPy (python3-scipy); writes filters.json beside this file. Run by hand, result committed."""
import json, math, pathlib
import numpy as np
from scipy import signal

rows = []

def keep(kind, settings, rate, hz, h, **more):
    rows.append({"kind": kind, "settings": settings, "rate": rate, "hz": hz.tolist(), "re": h.real.tolist(), "im": h.imag.tolist(), **more})

def response(sos, hz, rate):
    return signal.sosfreqz(sos, worN=2 * np.pi * hz / rate)[1]

def add(kind, settings, rate, sos, **more):
    hz = np.geomspace(10, 0.45 * rate, 37)
    keep(kind, settings, rate, hz, response(sos, hz, rate), **more)

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
    keep("delay", {"time": samples / rate * 1000}, rate, hz, h)

for rate in (44100, 48000, 96000):
    for samples in (0, 7, 31.4, 32.5, 100.25, 393.6):
        delay(samples, rate)

# Tone control: two shelves of Q 0.707 and a bell of Q 0.7.
for rate in (44100, 48000, 96000):
    for bass, middle, treble in ((6, 0, -4), (-12, 3, 9), (15, -15, 15)):
        sos = np.vstack([cookbook(1, 150, bass, 0.707, rate), cookbook(0, 900, middle, 0.7, rate), cookbook(2, 5000, treble, 0.707, rate)])
        add("tone", {"bass": bass, "bass-hz": 150, "middle": middle, "middle-hz": 900, "treble": treble, "treble-hz": 5000}, rate, sos)

# All-pass: of first order from its analogue prototype (1 - s) / (1 + s), of second from the cookbook's.
for rate in (44100, 48000, 96000):
    for f in (80, 500, 6000):
        b, a = signal.bilinear([-1, 1], [1, 1], fs=1 / (2 * math.tan(math.pi * f / rate)))
        add("allpass", {"hz": f, "order": 0}, rate, np.array([[b[0], b[1], 0, a[0], a[1], 0]]))
        for q in (0.5, 0.7071, 3):
            add("allpass", {"hz": f, "order": 1, "q": q}, rate, cookbook(4, f, 0, q, rate))

def edge(shape, order, f, side, rate):
    if shape == 0:
        return signal.butter(order, f, side, fs=rate, output="sos")
    if shape == 1:
        half = signal.butter(order // 2, f, side, fs=rate, output="sos")
        return np.vstack([half, half])
    return signal.bessel(order, f, side, norm="mag", fs=rate, output="sos")

# Crossover of three ways: the edges' low-pass and high-pass, one after the other in the middle.
for rate in (44100, 48000, 96000):
    for (form1, order1, f1), (form2, order2, f2) in (((1, 4, 300), (1, 8, 2500)), ((0, 3, 120), (2, 4, 6000)), ((2, 2, 800), (0, 1, 1500))):
        settings = {"edge-1.hz": f1, "edge-1.shape": form1, "edge-1.slope": order1 - 1, "edge-2.hz": f2, "edge-2.shape": form2,
                    "edge-2.slope": order2 - 1, "band-2.gain": -3, "band-3.polarity": 1}
        low, high = edge(form1, order1, f1, "lowpass", rate), edge(form1, order1, f1, "highpass", rate)
        low2, high2 = edge(form2, order2, f2, "lowpass", rate), edge(form2, order2, f2, "highpass", rate)
        hz = np.geomspace(10, 0.45 * rate, 37)
        mid = 10 ** (-3 / 20) * response(np.vstack([high, low2]), hz, rate)
        keep("crossover", settings, rate, hz, response(low, hz, rate), shape={"bands": 3}, out=0)
        keep("crossover", settings, rate, hz, mid, shape={"bands": 3}, out=1)
        keep("crossover", settings, rate, hz, -response(high2, hz, rate), shape={"bands": 3}, out=2)

# FIR taps from a window design: the sum over the taps.
for rate in (44100, 48000, 96000):
    taps = signal.firwin(63, 1200, fs=rate).astype(np.float32)
    hz = np.geomspace(10, 0.45 * rate, 37)
    _, h = signal.freqz(taps, worN=2 * np.pi * hz / rate)
    # 64 samples later, as the block says.
    keep("fir", {"gain": -2}, rate, hz, 10 ** (-2 / 20) * h * np.exp(-2j * np.pi * hz / rate * 64), taps=taps.tolist())

out = pathlib.Path(__file__).with_name("filters.json")
out.write_text(json.dumps(rows, separators=(",", ":")).replace("},{", "},\n{"))
print(len(rows), "responses")
