"""Chromium by its own driver (W3C WebDriver), with nothing but the standard library."""
import base64
import json
import os
import shutil
import socket
import subprocess
import tempfile
import time
import urllib.request

ELEMENT = "element-6066-11e4-a52e-4f735466cecf"


def free_port():
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        return s.getsockname()[1]


class Browser:
    def __init__(self, width=1280, height=800, logs=False, extra=()):
        self.port = free_port()
        self.folder = tempfile.mkdtemp(prefix="loom-browser-")
        self.process = subprocess.Popen(["chromedriver", f"--port={self.port}", "--log-level=SEVERE"],
                                        stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
                                        env=dict(os.environ, HOME=self.folder))
        options = {"args": ["--headless=new", "--no-sandbox", "--disable-gpu", "--hide-scrollbars",
                            "--force-device-scale-factor=1", "--disable-lcd-text", "--font-render-hinting=none",
                            "--no-first-run", f"--user-data-dir={self.folder}/profile", f"--window-size={width},{height}",
                            *extra]}
        capabilities = {"browserName": "chrome", "goog:chromeOptions": options}
        if logs:
            capabilities["goog:loggingPrefs"] = {"performance": "ALL", "browser": "ALL"}
        for attempt in range(100):
            try:
                answer = self._ask("POST", "/session", {"capabilities": {"alwaysMatch": capabilities}}, root=True)
                break
            except (ConnectionError, urllib.error.URLError):
                time.sleep(0.1)
        else:
            raise RuntimeError("chromedriver does not answer")
        self.session = answer["sessionId"]
        self.cdp("Emulation.setDeviceMetricsOverride", width=width, height=height, deviceScaleFactor=1, mobile=False)

    def _ask(self, method, path, body=None, root=False):
        url = f"http://127.0.0.1:{self.port}" + (path if root else f"/session/{self.session}{path}")
        data = None if body is None and method == "GET" else json.dumps(body or {}).encode()
        request = urllib.request.Request(url, data=data, method=method, headers={"Content-Type": "application/json"})
        try:
            with urllib.request.urlopen(request, timeout=60) as answer:
                return json.loads(answer.read())["value"]
        except urllib.error.HTTPError as wrong:
            raise RuntimeError(json.loads(wrong.read())["value"]["message"].split("\n")[0]) from None

    def close(self):
        try:
            self._ask("DELETE", "")
        except Exception:
            pass
        self.process.terminate()
        self.process.wait(10)
        shutil.rmtree(self.folder, ignore_errors=True)

    def __enter__(self):
        return self

    def __exit__(self, *_):
        self.close()

    def open(self, url):
        self._ask("POST", "/url", {"url": url})

    def run(self, script, *args):
        return self._ask("POST", "/execute/sync", {"script": script, "args": list(args)})

    def cdp(self, command, **params):
        return self._ask("POST", "/goog/cdp/execute", {"cmd": command, "params": params})

    def picture(self):
        return base64.b64decode(self._ask("GET", "/screenshot"))

    def logs(self, kind):
        return self._ask("POST", "/se/log", {"type": kind})

    def until(self, script, *args, seconds=8, what=""):
        """Until the script is true: gives what it is."""
        end = time.monotonic() + seconds
        while True:
            value = self.run("return (function() {" + script + "}).apply(null, arguments)", *args)
            if value:
                return value
            if time.monotonic() > end:
                raise AssertionError(what or "never came: " + script)
            time.sleep(0.03)

    # -- what people do; places in pixels of the window --
    def pointers(self, *fingers):
        """Each finger: a list of ("down" | "up" | "move", x, y) or ("wait", ms); all at once."""
        actions = []
        for number, steps in enumerate(fingers):
            todo = []
            for step in steps:
                if step[0] == "wait":
                    todo.append({"type": "pause", "duration": step[1]})
                    continue
                if len(step) > 1:
                    todo.append({"type": "pointerMove", "duration": 0, "x": round(step[1]), "y": round(step[2])})
                if step[0] != "move":
                    todo.append({"type": "pointerDown" if step[0] == "down" else "pointerUp", "button": 0})
            actions.append({"type": "pointer", "id": f"finger{number}", "parameters": {"pointerType": "touch"},
                            "actions": todo})
        self._ask("POST", "/actions", {"actions": actions})

    def hold(self, x, y):
        """A finger that stays down until lift(); chromedriver forgets those of an earlier call."""
        self.cdp("Input.dispatchTouchEvent", type="touchStart", touchPoints=[{"x": x, "y": y}])

    def lift(self):
        self.cdp("Input.dispatchTouchEvent", type="touchEnd", touchPoints=[])

    def tap(self, x, y):
        self.pointers([("down", x, y), ("wait", 30), ("up", x, y)])

    def keys(self, *keys):
        steps = [{"type": t, "value": k} for k in keys for t in ("keyDown", "keyUp")]
        self._ask("POST", "/actions", {"actions": [{"type": "key", "id": "keys", "actions": steps}]})


ENTER, ESCAPE, TAB, BACKSPACE = "\ue007", "\ue00c", "\ue004", "\ue003"
UP, DOWN, LEFT, RIGHT, SPACE = "\ue013", "\ue015", "\ue012", "\ue014", " "
