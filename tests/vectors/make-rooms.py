#!/usr/bin/python3
"""Rooms worked out independently of the C++ (numpy, python3-scipy): reverberation, air, levels, image sources, speech
transmission index. Writes rooms.json beside this file. Run by hand, result committed."""
import json, math, pathlib
import numpy as np
from scipy import signal

HZ = [63, 125, 250, 500, 1000, 2000, 4000, 8000]
A = [-26.2, -16.1, -8.6, -3.2, 0, 1.2, 1.0, -1.1]
rng = np.random.default_rng(11)


def air(hz, celsius, humidity, kpa):  # ISO 9613-1, equations 3 to 5, in its own order of steps
    T, T0, T01, pr = celsius + 273.15, 293.15, 273.16, 101.325
    psat = pr * 10 ** (-6.8346 * (T01 / T) ** 1.261 + 4.6151)
    h = humidity * (psat / pr) / (kpa / pr)
    fro = (kpa / pr) * (24 + 4.04e4 * h * (0.02 + h) / (0.391 + h))
    frn = (kpa / pr) * (T / T0) ** -0.5 * (9 + 280 * h * math.exp(-4.170 * ((T / T0) ** (-1 / 3) - 1)))
    return 8.686 * hz * hz * (1.84e-11 * (pr / kpa) * (T / T0) ** 0.5 + (T / T0) ** -2.5 *
        (0.01275 * math.exp(-2239.1 / T) / (fro + hz * hz / fro) + 0.1068 * math.exp(-3352.0 / T) / (frn + hz * hz / frn)))


def speed(celsius):
    return 331.3 * math.sqrt(1 + celsius / 273.15)


def decay(volume, areas, absorption, celsius, humidity):
    areas, absorption = np.array(areas), np.array(absorption)
    S = areas.sum()
    mean = areas @ absorption / S
    m = np.array([air(f, celsius, humidity, 101.325) for f in HZ]) / (10 * math.log10(math.e))
    k = 24 * math.log(10) / speed(celsius)
    whole = mean * S + 4 * m * volume
    return dict(mean=mean.tolist(), sabine=(k * volume / whole).tolist(),
                eyring=(k * volume / (-S * np.log(1 - mean) + 4 * m * volume)).tolist(),
                constant=(whole / (1 - whole / S)).tolist())


rooms = []
for _ in range(12):
    size = rng.uniform([4, 3, 2.4], [25, 18, 7])
    l, w, h = size
    areas = [l * w, l * w, l * h, l * h, w * h, w * h]
    absorption = rng.uniform(0.02, 0.6, (6, 8))
    celsius, humidity = float(rng.uniform(10, 30)), float(rng.uniform(20, 80))
    d = decay(l * w * h, areas, absorption, celsius, humidity)
    rooms.append(dict(size=size.tolist(), areas=areas, absorption=absorption.tolist(), celsius=celsius, humidity=humidity, **d))

# ---- direct and reverberant level of directional sources; levels from W and integrals on a grid of its own ----


def pattern(h, v, axis, side, up, to, back=-25.0):
    to = np.asarray(to, float)
    to = to / np.linalg.norm(to)
    theta = math.degrees(math.acos(max(-1.0, min(1.0, float(to @ axis)))))
    s, u = float(to @ side), float(to @ up)
    n = math.hypot(s, u)
    a, b = (theta * s / n, theta * u / n) if n > 1e-12 else (theta, 0.0)
    db = 0.0
    if h < 360: db -= 6 * (a / (h / 2)) ** 2
    if v < 360: db -= 6 * (b / (v / 2)) ** 2
    return max(db, back)


def frame(turn, tilt):
    t, e = math.radians(turn), math.radians(tilt)
    axis = np.array([math.cos(e) * math.cos(t), math.cos(e) * math.sin(t), math.sin(e)])
    side = np.array([-math.sin(t), math.cos(t), 0])
    return axis, side, np.cross(axis, side)


def factor(h, v):  # Gauss-Legendre in cos, 180 steps round
    x, w = np.polynomial.legendre.leggauss(120)
    axis, side, up = frame(0, 0)
    total = 0
    for c, weight in zip(x, w):
        s = math.sqrt(1 - c * c)
        ring = [10 ** (pattern(h, v, axis, side, up, c * axis + s * (math.cos(p) * side + math.sin(p) * up)) / 10)
                for p in np.arange(0.5, 180) * 2 * math.pi / 180]
        total += weight * np.mean(ring) / 2
    return 1 / total


def reverberant(levels, q, R):  # Lw = L1 - DI + 10 lg 4 pi, + 10 lg (4 / R)
    power = sum(10 ** ((l - 10 * math.log10(k) + 10 * math.log10(4 * math.pi)) / 10) for l, k in zip(levels, q))
    return 10 * math.log10(power * 4 / R)


WEIGHT = [0.085, 0.127, 0.230, 0.233, 0.309, 0.224, 0.173]
REDUNDANT = [0.085, 0.078, 0.065, 0.011, 0.047, 0.095]
THRESHOLD = [46, 27, 12, 6.5, 7.5, 8, 12]
F = [0.63, 0.8, 1.0, 1.25, 1.6, 2.0, 2.5, 3.15, 4.0, 5.0, 6.3, 8.0, 10.0, 12.5]


def sti(m, speech, noise):  # m: 7 bands x 14; levels of 7 bands
    lin = lambda x: 10 ** (x / 10)
    mti = []
    for k in range(7):
        I = lin(speech[k]) + lin(noise[k])
        mask = 0
        if k:
            below = 10 * math.log10(lin(speech[k - 1]) + lin(noise[k - 1]))
            amf = 0.5 * below - 65 if below < 63 else 1.8 * below - 146.9 if below < 67 else 0.5 * below - 59.8 if below < 100 else -10
            mask = lin(below) * lin(amf)
        ti = []
        for f in range(14):
            mm = m[k][f] / (1 + lin(noise[k] - speech[k])) * I / (I + mask + lin(THRESHOLD[k]))
            snr = max(-15, min(15, 10 * math.log10(mm / (1 - mm))))
            ti.append((snr + 15) / 30)
        mti.append(sum(ti) / 14)
    return sum(a * b for a, b in zip(WEIGHT, mti)) - sum(b * math.sqrt(mti[i] * mti[i + 1]) for i, b in enumerate(REDUNDANT))


scenes = []
for i in range(8):
    r = rooms[i]
    l, w, h = r["size"]
    n = int(rng.integers(1, 6))
    cov_h = [float(x) for x in np.linspace(rng.uniform(160, 359), rng.uniform(40, 120), 8)]
    cov_v = cov_h if i % 2 == 0 else [float(x) for x in np.linspace(rng.uniform(120, 200), rng.uniform(15, 60), 8)]
    q = [factor(a, b) for a, b in zip(cov_h, cov_v)]
    emitters = []
    for _ in range(n):
        emitters.append(dict(at=[float(rng.uniform(0.5, l - 0.5)), float(rng.uniform(0.5, w - 0.5)), float(h - 0.1)],
                             turn=float(rng.uniform(-180, 180)), tilt=float(rng.uniform(-90, -10)),
                             level=[float(x) for x in rng.uniform(55, 75, 8)], delay=float(rng.uniform(0, 0.03))))
    noise = [float(x) for x in rng.uniform(10, 45, 8)]
    c = speed(r["celsius"])
    loss = [air(f, r["celsius"], r["humidity"], 101.325) for f in HZ]
    rev = [reverberant([e["level"][b] for e in emitters], [q[b]] * n, r["constant"][b]) for b in range(8)]
    places = []
    for _ in range(6):
        at = np.array([rng.uniform(0.3, l - 0.3), rng.uniform(0.3, w - 0.3), 1.2])
        D, when = [], []
        for e in emitters:
            way = at - np.array(e["at"])
            dist = float(np.linalg.norm(way))
            fr = frame(e["turn"], e["tilt"])
            D.append([e["level"][b] + pattern(cov_h[b], cov_v[b], *fr, way) - 20 * math.log10(dist) - loss[b] * dist for b in range(8)])
            when.append(dist / c + e["delay"])
        D, when = np.array(D), np.array(when)
        energy = 10 ** (D / 10)
        total = energy.sum(0) + 10 ** (np.array(rev) / 10)
        m = []
        for b in range(1, 8):
            row = []
            for f in F:
                z = (energy[:, b] * np.exp(-2j * math.pi * f * (when - when.min()))).sum()
                z += 10 ** (rev[b] / 10) / (1 + 2j * math.pi * f * r["eyring"][b] / math.log(1e6))
                row.append(float(abs(z) / total[b]))
            m.append(row)
        # C50: Barron and Lee with 50 ms
        travel = when.min() - min(e["delay"] for e in emitters)
        c50 = 0
        for b, weight in ((3, 0.15), (4, 0.25), (5, 0.35), (6, 0.25)):
            T = r["eyring"][b]
            R = 10 ** (rev[b] / 10)
            soon = energy[when <= when.min() + 0.05, b].sum() + R * (math.exp(-math.log(1e6) * travel / T) - math.exp(-math.log(1e6) * (travel + 0.05) / T))
            late = energy[when > when.min() + 0.05, b].sum() + R * math.exp(-math.log(1e6) * (travel + 0.05) / T)
            c50 += weight * 10 * math.log10(soon / late)
        L = 10 * np.log10(total)
        places.append(dict(at=at.tolist(), direct=(10 * np.log10(energy.sum(0))).tolist(), total=L.tolist(),
                           totalA=float(10 * np.log10(sum(10 ** ((L + np.array(A)) / 10)))), c50=float(c50),
                           sti=float(sti(m, L[1:], noise[1:]))))
    scenes.append(dict(room=i, horizontal=cov_h, vertical=cov_v, factor=q, emitters=emitters, noise=noise, reverberant=rev, places=places))

# ---- image sources, sample by sample: sums over the lattice in another order, one image at a time ----


def image_response(size, absorption, src, rcv, rate, n, c):
    beta = np.sqrt(1 - np.array(absorption))
    h = np.zeros(n)
    reach = n / rate * c
    most = [math.ceil(reach / (2 * s)) for s in size]
    i = np.arange(n)
    for nx in range(-most[0], most[0] + 1):
        for ny in range(-most[1], most[1] + 1):
            for nz in range(-most[2], most[2] + 1):
                for q in np.ndindex(2, 2, 2):
                    N = (nx, ny, nz)
                    at = [2 * N[d] * size[d] + (-src[d] if q[d] else src[d]) - rcv[d] for d in range(3)]
                    r = math.sqrt(sum(a * a for a in at))
                    if r > reach: continue
                    g = 1.0
                    for d in range(3):
                        g *= beta[2 * d] ** abs(N[d] - q[d]) * beta[2 * d + 1] ** abs(N[d])
                    t = r / c * rate
                    k = i[max(0, int(t) - 40): int(t) + 42]
                    x = k - t
                    keep = np.abs(x) <= 40
                    k, x = k[keep], x[keep]
                    h[k] += g / (4 * math.pi * r) * np.sinc(x) * 0.5 * (1 + np.cos(math.pi * x / 40))
    return h


images = []
for size, absorption, src, rcv in (((6.2, 4.4, 2.9), (.1, .2, .3, .25, .4, .15), (1.3, 2.2, 1.5), (4.9, 1.1, 1.2)),
                                   ((11.0, 7.5, 3.4), (.05, .5, .12, .3, .2, .65), (9.9, 7.0, 3.3), (2.0, 3.0, 1.1))):
    h = image_response(size, absorption, src, rcv, 16000, 3200, 343.2)
    images.append(dict(size=size, absorption=absorption, source=src, receiver=rcv, rate=16000, speed=343.2,
                       response=[float(f"{v:.9g}") for v in h]))

# ---- STI of an impulse response: Schroeder's integral behind SciPy's own octave filters ----
rate = 48000
t = np.arange(int(1.5 * rate)) / rate
responses = []
for T, direct in ((0.5, 0.0), (1.2, 0.0), (2.0, 0.25)):
    x, noise = int(T * 10), np.zeros(len(t))
    for i in range(len(t)):  # the test makes the same noise
        x = (1103515245 * x + 12345) % 2 ** 31
        noise[i] = (x / 2 ** 30 - 1) * math.exp(-6.9078 * t[i] / T)
    noise[0] += direct * math.sqrt((noise ** 2).sum())
    noise = noise.astype(np.float32).astype(float)
    m = []
    for f in HZ[1:]:
        edge = [f * 10 ** (-0.15), f * 10 ** 0.15]
        band = signal.sosfilt(signal.butter(4, edge, "bandpass", fs=rate, output="sos"), noise) ** 2
        m.append([float(abs((band * np.exp(-2j * math.pi * g * t)).sum()) / band.sum()) for g in F])
    value = sti(m, [60 + 30] * 7, [-50] * 7)
    mti = [np.mean([(max(-15, min(15, 10 * math.log10(v / (1 - v)))) + 15) / 30 for v in row]) for row in m]
    plain = sum(a * b for a, b in zip(WEIGHT, mti)) - sum(b * math.sqrt(mti[k] * mti[k + 1]) for k, b in enumerate(REDUNDANT))
    responses.append(dict(T=T, direct=direct, seed=int(T * 10), m=m, sti=float(plain)))

pathlib.Path(__file__).with_name("rooms.json").write_text(json.dumps(dict(rooms=rooms, scenes=scenes, images=images, responses=responses)) + "\n")
