#!/usr/bin/env python3
"""Figures of touch surfaces in browsers: first page, cost of a frame, how soon a finger is everywhere, 50 connections.
Usage: surfaces_browser.py LOOMCTL LOOM_RIG SOURCE"""
import base64
import json
import os
import pathlib
import socket
import statistics
import struct
import subprocess
import sys
import tempfile
import threading
import time

LOOMCTL, RIG, SOURCE = sys.argv[1], sys.argv[2], pathlib.Path(sys.argv[3])
sys.argv = [sys.argv[0], LOOMCTL, str(SOURCE)]
sys.path.insert(0, str(SOURCE / "tests/browser"))
from browser_test import READY, Served  # noqa: E402
from webdriver import Browser  # noqa: E402


class Line:
    """A WebSocket of a program (RFC 6455), texts only."""

    def __init__(self, host, port):
        self.socket = socket.create_connection((host, port), 5)
        self.socket.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        key = base64.b64encode(os.urandom(16)).decode()
        self.socket.sendall(f"GET /ws HTTP/1.1\r\nHost: {host}:{port}\r\nUpgrade: websocket\r\nConnection: Upgrade\r\n"
                            f"Sec-WebSocket-Key: {key}\r\nSec-WebSocket-Version: 13\r\n\r\n".encode())
        self.rest = b""
        while b"\r\n\r\n" not in self.rest:
            self.rest += self.socket.recv(4096)
        self.rest = self.rest.split(b"\r\n\r\n", 1)[1]

    def say(self, *message):
        text = json.dumps(message).encode()
        mask = os.urandom(4)
        head = bytes([0x81, 0x80 | len(text)]) if len(text) < 126 else bytes([0x81, 0xFE]) + struct.pack(">H", len(text))
        self.socket.sendall(head + mask + bytes(b ^ mask[i % 4] for i, b in enumerate(text)))

    def take(self, count):
        while len(self.rest) < count:
            more = self.socket.recv(65536)
            if not more:
                raise ConnectionError
            self.rest += more
        out, self.rest = self.rest[:count], self.rest[count:]
        return out

    def hear(self):
        while True:
            kind, length = self.take(2)
            length &= 127
            length = struct.unpack(">H", self.take(2))[0] if length == 126 else \
                struct.unpack(">Q", self.take(8))[0] if length == 127 else length
            data = self.take(length)
            if kind & 15 == 1:
                return json.loads(data)


def many(folder):
    """A page of 200 controls, all driven."""
    project = json.loads((SOURCE / "demo/marram-point/project.json").read_text())
    listed = json.loads(subprocess.run([LOOMCTL, "drives", str(SOURCE / "demo/marram-point"), "level", "--device", "heddle",
                                        "--json"], check=True, capture_output=True).stdout)
    gains = [d["path"] for d in listed if d["kind"] == "fader"]
    levels = [d["path"] for d in listed if d["path"].endswith("@level")]
    controls = []
    for i in range(200):
        kind, path = (("fader", gains[i % len(gains)]), ("meter", levels[i % len(levels)]))[i % 2]
        controls.append({"id": f"c{i}", "kind": kind, "x": 4 + 63 * (i % 20), "y": 4 + 79 * (i // 20), "width": 58,
                         "height": 74, "param": path, "look": {"textSize": 9}})
    project["surfaces"] = [{"id": "many", "name": "Many", "width": 1280, "height": 800, "pages": [
        {"id": "p", "name": "P", "plies": [{"id": "q", "name": "Q", "controls": controls}]}]}]
    (folder / "project.json").write_text(json.dumps(project))
    return folder


def first_page():
    served = Served(SOURCE / "demo/marram-point")
    try:
        times, driven, size = [], [], 0
        for _ in range(5):
            with Browser(logs=True) as b:
                b.open("about:blank")
                b.logs("performance")
                begin = time.monotonic()
                b.open(served.at("council-slate"))
                b.until(READY)
                driven.append(time.monotonic() - begin)
                times.append(b.run("return performance.getEntriesByName('page drawn')[0].startTime") / 1000)
                b.until("return document.fonts.status === 'loaded'")
                time.sleep(0.3)
                size = 0
                for entry in b.logs("performance"):
                    m = json.loads(entry["message"])["message"]
                    if m["method"] == "Network.loadingFinished":
                        size += m["params"]["encodedDataLength"]
                    if m["method"] == "Network.webSocketFrameReceived" and '"is":"page"' in m["params"]["response"]["payloadData"]:
                        size += len(m["params"]["response"]["payloadData"])
        print(f"first page: {statistics.median(times):.2f} s until it can be pressed, by the browser's clock from when it sets out "
              f"({statistics.median(driven):.2f} s as its driver sees it), {size / 1000:.0f} kB with fonts")
    finally:
        served.close()


def frames(folder, moving):
    served = Served(many(folder), *(["--silent"] if not moving else []))
    host, port = served.root.split("//")[1].split(":")
    try:
        with Browser() as b:
            b.open(served.at("many"))
            b.until(READY)
            time.sleep(1)
            stop = threading.Event()

            def turn():
                line = Line(host, int(port))
                line.say("open", "many", "")
                threading.Thread(target=lambda: [line.hear() for _ in iter(int, 1)], daemon=True).start()
                i = 0
                while not stop.is_set():
                    line.say("step", f"c{2 * (i % 100)}", 1 if i // 100 % 2 else -1)
                    i += 1
                    time.sleep(0.01)

            threading.Thread(target=turn, daemon=True).start()
            b.cdp("Performance.enable")
            before = {m["name"]: m["value"] for m in b.cdp("Performance.getMetrics")["metrics"]}
            count = b.run("window.frames_ = 0; const f = () => { ++window.frames_; requestAnimationFrame(f); };"
                          "requestAnimationFrame(f); return 0")
            time.sleep(6)
            count = b.run("return window.frames_")
            after = {m["name"]: m["value"] for m in b.cdp("Performance.getMetrics")["metrics"]}
            stop.set()
            busy = sum(after[k] - before[k] for k in ("TaskDuration",))
            parts = {k: (after[k] - before[k]) / count * 1000 for k in ("ScriptDuration", "LayoutDuration", "RecalcStyleDuration")}
            print(f"200 controls, 100 values a second{', and 100 meters at 30 frames a second' if moving else ''}: {busy / count * 1000:.1f} ms of main thread a frame ({count} frames in 6 s; "
                  + ", ".join(f"{k[:-8].lower()} {v:.1f}" for k, v in parts.items()) + ")")
    finally:
        served.close()


def finger(folder):
    scenario = {"project": str(SOURCE / "demo/marram-point"), "devices": [
        {"serial": "H", "model": "heddle-16", "address": "127.20.34.1", "as": "heddle"},
        {"serial": "S", "model": "slate-10", "address": "127.20.34.2", "as": "council-slate"}]}
    (folder / "s.json").write_text(json.dumps(scenario))
    rig = subprocess.Popen([RIG, "--scenario", str(folder / "s.json"), "--store", str(folder / "store"), "--port", "47355"],
                           stdout=subprocess.PIPE, stdin=subprocess.PIPE, text=True)
    try:
        rig.stdout.readline()
        for _ in range(50):
            try:
                slate, desk = Line("127.20.34.2", 4780), Line("127.20.34.1", 4780)
                break
            except OSError:
                time.sleep(0.2)
        for line in (slate, desk):
            line.say("open", "council-slate", "")
        time.sleep(2)
        heard = {}

        def listen(line, name):
            while True:
                m = line.hear()
                t = m.get("controls", {}).get("council-canopy-level-level", {}).get("text")
                if t:
                    heard[name] = (t, time.monotonic())

        for line, name in ((slate, "slate"), (desk, "desk")):
            threading.Thread(target=listen, args=(line, name), daemon=True).start()
        time.sleep(0.5)
        slate.say("press", 0, 688, 300)
        times = []
        for i in range(60):
            time.sleep(0.25)
            begin = time.monotonic()
            slate.say("move", 0, 688, 200 + (i % 2) * 200)
            while heard.get("desk", ("", 0))[1] < begin and time.monotonic() - begin < 2:
                time.sleep(0.001)
            times.append((heard["desk"][1] - begin) * 1000)
        times.sort()
        print(f"finger at the slate to a second browser at the processor (its plan has it then): median {times[30]:.0f} ms, "
              f"95 % {times[56]:.0f} ms, most {times[-1]:.0f} ms")
        # 50 browsers at the processor, all with meters
        lines = [Line("127.20.34.1", 4780) for _ in range(48)]
        for line in lines:
            line.say("open", "council-slate", "")
            threading.Thread(target=lambda one=line: [one.hear() for _ in iter(int, 1)], daemon=True).start()
        time.sleep(2)
        used = lambda: sum(int(v) for v in open(f"/proc/{rig.pid}/stat").read().rsplit(")", 1)[1].split()[11:13])
        a = used()
        time.sleep(5)
        print(f"50 connections: {(used() - a) / os.sysconf('SC_CLK_TCK') / 5 * 100:.0f} % of a core, sound of two devices included")
        for line in lines:
            line.socket.close()
        time.sleep(2)
        a = used()
        time.sleep(5)
        print(f"two connections: {(used() - a) / os.sysconf('SC_CLK_TCK') / 5 * 100:.0f} % of a core")
    finally:
        rig.kill()


if __name__ == "__main__":
    with tempfile.TemporaryDirectory(prefix="loom-bench-") as scratch:
        first_page()
        frames(pathlib.Path(scratch), False)
        frames(pathlib.Path(scratch), True)
        finger(pathlib.Path(scratch))
