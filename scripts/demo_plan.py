#!/usr/bin/python3
"""Draws demo/plans/annex.dxf, the plan of a small annex as an architect would send it, with ezdxf (python3-ezdxf)."""
import pathlib
import ezdxf

doc = ezdxf.new("R2010")
doc.header["$INSUNITS"] = 4
for name, colour in (("walls", 7), ("doors", 3), ("rooms", 4), ("names", 2), ("furniture", 8), ("dimensions", 1)):
    doc.layers.add(name, color=colour)
doc.layers.add("old state", color=5).off()
m = doc.modelspace()
door = doc.blocks.new("Door 90")
door.add_line((0, 0), (0, 900), dxfattribs={"layer": "doors"})
door.add_arc((0, 0), 900, 0, 90, dxfattribs={"layer": "doors"})
chair = doc.blocks.new("Chair")
chair.add_lwpolyline([(-220, -220), (220, -220, 0, 0, 0.3), (220, 220), (-220, 220)], close=True, dxfattribs={"layer": "furniture"})
desk = doc.blocks.new("Row")
desk.add_lwpolyline([(0, 0), (3600, 0), (3600, 600), (0, 600)], close=True, dxfattribs={"layer": "furniture"})
desk.add_blockref("Chair", (450, -400), dxfattribs={"column_count": 4, "column_spacing": 900})
rooms = [("Snipe Room", 0, 0, 9000, 6400), ("Dotterel Room", 9300, 0, 6200, 6400), ("Foyer", 0, 6700, 15500, 3600), ("Store", 15800, 0, 2600, 4000)]
for name, x, y, w, d in rooms:
    m.add_lwpolyline([(x, y), (x + w, y), (x + w, y + d), (x, y + d)], close=True, dxfattribs={"layer": "rooms"})
    m.add_mtext(name, dxfattribs={"layer": "names", "char_height": 320, "insert": (x + w / 2, y + d - 700), "attachment_point": 5})
    m.add_text(f"{w * d / 1e6:.1f} m\u00b2", dxfattribs={"layer": "names", "height": 180, "insert": (x + 300, y + 250)})
for x, y, w, d in ((-300, -300, 19000, 300), (-300, -300, 300, 10900), (-300, 10300, 16100, 300), (9000, 0, 300, 6400), (15500, 0, 300, 10300), (0, 6400, 15500, 300), (18400, 0, 300, 4000), (15800, 4000, 2900, 300)):
    h = m.add_hatch(color=8, dxfattribs={"layer": "walls"})
    h.paths.add_polyline_path([(x, y), (x + w, y), (x + w, y + d), (x, y + d)], is_closed=True)
for x, y, turn, mirror in ((7600, 6400, 0, 1), (10200, 6400, 0, -1), (15800, 1200, 90, 1)):
    m.add_blockref("Door 90", (x, y), dxfattribs={"rotation": turn, "xscale": mirror})
for k in range(4):
    m.add_blockref("Row", (900, 900 + 1250 * k))
    if k < 3:
        m.add_blockref("Row", (4700, 900 + 1250 * k))
m.add_ellipse((12400, 3000), major_axis=(1900, 0), ratio=0.45, dxfattribs={"layer": "furniture"})
for k in range(8):
    import math
    a = 2 * math.pi * k / 8
    m.add_blockref("Chair", (12400 + 2400 * math.cos(a), 3000 + 1400 * math.sin(a)), dxfattribs={"rotation": math.degrees(a)})
for p1, p2, at in (((0, 0), (9000, 0), (0, -1200)), ((9300, 0), (15500, 0), (0, -1200))):
    dim = m.add_linear_dim(base=at, p1=p1, p2=p2, dimstyle="EZDXF", override={"dimtxt": 250, "dimscale": 1}, dxfattribs={"layer": "dimensions"})
    dim.render()
m.add_open_spline([(0, 11500), (4000, 12600), (9000, 11200), (15500, 12300)], dxfattribs={"layer": "old state"})
doc.saveas(pathlib.Path(__file__).parent.parent / "demo/plans/annex.dxf")
