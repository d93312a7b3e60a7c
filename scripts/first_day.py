"""The scenario "first day": a plan of nine devices cut from the demo, and the eleven that stand on site in cartons.

Writes demo/first-day/project.json and demo/scenarios/first-day.json from demo/marram-point/project.json.
"""
import copy
import json
from pathlib import Path

DEMO = Path(__file__).resolve().parent.parent / "demo"
ADDRESSES = {"heddle": 10, "treadle-4-hall": 11, "council-canopy": 20, "tern-canopy": 21, "plover-canopy": 22,
             "council-slate": 30, "tern-slate": 31, "tern-tap": 41, "foyer-dial": 42}

project = json.loads((DEMO / "marram-point/project.json").read_text())
project["name"] = "Marram Point: first day on site"
project.pop("voicings", None)
project.pop("left", None)
devices = []
for d in project["devices"]:
    if d["id"] not in ADDRESSES:
        continue
    for key in ("stands", "outputs", "voicing"):
        d.pop(key, None)
    feeds = {port: end for port, end in d.pop("feeds", {}).items() if end.split("/")[0] in ADDRESSES}
    if feeds:
        d["feeds"] = feeds
    d["address"] = f"127.20.4.{ADDRESSES[d['id']]}"
    devices.append(d)
project["devices"] = devices

heddle = next(d for d in devices if d["id"] == "heddle")
treadle = next(d for d in devices if d["id"] == "treadle-4-hall")
treadle.pop("program")  # an amplifier that is told no load is a finding of another stage
# The processor left the workshop with this; since then the design went on, and so did somebody at the device.
heddle["serial"] = "00A3F1"
heddle["program"]["revision"] = 12
heddle["lastSent"] = copy.deepcopy(heddle["program"])
heddle["lastRevision"] = 12
heddle["lastSetUp"] = {"name": heddle["name"], "lampLive": "", "lampMuted": "", "panel": "open", "timeServer": "",
                       "addressBy": "fixed", "usbName": "Heddle 16", "usbAudio": "speakerphone", "telAnswer": "hand",
                       } | heddle["setUp"] | {
    f"mute {place}": f"{heddle['owners'].get(place, heddle['room'])} {does}" for place, does in heddle["mutes"].items()}


def design(block, key, value):
    next(b for b in heddle["program"]["blocks"] if b["id"] == block)["values"][key] = value


design("delegate-3.eq", "2.gain", -6.0)  # changed here
design("far-end.level", "gain", -4.5)    # changed on both sides

found = [
    {"serial": "00A3F1", "model": "heddle-16", "address": "127.20.4.10", "as": "heddle", "author": "workshop",
     "faults": {"turn": {"ceiling-2.eq.1.gain": -1.0, "far-end.level.gain": -1.5}}},
    {"serial": "01C77E", "model": "treadle-4", "address": "127.20.4.11", "as": "treadle-4-hall", "prepared": False},
    {"serial": "1177A0", "model": "canopy-8", "address": "127.20.4.20", "as": "council-canopy", "prepared": False},
    {"serial": "1177B4", "model": "canopy-8", "address": "127.20.4.20", "as": "tern-canopy", "prepared": False},
    {"serial": "1177C9", "model": "canopy-8", "address": "127.20.4.22"},
    {"serial": "1177D2", "model": "canopy-8", "address": "10.0.0.22", "as": "plover-canopy", "prepared": False},
    {"serial": "52E0", "model": "slate-10", "address": "127.20.4.30"},
    {"serial": "52E1", "model": "slate-10", "address": "127.20.4.31", "firmware": "1.1"},
    {"serial": "0A11", "model": "tap", "address": "127.20.4.41"},
    {"serial": "0D42", "model": "dial", "address": "127.20.4.42"},
    {"serial": "5A88", "model": "shuttle-8", "address": "127.20.4.50"},
]
scenario = {
    "name": "First day",
    "project": "../first-day",
    "sound": "../marram-point",
    "devices": found,
    "steps": [
        {"name": "a canopy dies", "device": "1177C9", "faults": {"power": "off"}},
        {"name": "power cut", "device": "*", "faults": {"power": "off"}},
        {"name": "power returns", "device": "*", "faults": {"power": "on"}},
        {"name": "the dead one stays dead", "device": "1177C9", "faults": {"power": "off"}},
    ],
}
for folder, name, content in (("first-day", "project.json", project), ("scenarios", "first-day.json", scenario)):
    (DEMO / folder).mkdir(exist_ok=True)
    (DEMO / folder / name).write_text(json.dumps(content, indent=1, ensure_ascii=False) + "\n")
print("first day:", len(devices), "planned,", len(found), "delivered")
