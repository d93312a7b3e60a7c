#!/usr/bin/env python3
"""Writes touch_table.json: a surface with a control of every kind, and what fingers and keys do to each.

The window (tst_touch_table) and a browser (tests/browser) play the same cases on the demo project. What is expected is
reasoned from what a kind promises, not taken from a run: the end of a range, one step of a parameter, its opposite.
"""
import json
import pathlib

CONTROLS = [  # kind, id, parameter, size, more
    ("fader", "fader", "heddle/council-canopy.level.gain", (84, 232), {"low": -40, "high": 10, "digits": 1}),
    ("fader", "fader-level", "heddle/far-send.level.gain", (232, 84), {"low": -40, "high": 10, "digits": 1}),
    ("knob", "knob", "heddle/far-end.level.gain", (110, 130), {"low": -40, "high": 10, "digits": 1}),
    ("steps", "steps", "heddle/loop.level.gain", (220, 64), {"digits": 1}),
    ("field", "field", "heddle/recorder.level.gain", (150, 64), {"digits": 1}),
    ("toggle", "toggle", "heddle/far-send.mute.muted", (150, 74), {}),
    ("hold", "hold", "heddle/chair.preamp.mute", (150, 74), {"text": "Cough"}),
    ("press", "press", "heddle/programme-l.level.gain", (150, 74), {"value": -12, "text": "Quiet"}),
    ("press", "asks", "heddle/programme-r.level.gain", (150, 74), {"value": -20, "text": "Softer", "confirm": True}),
    ("choice", "choice", "heddle/chair.highpass.shape", (300, 64), {}),
    ("list", "list", "heddle/chair.highpass.slope", (190, 64), {}),
    ("dial", "dial", "heddle/tel 1@line", (200, 232), {}),
    ("press", "scene", "scene:chair-only", (150, 74), {"text": "Chair only"}),
    ("meter", "meter", "heddle/chair.eq@level", (36, 130), {}),
    ("history", "history", "heddle/chair.eq@level", (200, 130), {"text": "Lately"}),
    ("response", "response", "heddle/chair.eq@response", (230, 130), {}),
    ("lamps", "lamps", "heddle/council-hall-microphones@lanes", (300, 130), {"text": "Who is open"}),
    ("lamp", "lamp", "heddle/far-send.mute.muted", (190, 64), {"text": "Away"}),
    ("text", "text", "", (150, 40), {"text": "Words", "align": "centre"}),
    ("clock", "clock", "", (110, 40), {}),
    ("frame", "frame", "", (150, 74), {"text": "Together"}),
    ("shape", "shape", "", (74, 74), {"shape": "polygon", "corners": "50 0, 100 40, 80 100, 20 100, 0 40",
                                       "look": {"fill": "#2A7F7A"}}),
    ("picture", "picture", "", (110, 74), {"pictures": {"always": "council-hall.svg"}}),
]
VALUES = [("fader-value", "fader"), ("fader-level-value", "fader-level"), ("knob-value", "knob"), ("steps-value", "steps"),
          ("field-value", "field"), ("toggle-value", "toggle"), ("hold-value", "hold"), ("press-value", "press"),
          ("asks-value", "asks"), ("choice-value", "choice"), ("list-value", "list")]

CHOICES = {"choice": ["Butterworth", "Linkwitz\u2013Riley", "Bessel"],
           "list": ["6 dB/oct", "12 dB/oct", "18 dB/oct", "24 dB/oct", "30 dB/oct", "36 dB/oct", "42 dB/oct", "48 dB/oct"]}

# Places are shares of the control's box. "text": what the value beside it says then; of "dial": it itself.
CASES = [
    {"control": "fader", "do": [["drag", 0.5, 0.7, 0.5, 0.0]], "text": "10.0 dB", "why": "dragged to its end: its most"},
    {"control": "fader", "do": [["drag", 0.5, 0.3, 0.5, 1.0]], "text": "\u221240.0 dB", "why": "and its least"},
    {"control": "fader-level", "do": [["drag", 0.3, 0.7, 1.0, 0.7]], "text": "10.0 dB", "why": "level: to the right is more"},
    {"control": "fader-level", "do": [["drag", 0.3, 0.7, 0.0, 0.7]], "text": "\u221240.0 dB", "why": "to the left less"},
    {"control": "knob", "do": [["drag", 0.5, 0.9, 0.5, -2.0]], "text": "10.0 dB", "why": "moved up, 200 pixels are all of it"},
    {"control": "knob", "do": [["drag", 0.5, 0.1, 0.5, 3.0]], "text": "\u221240.0 dB", "why": "moved down"},
    {"control": "field", "do": [["tap", 0.5, 0.5], ["keys", "-7.5"], ["key", "Enter"]], "text": "\u22127.5 dB",
     "why": "typed and set"},
    {"control": "field", "do": [["tap", 0.5, 0.5], ["over", "8"], ["over", "escape"]], "text": "\u22127.5 dB",
     "why": "typed by finger and left"},
    {"control": "field", "do": [["tap", 0.5, 0.5], ["over", "3"], ["over", "back"], ["over", "2"], ["over", "enter"]],
     "text": "2.0 dB", "why": "typed by finger, corrected and set"},
    {"control": "toggle", "do": [["set-off"], ["tap", 0.5, 0.5]], "text": "on", "why": "one press"},
    {"control": "toggle", "do": [["tap", 0.5, 0.5]], "text": "off", "why": "and the next"},
    {"control": "toggle", "do": [["key", "Enter"]], "text": "on", "why": "by keys"},
    {"control": "toggle", "do": [["slide-off"]], "text": "on", "why": "a finger that slides off takes it back"},
    {"control": "lamp", "do": [["tap", 0.5, 0.5]], "own": "on", "why": "nobody presses a lamp"},
    {"control": "hold", "do": [["down"]], "text": "on", "why": "while it is held"},
    {"control": "hold", "do": [["up"]], "text": "off", "why": "no longer"},
    {"control": "press", "do": [["tap", 0.5, 0.5]], "text": "\u221212.0 dB", "why": "sets its value"},
    {"control": "asks", "do": [["tap", 0.5, 0.5], ["answer", False]], "text": "\u22129.0 dB", "why": "asked, and no: as it was"},
    {"control": "asks", "do": [["tap", 0.5, 0.5], ["answer", True]], "text": "\u221220.0 dB", "why": "asked, and yes"},
    {"control": "choice", "do": [["part", 1]], "choice": 1, "why": "its second part"},
    {"control": "choice", "do": [["key", "Left"]], "choice": 0, "why": "one to the left by keys"},
    {"control": "list", "do": [["tap", 0.5, 0.5], ["over-part", 2]], "choice": 2, "why": "the third of its list"},
    {"control": "list", "do": [["tap", 0.5, 0.5], ["over", "escape"]], "choice": 2, "why": "the list was left"},
    {"control": "dial", "do": [["part", 1], ["part", 10], ["part", 11], ["part", 13]], "own": "20",
     "why": "2, 0, # and one taken back"},
    {"control": "dial", "do": [["keys", "41"]], "own": "2041", "why": "by keys"},
]


def main():
    controls, boxes = [], {}
    x = y = high = 0
    for kind, name, param, size, more in CONTROLS:
        with_value = any(of == name for _, of in VALUES)
        wide = size[0] + (168 if with_value else 0)
        if x + wide + 16 > 1280:
            x, y, high = 0, y + high + 16, 0
        c = {"id": name, "kind": kind, "x": x + 16, "y": y + 16, "width": size[0], "height": size[1]}
        if param:
            c["param"] = param
        c.update(more)
        controls.append(c)
        if with_value:
            value = next(v for v, of in VALUES if of == name)
            controls.append({"id": value, "kind": "value", "param": param, "x": x + 20 + size[0], "y": y + 16,
                             "width": 160, "height": 40, **({"digits": more["digits"]} if "digits" in more else
                                                              {"digits": 1} if "level.gain" in param else {})})
        x += wide + 16
        high = max(high, size[1])
    surface = {"id": "table", "name": "Every kind", "width": 1280, "height": 900, "pages": [
        {"id": "all", "name": "All", "plies": [{"id": "controls", "name": "Controls", "controls": controls}]}]}
    here = pathlib.Path(__file__).resolve().parent / "touch_table.json"
    here.write_text(json.dumps({"surface": surface, "choices": CHOICES, "cases": CASES}, indent=1, ensure_ascii=False) + "\n")


if __name__ == "__main__":
    main()
