"""The made-up building of the demo: rooms, seats, walls, racks, devices and the drawing below the plan."""
import functools
import math
import pathlib
import tempfile

def rect(x, y, w, d):
    return [[x, y], [round(x + w, 3), y], [round(x + w, 3), round(y + d, 3)], [x, round(y + d, 3)]]

def room(id, name, colour, x, y, w, d, height, finishes, noise, **more):
    return {"id": id, "name": name, "colour": colour, "outline": rect(x, y, w, d), "height": height, "finishes": finishes,
            "people": more.pop("people", 0.5), "celsius": 20, "humidity": 50, "noise": {"kind": "nc", "value": noise},
            "targets": {"level": 68, "sti": 0.6, "within3": 0.9, "toNoise": 10, "toReverberant": -3} | more.pop("targets", {}),
            "subnet": "127.20.4.0/24", **more}

def rows(id, x, y, count, across, pitch=0.65, row=1.0, **more):
    return {"id": id, "shape": "rows", "x": x, "y": y, "turn": 0, "rows": count, "across": across, "pitch": pitch, "rowPitch": row, "ear": 1.2} | more

quiet = {"floor": "carpet", "ceiling": "ceiling-tile", "walls": "gypsum-board"}
rooms = [
    room("council", "Council Hall", "madder", 0, 0, 14, 11, 4.2,
         {"floor": "wood-floor", "ceiling": "ceiling-tile", "walls": "gypsum-board", "wall 3": "slats"}, 28, targets={"level": 61},
         seats=[{"id": "dais", "shape": "horseshoe", "x": 7, "y": 4.1, "turn": 0, "rows": 1, "across": 9, "pitch": 0.9, "rowPitch": 1,
                 "radius": 2.4, "ear": 1.2, "talks": True},
                rows("public", 7, 8.6, 4, 12)],
         talkers=[{"id": "public", "name": "Public", "x": 6, "y": 8.2, "z": 1.6, "level": 60}],
         pieces=[{"id": "table", "kind": "table", "label": "Horseshoe", "x": 7, "y": 3.9, "turn": 0, "width": 2.6, "depth": 1.6, "height": 0.75},
                 {"id": "door", "kind": "door", "label": "Door", "x": 13.9, "y": 9.6, "turn": 90, "width": 1.8, "depth": 0.2, "height": 2.2},
                 {"id": "screen", "kind": "screen", "label": "Screen", "x": 7, "y": 0.15, "turn": 0, "width": 4, "depth": 0.2, "height": 2.4}]),
    room("tern", "Tern Room", "teal", 15.5, 0, 8.2, 10, 3.1, quiet, 28, targets={"level": 62},
         seats=[rows("seats", 19.6, 5.8, 4, 6, 0.9, 1.3)],
         talkers=[{"id": "lectern", "name": "Lectern", "x": 19.6, "y": 1.6, "z": 1.6, "level": 62},
                  {"id": "questions", "name": "Questions", "x": 17.5, "y": 4.12, "z": 1.3, "level": 60}],
         pieces=[{"id": "lectern", "kind": "lectern", "label": "Lectern", "x": 19.6, "y": 1.9, "turn": 0, "width": 0.8, "depth": 0.5, "height": 1.1},
                 {"id": "door", "kind": "door", "label": "Door", "x": 17, "y": 9.9, "turn": 0, "width": 1.0, "depth": 0.2, "height": 2.1}]),
    room("plover", "Plover Room", "lichen", 23.8, 0, 8.2, 10, 3.1, quiet, 28, targets={"level": 62},
         seats=[rows("seats", 27.9, 5.8, 4, 6, 0.9, 1.3)],
         talkers=[{"id": "lectern", "name": "Lectern P", "x": 27.9, "y": 1.6, "z": 1.6, "level": 62},
                  {"id": "questions", "name": "Questions P", "x": 25.8, "y": 4.12, "z": 1.3, "level": 60}],
         pieces=[{"id": "lectern", "kind": "lectern", "label": "Lectern", "x": 27.9, "y": 1.9, "turn": 0, "width": 0.8, "depth": 0.5, "height": 1.1},
                 {"id": "door", "kind": "door", "label": "Door", "x": 30.5, "y": 9.9, "turn": 0, "width": 1.0, "depth": 0.2, "height": 2.1}]),
    room("cellar", "Story Cellar", "plum", 0, 12.5, 12, 9, 3.2,
         {"floor": "wood-floor", "ceiling": "gypsum-board", "walls": "brick-painted", "wall 1": "curtain-heavy", "wall 3": "absorber-50"}, 30,
         targets={"level": 74},
         seats=[rows("benches", 6, 18.2, 5, 12, 0.6, 0.95)],
         talkers=[{"id": "teller", "name": "Story teller", "x": 6, "y": 13.9, "z": 1.95, "level": 66}],
         pieces=[{"id": "stage", "kind": "stage", "label": "Stage", "x": 6, "y": 13.9, "turn": 0, "width": 7, "depth": 2.4, "height": 0.4, "rise": 0}]),
    room("foyer", "Foyer", "weld", 13.5, 12.5, 18.5, 7.4, 3.6,
         {"floor": "linoleum", "ceiling": "ceiling-tile", "walls": "gypsum-board", "wall 3": "glass-heavy"}, 40,
         targets={"level": 68, "sti": 0.5, "within3": 0.85},
         seats=[rows("standing", 22.75, 16.2, 4, 10, 1.7, 1.6, ear=1.6)],
         pieces=[{"id": "desk", "kind": "table", "label": "Desk", "x": 16, "y": 13.6, "turn": 0, "width": 3, "depth": 0.8, "height": 1.1}]),
]
walls = [{"id": "fold", "name": "Folding wall", "from": [23.75, 0], "to": [23.75, 10], "rooms": ["tern", "plover"]}]
states = [{"id": "apart", "name": "Apart", "open": []}, {"id": "joined", "name": "Joined", "open": ["fold"]}]
racks = [{"id": "rack-a", "name": "Rack A", "units": 18, "x": 12.75, "y": 16}]

devices, last = [], 20

def device(name, model, where, x=0, y=0, z=0, turn=0, tilt=0, net=False, **more):
    global last
    d = {"id": name.lower().replace(" · ", "-").replace(" ", "-"), "name": name, "model": model, "room": where, "rate": 48000}
    if net:
        last += 1
        d["address"] = f"127.20.4.{last}"
    d["place"] = more.pop("place", None) or {"x": round(x, 3), "y": round(y, 3), "z": z, "turn": turn, "tilt": tilt}
    devices.append(d | more)

lamps = {"lampLive": "white", "lampMuted": "amber"}
dais = []  # the horseshoe's seats, as the product lays them: from 200 degrees round the top to -20
for i in range(9):
    a = math.radians(200 - 220 * i / 8)
    dais.append((7 + 2.4 * math.cos(a), 4.1 - 2.4 * math.sin(a)))
order = ["Delegate 1", "Delegate 2", "Delegate 3", "Delegate 4", "Chair", "Delegate 5", "Delegate 6", "Delegate 7", "Delegate 8"]
for name, (x, y) in zip(order, dais):
    k = 1 - 0.28 / 2.4  # 28 cm in front of the mouth
    device(f"{name} microphone", "reed-g40", "council", 7 + (x - 7) * k, 4.1 + (y - 4.1) * k, 1.05,
           role="chair" if name == "Chair" else "delegate")
device("Council canopy", "canopy-8", "council", 7, 8.4, 2.9, 0, -90, True, role="public", **lamps)
n = 0
for y, trim in ((3.0, -9), (6.4, -2), (9.0, 0)):
    for x in (2.0, 5.3, 8.7, 12.0):
        n += 1
        device(f"Council ceiling {n}", "bobbin-c6", "council", x, y, 4.2, 0, -90, **({"trimDb": trim} if trim else {}))
device("Column L", "bobbin-12", "council", 1.0, 0.5, 2.3, 60, -6, trimDb=-14)
device("Column R", "bobbin-12", "council", 13.0, 0.5, 2.3, 120, -6, trimDb=-14)
device("Council slate", "slate-10", "council", 13.8, 5.0, 1.3, 180, 0, True)
device("Council tap", "tap", "council", 7, 3.2, 0.76, 0, 0, True, **lamps)
for id, short, x0 in (("tern", "Tern", 15.5), ("plover", "Plover", 23.8)):
    device(f"{short} canopy", "canopy-8", id, x0 + 4.1, 4.6, 2.7, 0, -90, True, **lamps)
    device(f"{short} handheld", "wisp-hh", id, x0 + 2.0, 4.0, 1.25)
    device(f"{short} lectern microphone", "reed-g40", id, x0 + 4.2, 1.7, 1.45, role="presenter")
    for k, (x, y) in enumerate(((2.05, 2.6), (6.15, 2.6), (2.05, 7.4), (6.15, 7.4))):
        device(f"{short} ceiling {k + 1}", "bobbin-c6", id, x0 + x, y, 3.1, 0, -90)
    device(f"{short} slate", "slate-10", id, x0 + (0.1 if id == "tern" else 8.1), 8.8, 1.2, 0 if id == "tern" else 180, 0, True)
    device(f"{short} tap", "tap", id, x0 + 4.1, 1.9, 1.12, 0, 0, True, **lamps)
device("Wall latch", "latch", "tern", 23.6, 9.9, 2.1)
device("Cellar main L", "oakhaven-x2", "cellar", 2.2, 13.2, 2.6, 75, -14)
device("Cellar main R", "oakhaven-x2", "cellar", 9.8, 13.2, 2.6, 105, -14)
device("Cellar bass L", "bobbin-s18", "cellar", 1.6, 13.4, 0.3, 90, 0, trimDb=-12)
device("Cellar bass R", "bobbin-s18", "cellar", 10.4, 13.4, 0.3, 90, 0, trimDb=-12)
device("Cellar handheld", "wisp-hh", "cellar", 6, 13.98, 1.9)
n = 0
for y in (14.35, 18.05):
    for i in range(5):
        n += 1
        device(f"Foyer ceiling {n}", "bobbin-c6", "foyer", 13.5 + 18.5 * (i + 0.5) / 5, y, 3.6, 0, -90)
device("Foyer dial", "dial", "foyer", 13.6, 13.6, 1.2, 0, 0, True)

def spindle():
    """The small board's program: two inputs and a microphone to both mains, the bar and a recorder; the bass boxes without it."""
    blocks, threads = [], []
    for n, (source, name) in enumerate((("left", "Left"), ("right", "Right"), ("mic", "Microphone"))):
        blocks.append({"id": source, "kind": "source", "label": name, "texts": {"port": f"in {n + 1}"}})
    knots = {f"{i}.{o}": level for i, levels in enumerate(((0, None, -6, -6), (None, 0, -6, -6), (-3, -3, -9, -6)), 1)
             for o, level in enumerate(levels, 1) if level is not None}
    blocks += [{"id": "mic.level", "kind": "level", "values": {"gain": -6}},
               {"id": "mix", "kind": "matrix", "label": "Mix", "shape": {"inputs": 3, "outputs": 4}, "values": knots}]
    threads += [[["left", 0], ["mix", 0]], [["right", 0], ["mix", 1]], [["mic", 0], ["mic.level", 0]], [["mic.level", 0], ["mix", 2]]]
    ends = (("mix", 0, "main-l", "Mains L"), ("mix", 1, "main-r", "Mains R"), ("left", 0, "bass-l", "Bass L"), ("right", 0, "bass-r", "Bass R"),
            ("mix", 2, "bar", "Bar"), ("mix", 3, "recorder", "Recorder"))
    for n, (source, port, end, name) in enumerate(ends):
        blocks.append({"id": f"{end}.level", "kind": "level", "label": f"{name} level", "values": {"gain": -3}})
        blocks.append({"id": end, "kind": "destination", "label": name, "texts": {"port": f"out {n + 1}"}})
        threads += [[[source, port], [f"{end}.level", 0]], [[f"{end}.level", 0], [end, 0]]]
    return {"revision": 1, "blocks": blocks, "threads": threads}

def racked(name, model, unit, net=True, **more):
    device(name, model, "", net=net, place={"rack": "rack-a", "unit": unit}, **more)

def seminar():
    """The second processor's program: Tern and Plover with their arrays and handhelds, and music for the foyer."""
    blocks, threads, ends = [], [], []
    def block(id, kind, label="", **more):
        blocks.append({"id": id, "kind": kind} | ({"label": label} if label else {}) | more)
    sources = (("tern-array", "Tern array", "net 1"), ("plover-array", "Plover array", "net 9"), ("tern-handheld", "Tern handheld", "in 1"),
               ("plover-handheld", "Plover handheld", "in 2"), ("laptop", "Laptop", "usb 1"), ("music-l", "Music L", "in 3"),
               ("music-r", "Music R", "in 4"), ("hall", "Hall mix", "net 17"))
    for n, (id, name, port) in enumerate(sources):
        block(id, "source", name, texts={"port": port})
        last = id
        if "handheld" in id:
            block(f"{id}.preamp", "preamp", values={"gain": 18})
            threads.append([[last, 0], [f"{id}.preamp", 0]])
            last = f"{id}.preamp"
        if "array" in id or "handheld" in id:
            block(f"{id}.highpass", "highpass", values={"corner": 110, "slope": 2})
            threads.append([[last, 0], [f"{id}.highpass", 0]])
            last = f"{id}.highpass"
        if "music" in id:
            block(f"{id}.level", "level", values={"gain": -12})
            threads.append([[last, 0], [f"{id}.level", 0]])
            last = f"{id}.level"
        threads.append([[last, 0], ["rooms", n]])
    block("closing", "player", "Closing call", shape={"channels": 1}, texts={"file": "closing-call.flac"}, values={"loop": 0})
    threads.append([["closing", 0], ["rooms", 8]])
    # Listeners: Tern, Plover, foyer, far end, mix for others. Nobody hears an array in its own room.
    # While the wall is closed neither room hears the other; the first pass makes what holds while it is open.
    levels = ((None, None, None, 0, 0), (None, None, None, None, 0), (-6, None, None, 0, 0), (None, -6, None, None, 0), (-3, None, None, None, -6),
              (None, None, -6, None, None), (None, None, -6, None, None), (None, None, None, None, None), (None, None, 0, None, None))
    block("rooms", "matrix", "Matrix mixer · rooms", shape={"inputs": 9, "outputs": 5},
          values={f"{i}.{o}": v for i, row in enumerate(levels, 1) for o, v in enumerate(row, 1) if v is not None} | {"8.3": -20})
    for n, (id, name, port) in enumerate((("tern", "Tern zone", "ring 1"), ("plover", "Plover zone", "ring 2"), ("foyer", "Foyer zone", "net 2"),
                                          ("far-send", "Far-end send", "usb 1"), ("mix", "Seminar mix", "net 1"))):
        block(f"{id}.level", "level", f"{name} level", values={"gain": -3})
        block(id, "destination", name, texts={"port": port})
        threads += [[["rooms", n], [f"{id}.level", 0]], [[f"{id}.level", 0], [id, 0]]]
    return {"revision": 1, "blocks": blocks, "threads": threads}

racked("Heddle 8 · rack A", "heddle-8", 14, program=seminar(), owners={"usb 1": "tern", "usb 2": "plover"},
       contacts={"contact 1": "wall fold tern+plover"}, stands=[
    {"port": port, "asset": asset, "gainDb": gain, "loop": True} for port, asset, gain in
    (("in 1", "delegate-5.flac", -24), ("in 2", "delegate-6.flac", -24), ("in 3", "programme-l.flac", 0), ("in 4", "programme-r.flac", 0))])
racked("Treadle 4 · hall", "treadle-4", 11)
racked("Treadle 4 · foyer", "treadle-4", 9)
racked("Treadle 4 · cellar", "treadle-4", 8)
racked("Treadle 2A · cellar", "treadle-2a", 6, False)
racked("Shuttle 8 · stage", "shuttle-8", 4)
racked("Spindle · cellar", "spindle-3x6", 3, False, program=spindle())
racked("Sley 24 · rack A", "sley-24", 18)

heddle_place = {"rack": "rack-a", "unit": 16}
# Voicings, and what hangs where: verbs of loomctl, run on the project once it is written (scripts/make-demo).
ceiling = lambda room, first, last, tap: [f"{room}-ceiling-{n}:1 @ {tap} W" for n in range(first, last + 1)]
speakers = [
    ["add-voicing", "demo/sheets/oakhaven-x2.txt"], ["add-voicing", "demo/sheets/bobbin-s18.txt"],
    ["add-voicing", "demo/sheets/bobbin-12.txt", "--name", "Bobbin 12"], ["add-voicing", "demo/sheets/bobbin-c6.txt"],
    ["add-response", "oakhaven-x2", "demo/responses/oakhaven-x2-low.txt", "--way", "1"],
    ["add-response", "oakhaven-x2", "demo/responses/oakhaven-x2-high.txt", "--way", "2"],
    ["add-response", "bobbin-12", "demo/responses/bobbin-12.txt", "--way", "1"],
    ["add-response", "bobbin-c6", "demo/responses/bobbin-c6.txt", "--way", "1"],
    ["add-response", "bobbin-s18", "demo/responses/bobbin-s18.txt", "--way", "1"],
    ["align-voicing", "oakhaven-x2"],
    ["fit-voicing", "bobbin-c6", "--from", "120", "--to", "11000", "--bells", "6"],
    ["voice", "oakhaven-x2", "cellar-main-l", "cellar-main-r"], ["voice", "bobbin-s18", "cellar-bass-l", "cellar-bass-r"],
    ["voice", "bobbin-12", "column-l", "column-r"],
    ["voice", "bobbin-c6"] + [d["id"] for d in devices if d["model"] == "bobbin-c6"],
    ["feed", "treadle-4-hall", "in 1", "heddle/out 1"], ["feed", "treadle-4-hall", "in 2", "heddle/out 2"],
    ["feed", "treadle-4-hall", "in 3", "heddle/out 3"], ["feed", "treadle-4-hall", "in 4", "heddle/out 4"],
    ["hang", "treadle-4-hall", "out 1"] + ceiling("council", 1, 4, 3.75) + ["--wiring", "100", "--metres", "42", "--mm2", "1.5"],
    ["hang", "treadle-4-hall", "out 2"] + ceiling("council", 5, 12, 7.5) + ["--wiring", "100", "--metres", "55", "--mm2", "1.5"],
    ["hang", "treadle-4-hall", "out 3", "column-l", "--metres", "18"], ["hang", "treadle-4-hall", "out 4", "column-r", "--metres", "31"],
    ["hang", "treadle-4-foyer", "out 1"] + ceiling("foyer", 1, 10, 7.5) + ["--wiring", "100", "--metres", "60", "--mm2", "1.5"],
    ["hang", "treadle-4-foyer", "out 2"] + ceiling("tern", 1, 4, 7.5) + ["--wiring", "100", "--metres", "36", "--mm2", "1.5"],
    ["hang", "treadle-4-foyer", "out 3"] + ceiling("plover", 1, 4, 7.5) + ["--wiring", "100", "--metres", "44", "--mm2", "1.5"],
    ["feed", "treadle-4-cellar", "in 1", "spindle-cellar/out 1"], ["feed", "treadle-4-cellar", "in 2", "spindle-cellar/out 1"],
    ["feed", "treadle-4-cellar", "in 3", "spindle-cellar/out 2"], ["feed", "treadle-4-cellar", "in 4", "spindle-cellar/out 2"],
    ["hang", "treadle-4-cellar", "out 1", "cellar-main-l:1", "--metres", "14"], ["hang", "treadle-4-cellar", "out 2", "cellar-main-l:2", "--metres", "14"],
    ["hang", "treadle-4-cellar", "out 3", "cellar-main-r:1", "--metres", "21"], ["hang", "treadle-4-cellar", "out 4", "cellar-main-r:2", "--metres", "21"],
    ["feed", "treadle-2a-cellar", "in 1", "spindle-cellar/out 3"], ["feed", "treadle-2a-cellar", "in 2", "spindle-cellar/out 4"],
    ["set-field", "device:chair-microphone", "ledTo", "heddle/in 1"],
    *[["set-field", f"device:delegate-{n}-microphone", "ledTo", f"heddle/in {n + 1}"] for n in range(1, 9)],
    ["set-field", "device:tern-handheld", "ledTo", "heddle-8-rack-a/in 1"],
    ["set-field", "device:plover-handheld", "ledTo", "heddle-8-rack-a/in 2"],
    ["set-field", "device:tern-lectern-microphone", "ledTo", "heddle-8-rack-a/in 5"],
    ["set-field", "device:plover-lectern-microphone", "ledTo", "heddle-8-rack-a/in 6"],
    ["set-field", "device:spindle-cellar", "knob 1", "main-l.level.gain -40..0"],
    ["set-field", "device:spindle-cellar", "knob 2", "main-r.level.gain -40..0"],
    ["set-field", "device:spindle-cellar", "knob 3", "bass-l.level.gain -40..0"],
    ["set-field", "device:spindle-cellar", "knob 4", "bass-r.level.gain -40..0"],
    ["set-field", "device:spindle-cellar", "knob 5", "bar.level.gain -60..0"],
    ["set-field", "device:spindle-cellar", "knob 6", "mic.level.gain -40..6"],
    ["set-field", "device:spindle-cellar", "button 1", "mic.level.mute 0..1"],
    ["set-field", "device:spindle-cellar", "button 2", "bass-l.level.mute 0..1"],
    ["set-field", "device:spindle-cellar", "button 3", "bass-r.level.mute 0..1"],
    ["hang", "treadle-2a-cellar", "out 1", "cellar-bass-l", "--metres", "13", "--mm2", "4"], ["hang", "treadle-2a-cellar", "out 2", "cellar-bass-r", "--metres", "22", "--mm2", "4"],
]

# What devices offer and hear, and how they are wired: verbs of loomctl too.
lobes = [f"net {n}" for n in range(1, 9)]
patch = [
    *[["offer", f"{room}-canopy", f"{room}-lobes", "--ports", *lobes] for room in ("council", "tern", "plover")],
    ["offer", "heddle", "hall-mix", "--ports", "net 1"], ["offer", "heddle-8-rack-a", "seminar-mix", "--ports", "net 1"],
    ["offer", "heddle-8-rack-a", "foyer-music", "--ports", "net 2"], ["offer", "heddle-8-rack-a", "seminar-zones", "--ports", "ring 1", "ring 2"],
    ["hear", "council-lobes", "heddle", "--in", "net 3"], ["hear", "seminar-mix", "heddle", "--in", "net 11"],
    ["hear", "tern-lobes", "heddle-8-rack-a", "--in", "net 1"], ["hear", "plover-lobes", "heddle-8-rack-a", "--in", "net 9"],
    ["hear", "hall-mix", "heddle-8-rack-a", "--in", "net 17"], ["hear", "hall-mix", "shuttle-8-stage"], ["hear", "seminar-mix", "shuttle-8-stage"],
    ["hear", "hall-mix", "spindle-cellar"],
    ["hear", "foyer-music", "treadle-4-foyer", "--in", "net 1"], ["hear", "seminar-zones", "treadle-4-foyer", "--in", "ring 2"],
    ["ring", "heddle", "heddle-8-rack-a", "treadle-4-foyer", "treadle-4-hall"],
    *[["wire", device, "sley-24-rack-a", "--number", f"N-{n:02d}", "--metres", str(metres)] for n, (device, metres) in enumerate((
        ("heddle", 1), ("heddle-8-rack-a", 1), ("treadle-4-hall", 1.5), ("treadle-4-foyer", 1.5), ("treadle-4-cellar", 1.5), ("shuttle-8-stage", 2),
        ("spindle-cellar", 2), ("council-canopy", 24), ("council-slate", 26), ("council-tap", 22), ("tern-canopy", 31), ("tern-slate", 27),
        ("tern-tap", 33), ("plover-canopy", 39), ("plover-slate", 46), ("plover-tap", 41), ("foyer-dial", 9)), 1)],
    # By the door one that has its amplifier in it, and hears the music from the network.
    ["add-device", "foyer", "bobbin-n6", "--x", "31", "--y", "14"], ["add-voicing", "demo/sheets/bobbin-n6.txt", "--name", "Bobbin N6"],
    ["voice", "bobbin-n6", "foyer-ceiling-11"], ["wire", "foyer-ceiling-11", "sley-24-rack-a", "--number", "N-18", "--metres", "28"],
    ["hear", "foyer-music", "foyer-ceiling-11"],
    ["leave", "foyer-ceiling-11/foyer", "one-fault", "Music and closing calls can wait until the switch is back; doors have their own bells."],
]

heddle_owners = {"usb 1": "council", "usb 2": "council", "tel 1": "council", "net 1": "council", "net 2": "foyer", "out 5": "council"}
# The secret of the account is in the device alone.
heddle_set_up = {"telServer": "calls.marram.example", "telName": "council"}
# Spaces whose first pass is taken whole, with their wall state.
conversations = [("council", ""), ("tern", ""), ("plover", ""), ("tern+plover", "joined")]

def backdrop():
    """The architect's drawing: 50 units a metre, half a metre of margin."""
    s = 50
    lines = []
    for r in rooms:
        xs = [(p[0] + 0.5) * s for p in r["outline"]]
        ys = [(p[1] + 0.5) * s for p in r["outline"]]
        points = " ".join(f"{x:.0f},{y:.0f}" for x, y in zip(xs, ys))
        lines.append(f'<polygon points="{points}" fill="none" stroke="#9a958a" stroke-width="9"/>')
    for x in range(0, 33, 4):  # the building's axes
        lines.append(f'<line x1="{(x + 0.5) * s:.0f}" y1="0" x2="{(x + 0.5) * s:.0f}" y2="1125" stroke="#d8d2c4" stroke-width="1" stroke-dasharray="12 6"/>')
    return f'<svg xmlns="http://www.w3.org/2000/svg" width="1650" height="1125" viewBox="0 0 1650 1125">' + "".join(lines) + "</svg>\n"

building = {"id": "library", "name": "Library", "rooms": rooms, "walls": walls, "states": states, "racks": racks,
            "backdrops": [{"asset": "ground-floor.svg", "x": -0.5, "y": -0.5, "metresPerUnit": 0.02}]}

# Touch surfaces: pages that make themselves, and what is changed on them.
surfaces = [
    ("new-surface", "--device", "council-slate"),
    ("page-for", "council-slate", "council"),
    ("new-surface", "--device", "tern-slate"),
    ("page-for", "tern-slate", "tern"),
    # With the wall open: both rooms on one page.
    ("page-for", "tern-slate", "tern+plover", "--name", "Both rooms"),
    ("control", "tern-slate", "tern-room", "--add", "press", "--at", "1064,22", "--size", "176x56", "--text", "Both rooms"),
    ("control", "tern-slate", "tern-room", "button", "--set", "page=both-rooms", "--set", "icon=people"),
]
# The other room's is the same, saved, brought in and driven from there.
tern_file = str(pathlib.Path(tempfile.gettempdir()) / "tern.surface.json")
surfaces += [
    ("save-surface", "tern-slate", tern_file),
    ("add-surface", tern_file, "--device", "plover-slate", "--name", "Plover slate"),
    ("re-point", "plover-slate", "tern", "plover", "--page", "tern-room", "--do"),
]
# On a large screen beside the foyer's door: what goes on, and how loud it is here.
surfaces += [
    ("new-surface", "--name", "Foyer wall", "--size", "1920x1080"),
    ("surface-page", "foyer-wall", "page-1", "--set", "name=Welcome"),
    ("surface-page", "foyer-wall", "--set", "millimetres=940"),
    *[("control", "foyer-wall", "page-1", "--add", kind, *drive, "--at", at, "--size", size, *(("--text", text) if text else ()))
      for kind, drive, at, size, text in (
          ("text", (), "80,60", "1200x110", "Marram Point Civic Library"),
          ("clock", (), "1500,60", "340x110", ""),
          ("lamps", ("--drive", "heddle/council-hall-microphones@lanes"), "80,230", "1280x300", "The council, as it speaks"),
          ("history", ("--drive", "heddle-8-rack-a/foyer@level"), "80,580", "1280x200", "Heard in the foyer"),
          ("fader", ("--drive", "heddle-8-rack-a/foyer.level.gain"), "1500,230", "340x640", "Foyer"),
          ("toggle", ("--drive", "heddle-8-rack-a/foyer.level.mute"), "1500,900", "340x120", "Quiet here"),
          ("lamps", ("--drive", "heddle-8-rack-a/tern-room-microphones@lanes"), "80,830", "620x190", "Tern Room"),
          ("lamps", ("--drive", "heddle-8-rack-a/plover-room-microphones@lanes"), "740,830", "620x190", "Plover Room"))],
    ("control", "foyer-wall", "page-1", "text", "--set", "textSize=64"),
    ("control", "foyer-wall", "page-1", "clock", "--set", "textSize=72"),
    ("control", "foyer-wall", "page-1", "foyer-zone-level-level", "--set", "low=-40", "--set", "high=0", "--set", "digits=0"),
    ("surface-page", "foyer-wall", "page-1", "--set", "textSize=30"),
]

# The Council Hall's slate is made by hand: a page to meet with, one for the technician, one that helps.
delegates = [f"heddle/delegate-{n}.preamp.mute" for n in range(1, 9)]
surfaces += [
    ("scene", "Meeting", "--room", "council", "heddle/council-canopy.level.gain=0", "heddle/far-end.level.gain=-3",
     "heddle/far-send.mute.muted=0", "heddle/chair.preamp.mute=0", *[f"{d}=0" for d in delegates]),
    ("scene", "Chair only", "--room", "council", "heddle/chair.preamp.mute=0", *[f"{d}=1" for d in delegates]),
    ("scene", "Film", "--room", "council", "heddle/council-canopy.level.gain=-40", "heddle/far-end.level.gain=-20",
     "heddle/far-send.mute.muted=1"),
    ("surface-page", "council-slate", "--name", "Meeting"),
    ("surface-page", "council-slate", "--name", "Help"),
    ("surface-page", "council-slate", "--name", "Room"),
    ("surface-page", "council-slate", "--set", "start=meeting", "--set", "roles=Technician", "--set", "idleSeconds=180"),
    ("surface-page", "council-slate", "council-hall", "--set", "roles=Technician", "--set", "name=Sound"),
    ("surface-page", "council-slate", "meeting", "--ply", "More"),
    ("surface-page", "council-slate", "meeting", "--ply", "more", "--set", "name=More sound", "--set", "edge=right",
     "--set", "extent=460", "--set", "fill=#1C262C", "--set", "comes=slide", "--set", "closed=yes", "--set", "outside=yes", "--set", "closesAfter=60"),
]


def control(page, kind, at, size, text="", drive="", ply="", picture="", fields=(), name="", into=surfaces):
    """One control on the council slate; `name` is the id that it gets, to set its fields."""
    add = ["control", "council-slate", page, "--add", kind, "--at", "%d,%d" % at, "--size", "%dx%d" % size]
    for option, value in (("--text", text), ("--drive", drive), ("--ply", ply)):
        add += [option, value] if value else []
    into.append(tuple(add))
    if fields:
        into.append(("control", "council-slate", page, name, *[x for f in fields for x in ("--set", f)]))


control("meeting", "text", (40, 26), (600, 48), "Council Hall", ply="controls", name="text", fields=["textSize=34"])
control("meeting", "clock", (1100, 26), (140, 48), ply="controls", name="clock", fields=["textSize=30"])
for i, (scene, text, icon) in enumerate((("meeting", "Meeting", "meeting"), ("chair-only", "Chair only", "people"),
                                         ("film", "Film", "film"))):
    control("meeting", "press", (40 + 190 * i, 100), (174, 130), text, f"scene:{scene}", "controls",
            name={"meeting": "meeting", "chair-only": "chair-only", "film": "film"}[scene], fields=[f"icon={icon}"])
control("meeting", "fader", (628, 100), (120, 420), "Canopy", "heddle/council-canopy.level.gain", "controls",
        name="council-canopy-level-level", fields=["low=-40", "high=6", "digits=0"])
control("meeting", "dial", (776, 100), (270, 420), "", "heddle/tel 1@line", "controls")
control("meeting", "toggle", (1074, 100), (166, 166), "Microphones away", "heddle/far-send.mute.muted", "controls",
        name="far-end-send-mute-muted", fields=["accent=#E58BA3"])
surfaces.append(("control", "council-slate", "meeting", "far-end-send-mute-muted", "--picture",
                 "demo/pictures/microphones-on.svg", "--while", "off"))
surfaces.append(("control", "council-slate", "meeting", "far-end-send-mute-muted", "--picture",
                 "demo/pictures/microphones-off.svg", "--while", "on"))
# The map lies over a button that opens the drawer: presses go through it.
control("meeting", "press", (104, 250), (420, 280), "", "", "controls", name="button",
        fields=["ply=more", "name=More sound", "fill=none"])
surfaces.append(("control", "council-slate", "meeting", "--picture", "demo/pictures/council-hall.svg", "--at", "314,390",
                 "--ply", "controls"))
surfaces.append(("control", "council-slate", "meeting", "picture", "--set", "through=yes"))
control("meeting", "lamps", (40, 556), (826, 204), "Who is open", "heddle/council-hall-microphones@lanes", "controls")
control("meeting", "press", (1074, 290), (166, 110), "More", "", "controls", name="button-2",
        fields=["ply=more", "icon=more"])
control("meeting", "press", (1074, 424), (166, 96), "Help", "", "controls", name="button-3", fields=["page=help", "icon=help"])
control("meeting", "press", (1074, 556), (166, 96), "Sound", "", "controls", name="button-4",
        fields=["page=council-hall", "icon=lock"])
control("meeting", "press", (1074, 664), (166, 96), "Hang up all", "scene:film", "controls", name="film-2",
        fields=["confirm=yes", "icon=hang-up", "text=Film, and mute"])
control("meeting", "press", (892, 556), (154, 204), "Screen", "", "controls", name="button-5",
        fields=["page=room", "icon=screen"])
control("meeting", "text", (852, 30), (390, 44), "More sound", ply="more", name="text-2", fields=["textSize=24"])
control("meeting", "field", (852, 96), (190, 76), "Far end", "heddle/far-end.level.gain", "more")
control("meeting", "steps", (852, 190), (390, 76), "Hearing loop", "heddle/loop.level.gain", "more")
control("meeting", "list", (1056, 96), (190, 76), "Chair's low cut", "heddle/chair.highpass.slope", "more")
control("meeting", "response", (852, 284), (390, 190), "Chair", "heddle/chair.eq@response", "more")
control("meeting", "history", (852, 492), (390, 150), "Far end", "heddle/far-end.highpass@level", "more")
control("meeting", "press", (852, 664), (390, 86), "Close", "", "more", name="button-6", fields=["ply=more", "icon=close"])
control("help", "text", (40, 26), (600, 48), "Help", name="text", fields=["textSize=34"])
for i, line in enumerate(("Meeting opens every microphone when somebody speaks.",
                          "Chair only leaves the delegates closed until Meeting is pressed.",
                          "Microphones away: the far end hears nothing of this hall.",
                          "Nothing works? Call 2041 from any telephone of the house.")):
    control("help", "text", (40, 110 + 70 * i), (1200, 56), line)
control("help", "press", (40, 680), (220, 90), "Back", name="button", fields=["page=meeting", "icon=home"])
control("council-hall", "press", (1100, 20), (150, 56), "Back", name="button", fields=["page=meeting", "icon="])


# What the slate shows of the hall's display, its blinds and the wall next door is put on it once they are there.
def outside_page(control):
    control("room", "text", (40, 26), (600, 48), "Screen and blinds", name="text", fields=["textSize=34"])
    control("room", "toggle", (40, 110), (260, 120), "Display", "outside:hall-display/power", name="hall-display-power", fields=["icon=screen"])
    control("room", "choice", (324, 110), (520, 120), "", "outside:hall-display/input")
    control("room", "fader", (900, 110), (150, 540), "Loudness, %", "outside:hall-display/volume")
    control("room", "lamp", (40, 260), (260, 80), "Display answers", "outside:hall-display/there")
    control("room", "steps", (40, 390), (520, 120), "Blinds closed, %", "outside:hall-blinds/closed")
    control("room", "press", (584, 390), (260, 120), "Stop the blinds", "outside:hall-blinds/stop")
    control("room", "toggle", (40, 540), (260, 120), "Hall muted", "mute:council", name="council-hall-mute", fields=["icon=microphone-off", "accent=#E58BA3"])
    control("room", "lamp", (324, 540), (520, 120), "Wall of Tern and Plover", "wall:fold")
    control("room", "press", (1074, 664), (166, 96), "Back", name="button", fields=["page=meeting", "icon=home"])


# What happens when: the wall between Tern and Plover, the evening, the closing call, the knob in the foyer, a count of
# how long somebody was open; and what of it is tested.
rack = "heddle-8-rack-a"
zones = lambda tern, plover: [f"{rack}/tern.level.gain={tern}", f"{rack}/plover.level.gain={plover}"]
COUNT = """-- Minutes of this day in which somebody in Tern Room was muted by nobody; told when the evening comes.
local today = now().year * 10000 + now().month * 100 + now().day
if keep.day ~= today then keep.day, keep.minutes = today, 0 end
if get("mute:tern") == 0 then keep.minutes = keep.minutes + 1 end
if now().hour == 23 and now().minute >= 25 then note("Tern Room was live for " .. keep.minutes .. " minutes") end
"""
KNOB = f"""-- The knob turns the foyer between -40 dB and 0 dB.
set("{rack}/foyer.level.gain", -40 + 40 * get("knob:foyer-dial/knob 1"))
"""
rules = [
    ("scene", "Apart", "--room", "tern+plover", *zones(-3, -3)),
    ("scene", "Joined", "--room", "tern+plover", *zones(-6, -6)),
    ("scene", "Silent", "--room", "tern+plover", *zones("off", "off"), f"{rack}/foyer.level.gain=off"),
    ("scene", "Joined", "--set", "fade=0.8"),
    ("scripts", "Count live minutes", "--text", "-", COUNT),
    ("scripts", "Foyer knob", "--text", "-", KNOB),
    ("rule", "Seminar becomes one room", "--room", "tern+plover", "--add", "when wall:fold becomes open and stays so for 2 s",
     "--add", f"only if {rack}/tel 1@line is on hook", "--add", "then recall Joined over 0.8 s",
     "--add", "then Plover slate shows the page Both rooms", "--add", "else Tern slate says Wall is open, Plover is in a call for 20 s"),
    ("rule", "Two rooms again", "--room", "tern+plover", "--add", "when wall:fold becomes closed and stays so for 2 s",
     "--add", "then recall Apart over 0.8 s"),
    ("rule", "Morning", "--room", "tern+plover", "--add", "when it is 7:30 on weekdays", "--add", "then recall Apart",
     "--add", f"then set {rack}/foyer.level.gain to -12 dB over 3 s"),
    ("rule", "Evening", "--room", "tern+plover", "--add", "when it is 23:30 on every day, up to 30 min late", "--add", "then recall Silent over 5 s"),
    ("rule", "Closing call", "--room", "foyer", "--add", "when it is 17:45 on weekdays except 2026-12-24..2027-01-01, up to 10 min late",
     "--add", f"then set {rack}/music-l.level.gain to -40 dB over 2 s", "--add", f"then set {rack}/music-r.level.gain to -40 dB over 2 s",
     "--add", f"then play closing-call.flac on {rack}/closing at -3 dB", "--add", "then wait 9 s",
     "--add", f"then set {rack}/music-l.level.gain to -12 dB over 4 s", "--add", f"then set {rack}/music-r.level.gain to -12 dB over 4 s",
     "--add", "then give the cue Closing call"),
    ("rule", "Foyer knob", "--room", "foyer", "--add", "when knob:foyer-dial/knob 1 is turned", "--add", "then run Foyer knob"),
    ("rule", "Tap in Tern", "--room", "tern", "--add", "when button:tern-tap becomes pressed and stays so for 3 s",
     "--add", "then Tern slate says Somebody asks for help for 60 s", "--add", "then note Somebody in Tern Room asks for help"),
    ("outside", "--add", "Hall display", "--kind", "display-lines", "--room", "council", "--address", "127.20.4.240:4660"),
    ("outside", "--add", "Hall blinds", "--kind", "blinds-packets", "--room", "council", "--address", "127.20.4.241:4661"),
    ("rule", "A film begins", "--room", "council", "--add", "when the scene Film is recalled", "--add", "then set outside:hall-display/power to on",
     "--add", "then set outside:hall-display/input to HDMI 2", "--add", "then set outside:hall-blinds/closed to 100"),
    ("rule", "A meeting begins", "--room", "council", "--add", "when the scene Meeting is recalled", "--add", "then set outside:hall-blinds/closed to 0",
     "--add", "then set outside:hall-display/input to HDMI 1"),
    ("rule", "The hall at night", "--room", "council", "--add", "when it is 23:30 on every day, up to 30 min late",
     "--add", "then set outside:hall-display/power to off", "--add", "then set outside:hall-blinds/closed to 0"),
    ("access", rack, "--allow", f"{rack}/foyer.level.gain", "--allow", "scene:joined", "--allow", "scene:apart", "--sets", "--set", "web=yes", "--set", "lines=yes"),
    ("access", rack, "--allow", "wall:fold"),
    ("access", rack, "--change", "foyer-zone-level/level", "--set", "name=foyer/level", "--set", "low=-40", "--set", "high=0"),
    ("rule", "Live minutes", "--room", "tern", "--add", "when every 1 min", "--add", "only if it is between 8:00 and 23:30",
     "--add", "then run Count live minutes"),
]
outside_page(functools.partial(control, into=rules))
days = [  # tests: a name, when they begin, until when, what happens
    ("The wall opens", "2026-11-30T09:00:00", "09:10", "09:05 wall:fold open\n"),
    ("The wall opens in a call", "2026-11-30T07:00:00", "09:10", f"09:00 {rack}/tel 1@line in a call\n09:05 wall:fold open\n"),
    ("An evening", "2026-11-30T23:00:00", "23:40", ""),
    ("A film", "2026-11-30T20:00:00", "20:10", "20:05 scene:film\n"),
    ("Closing call on a weekday", "2026-11-30T17:40:00", "17:46", ""),
]
