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


def ranged(size, low, high):
    return cube_text(size).replace("\n", f"\nLUT_3D_INPUT_RANGE {low} {high}\n", 1)


def shaped(entries, size):
    curve = "".join(" ".join(f"{(i / (entries - 1)) ** (0.5 + 0.2 * c) * 1.1 - 0.05:.6f}" for c in range(3)) + "\n" for i in range(entries))
    cube = ranged(size, -0.05, 1.05)
    head, numbers = cube.split("1.05\n")
    return f"LUT_1D_SIZE {entries}\nLUT_1D_INPUT_RANGE -0.1 1.2\n{head}1.05\n{curve}{numbers}"


def clf_text(body):
    return f'<?xml version="1.0" encoding="UTF-8"?>\n<ProcessList id="a" name="case" compCLFversion="3" xmlns="urn:AMPAS:CLF:v3.0">\n{body}\n</ProcessList>\n'


FLOAT = 'inBitDepth="32f" outBitDepth="32f"'


def clf_cube(size, interpolation):
    rows = []
    for r in range(size):
        for g in range(size):
            for b in range(size):
                x, y, z = (v / (size - 1) for v in (r, g, b))
                rows.append(f"{1023 * (x ** 0.8 * 0.9 + 0.05 * z):.4f} {1023 * (y ** 1.3):.4f} {1023 * (0.1 * x + 0.85 * z):.4f}")
    numbers = "\n".join(rows)
    return f'<LUT3D {interpolation} inBitDepth="32f" outBitDepth="10i"><Array dim="{size} {size} {size} 3">\n{numbers}\n</Array></LUT3D>'


def clf_curve(size, channels):
    rows = "\n".join(" ".join(f"{(i / (size - 1)) ** (0.6 + 0.3 * c):.6f}" for c in range(channels)) for i in range(size))
    return f'<LUT1D {FLOAT}><Array dim="{size} {channels}">\n{rows}\n</Array></LUT1D>'


LOG_PARAMS = '<LogParams base="10" logSideSlope="0.3" logSideOffset="0.6" linSideSlope="1.1" linSideOffset="0.02"{}/>'
CDL_BODY = "<SOPNode><Slope>1.2 1.0 0.9</Slope><Offset>0.01 -0.02 0.0</Offset><Power>1.0 1.1 0.95</Power></SOPNode><SatNode><Saturation>1.15</Saturation></SatNode>"
CLF_CASES = {
    "matrix 3 3": '<Matrix inBitDepth="10i" outBitDepth="32f"><Array dim="3 3">0.0009 0.0001 0 0.00005 0.00085 0.00002 0 0.0001 0.00095</Array></Matrix>',
    "matrix 3 4": f'<Matrix {FLOAT}><Array dim="3 4">1.1 -0.1 0 0.02 0 0.9 0.1 -0.01 0.05 0 0.95 0.005</Array></Matrix>',
    "curve of one": clf_curve(9, 1),
    "curve of three": clf_curve(17, 3),
    "cube, trilinear": clf_cube(5, 'interpolation="trilinear"'),
    "cube, tetrahedral": clf_cube(5, 'interpolation="tetrahedral"'),
    "cube, nothing said": clf_cube(4, ""),
    "range": '<Range inBitDepth="32f" outBitDepth="32f"><minInValue>0.1</minInValue><maxInValue>0.9</maxInValue><minOutValue>0</minOutValue><maxOutValue>1.1</maxOutValue></Range>',
    "range, one end": '<Range inBitDepth="10i" outBitDepth="10i"><minInValue>64</minInValue><minOutValue>64</minOutValue></Range>',
    "range, no clamp": f'<Range {FLOAT} style="noClamp"><minInValue>0.1</minInValue><maxInValue>0.9</maxInValue><minOutValue>0</minOutValue><maxOutValue>1.1</maxOutValue></Range>',
    **{style: f'<Log {FLOAT} style="{style}"/>' for style in ["log10", "antiLog10", "log2", "antiLog2"]},
    **{style: f'<Log {FLOAT} style="{style}">{LOG_PARAMS.format("")}</Log>' for style in ["linToLog", "logToLin"]},
    **{style: f"""<Log {FLOAT} style="{style}">{LOG_PARAMS.format(' linSideBreak="0.01"')}</Log>""" for style in ["cameraLinToLog", "cameraLogToLin"]},
    "camera, slope given": f"""<Log {FLOAT} style="cameraLogToLin">{LOG_PARAMS.format(' linSideBreak="0.01" linearSlope="4.2"')}</Log>""",
    "log, a channel each": f"""<Log {FLOAT} style="linToLog">{"".join(LOG_PARAMS.format(f' channel="{c}"').replace("0.3", s) for c, s in [("R", "0.3"), ("G", "0.25"), ("B", "0.35")])}</Log>""",
    **{style: f'<Exponent {FLOAT} style="{style}"><ExponentParams exponent="2.2"/></Exponent>' for style in ["basicFwd", "basicRev", "basicMirrorFwd", "basicMirrorRev", "basicPassThruFwd", "basicPassThruRev"]},
    **{style: f'<Exponent {FLOAT} style="{style}"><ExponentParams exponent="2.4" offset="0.055"/></Exponent>' for style in ["monCurveFwd", "monCurveRev", "monCurveMirrorFwd", "monCurveMirrorRev"]},
    **{f"CDL {style}": f'<ASC_CDL {FLOAT} style="{style}">{CDL_BODY}</ASC_CDL>' for style in ["Fwd", "Rev", "FwdNoClamp", "RevNoClamp"]},
}
CLF_CASES["all together"] = CLF_CASES["cameraLogToLin"] + CLF_CASES["matrix 3 4"] + CLF_CASES["monCurveRev"] + CLF_CASES["range"] + CLF_CASES["CDL Fwd"] + CLF_CASES["cube, tetrahedral"]
CLF_COLOURS = COLOURS + [[-0.05, 0.3, 1.08], [1.2, -0.2, 0.02]]


def clf(name, body):
    text = clf_text(body)
    with tempfile.NamedTemporaryFile("w", suffix=".clf", delete=False) as f:
        f.write(text)
    cpu = processor(ocio.FileTransform(f.name, interpolation=ocio.INTERP_DEFAULT))
    os.unlink(f.name)
    return {"name": name, "text": text, "points": [[c, cpu.applyRGB(list(c))] for c in CLF_COLOURS]}


out = {
    "madeWith": f"OpenColorIO {ocio.__version__}",
    "logCamera": [log_camera(p) for p in LOG_CAMERAS],
    "cdl": [cdl(p) for p in CDLS],
    "cube": [cube(cube_text(7)), cube(ranged(6, -0.1, 1.3)), cube(shaped(17, 5))],
    "clf": [clf(name, body) for name, body in CLF_CASES.items()],
}
folder = os.path.join(HERE, "..", "core", "fixtures")
os.makedirs(folder, exist_ok=True)
with open(os.path.join(folder, "opencolorio.json"), "w", encoding="utf-8") as f:
    json.dump(out, f, indent=1)
    f.write("\n")
