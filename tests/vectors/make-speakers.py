#!/usr/bin/python3
"""Amplifiers, lines, cables and crossovers worked out independently of the C++ (numpy, python3-scipy). Writes
speakers.json beside this file, and the made-up responses of demo/responses. Run by hand, results committed."""
import json, math, pathlib
import numpy as np
from scipy import signal

rng = np.random.default_rng(23)
here = pathlib.Path(__file__).parent


def copper(metres, mm2, celsius):  # IEC 60028, its own order of steps
    return metres * 2 * (1 / 58.0) / mm2 * (1 + 3.93e-3 * (celsius - 20))


runs = []
for _ in range(40):
    metres, mm2, celsius = rng.uniform(0, 300), rng.choice([0.75, 1.5, 2.5, 4, 6]), rng.uniform(-10, 60)
    load, volts, source = rng.uniform(1.5, 2000), rng.uniform(1, 100), rng.uniform(0, 0.2)
    r = copper(metres, mm2, celsius)
    i = volts / (load + r)
    runs.append(dict(metres=metres, mm2=mm2, celsius=celsius, load=load, volts=volts, source=source, resistance=r, amperes=i,
                     atLoad=volts - i * r, watts=i * i * load, lossDb=-20 * math.log10(1 - r / (load + r)), damping=load / (r + source)))

loads = []
for _ in range(30):
    z = [(float(a), float(a * rng.uniform(0.6, 0.95))) for a in rng.choice([4, 6, 8, 12, 16], rng.integers(1, 7))]
    y = sum(1 / np.array(z))
    loads.append(dict(each=z, parallel=(1 / y).tolist(), series=np.sum(z, axis=0).tolist()))

limits = []
for _ in range(40):
    ohms, rms = float(rng.choice([4, 8, 16])), rng.uniform(5, 1200)
    peak = float(rng.choice([0, rms * rng.uniform(2, 6)]))
    full, gain, part, down, cool = rng.uniform(0, 24), rng.uniform(20, 40), rng.choice([1, 0.5, 0.25]), rng.uniform(-3, 6), rng.uniform(-3, 6)
    up = math.sqrt((peak if peak > 0 else 4 * rms) * ohms) / 10 ** (down / 20) / part
    ur = math.sqrt(rms * ohms) / 10 ** (cool / 20) / part
    one = math.sqrt(2) * math.sqrt(0.6) * 10 ** ((full + gain) / 20)  # volts at the output of a full-scale sample
    limits.append(dict(ohms=ohms, rms=rms, peak=peak, full=full, gain=gain, part=float(part), peakMargin=down, thermalMargin=cool,
                       peakVolts=up, rmsVolts=ur, peakDbfs=20 * math.log10(up / one), rmsDbfs=20 * math.log10(ur / one),
                       peakDbu=20 * math.log10(up / math.sqrt(2) / 10 ** (gain / 20) / math.sqrt(0.6)),
                       rmsDbu=20 * math.log10(ur / 10 ** (gain / 20) / math.sqrt(0.6)), peakWatts=(up * part) ** 2 / ohms))


# ---- a voicing of two driven ways: each way's filters by SciPy, its driver a made-up minimum-phase response, summed as complex numbers ----
def rbj(hz, db, q, rate, kind="bell"):  # R. Bristow-Johnson, Audio EQ Cookbook
    a, w = 10 ** (db / 40), 2 * math.pi * hz / rate
    al, c = math.sin(w) / (2 * q), math.cos(w)
    if kind == "bell":
        return [1 + al * a, -2 * c, 1 - al * a], [1 + al / a, -2 * c, 1 - al / a]
    s = 2 * math.sqrt(a) * al
    return ([a * ((a + 1) + (a - 1) * c + s), -2 * a * ((a - 1) + (a + 1) * c), a * ((a + 1) + (a - 1) * c - s)],
            [(a + 1) - (a - 1) * c + s, 2 * ((a - 1) - (a + 1) * c), (a + 1) - (a - 1) * c - s])


def edge(kind, order, hz, rate, side):
    if kind == "LR":
        b, a = signal.butter(order // 2, hz, side, fs=rate)
        return np.convolve(b, b), np.convolve(a, a)
    return signal.butter(order, hz, side, fs=rate)


rate, hz = 48000, np.geomspace(20, 20000, 241)
h = lambda ba: signal.freqz(*ba, worN=hz, fs=rate)[1]
low = h(edge("BW", 4, 47, rate, "highpass")) * h(edge("LR", 2, 430, rate, "lowpass")) * h(rbj(205, -2.2, 1.6, rate)) * 10 ** (-1.5 / 20) * np.exp(-2j * np.pi * hz * 0.26e-3)
high = h(edge("LR", 2, 430, rate, "highpass")) * h(rbj(2650, -2.6, 1.0, rate)) * h(rbj(11000, 2.5, 0.6, rate, "highShelf")) * 10 ** (-8.5 / 20) * -1
parts = lambda x: dict(re=x.real.tolist(), im=x.imag.tolist())
voicing = dict(hz=hz.tolist(), low=parts(low), high=parts(high), sum=parts(low * 10 ** (95 / 20) + high * 10 ** (102 / 20)))

json.dump(dict(runs=runs, loads=loads, limits=limits, voicing=voicing), open(here / "speakers.json", "w"))

# ---- made-up responses: a few resonances on an even base, so that there is something to put right ----
folder = here.parent.parent / "demo" / "responses"
folder.mkdir(exist_ok=True)


def response(name, base, low_hz, low_order, high_hz, high_order, bumps, delay_ms):
    f = np.geomspace(20, 20000, 361)
    x = np.full(f.size, 10 ** (base / 20), complex)
    x *= signal.freqs(*signal.butter(low_order, 2 * math.pi * low_hz, "highpass", analog=True), 2 * np.pi * f)[1]
    x *= signal.freqs(*signal.butter(high_order, 2 * math.pi * high_hz, "lowpass", analog=True), 2 * np.pi * f)[1]
    for at, db, q in bumps:
        s = 1j * f / at
        g = 10 ** (db / 20)
        x *= (s * s + s * (g if db > 0 else 1) / q + 1) / (s * s + s * (1 if db > 0 else 1 / g) / q + 1)
    x *= np.exp(-2j * np.pi * f * delay_ms / 1000)
    with open(folder / name, "w") as out:
        out.write("# made up; frequency in Hz, level in dB SPL for 1 W at 1 m, phase in degrees\n")
        for a, b in zip(f, x):
            out.write(f"{a:.3f} {20 * math.log10(abs(b)):.3f} {math.degrees(math.atan2(b.imag, b.real)):.3f}\n")


# A bass cone, and a middle cone of 6.5 in with a dome behind its passive divider, which stands 6.9 cm further back.
response("oakhaven-x2-low.txt", 95, 46, 2, 1900, 2, [(74, 1.7, 1.3), (205, 2.2, 1.6), (640, -1.9, 2.1)], 0)
response("oakhaven-x2-high.txt", 102, 190, 2, 19000, 2, [(780, -1.7, 1.4), (2650, 2.6, 1), (6400, 1.6, 1.8), (12500, -2.5, 1.2)], 0.2)
response("bobbin-12.txt", 93, 110, 2, 15000, 2, [(250, 2.2, 1.3), (700, -1.6, 1.7), (2200, -2.1, 1.9), (5200, 2.4, 2.2), (8200, 1.5, 2)], 0)
response("bobbin-c6.txt", 88, 85, 2, 14000, 2, [(160, 2.5, 1.4), (1100, -2.2, 1.1), (4200, 3, 1.8), (7600, -2.4, 2.5)], 0)
response("bobbin-s18.txt", 96, 30, 3, 170, 2, [(54, 2.1, 1.5), (92, -1.9, 1.4)], 0)
