#!/usr/bin/env python3
"""Makes core/fixtures/opencolorio.json: what OpenColorIO gives for the same parameters, for tests that need no tool.

On Debian: apt-get install python3-pyopencolorio; /usr/bin/python3 scripts/fixtures.py
"""
import json
import math
import os
import tempfile

import PyOpenColorIO as ocio

HERE = os.path.dirname(os.path.abspath(__file__))
SIGNALS = [-0.05, 0.0, 0.05, 0.1, 0.25, 0.4, 0.5, 0.6, 0.75, 0.9, 1.0]
COLOURS = [[0.0, 0.0, 0.0], [1.0, 1.0, 1.0], [0.18, 0.4, 0.7], [0.9, 0.1, 0.3], [0.5, 0.5, 0.49], [0.33, 0.77, 0.12], [0.05, 0.95, 0.61]]

LOG_CAMERAS = [
    {"base": 2, "logSideSlope": 0.0645, "logSideOffset": 0.5625, "linSideSlope": 1, "linSideOffset": 0.0075, "linSideBreak": 0.006},
    {"base": 10, "logSideSlope": 0.37, "logSideOffset": 0.71, "linSideSlope": 1, "linSideOffset": 0.03, "linSideBreak": 0.0},
    {"base": 2, "logSideSlope": 1 / 17.52, "logSideOffset": 9.72 / 17.52, "linSideSlope": 1, "linSideOffset": 0, "linSideBreak": 0.0078125},
    {"base": 10, "logSideSlope": 0.25, "logSideOffset": 0.4, "linSideSlope": 5, "linSideOffset": 0.05, "linSideBreak": 0.01, "linearSlope": 5.0},
]
CDLS = [
    {"slope": [1.2, 1.0, 0.9], "offset": [0.01, -0.02, 0.0], "power": [1.0, 1.1, 0.95], "saturation": 1.15},
    {"slope": [0.8, 1.3, 1.0], "offset": [0.1, -0.1, 0.05], "power": [1.4, 0.8, 1.0], "saturation": 0.6},
]


def processor(transform):
    return ocio.Config.CreateRaw().getProcessor(transform).getOptimizedCPUProcessor(ocio.OPTIMIZATION_LOSSLESS)


def log_camera(p):
    args = dict(
        base=p["base"],
        logSideSlope=[p["logSideSlope"]] * 3,
        logSideOffset=[p["logSideOffset"]] * 3,
        linSideSlope=[p["linSideSlope"]] * 3,
        linSideOffset=[p["linSideOffset"]] * 3,
        linSideBreak=[p["linSideBreak"]] * 3,
        direction=ocio.TRANSFORM_DIR_INVERSE,
    )
    if "linearSlope" in p:
        args["linearSlope"] = [p["linearSlope"]] * 3
    cpu = processor(ocio.LogCameraTransform(**args))
    return {"params": p, "points": [[v, cpu.applyRGB([v, v, v])[0]] for v in SIGNALS]}


def cdl(p):
    t = ocio.CDLTransform()
    t.setSlope(p["slope"])
    t.setOffset(p["offset"])
    t.setPower(p["power"])
    t.setSat(p["saturation"])
    t.setStyle(ocio.CDL_ASC)
    cpu = processor(t)
    return {"params": p, "points": [[c, cpu.applyRGB(list(c))] for c in COLOURS]}


def cube(text):
    with tempfile.NamedTemporaryFile("w", suffix=".cube", delete=False) as f:
        f.write(text)
    cpu = processor(ocio.FileTransform(f.name, interpolation=ocio.INTERP_TETRAHEDRAL))
    os.unlink(f.name)
    return {"text": text, "points": [[c, cpu.applyRGB(list(c))] for c in COLOURS]}


def cube_text(size):
    lines = [f"LUT_3D_SIZE {size}"]
    for b in range(size):
        for g in range(size):
            for r in range(size):
                x, y, z = (v / (size - 1) for v in (r, g, b))
                lines.append(f"{x ** 0.8 * 0.9 + 0.05 * z:.6f} {y ** 1.3 + 0.02 * math.sin(6 * x):.6f} {0.1 * x + 0.85 * z:.6f}")
    return "\n".join(lines) + "\n"


out = {
    "madeWith": f"OpenColorIO {ocio.__version__}",
    "logCamera": [log_camera(p) for p in LOG_CAMERAS],
    "cdl": [cdl(p) for p in CDLS],
    "cube": [cube(cube_text(7))],
}
folder = os.path.join(HERE, "..", "core", "fixtures")
os.makedirs(folder, exist_ok=True)
with open(os.path.join(folder, "opencolorio.json"), "w", encoding="utf-8") as f:
    json.dump(out, f, indent=1)
    f.write("\n")
