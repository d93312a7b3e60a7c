#!/usr/bin/env python3
"""Browsers that a test in another language moves: a JSON array a line in, one answer a line out, [true, value] or
[false, why]. Commands: ["open", NAME, URL], ["tap", NAME, CONTROL, ACROSS, DOWN] (shares of its box),
["drag", NAME, CONTROL, ACROSS, DOWN, ACROSS, DOWN], ["tap-at", NAME, X, Y], ["keys", NAME, TEXT], ["run", NAME, SCRIPT],
["until", NAME, SCRIPT]."""
import json
import sys

from webdriver import ENTER, Browser

browsers = {}


def box(b, control):
    return b.until("""const of = document.getElementById('c-' + arguments[0]);
        const at = of && of.querySelector('rect');
        if (!at || of.classList.contains('hidden')) return null;
        const r = at.getBoundingClientRect();
        return [r.x, r.y, r.width, r.height];""", control, what=f"there is no {control}")


def do(what, name, *rest):
    if name not in browsers:
        browsers[name] = Browser()
    b = browsers[name]
    if what == "open":
        b.open(rest[0])
        return b.until("return document.querySelector('#stage svg .control:not(.hidden)') && document.title",
                       seconds=15, what="no page came from " + rest[0])
    if what == "tap":
        x, y, w, h = box(b, rest[0])
        return b.tap(x + w * rest[1], y + h * rest[2])
    if what == "drag":
        x, y, w, h = box(b, rest[0])
        a, z = (x + w * rest[1], y + h * rest[2]), (x + w * rest[3], y + h * rest[4])
        steps = [("move", a[0] + (z[0] - a[0]) * k / 8, a[1] + (z[1] - a[1]) * k / 8) for k in range(1, 9)]
        return b.pointers([("down", *a), *[s for m in steps for s in (m, ("wait", 20))], ("up", *z)])
    if what == "tap-at":
        return b.tap(*rest)
    if what == "keys":
        return b.keys(*rest[0], ENTER)
    if what == "run":
        return b.run(rest[0])
    if what == "until":
        return b.until(rest[0], seconds=20)
    raise RuntimeError("there is no command " + what)


try:
    for line in sys.stdin:
        try:
            answer = [True, do(*json.loads(line))]
        except (AssertionError, RuntimeError) as wrong:
            answer = [False, str(wrong)]
        print(json.dumps(answer), flush=True)
finally:
    for b in browsers.values():
        b.close()
