#!/usr/bin/python3
"""Makes core/fixtures/regions.json: shapes drawn by OpenCV with supersampling and feathered by its exact distance
transform, and steep tables looked up by OpenColorIO, for tests that need no tool.

On Debian: apt-get install python3-opencv python3-pyopencolorio; /usr/bin/python3 scripts/regionFixtures.py
"""
import json
import math
import os
import tempfile

import cv2
import numpy as np
import PyOpenColorIO as ocio

HERE = os.path.dirname(os.path.abspath(__file__))
W, H = 480, 270
# Pixels of the drawing for one of the frame: distances are then known to a sixteenth of one.
FINE = 16
# The drawing goes on beyond the frame by a quarter of its width: outlines out there count too.
PAD = W * FINE // 4
EVERY = 7


def ellipse(p):
    canvas = np.zeros((H * FINE + 2 * PAD, W * FINE + 2 * PAD), np.uint8)
    s = W * FINE
    cv2.ellipse(canvas, ((p["x"] * s + PAD - 0.5, p["y"] * s + PAD - 0.5), (p["width"] * s, p["height"] * s), p["turn"]), 255, -1)
    return canvas


def polygon(points):
    canvas = np.zeros((H * FINE + 2 * PAD, W * FINE + 2 * PAD), np.uint8)
    s = W * FINE
    # Sixteenths of a fine pixel.
    fixed = np.round((np.array(points) * s + PAD - 0.5) * 16).astype(np.int32)
    cv2.fillPoly(canvas, [fixed], 255, shift=4)
    return canvas


def turned(p, u, v):
    a = math.radians(p["turn"])
    x, y = u * p["width"], v * p["height"]
    return [p["x"] + math.cos(a) * x - math.sin(a) * y, p["y"] + math.sin(a) * x + math.cos(a) * y]


def rounded(p):
    r = p["round"] * min(p["width"], p["height"]) / 2
    rx, ry = r / p["width"], r / p["height"]
    out = []
    for cu, cv_, start in [(0.5 - rx, 0.5 - ry, 0), (-0.5 + rx, 0.5 - ry, 90), (-0.5 + rx, -0.5 + ry, 180), (0.5 - rx, -0.5 + ry, 270)]:
        for k in range(91):
            a = math.radians(start + k)
            out.append(turned(p, cu + rx * math.cos(a), cv_ + ry * math.sin(a)))
    return out


def feathered(canvas, feather):
    """Share by distance to the outline: all of it half a feather inside, none half a feather outside, smoothly between."""
    inside = cv2.distanceTransform(canvas, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    outside = cv2.distanceTransform(255 - canvas, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    signed = np.where(canvas > 0, 0.5 - inside, outside - 0.5) / (W * FINE)
    t = np.clip(0.5 - signed / feather, 0, 1)
    share = t * t * (3 - 2 * t)
    inner = share[PAD:-PAD, PAD:-PAD]
    # At the middle of a pixel: between the four in its middle.
    h = FINE // 2
    return sum(inner[h - a :: FINE, h - b :: FINE][:H, :W] for a in (0, 1) for b in (0, 1)) / 4


POSES = [
    ("ellipse", dict(x=0.45, y=0.25, width=0.5, height=0.22, turn=0, round=0.2, feather=0.1)),
    ("ellipse", dict(x=0.6, y=0.3, width=0.12, height=0.3, turn=33, round=0.2, feather=0.03)),
    ("ellipse", dict(x=0.95, y=0.05, width=0.6, height=0.5, turn=-20, round=0.2, feather=0.234)),
    ("rectangle", dict(x=0.5, y=0.28, width=0.4, height=0.2, turn=12, round=0.4, feather=0.06)),
    ("rectangle", dict(x=0.3, y=0.3, width=0.2, height=0.36, turn=-40, round=1, feather=0.02)),
    ("path", dict(x=0.4, y=0.27, width=0.5, height=0.3, turn=15, round=0.2, feather=0.05,
                  points=[[-0.5, -0.2], [0.1, -0.5], [0.5, 0.1], [0.05, 0.0], [-0.2, 0.5]])),
]


def shapes():
    out = []
    for kind, pose in POSES:
        if kind == "ellipse":
            canvas = ellipse(pose)
        elif kind == "rectangle":
            canvas = polygon(rounded(pose))
        else:
            canvas = polygon([turned(pose, u, v) for u, v in pose["points"]])
        share = feathered(canvas, pose["feather"])
        stored = dict(pose)
        if kind == "path":
            stored["points"] = [dict(x=u, y=v, sharp=True) for u, v in pose["points"]]
        out.append(dict(kind=kind, pose=stored, values=[[round(float(v), 4) for v in row[::EVERY]] for row in share[::EVERY]]))
    return out


def cube(size, f, lo=(0, 0, 0), hi=(1, 1, 1)):
    lines = ["LUT_3D_SIZE %d" % size]
    if lo != (0, 0, 0) or hi != (1, 1, 1):
        lines += ["DOMAIN_MIN %g %g %g" % lo, "DOMAIN_MAX %g %g %g" % hi]
    for b in range(size):
        for g in range(size):
            for r in range(size):
                at = [l + (h - l) * v / (size - 1) for v, l, h in zip((r, g, b), lo, hi)]
                lines.append("%.5f %.5f %.5f" % tuple(f(*at)))
    return "\n".join(lines) + "\n"


def curve(size, f):
    return "LUT_1D_SIZE %d\n" % size + "\n".join("%.6f %.6f %.6f" % tuple(f(i / (size - 1))) for i in range(size)) + "\n"


def steep(r, g, b):
    y = 0.2126 * r + 0.7152 * g + 0.0722 * b
    s = 1 / (1 + math.exp(-30 * (y - 0.5)))
    return [min(1, max(0, s + 1.8 * (v - y))) for v in (r, g, b)]


TABLES = [
    ("steep 17", cube(17, steep)),
    ("steep 33", cube(33, lambda r, g, b: [r ** 3, 1 - g, math.sqrt(max(0, b))])),
    ("wide domain 17", cube(17, lambda r, g, b: [min(1, 0.5 * v) for v in (r, g, b)][::-1], (-0.05, 0, 0), (1.5, 2, 1.2))),
    ("curves 1024", curve(1024, lambda x: [x ** 0.3, 1 if x > 0.5 else 0.1, 1 - x])),
]


def lookup(text):
    with tempfile.TemporaryDirectory() as folder:
        path = os.path.join(folder, "t.cube")
        with open(path, "w") as file:
            file.write(text)
        transform = ocio.FileTransform(path, interpolation=ocio.INTERP_TETRAHEDRAL)
        cpu = ocio.Config.CreateRaw().getProcessor(transform).getOptimizedCPUProcessor(ocio.OPTIMIZATION_LOSSLESS)
        rng = np.random.default_rng(3)
        return [[[round(float(v), 6) for v in rgb], [float(v) for v in cpu.applyRGB([float(v) for v in np.round(rgb, 6)])]] for rgb in rng.uniform(0, 1, (200, 3))]


data = {
    "madeWith": "OpenCV %s, OpenColorIO %s" % (cv2.__version__, ocio.__version__),
    "width": W,
    "height": H,
    "every": EVERY,
    "shapes": shapes(),
    "tables": [dict(name=name, text=text if len(text) < 200000 else None, points=lookup(text)) for name, text in TABLES],
}
with open(os.path.join(HERE, "..", "core", "fixtures", "regions.json"), "w") as file:
    json.dump(data, file)
