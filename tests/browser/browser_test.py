#!/usr/bin/env python3
"""Touch surfaces in a real browser: every kind of control by the table that the window plays too, who may open what, a
second browser, a lost line. Usage: browser_test.py LOOMCTL SOURCE [NAME...]"""
import json
import pathlib
import shutil
import subprocess
import sys
import tempfile
import time

from webdriver import BACKSPACE, ENTER, ESCAPE, LEFT, Browser

LOOMCTL, SOURCE = sys.argv[1], pathlib.Path(sys.argv[2])
TABLE = json.loads((SOURCE / "tests/surface/touch_table.json").read_text())


class Served:
    """A project served by loomctl."""

    def __init__(self, folder, *options, port=0):
        self.process = subprocess.Popen([LOOMCTL, "serve", str(folder), "--port", str(port), *options],
                                        stdout=subprocess.PIPE, text=True)
        self.first = first = self.process.stdout.readline().strip()
        assert first, "loomctl serve said nothing"
        if first.startswith("certificate"):
            first = self.process.stdout.readline().strip()
        self.root = first.split("/s/")[0]

    def lines(self, most):
        """What else it says."""
        for _ in range(most - 1):
            yield self.process.stdout.readline().strip()

    def at(self, surface):
        return f"{self.root}/s/{surface}"

    def close(self):
        self.process.kill()
        self.process.wait()


def table_project(folder):
    project = json.loads((SOURCE / "demo/marram-point/project.json").read_text())
    project["surfaces"].append(TABLE["surface"])
    (folder / "project.json").write_text(json.dumps(project))
    shutil.copytree(SOURCE / "demo/marram-point/assets", folder / "assets")
    return folder


READY = "return document.querySelector('#stage svg .control:not(.hidden)')"


def text_of(browser, control):
    return browser.run("return [...document.querySelectorAll('#c-' + arguments[0] + ' text:not(.hidden)')]"
                       ".map(t => t.textContent).join('|')", control)


def box_of(browser, control, part=None):
    return browser.run("""
        const of = document.getElementById('c-' + arguments[0]);
        const at = arguments[1] === null ? of.querySelector('rect') : of.querySelectorAll('.part')[arguments[1]];
        const b = at.getBoundingClientRect();
        return [b.x, b.y, b.width, b.height];""", control, part)


def over_box(browser, name):
    return browser.until("""
        const at = [...document.querySelectorAll('.over .part')].find((p, i) => arguments[0] === p.getAttribute('aria-label')
            || arguments[0] === i);
        if (!at) return null;
        const b = at.getBoundingClientRect();
        return [b.x + b.width / 2, b.y + b.height / 2];""", name)


def play(browser, case):
    control = case["control"]
    x, y, w, h = box_of(browser, control)
    spot = lambda fx, fy: (x + max(0.02, min(0.98, fx)) * w if 0 <= fx <= 1 else x + fx * w,
                           y + max(0.02, min(0.98, fy)) * h if 0 <= fy <= 1 else y + fy * h)
    for step in case["do"]:
        what, rest = step[0], step[1:]
        if what == "drag":
            a, b = spot(rest[0], rest[1]), spot(rest[2], rest[3])
            b = (max(0, min(1279, b[0])), max(0, min(899, b[1])))
            moves = [("move", a[0] + (b[0] - a[0]) * k / 8, a[1] + (b[1] - a[1]) * k / 8) for k in range(1, 9)]
            browser.pointers([("down", *a), *[s for m in moves for s in (m, ("wait", 20))], ("up", *b)])
        elif what == "tap":
            browser.tap(*spot(*rest))
        elif what == "down":
            browser.hold(*spot(0.5, 0.5))
        elif what == "up":
            browser.lift()
        elif what == "slide-off":
            browser.pointers([("down", *spot(0.5, 0.5)), ("move", *spot(0.5, 3.0)), ("wait", 60), ("up", *spot(0.5, 3.0))])
        elif what == "part":
            px, py, pw, ph = box_of(browser, control, rest[0])
            browser.tap(px + pw / 2, py + ph / 2)
        elif what in ("over", "over-part"):
            if rest[0] == "escape":
                browser.until("return document.querySelector('.over .part')", what="nothing lies over the page")
                browser.keys(ESCAPE)
                browser.until("return !document.querySelector('.over .part')", what="it does not go")
            else:
                browser.tap(*over_box(browser, rest[0]))
            time.sleep(0.1)
        elif what == "answer":
            browser.until("return !document.getElementById('card').hidden", what="it did not ask")
            browser.run("[...document.querySelectorAll('#card button')].find(b => b.textContent === arguments[0]).click()",
                        "Yes" if rest[0] else "No")
            browser.until("return document.getElementById('card').hidden")
        elif what == "key" or what == "keys":
            browser.run("const c = document.getElementById('c-' + arguments[0]);"
                        "if (!document.querySelector('.over .part')) c.focus();", control)
            keys = {"Enter": [ENTER], "Left": [LEFT], "Back": [BACKSPACE]}.get(rest[0]) if what == "key" else list(rest[0])
            for key in keys:
                browser.keys(key)
                time.sleep(0.06)
        elif what == "set-off":
            if "on" in text_of(browser, control + "-value").split("|"):
                browser.tap(*spot(0.5, 0.5))
                time.sleep(0.15)


def check(browser, case):
    control = case["control"]
    where = f"{control}: {case['why']}"
    if "text" in case:
        browser.until("return [...document.querySelectorAll('#c-' + arguments[0] + '-value text:not(.hidden)')]"
                      ".some(t => t.textContent === arguments[1])", control, case["text"], seconds=4,
                      what=f"{where}: {text_of(browser, control + '-value')!r} instead of {case['text']!r}")
    if "own" in case:
        browser.until("return [...document.querySelectorAll('#c-' + arguments[0] + ' text')]"
                      ".some(t => t.textContent === arguments[1])", control, case["own"], seconds=4,
                      what=f"{where}: {text_of(browser, control)!r}")
    if "choice" in case:
        chosen = TABLE["choices"][control][case["choice"]]
        browser.until("return [...document.querySelectorAll('#c-' + arguments[0] + '-value text:not(.hidden)')]"
                      ".some(t => t.textContent === arguments[1])", control, chosen, seconds=4,
                      what=f"{where}: {text_of(browser, control + '-value')!r} instead of {chosen!r}")


def every_kind(folder):
    served = Served(table_project(folder))
    try:
        with Browser(1280, 900) as b:
            b.open(served.at("table"))
            b.until(READY)
            time.sleep(0.4)
            for c in TABLE["surface"]["pages"][0]["plies"][0]["controls"]: # geometry, to the pixel
                t = b.run("const m = document.getElementById('c-' + arguments[0]).getCTM(); return [m.e, m.f, m.a]", c["id"])
                assert t == [c["x"], c["y"], 1], f"{c['id']} is at {t}"
            for case in TABLE["cases"]:
                play(b, case)
                check(b, case)
            roles = b.run("return Object.fromEntries([...document.querySelectorAll('.control')].map(c => [c.dataset.control,"
                          " [c.getAttribute('role'), c.getAttribute('aria-label')]]))")
            for c in TABLE["surface"]["pages"][0]["plies"][0]["controls"]:
                role, name = roles[c["id"]]
                assert role and name, f"{c['id']} has no role or no name"
            # Seen, each with what it is about.
            for control, words in (("lamps", "Chair"), ("text", "Words"), ("frame", "Together"), ("clock", ":")):
                assert words in text_of(b, control), f"{control}: {text_of(b, control)}"
            assert b.run("return document.querySelector('#c-response path:last-child').getAttribute('d').length") > 100
            b.until("return (document.querySelector('#c-history path:last-child').getAttribute('d') || '').length > 20")
            assert b.run("return document.querySelector('#c-picture image').getAttribute('href')").startswith("/picture/")
            assert b.run("return document.querySelector('#c-shape polygon').getAttribute('points').split(' ').length") == 5
    finally:
        served.close()


def two_browsers_and_roles(folder):
    served = Served(SOURCE / "demo/marram-point", "--pin", "4711")
    try:
        with Browser() as one, Browser() as two:
            for b in (one, two):
                b.open(served.at("council-slate"))
                b.until(READY)
            time.sleep(0.3)
            # Two fingers at once, and the second browser follows.
            fx, fy, fw, fh = box_of(one, "council-canopy-level-level")
            tx, ty, tw, th = box_of(one, "far-end-send-mute-muted")
            one.pointers([("down", fx + fw / 2, fy + fh * 0.8), ("wait", 100), ("up",)],
                         [("down", tx + tw / 2, ty + th / 2), ("wait", 100), ("up",)])
            two.until("return document.getElementById('c-far-end-send-mute-muted').getAttribute('aria-checked') === 'true'")
            level = one.run("return document.getElementById('c-council-canopy-level-level').getAttribute('aria-valuetext')")
            two.until("return document.getElementById('c-council-canopy-level-level').getAttribute('aria-valuetext') === "
                      "arguments[0]", level)
            # A scene sets what both show.
            x, y, w, h = box_of(two, "meeting")
            two.tap(x + w / 2, y + h / 2)
            one.until("return document.getElementById('c-far-end-send-mute-muted').getAttribute('aria-checked') === 'false'")
            one.until("return document.getElementById('c-meeting').getAttribute('aria-pressed') === 'true'")
            # A press through the map opens the drawer, one beside it closes it.
            one.tap(314, 390)
            one.until("return document.querySelector('.ply.slide.right.open')", what="the drawer did not come")
            time.sleep(0.4)
            one.tap(300, 40)
            one.until("return !document.querySelector('.ply.slide.right.open')", what="the drawer stays")
            # Who may open Sound.
            one.tap(1157, 604)
            one.until("return !document.getElementById('card').hidden", what="no PIN was asked for")
            for pin, right in (("1111", False), ("4711", True)):
                one.keys(*pin, ENTER)
                if right:
                    one.until("return document.title.endsWith('Sound')", what="the right PIN opens nothing")
                else:
                    one.until("return document.querySelector('.why').textContent.includes('wrong')")
            assert two.run("return document.title").endswith("Meeting"), "the other browser is nobody in particular"
            # The line is lost, and comes back as the one it was.
            port = int(served.root.rsplit(":", 1)[1])
            one.run("window.mark = 1")
            served.close()
            one.until("return document.getElementById('notice').textContent.includes('lost')", what="it says nothing")
            served = Served(SOURCE / "demo/marram-point", "--pin", "4711", port=port)
            one.until("return document.title.endsWith('Meeting') && !document.querySelector('.lost')", seconds=15,
                      what="it does not come back")
            assert one.run("return window.mark") == 1, "it was loaded anew"
    finally:
        served.close()


def sessions_and_sizes(folder):
    served = Served(SOURCE / "demo/marram-point", "--pin", "4711")
    try:
        with Browser(360, 640) as b:
            b.open(served.root)
            b.until("return document.querySelectorAll('#list a').length === 4")
            b.open(served.at("council-slate"))
            b.until(READY)
            wide, high, inner = b.run("const s = document.querySelector('#stage svg').getBoundingClientRect();"
                                      "return [s.width, s.height, document.getElementById('stage').scrollWidth]")
            assert wide >= 640 and high >= 400, f"a phone has a page that fingers can use, not {wide} by {high}"
            assert inner >= wide - 1, "and can be scrolled to all of it"
            # Loaded again it is still the technician, until they leave; what was used once is worth nothing.
            token = b.run("""
                const line = new WebSocket(location.origin.replace('http', 'ws') + '/ws');
                window.heard = [];
                line.onmessage = e => window.heard.push(JSON.parse(e.data));
                line.onopen = () => { line.send('["open","council-slate",""]'); line.send('["be","technician","4711"]'); };
                window.line = line;""")
            token = b.until("const s = window.heard.find(m => m.is === 'session'); return s && s.session")
            b.run("window.line.close()")
            time.sleep(0.2)
            reopened = """
                const line = new WebSocket(location.origin.replace('http', 'ws') + '/ws');
                window[arguments[1]] = [];
                line.onmessage = e => window[arguments[1]].push(JSON.parse(e.data));
                line.onopen = () => line.send(JSON.stringify(['open', 'council-slate', arguments[0]]));"""
            b.run(reopened, token, "first")
            b.until("return window.first.some(m => m.is === 'page' && m.role === 'technician')")
            b.run(reopened, token, "again")
            b.until("return window.again.some(m => m.is === 'page')")
            assert not b.run("return window.again.some(m => m.role === 'technician')"), "a session was used twice"
    finally:
        served.close()


def over_tls_and_without_a_device(folder):
    served = Served(SOURCE / "demo/marram-point", "--silent", "--tls")
    try:
        print_of = served.first.removeprefix("certificate ")
        assert len(print_of) == 95, served.first
        secure = next(line for line in served.lines(8) if line.startswith("https://"))
        with Browser(extra=("--ignore-certificate-errors",)) as b:
            b.open(secure)
            b.until(READY)
            assert b.run("return location.protocol === 'https:' && isSecureContext")
            x, y, w, h = box_of(b, "both-rooms" if "tern" in secure else "meeting")
            b.tap(x + w / 2, y + h / 2)
        # Once it was open, the page opens without its device and says what is wrong.
        with Browser() as b:
            b.open(served.at("council-slate"))
            b.until(READY)
            b.until("navigator.serviceWorker.ready.then(r => { window.works = !!r.active; }); return window.works")
            b.open(served.at("council-slate")) # by the worker now
            b.until(READY)
            b.until("return caches.open('shell-1').then(c => c.keys()).then(k => { window.kept = k.length; }), window.kept >= 9")
            served.close()
            b.open(served.at("council-slate"))
            b.until("return document.getElementById('notice').textContent.includes('lost')", seconds=15,
                    what="the shell does not open without the device")
    finally:
        served.close()


TESTS = {f.__name__: f for f in (every_kind, two_browsers_and_roles, sessions_and_sizes, over_tls_and_without_a_device)}

if __name__ == "__main__":
    failed = 0
    for name in sys.argv[3:] or TESTS:
        with tempfile.TemporaryDirectory(prefix="loom-surface-") as scratch:
            begin = time.monotonic()
            try:
                TESTS[name](pathlib.Path(scratch))
                print(f"ok   {name} ({time.monotonic() - begin:.1f} s)", flush=True)
            except (AssertionError, RuntimeError) as wrong:
                failed += 1
                print(f"FAIL {name}: {wrong}", flush=True)
    sys.exit(1 if failed else 0)
