#!/usr/bin/python3
"""Draws random closed profiles with ezdxf (Debian: python3-ezdxf), one a layer, of lines, arcs, bulges, ellipses and splines,
in random order and direction of their entities, and prints as JSON what ezdxf itself makes of them: area and box by layer.
usage: draw_profiles.py FILE SEED UNITS"""
import json, math, random, sys
import ezdxf
from ezdxf import path as paths


def draw(space, layer, random, scale):
    at = {"layer": layer}
    x, y, w, h = (random.uniform(a, b) * scale for a, b in ((-50, 50), (10, 20), (20, 80), (5, 20)))
    kind = random.choice(["lines", "bulges", "circle", "spline", "arc", "ellipse"])
    if kind == "circle":
        space.add_circle((x, y + h), h / 2, dxfattribs=at)
    elif kind == "bulges":
        corners = [(x, y), (x + w, y), (x + w, y + h), (x, y + h)]
        bulges = [0, random.uniform(-0.3, 1), random.uniform(-0.15, 0.15), 0]
        if random.random() < 0.5:  # the other way round
            corners, bulges = corners[::-1], [-b for b in (bulges[2], bulges[1], bulges[0], bulges[3])]
        space.add_lwpolyline([(*c, 0, 0, b) for c, b in zip(corners, bulges)], close=True, dxfattribs=at)
    else:
        pieces = [("line", (x, y), (x + w, y)), ("line", (x + w, y), (x + w, y + h)), ("line", (x, y + h), (x, y))]
        random.shuffle(pieces)
        for _, a, b in pieces:
            if random.random() < 0.5:
                a, b = b, a
            space.add_line(a, b, dxfattribs=at)
        top = [(x + w, y + h), (x, y + h)]
        if kind == "lines":
            space.add_line(*top, dxfattribs=at)
        elif kind == "arc":
            space.add_arc((x + w / 2, y + h), w / 2, 0, 180, dxfattribs=at)
        elif kind == "ellipse":
            space.add_ellipse((x + w / 2, y + h), (w / 2, 0), random.uniform(0.2, 0.9), 0, math.pi, dxfattribs=at)
        else:
            inner = [(x + f * w, y + h * random.uniform(1.1, 1.8)) for f in (0.8, 0.6, 0.4, 0.2)]
            space.add_open_spline([top[0], *inner, top[1]], degree=random.choice([2, 3, 4]), dxfattribs=at)


def area_of(space, layer):
    """Of the entities of a layer, joined here and divided by ezdxf far finer than any tolerance."""
    pieces = []
    for entity in space.query(f'*[layer=="{layer}"]'):
        pieces.append([(p.x, p.y) for p in paths.make_path(entity).flattening(1e-5)])
    chain = pieces.pop(0)
    while pieces:
        for i, piece in enumerate(pieces):
            for way in (piece, piece[::-1]):
                if math.dist(chain[-1], way[0]) < 1e-6:
                    chain += way[1:]
                    pieces.pop(i)
                    break
            else:
                continue
            break
        else:
            raise SystemExit("the drawing is not closed")
    area = sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(chain, chain[1:] + chain[:1])) / 2
    return {"area": abs(area), "box": [min(p[0] for p in chain), min(p[1] for p in chain), max(p[0] for p in chain),
                                       max(p[1] for p in chain)]}


file, seed, units = sys.argv[1], int(sys.argv[2]), int(sys.argv[3])
random.seed(seed)
document = ezdxf.new("R2000")
document.header["$INSUNITS"] = units
space = document.modelspace()
scale = {1: 1 / 25.4, 4: 1, 5: 0.1}[units]
names = [f"PART {i}" for i in range(12)]
for name in names:
    document.layers.add(name)
    draw(space, name, random, scale)
document.saveas(file)
print(json.dumps({name: area_of(space, name) for name in names}))
