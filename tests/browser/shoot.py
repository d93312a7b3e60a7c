#!/usr/bin/env python3
"""A picture of a page as Chromium draws it: the table's, or that of a surface of the demo.
Usage: shoot.py LOOMCTL SOURCE OUT.png [SURFACE | FILE.svg]"""
import pathlib
import sys
import tempfile
import time

from browser_test import READY, SOURCE, Served, table_project
from webdriver import Browser

out, what = pathlib.Path(sys.argv[3]), sys.argv[4] if len(sys.argv) > 4 else ""
with tempfile.TemporaryDirectory(prefix="loom-surface-") as scratch:
    if what.endswith(".svg"): # a drawing, in the page's fonts
        with Browser(1280, 900) as b:
            b.open(pathlib.Path(what).resolve().as_uri())
            time.sleep(0.5)
            out.write_bytes(b.picture())
            sys.exit(0)
    served = Served(SOURCE / "demo/marram-point") if what else Served(table_project(pathlib.Path(scratch)), "--silent")
    try:
        with Browser(1280, 800 if what else 900) as b:
            b.open(served.at(what or "table"))
            b.until(READY)
            b.until("return document.fonts.status === 'loaded'")
            time.sleep(2 if what else 0.5)
            out.write_bytes(b.picture())
    finally:
        served.close()
