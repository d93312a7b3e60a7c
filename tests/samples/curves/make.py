#!/usr/bin/env python3
"""Writes one curve in many dialects, and truth.txt beside them. Made before the reader met them; run again it writes the same.

The curve: 31 thirds from 20 Hz to 20 kHz, level 85 dB with a hump and a roll-off, phase from a delay of 0.12 ms, wrapped to
+-180 degrees. A line of truth.txt: FILE | USE | what must be asked (topics, parted by commas; - is nothing) | choices that
answer them (the text of a choice begins so) | hz, value, degrees of one point that must come out (degrees - : no phase).
"""
import cmath, math, pathlib
here = pathlib.Path(__file__).parent
hz = [20 * 2 ** (k / 3) for k in range(30)] + [20000.0]
def h(f):
    level = 85 + 4 * math.exp(-((math.log2(f / 120)) ** 2)) - 6 * max(0, math.log2(f / 9000)) - 12 * max(0, math.log2(45 / f))
    turn = -360 * f * 0.00012
    return level, (turn + 180) % 360 - 180
def z(f):
    return 6.2 + 22 * math.exp(-((math.log2(f / 62)) * 2.2) ** 2) + f / 4000, 30 * math.sin(math.log2(f / 62))
P = [(f, *h(f)) for f in hz]
Z = [(f, *z(f)) for f in hz]
AT = 14
truth = []
def put(name, text, use="response", ask="-", choose="-", kind="db", phase=True, enc="utf-8", data=None):
    (here / name).write_bytes(data if data is not None else text.encode(enc))
    p = (Z if kind == "ohm" else P)[AT]
    truth.append(f"{name} | {use} | {ask} | {choose} | {p[0]:.3f} {p[1]:.3f} {p[2]:.3f}" if phase else
                 f"{name} | {use} | {ask} | {choose} | {p[0]:.3f} {p[1]:.3f} -")
def rows(points, sep, fmt="{:.4f}", comma=False, cols=None):
    out = []
    for p in points:
        line = sep.join(fmt.format(x) for x in (cols(p) if cols else p))
        out.append(line.replace(".", ",") if comma else line)
    return out
lin = lambda p: (p[0], 10 ** (p[1] / 20), p[2])
khz = lambda p: (p[0] / 1000, p[1], p[2])
rad = lambda p: (p[0], p[1], math.radians(p[2]))
reim = lambda p: (p[0], *(lambda c: (c.real, c.imag))(cmath.rect(10 ** ((p[1] - 85) / 20), math.radians(p[2]))))
J = "\n".join
put("blanks-no-head.frd", J(rows(P, "  ")))
put("tabs-headed.txt", J(["Freq(Hz)\tSPL(dB)\tPhase(degrees)"] + rows(P, "\t")))
put("star-remarks.txt", J(["* Measured 2025-03-14 in the small room", "* Freq(Hz) SPL(dB) Phase(degrees)"] + rows(P, " ")))
put("semicolons-decimal-comma.csv", J(["Frequenz [Hz];Pegel [dB];Phase [Grad]"] + rows(P, ";", comma=True)))
put("utf16-le.txt", J(["Frequency\tMagnitude dB\tPhase deg"] + rows(P, "\t")), data=("\ufeff" + J(["Frequency\tMagnitude dB\tPhase deg"] + rows(P, "\t"))).encode("utf-16-le"))
put("utf16-be-no-mark.txt", "", data="\r\n".join(["Freq Hz, Level dB, Phase deg"] + rows(P, ", ")).encode("utf-16-be"))
put("old-mac-line-ends.txt", "\r".join(["Hz,dB,deg"] + rows(P, ",")))
put("windows-line-ends.csv", "\r\n".join(['"Frequency (Hz)","Level (dB)","Phase (deg)"'] + rows(P, ",")))
put("kilohertz-headed.txt", J(["Frequency (kHz)  Level (dB)  Phase (deg)"] + rows(P, "  ", "{:.6f}", cols=khz)))
put("kilohertz-unsaid.txt", J(rows(P, "\t", "{:.6f}", cols=khz)), ask="frequency", choose="kHz")
put("kilohertz-said-to-be-hertz.txt", J(["Hz dB deg"] + rows(P, "\t", "{:.6f}", cols=khz)), ask="frequency", choose="kHz")
put("radians-headed.txt", J(["# f/Hz\tlevel/dB\tphase/rad"] + rows(P, "\t", "{:.6f}", cols=rad)))
put("radians-unsaid.txt", J(rows(P, "\t", "{:.6f}", cols=rad)), ask="phase", choose="radians")
put("linear-headed.csv", J(["frequency [Hz], magnitude (linear), phase [deg]"] + rows(P, ",", "{:.6g}", cols=lin)))
put("linear-of-one-unsaid.txt", J(rows([(p[0], 10 ** ((p[1] - 85) / 20), p[2]) for p in P], "\t", "{:.6f}")), ask="level", choose="linear", kind="rel")
put("real-imaginary-headed.txt", J(["Freq [Hz];Real;Imag"] + rows(P, ";", "{:.7f}", cols=reim)), kind="rel")
put("complex-numbers.txt", J(["% f   H"] + [f"{f:.3f}   {c.real:.6f}{c.imag:+.6f}i" for f, c in [(p[0], cmath.rect(10 ** ((p[1] - 85) / 20), math.radians(p[2]))) for p in P]]), kind="rel")
put("coherence-fourth.txt", J(["Frequency,Magnitude (dB),Phase (degrees),Coherence"] + rows([p + (0.97,) for p in P], ",")))
put("coherence-third-headed.txt", J(["Frequency (Hz)\tMagnitude (dB)\tCoherence\tPhase (deg)"] + rows([(p[0], p[1], 0.98, p[2]) for p in P], "\t")))
put("no-phase.txt", J(["Hz dB"] + rows([p[:2] for p in P], " ")), phase=False)
put("falling-frequencies.txt", J(["freq level phase"] + rows(P[::-1], " ")))
put("quoted-everything.csv", J(['"Frequency","SPL","Phase"', '"Hz","dB","deg"'] + [",".join(f'"{x:.4f}"' for x in p) for p in P]))
put("units-beside-values.txt", J([f"{p[0]:.3f} Hz   {p[1]:.3f} dB   {p[2]:.3f}\u00b0" for p in P]))
put("slashes-remarks.txt", J(["// exported curve", "// x: frequency in Hz, y: dB SPL re 20 \u00b5Pa, phase: degrees"] + rows(P, "\t")))
put("french-headed.txt", J(["Fr\u00e9quence (Hz) ; Niveau (dB) ; Phase (degr\u00e9s)"] + rows(P, " ; ", comma=True)), enc="latin-1")
put("italian-headed.txt", J(["Frequenza\tLivello\tFase", "Hz\tdB\tgradi"] + rows(P, "\t", comma=True)))
put("index-first.txt", J(["No.  Freq[Hz]  SPL[dB]  Phase[deg]"] + [f"{i+1}  {p[0]:.4f}  {p[1]:.4f}  {p[2]:.4f}" for i, p in enumerate(P)]))
put("exponents.txt", J(["Frequency/Hz, Level/dB, Phase/deg"] + rows(P, ", ", "{:.7E}")))
put("thousands-and-points.csv", J(["Hz;dB;deg"] + [f"{p[0]:,.3f};{p[1]:.3f};{p[2]:.3f}" for p in P]))
put("commas-only-decimal.csv", J(["Frequenz,Pegel"] + [f"{p[0]:.3f},{p[1]:.3f}".replace(".", ",") for p in P]), phase=False, ask="commas", choose="decimal")
put("phase-column-first.txt", J(["Phase (deg)\tFrequency (Hz)\tSPL (dB)"] + rows([(p[2], p[0], p[1]) for p in P], "\t")))
put("several-levels.txt", J(["Frequency (Hz)\t0\u00b0 (dB)\t30\u00b0 (dB)\t60\u00b0 (dB)"] + rows([(p[0], p[1], p[1] - 3, p[1] - 9) for p in P], "\t")), phase=False, ask="column", choose="0")
put("zero-hertz-first.txt", J(["Hz\tdB\tdeg", "0\t-200\t0"] + rows(P, "\t")))
put("pipes.md", J(["| Frequency (Hz) | Level (dB) | Phase (deg) |", "|---:|---:|---:|"] + ["| " + " | ".join(f"{x:.4f}" for x in p) + " |" for p in P]))
put("impedance-headed.zma", J(["* Freq(Hz)  Ohms  Phase"] + rows(Z, " ")), use="impedance", kind="ohm")
put("impedance-no-head.txt", J(rows([p[:2] for p in Z], "\t", comma=True)), use="impedance", kind="ohm", phase=False)
put("impedance-kilo-ohms.csv", J(["f [kHz];|Z| [kOhm]"] + rows([(p[0] / 1000, p[1] / 1000) for p in Z], ";", "{:.7f}")), use="impedance", kind="ohm", phase=False)
put("impedance-real-imaginary.txt", J(["Hz\tR (ohm)\tX (ohm)"] + rows([(p[0], p[1] * math.cos(math.radians(p[2])), p[1] * math.sin(math.radians(p[2]))) for p in Z], "\t", "{:.6f}")), use="impedance", kind="ohm")
put("microphone-calibration.txt", J(["Sens Factor =-1.10dB, SERNO: 0000000"] + rows([(p[0], p[1] - 85) for p in P], "\t")), use="calibration", phase=False, kind="rel")
rel = lambda t, n: t
out = []
for t in truth:
    name = t.split(" | ")[0]
    if name in ("linear-of-one-unsaid.txt", "real-imaginary-headed.txt", "complex-numbers.txt", "microphone-calibration.txt"):
        a, b = t.rsplit(" | ", 1)
        f, l, p = b.split()
        t = f"{a} | {f} {float(l) - 85:.3f} {p}"
    out.append(t)
(here / "truth.txt").write_text("\n".join(out) + "\n")
