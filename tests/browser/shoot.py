#!/usr/bin/env python3
"""A picture of the table's page as Chromium draws it. Usage: shoot.py LOOMCTL SOURCE OUT.png"""
import pathlib
import sys
import tempfile
import time

from browser_test import READY, Served, table_project
from webdriver import Browser

with tempfile.TemporaryDirectory(prefix="loom-surface-") as scratch:
    served = Served(table_project(pathlib.Path(scratch)), "--silent")
    try:
        with Browser(1280, 900) as b:
            b.open(served.at("table"))
            b.until(READY)
            b.until("return document.fonts.status === 'loaded'")
            time.sleep(0.5)
            pathlib.Path(sys.argv[3]).write_bytes(b.picture())
    finally:
        served.close()
