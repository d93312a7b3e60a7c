#!/usr/bin/env python3
"""Writes plans with ezdxf, and where it says their points are. Usage: plans.py FOLDER

FOLDER/VERSION-UNIT.dxf holds every kind of entity that a floor plan has, also in blocks that are moved, turned, mirrored,
stretched, repeated and nested; FOLDER/VERSION-UNIT.points has a line for each point on their curves: KIND X Y in drawing
units, from ezdxf's own vertices (chords within 0.005 mm) of what ezdxf decomposes the blocks into. Also big.dxf (500,000
entities) if "big" is given as well.
"""
import math, pathlib, random, sys
import ezdxf
from ezdxf.math import Vec3, bulge_to_arc

folder = pathlib.Path(sys.argv[1])
UNITS = {"in": (1, 0.0254), "ft": (2, 0.3048), "mm": (4, 0.001), "m": (6, 1.0)}
VERSIONS = ["R12", "R2000", "R2004", "R2010", "R2018"]


def everything(space, k, new):
    """Entities of all kinds, k drawing units a metre; `new`: DXF of 2000 and later."""
    at = lambda x, y, z=0: (x * k, y * k, z * k)
    space.add_line(at(0, 0), at(8, 0.5))
    space.add_circle(at(3, 3), 1.25 * k)
    space.add_arc(at(5, 5), 2.5 * k, 30, 200)
    space.add_arc(at(1, 6), 0.9 * k, 300, 45)
    space.add_arc(at(2, 7), 0.7 * k, 20, 140, dxfattribs={"extrusion": (0, 0, -1)})
    space.add_circle(at(-4, 2), 0.5 * k, dxfattribs={"extrusion": (0, 0, -1)})
    space.add_polyline2d([at(0, 0), at(4, 0), at(4, 3), at(0, 3)], close=True)
    bulged = space.add_polyline2d([at(6, 0), at(8, 0), at(8, 2)], format=None)
    bulged.vertices[0].dxf.bulge = 0.4
    bulged.vertices[1].dxf.bulge = -1.0
    space.add_polyline3d([at(0, 8, 1), at(2, 9, 2), at(5, 8, 0)])
    space.add_solid([at(9, 0), at(10, 0), at(9, 1), at(10, 1)])
    space.add_3dface([at(11, 0), at(12, 0), at(12, 1), at(11, 2)])
    if not new:
        return
    space.add_lwpolyline([(0, 10 * k, 0, 0, 0.5), (3 * k, 10 * k, 0, 0, 0), (3 * k, 12 * k, 0, 0, -0.3), (0, 12 * k, 0, 0, 0)], close=True)
    space.add_lwpolyline([(1 * k, 1 * k, 0, 0, 1), (2 * k, 2 * k, 0, 0, 0)], dxfattribs={"extrusion": (0, 0, -1)})
    space.add_ellipse(at(12, 5), major_axis=at(3, 1), ratio=0.4)
    space.add_ellipse(at(12, 9), major_axis=at(0, 2), ratio=0.6, start_param=0.5, end_param=4)
    space.add_ellipse(at(15, 9), major_axis=at(1, 1), ratio=0.5, start_param=1, end_param=3, dxfattribs={"extrusion": (0, 0, -1)})
    space.add_open_spline([at(0, 15), at(2, 18), at(4, 13), at(7, 16), at(9, 15)], degree=3)
    space.add_rational_spline([at(10, 15), at(12, 18), at(14, 13), at(16, 15)], weights=[1, 3, 2, 1], degree=3)
    space.add_open_spline([at(20, 15), at(22, 18), at(24, 13), at(21, 12), at(19, 13), at(18, 16)], degree=5)
    h = space.add_hatch()
    h.paths.add_polyline_path([(0, 20 * k, 0.3), (2 * k, 20 * k), (2 * k, 22 * k)], is_closed=True)
    e = h.paths.add_edge_path()
    e.add_line((5 * k, 20 * k), (7 * k, 20 * k))
    e.add_arc((7 * k, 21 * k), 1 * k, 270, 90, ccw=True)
    e.add_line((7 * k, 22 * k), (5 * k, 22 * k))
    e.add_arc((5 * k, 21 * k), 1 * k, 90, 270, ccw=True)
    e2 = h.paths.add_edge_path()
    e2.add_ellipse((10 * k, 21 * k), major_axis=(2 * k, 0), ratio=0.5, start_angle=0, end_angle=360, ccw=True)
    e3 = h.paths.add_edge_path()
    e3.add_arc((14 * k, 21 * k), 1 * k, 30, 100, ccw=False)


def drawing(version, unit):
    code, metres = UNITS[unit]
    k = 1 / metres
    doc = ezdxf.new(version)
    doc.header["$INSUNITS"] = code
    new = version != "R12"
    doc.layers.add("walls", color=3)
    doc.layers.add("hidden", color=4).off()
    doc.layers.add("frozen", color=5).freeze()
    m = doc.modelspace()
    everything(m, k, new)
    door = doc.blocks.new("Door", base_point=(0.1 * k, 0.2 * k))
    door.add_line((0, 0), (0.9 * k, 0))
    door.add_arc((0, 0), 0.9 * k, 0, 90, dxfattribs={"layer": "walls"})
    unitblock = doc.blocks.new("OfOne")  # drawn in units, stretched to its size
    unitblock.add_circle((0, 0), 0.5)
    if new:
        unitblock.add_ellipse((0, 0), major_axis=(0.5, 0), ratio=0.3)
    nest = doc.blocks.new("Nest")
    nest.add_blockref("DOOR", (1 * k, 1 * k), dxfattribs={"rotation": 30, "xscale": 1.5, "yscale": 1.5, "zscale": 1.5})
    nest.add_blockref("OfOne", (2 * k, 0), dxfattribs={"xscale": k, "yscale": k, "zscale": k})
    deep = doc.blocks.new("Deep")
    deep.add_blockref("Nest", (0, 3 * k), dxfattribs={"rotation": 45})
    everything(deep, k / 10, new)
    m.add_blockref("Door", (30 * k, 0), dxfattribs={"rotation": 77})
    m.add_blockref("Door", (32 * k, 0), dxfattribs={"xscale": -1})
    m.add_blockref("Door", (34 * k, 0), dxfattribs={"xscale": 2, "yscale": 0.5, "rotation": 15})
    m.add_blockref("Door", (36 * k, 0), dxfattribs={"column_count": 3, "row_count": 2, "column_spacing": 2 * k, "row_spacing": 3 * k, "rotation": 20})
    m.add_blockref("Door", (-30 * k, 8 * k), dxfattribs={"extrusion": (0, 0, -1), "rotation": 10})
    m.add_blockref("Deep", (45 * k, 5 * k), dxfattribs={"rotation": -100, "yscale": -1})
    t = m.add_text("Foyer %%d", dxfattribs={"height": 0.3 * k, "insert": (2 * k, 1.5 * k)})
    if new:
        m.add_mtext("Hall \\P{\\fArial|b1;Two}", dxfattribs={"char_height": 0.3 * k, "insert": (1.5 * k, 11 * k), "attachment_point": 5})
        d = m.add_linear_dim(base=(0, -2 * k), p1=(0, 0), p2=(4 * k, 0), dimstyle="EZDXF")
        d.render()
    m.add_line((0, 0), (1 * k, 1 * k), dxfattribs={"layer": "hidden"})
    return doc, k


def parts(entities):
    for e in entities:
        if e.dxftype() == "INSERT":
            if e.mcount > 1:
                for one in e.multi_insert():
                    yield from parts(one.virtual_entities())
            else:
                yield from parts(e.virtual_entities())
        elif e.dxftype() == "DIMENSION":
            yield from parts(e.virtual_entities())
        else:
            yield e


def hatch_lines(e, fine):
    ocs = e.ocs()
    z = e.dxf.elevation.z
    wcs = lambda all: list(ocs.points_to_wcs(Vec3(p.x, p.y, z) for p in all))
    for one in e.paths:
        if hasattr(one, "vertices"):
            v = [Vec3(x, y) for x, y, *_ in one.vertices]
            bulges = [(list(p) + [0, 0])[2] for p in one.vertices]
            for i, a in enumerate(v):
                b = v[(i + 1) % len(v)]
                if bulges[i]:
                    centre, start, end, radius = bulge_to_arc(a, b, bulges[i])
                    yield wcs(circle(centre, radius, start, end, fine))
                else:
                    yield wcs([a, b])
            continue
        for edge in one.edges:
            kind = type(edge).__name__
            if kind == "LineEdge":
                yield wcs([Vec3(edge.start), Vec3(edge.end)])
            elif kind == "ArcEdge":
                yield wcs(circle(Vec3(edge.center), edge.radius, math.radians(edge.start_angle), math.radians(edge.end_angle), fine))
            elif kind == "EllipseEdge":
                c = edge.construction_tool()
                yield wcs(c.vertices(c.params(720)))


def circle(centre, radius, start, end, fine):
    sweep = (end - start) % (2 * math.pi) or 2 * math.pi
    n = max(8, math.ceil(sweep / (2 * math.acos(1 - fine / radius))))
    return [Vec3(centre.x + radius * math.cos(start + sweep * i / n), centre.y + radius * math.sin(start + sweep * i / n)) for i in range(n + 1)]


def points(doc, k):
    """Curves from their definition: ezdxf's paths approximate arcs by cubics, 0.03 % of the radius beside them."""
    fine = 0.005e-3 * k
    for e in parts(doc.modelspace()):
        kind = e.dxftype()
        if kind in ("TEXT", "MTEXT", "POINT"):
            continue
        if kind == "HATCH":
            for one in hatch_lines(e, fine):
                yield kind, one
        elif kind in ("SOLID", "TRACE", "3DFACE"):
            all = e.wcs_vertices()
            yield kind, list(all) + [all[0]]
        elif kind in ("CIRCLE", "ARC", "ELLIPSE", "SPLINE"):
            yield kind, [Vec3(p) for p in e.flattening(fine)]
        elif kind == "LINE":
            yield kind, [e.dxf.start, e.dxf.end]
        elif kind in ("LWPOLYLINE", "POLYLINE"):
            for one in e.virtual_entities():
                yield kind, [one.dxf.start, one.dxf.end] if one.dxftype() == "LINE" else [Vec3(p) for p in one.flattening(fine)]
        else:
            raise SystemExit("not expected: " + kind)


if __name__ == "__main__":
    n = 0
    for version in VERSIONS:
        for unit in UNITS:
            doc, k = drawing(version, unit)
            doc.saveas(folder / f"{version}-{unit}.dxf")
            with open(folder / f"{version}-{unit}.points", "w") as out:
                for kind, all in points(ezdxf.readfile(folder / f"{version}-{unit}.dxf"), k):
                    for p in all:
                        out.write(f"{n} {kind} {p.x:.9f} {p.y:.9f}\n")
                    n += 1
    if "big" in sys.argv[2:]:
        random.seed(5)
        doc = ezdxf.new("R2010")
        doc.header["$INSUNITS"] = 4
        m = doc.modelspace()
        for i in range(500_000):
            x, y = random.uniform(0, 90000), random.uniform(0, 60000)
            if i % 10 == 0:
                m.add_arc((x, y), 900, 0, 90)
            elif i % 3:
                m.add_line((x, y), (x + random.uniform(-800, 800), y + random.uniform(-800, 800)))
            else:
                m.add_lwpolyline([(x, y), (x + 300, y), (x + 300, y + 200), (x, y + 200)], close=True)
        doc.saveas(folder / "big.dxf")
