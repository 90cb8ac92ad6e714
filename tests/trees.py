"""Folded parts grown at random, panel upon panel, each with the flat it was grown from."""

import math
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np
import shapely
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakePolygon
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism, BRepPrimAPI_MakeRevol
from OCP.gp import gp_Ax1, gp_Dir, gp_Pnt, gp_Vec
from shapely.geometry import Point, Polygon

from tests.solids import joined, less, round_bar, volume

_ROUND = 64


@dataclass(frozen=True)
class Lies:
    """Where a panel lies, folded and flat: its origin and axes in space and on the sheet."""

    at: np.ndarray
    axes: np.ndarray
    flat_at: np.ndarray
    flat_axes: np.ndarray

    def point(self, x, y, z=0.0):
        return self.at + np.array([x, y, z]) @ self.axes

    def flat(self, x, y):
        return self.flat_at + np.array([x, y]) @ self.flat_axes


@dataclass
class Tree:
    """Each of ``bends`` is its angle in degrees, whether it goes up, radius, middle in the flat."""

    thickness: float
    k: float
    solids: list = field(default_factory=list)
    flats: list = field(default_factory=list)
    bends: list = field(default_factory=list)

    def solid(self):
        """The folded part, or None where its panels run into each other."""
        whole = joined(*self.solids)
        apart = math.fsum(volume(s) for s in self.solids)
        return whole if abs(volume(whole) - apart) < 1e-6 * apart else None

    def flat(self):
        """The flat as a polygon, or None where it lies on itself or touches itself."""
        whole = shapely.union_all([f.buffer(1e-7, join_style="mitre") for f in self.flats])
        apart = math.fsum(f.area for f in self.flats)
        thick = self.thickness / 4
        if abs(whole.area - apart) > 1e-3 or whole.buffer(-thick).geom_type != "Polygon":
            return None
        return shapely.geometry.polygon.orient(whole.simplify(1e-5))


def grown(random, *, thickness, k):
    """Return a tree of panels: plates of four to eight corners, flanges of several outlines."""
    tree = Tree(thickness, k)
    wide, high = random.uniform(50, 180), random.uniform(50, 180)
    cut = min(wide, high) * random.uniform(0.2, 0.3)
    root = random.choice([
        [(0, 0), (wide, 0), (wide, high), (0, high)],
        [(0, 0), (wide, 12), (wide + 20, high), (-9, high - 11)],
        [(0, 0), (wide - cut, 0), (wide, cut), (wide, high), (cut, high), (0, high - cut)],
    ])  # fmt: skip
    _panel(tree, random, root, Lies(np.zeros(3), np.eye(3), np.zeros(2), np.eye(2)), depth=0)
    return tree


def _panel(tree, random, outline, lies, *, depth):
    plate, flat = _plate(outline, lies, tree.thickness), Polygon(outline)
    x0, y0, x1, y1 = flat.bounds
    x, y, radius = random.uniform(x0, x1), random.uniform(y0, y1), random.uniform(1.5, 5)
    if flat.buffer(-radius - 3).contains(Point(x, y)):
        bar = round_bar(lies.point(x, y, -1), tuple(lies.axes[2]), radius, tree.thickness + 2)
        plate = less(plate, bar)
        flat = flat.difference(Point(x, y).buffer(radius, quad_segs=_ROUND))
    tree.solids.append(plate)
    tree.flats.append(shapely.transform(flat, lambda a: [lies.flat(*p) for p in a]))
    # A flange hangs by its first edge.
    sides = list(pairwise([*outline, outline[0]]))[1 if depth else 0 :]
    for start, end in sides:
        if depth < 3 and random.random() < (0.5 if depth == 0 else 0.3):
            _flange(tree, random, np.array(start), np.array(end), lies, depth=depth)


def _plate(outline, lies, thickness):
    face = _face([lies.point(*p) for p in outline])
    return BRepPrimAPI_MakePrism(face, gp_Vec(*(lies.axes[2] * thickness))).Shape()


def _face(points):
    wire = BRepBuilderAPI_MakePolygon()
    for p in points:
        wire.Add(gp_Pnt(*map(float, p)))
    wire.Close()
    return BRepBuilderAPI_MakeFace(wire.Wire(), True).Face()


def _flange(tree, random, start, end, lies, *, depth):
    """Bend a flange up or down along part of an edge; the panel lies to the edge's left."""
    t, side = tree.thickness, end - start
    long = float(np.hypot(*side))
    along = side / long
    before, after = random.choice([(0.5, 0.5), (0.5, long / 4), (long / 3, long / 5)])
    wide = long - before - after
    if wide < 8:
        return
    degrees = random.choice([90, 90, 45, random.uniform(15, 140)])
    up, radius = random.random() < 0.6, t * random.choice([0.0, 0.5, 1.0, random.uniform(0.3, 3)])
    angle, sign = math.radians(degrees), 1 if up else -1
    out = np.array([along[1], -along[0]])
    foot = end - along * after
    # In space: x back along the edge, y away from the panel, z through the sheet.
    back, away, z = -along @ lies.axes[:2], out @ lies.axes[:2], lies.axes[2]
    axis_at = lies.point(*foot) + (t + radius if up else -radius) * z
    turned = np.array([
        back,
        math.cos(angle) * away + sign * math.sin(angle) * z,
        math.cos(angle) * z - sign * math.sin(angle) * away,
    ])  # fmt: skip
    hangs_at = axis_at - (t + radius if up else -radius) * turned[2]
    corner = lies.point(*foot)
    end_face = _face([corner, corner + wide * back, corner + wide * back + t * z, corner + t * z])
    spin = gp_Ax1(gp_Pnt(*axis_at), gp_Dir(*(sign * np.cross(away, z))))
    tree.solids.append(BRepPrimAPI_MakeRevol(end_face, spin, angle).Shape())
    taken = angle * (radius + tree.k * t)
    flat_axes = np.array([-along, out]) @ lies.flat_axes
    hung = Lies(hangs_at, turned, lies.flat(*foot) + taken * flat_axes[1], flat_axes)
    zone = [(0, -taken), (wide, -taken), (wide, 0), (0, 0)]
    tree.flats.append(Polygon([hung.flat(*p) for p in zone]))
    tree.bends.append((degrees, up, radius, hung.flat(wide / 2, -taken / 2)))
    outline = _outline(random, wide, random.uniform(8 + radius + t, 45))
    _panel(tree, random, outline, hung, depth=depth + 1)


def _outline(random, wide, high):
    cut = min(wide, high) * random.uniform(0.1, 0.35)
    return random.choice([
        [(0, 0), (wide, 0), (wide, high), (0, high)],
        [(0, 0), (wide, 0), (wide * 0.8, high), (wide * 0.3, high)],
        [(0, 0), (wide, 0), (wide, high - cut), (wide - cut, high), (cut, high), (0, high - cut)],
        [(0, 0), (wide, 0), (wide, 3), (wide + 7, 3), (wide + 7, high), (-5, high), (-5, 3),
         (0, 3)],
    ])  # fmt: skip
