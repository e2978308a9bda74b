#!/usr/bin/python3
"""Solves a section file with a general-purpose finite-element program, as a check from outside the project.

Usage: reference.py SECTION freefem|getdp [--voltage-factor K] [--frequency HZ] [--fineness F]

Mesh by Gmsh (Debian: python3-gmsh), equations by FreeFem++ (quadratic elements on straight triangles) or GetDP
(second-order curved elements): own mesh, own elements, own solver. Capacitive, complex and nonlinear sections.
Prints "probe|name|V|E" and "edge|name|E": magnitudes, kV and kV/mm; E is the major axis of the field's ellipse.
"""
import argparse, json, math, os, re, subprocess, sys, tempfile
import gmsh

EPS0 = 8.8541878128e-12


def arc_about(a, b, centre, clockwise):
    """Angles of an arc from a to b: start and sweep, the shorter way unless told otherwise."""
    start = math.atan2(a[1] - centre[1], a[0] - centre[0])
    sweep = math.atan2(b[1] - centre[1], b[0] - centre[0]) - start
    sweep = math.remainder(sweep, 2 * math.pi)
    if clockwise is True and sweep > 0:
        sweep -= 2 * math.pi
    if clockwise is False and sweep < 0:
        sweep += 2 * math.pi
    return start, sweep


def surface_of(outline):
    """OCC surface of an outline, and its arcs as (name, centre, radius, start, sweep)."""
    occ = gmsh.model.occ
    first = outline[0]
    points, steps, arcs = [occ.addPoint(first[0], first[1], 0)], [], []
    here, curves = first, []
    for index, step in enumerate(outline[1:] + [first]):
        last = index == len(outline) - 1
        to = step if isinstance(step, list) else step.get("to", step.get("arc_to"))
        if math.dist(here, to) < 1e-9:
            continue
        end = points[0] if math.dist(to, first) < 1e-9 else occ.addPoint(to[0], to[1], 0)
        if isinstance(step, dict) and "centre" in step:
            centre = step["centre"]
            start, sweep = arc_about(here, to, centre, step.get("clockwise"))
            radius = math.dist(here, centre)
            pieces = 1 if abs(sweep) < 3 else 2  # half a circle would leave open which half
            for piece in range(1, pieces + 1):
                angle = start + sweep * piece / pieces
                at = end if piece == pieces else occ.addPoint(centre[0] + radius * math.cos(angle), centre[1] + radius * math.sin(angle), 0)
                curves.append(occ.addCircleArc(points[-1], occ.addPoint(centre[0], centre[1], 0), at))
                points.append(at)
            points.pop()
            arcs.append((step.get("name", ""), centre, radius, start, sweep))
        else:
            curves.append(occ.addLine(points[-1], end))
        points.append(end)
        here = to
    return (2, occ.addPlaneSurface([occ.addCurveLoop(curves)])), arcs


def mesh_of(section, fineness, order, named_arcs):
    """Nodes, triangles (with region index), boundary edges (with conductor index)."""
    gmsh.initialize()
    gmsh.option.setNumber("General.Terminal", 0)
    occ = gmsh.model.occ
    shapes, painted = [], []  # painted: which region (from 0) or conductor (from -1 downwards) each shape is
    for over in (False, True):
        for k, region in enumerate(section["regions"]):
            if region.get("covers_electrodes", False) == over:
                shapes.append(surface_of(region["outline"])[0])
                painted.append(k)
        if over:
            continue
        for c, electrode in enumerate(section.get("electrodes", [])):
            surface, arcs = surface_of(electrode["outline"])
            shapes.append(surface)
            painted.append(-1 - c)
            named_arcs += arcs
    lines = []
    for boundary in section.get("boundaries", []):
        along = boundary["along"]
        tags = [occ.addPoint(p[0], p[1], 0) for p in along]
        lines.append([(1, occ.addLine(a, b)) for a, b in zip(tags, tags[1:])])
    flat = shapes + [line for group in lines for line in group]
    _, pieces = occ.fragment(flat, [])
    occ.synchronize()
    owner = {}  # surface -> shape: a later shape covers an earlier one
    for index in range(len(shapes)):
        for piece in pieces[index]:
            owner[piece[1]] = painted[index]
    count, conductors = len(section["regions"]), len(section.get("electrodes", []))
    boundary_of = {}
    for conductor in range(conductors):
        for surface, index in owner.items():
            if index == -1 - conductor:
                for _, curve in gmsh.model.getBoundary([(2, surface)], oriented=False):
                    boundary_of[curve] = conductor
    at = len(shapes)
    for k, group in enumerate(lines):
        for _ in group:
            for _, curve in pieces[at]:
                boundary_of.setdefault(curve, conductors + k)
            at += 1
    for region in range(count):
        surfaces = [s for s, index in owner.items() if index == region]
        if surfaces:
            gmsh.model.addPhysicalGroup(2, surfaces, region + 1)
    for conductor in sorted(set(boundary_of.values())):
        curves = [c for c, index in boundary_of.items() if index == conductor]
        gmsh.model.addPhysicalGroup(1, curves, 1001 + conductor)

    field = gmsh.model.mesh.field
    fields = []

    def threshold(curves, near, size, far, largest):
        distance = field.add("Distance")
        field.setNumbers(distance, "EdgesList", curves)
        field.setNumber(distance, "NNodesByEdge", 400)
        t = field.add("Threshold")
        for key, value in (("IField", distance), ("DistMin", near), ("LcMin", size), ("DistMax", far), ("LcMax", largest)):
            field.setNumber(t, key, value)
        fields.append(t)

    curves = [c for _, c in gmsh.model.getEntities(1)]
    low, high = [1e300] * 2, [-1e300] * 2
    for c in curves:
        b = gmsh.model.getBoundingBox(1, c)
        low = [min(low[0], b[0]), min(low[1], b[1])]
        high = [max(high[0], b[3]), max(high[1], b[4])]
    extent = math.dist(low, high)
    used = {c for s in owner if owner[s] >= 0 for _, c in gmsh.model.getBoundary([(2, s)], oriented=False)}
    inner = [c for c in used if gmsh.model.getBoundingBox(1, c)[3] < low[0] + 0.5 * (high[0] - low[0])]
    threshold(inner, 0.3, fineness * 0.45, 60, fineness * 9)
    for c in used - set(inner):
        box = gmsh.model.getBoundingBox(1, c)
        size = math.dist(box[:2], box[3:5])
        if size < extent / 200:  # small things far out
            threshold([c], 0.5 * size, fineness * size / 12, size / 12 + 60, fineness * 9)
    for c in used:
        if gmsh.model.getType(1, c) == "Circle":
            box = gmsh.model.getBoundingBox(1, c)
            size = max(box[3] - box[0], box[4] - box[1])
            threshold([c], 0.1 * size, fineness * size / 40, size / 40 + 60, fineness * 9)
    for probe in section.get("probes", []):
        ball = field.add("Ball")
        for key, value in (("XCenter", probe["at"][0]), ("YCenter", probe["at"][1]), ("Radius", 0.3),
                           ("VIn", 0.15 * fineness), ("VOut", extent), ("Thickness", 3)):
            field.setNumber(ball, key, value)
        fields.append(ball)
    smallest = field.add("Min")
    field.setNumbers(smallest, "FieldsList", fields)
    field.setAsBackgroundMesh(smallest)
    for option in ("MeshSizeExtendFromBoundary", "MeshSizeFromPoints", "MeshSizeFromCurvature"):
        gmsh.option.setNumber("Mesh." + option, 0)
    gmsh.option.setNumber("Mesh.MeshSizeMax", extent / 12)
    gmsh.option.setNumber("Mesh.Algorithm", 5)
    gmsh.model.mesh.generate(2)
    if order == 2:
        gmsh.model.mesh.setOrder(2)


def write_freefem_mesh(path):
    tags, coordinates, _ = gmsh.model.mesh.getNodes()
    index, points, used = {}, [], []
    place = {int(t): coordinates[3 * i:3 * i + 2] for i, t in enumerate(tags)}
    triangles, edges = [], []
    for dim, group in gmsh.model.getPhysicalGroups():
        for entity in gmsh.model.getEntitiesForPhysicalGroup(dim, group):
            types, _, nodes = gmsh.model.mesh.getElements(dim, entity)
            for kind, list_of_nodes in zip(types, nodes):
                width = {1: 2, 2: 3}[int(kind)]
                for i in range(0, len(list_of_nodes), width):
                    (triangles if dim == 2 else edges).append(([int(n) for n in list_of_nodes[i:i + width]], group))
    for corners, _ in triangles:
        for n in corners:
            if n not in index:
                index[n] = len(index) + 1
                points.append(place[n])
    edges = [(e, g) for e, g in edges if all(n in index for n in e)]
    with open(path, "w") as out:
        out.write(f"{len(points)} {len(triangles)} {len(edges)}\n")
        for p in points:
            out.write(f"{p[0]:.12g} {p[1]:.12g} 0\n")
        for (a, b, c), group in triangles:
            (xa, ya), (xb, yb), (xc, yc) = place[a], place[b], place[c]
            if (xb - xa) * (yc - ya) - (xc - xa) * (yb - ya) < 0:
                b, c = c, b
            out.write(f"{index[a]} {index[b]} {index[c]} {group}\n")
        for (a, b), group in edges:
            out.write(f"{index[a]} {index[b]} {group}\n")


def with_floating_as_regions(section):
    """A floating conductor as a body of so high a permittivity that its potential is even to 1e-6."""
    held = []
    for electrode in section.get("electrodes", []):
        if not electrode.get("floating"):
            held.append(electrode)
            continue
        section["materials"]["floating"] = {"eps_r": 1e6}
        section["regions"].append({"name": electrode["name"], "material": "floating", "outline": electrode["outline"]})
    section["electrodes"] = held
    return section


def reading_points(section, named_arcs):
    """Probes, and pairs of points at 1 % and 2 % of the radius off every named arc: the field on it by extrapolation."""
    points = [("probe", p["name"], p["at"]) for p in section.get("probes", [])]
    for name, centre, radius, start, sweep in named_arcs:
        if not name:
            continue
        for i in range(61):
            angle = start + sweep * (0.002 + 0.996 * i / 60)
            for offset in (1.01, 1.02):
                points.append(("edge", name, [centre[0] + offset * radius * math.cos(angle), centre[1] + offset * radius * math.sin(angle)]))
    return points


def major_axis(er, ez):
    a, b = (er.real, ez.real), (er.imag, ez.imag)
    total = sum(x * x for x in a + b)
    difference = a[0] ** 2 + a[1] ** 2 - b[0] ** 2 - b[1] ** 2
    mixed = 2 * (a[0] * b[0] + a[1] * b[1])
    return math.sqrt(0.5 * (total + math.hypot(difference, mixed)))


def report(points, values):
    """values: complex V, E_r, E_z per point."""
    edges = {}
    waiting = None
    for (kind, name, _), (v, er, ez) in zip(points, values):
        size = major_axis(er, ez)
        if kind == "probe":
            print(f"probe|{name}|{abs(v):.8g}|{size:.8g}")
        elif waiting is None:
            waiting = size
        else:
            edges[name] = max(edges.get(name, 0), 2 * waiting - size)
            waiting = None
    for name, size in edges.items():
        print(f"edge|{name}|{size:.8g}")


def coefficient(material, section, omega):
    """sigma / (omega eps0) of constant conduction, and the law of field-dependent conduction as FreeFem++ text."""
    law = material.get("conduction")
    if not law or section["analysis"] == "capacitive":
        return 0.0, None
    if law["law"] == "constant":
        return law["sigma0_S_per_m"] / (omega * EPS0), None
    scale = math.sqrt(2) if law["field"] == "peak" else 1
    if law["law"] == "power":
        text = f"{law['sigma0_S_per_m'] / (omega * EPS0)!r}*(1+pow(E*{scale / law['E0_kV_per_mm']!r},{law['exponent']!r}))"
        return 0.0, (text, law["exponent"])
    if law["law"] == "exponential":
        text = f"{law['sigma0_S_per_m'] / (omega * EPS0)!r}*exp({law['a']!r}*pow(E*{scale!r},{law['exponent']!r}))"
        return 0.0, (text, 4)
    raise SystemExit(f"no reference for the law {law['law']}")


def freefem(section, points, folder, omega):
    write_freefem_mesh(os.path.join(folder, "section.msh"))
    axis = "x" if section.get("symmetry", "axisymmetric") == "axisymmetric" else "1"
    eps, sigma, laws = "0", "0", []
    for k, region in enumerate(section["regions"]):
        material = section["materials"][region["material"]]
        constant, law = coefficient(material, section, omega)
        eps += f"+{material['eps_r']!r}*(region=={k + 1})"
        sigma += f"+{constant!r}*(region=={k + 1})"
        if law:
            laws.append((k + 1, *law))
    held = "".join(f"+on({1001 + k},u={c.get('voltage_kV', 0)!r})"
                   for k, c in enumerate(section.get("electrodes", []) + section.get("boundaries", [])))
    text = f"""
mesh Th = readmesh("{folder}/section.msh");
fespace Vh(Th, P2); fespace Dh(Th, P1dc);
Vh<complex> u, v;
Dh epsr = {eps}, loss = {sigma};
Dh E, target;
problem solvefield(u, v, solver=sparsesolver) = int2d(Th)({axis}*(epsr - 1i*loss)*(dx(u)*dx(v)+dy(u)*dy(v))){held};
"""
    if laws:
        target = "+".join(f"(region=={k})*({law})" for k, law, _ in laws)
        steep = max(e for _, _, e in laws)
        text += f"""
Dh mine = {"+".join(f"(region=={k})" for k, _, _ in laws)};
E = 0.1;
loss = loss + {target};
Dh fixed = {sigma};
real change = 1;
for (int i = 0; i < 200 && change > 3e-4; i++) {{
  solvefield;
  E = sqrt(abs(dx(u))^2 + abs(dy(u))^2) + 1e-9;
  target = fixed + {target};
  Dh next = mine > 0.5 ? exp(log(loss) + {2 / (steep + 2)!r}*(log(target) - log(loss))) : fixed;
  Dh difference = mine > 0.5 ? abs(log(next) - log(loss)) : 0;
  change = difference[].max;
  loss = next;
}}
cerr << "last change of ln sigma " << change << endl;
"""
    else:
        text += "solvefield;\n"
    text += "Vh<complex> er = 0;\ncout.precision(10);\n"
    for _, _, (x, y) in points:
        text += (f'{{ complex a = u({x!r},{y!r}), b = dx(u)({x!r},{y!r}), c = dy(u)({x!r},{y!r}); cout << "@ " << real(a) << " " << imag(a) '
                 f'<< " " << real(b) << " " << imag(b) << " " << real(c) << " " << imag(c) << endl; }}\n')
    with open(os.path.join(folder, "section.edp"), "w") as out:
        out.write(text)
    run = subprocess.run(["FreeFem++-nw", "-v", "0", "-nw", os.path.join(folder, "section.edp")], capture_output=True, text=True)
    values = []
    for line in run.stdout.splitlines():
        if line.startswith("@ "):
            f = [float(w) for w in line.split()[1:]]
            values.append((complex(f[0], f[1]), complex(f[2], f[3]), complex(f[4], f[5])))
    if len(values) != len(points):
        raise SystemExit("FreeFem++ failed:\n" + run.stdout[-2000:] + run.stderr[-2000:])
    return values


def getdp(section, points, folder, omega):
    mesh = os.path.join(folder, "section.msh")
    gmsh.option.setNumber("Mesh.MshFileVersion", 2.2)
    gmsh.write(mesh)
    groups, kappa = "", ""
    for k, region in enumerate(section["regions"]):
        material = section["materials"][region["material"]]
        constant, law = coefficient(material, section, omega)
        if law:
            raise SystemExit("the GetDP check is for linear sections")
        groups += f"R{k} = Region[{k + 1}];\n"
        kappa += f"kappa[R{k}] = Complex[{material['eps_r']!r}, {-constant!r}];\n"
    held = ""
    conductors = section.get("electrodes", []) + section.get("boundaries", [])
    for k, conductor in enumerate(conductors):
        groups += f"C{k} = Region[{1001 + k}];\n"
        held += f"{{ Region C{k}; Value {conductor.get('voltage_kV', 0)!r}; }}\n"
    domain = ", ".join(f"R{k}" for k in range(len(section["regions"])))
    jacobian = "VolAxi" if section.get("symmetry", "axisymmetric") == "axisymmetric" else "Vol"
    prints = "".join(f'Print[ {q}, OnPoint {{{x!r},{y!r},0}}, Format Table, File >> "{folder}/{q}.txt" ];\n'
                     for q in ("v", "e") for _, _, (x, y) in points)
    text = f"""
Group {{ {groups} Domain = Region[{{{domain}}}]; Whole = Region[{{{domain}, {", ".join(f"C{k}" for k in range(len(conductors)))}}}]; }}
Function {{ {kappa} }}
Constraint {{ {{ Name Held; Case {{ {held} }} }} }}
Jacobian {{ {{ Name J; Case {{ {{ Region Whole; Jacobian {jacobian}; }} }} }} }}
Integration {{ {{ Name I; Case {{ {{ Type Gauss; Case {{ {{ GeoElement Triangle2; NumberOfPoints 12; }} {{ GeoElement Line2; NumberOfPoints 4; }} }} }} }} }} }}
FunctionSpace {{ {{ Name H; Type Form0; BasisFunction {{ {{ Name s; NameOfCoef c; Function BF_Node; Support Domain; Entity NodesOf[Whole]; }} }}
  Constraint {{ {{ NameOfCoef c; EntityType NodesOf; NameOfConstraint Held; }} }} }} }}
Formulation {{ {{ Name F; Type FemEquation; Quantity {{ {{ Name u; Type Local; NameOfSpace H; }} }}
  Equation {{ Galerkin {{ [ kappa[] * Dof{{d u}}, {{d u}} ]; In Domain; Jacobian J; Integration I; }} }} }} }}
Resolution {{ {{ Name Steady; System {{ {{ Name A; NameOfFormulation F; Type Complex; Frequency {omega / (2 * math.pi)!r}; }} }}
  Operation {{ Generate[A]; Solve[A]; SaveSolution[A]; }} }} }}
PostProcessing {{ {{ Name P; NameOfFormulation F; Quantity {{
  {{ Name v; Value {{ Local {{ [ {{u}} ]; In Domain; Jacobian J; }} }} }} {{ Name e; Value {{ Local {{ [ -{{d u}} ]; In Domain; Jacobian J; }} }} }} }} }} }}
PostOperation {{ {{ Name Readings; NameOfPostProcessing P; Operation {{ {prints} }} }} }}
"""
    with open(os.path.join(folder, "section.pro"), "w") as out:
        out.write(text)
    run = subprocess.run(["getdp", os.path.join(folder, "section.pro"), "-msh", mesh, "-solve", "Steady", "-pos", "Readings", "-v", "2"],
                         capture_output=True, text=True, cwd=folder)
    rows = {}
    for q in ("v", "e"):
        file = os.path.join(folder, q + ".txt")
        if not os.path.exists(file):
            raise SystemExit("GetDP failed:\n" + run.stdout[-2000:] + run.stderr[-2000:])
        rows[q] = [[float(w) for w in line.split()] for line in open(file) if line.strip()]
    values = []
    for v, e in zip(rows["v"], rows["e"]):
        # last columns: real part(s), then imaginary part(s)
        values.append((complex(v[-2], v[-1]), complex(e[-6], e[-3]), complex(e[-5], e[-2])))
    if len(values) != len(points):
        raise SystemExit(f"GetDP gave {len(values)} of {len(points)} points:\n" + run.stdout[-1500:] + run.stderr[-1500:])
    return values


def main():
    arguments = argparse.ArgumentParser(description=__doc__)
    arguments.add_argument("section")
    arguments.add_argument("program", choices=["freefem", "getdp"])
    arguments.add_argument("--voltage-factor", type=float, default=1)
    arguments.add_argument("--frequency", type=float)
    arguments.add_argument("--fineness", type=float, default=1)
    given = arguments.parse_args()
    section = with_floating_as_regions(json.load(open(given.section)))
    section.setdefault("analysis", "capacitive")
    if given.frequency:
        section["frequency_hz"] = given.frequency
    for conductor in section.get("electrodes", []) + section.get("boundaries", []):
        conductor["voltage_kV"] = given.voltage_factor * conductor.get("voltage_kV", 0)
    omega = 2 * math.pi * section.get("frequency_hz", 60)
    named_arcs = []
    if section["analysis"] == "nonlinear":
        given.fineness *= 1.5  # some twenty solves
    mesh_of(section, given.fineness, 2 if given.program == "getdp" else 1, named_arcs)
    points = reading_points(section, named_arcs)
    with tempfile.TemporaryDirectory() as folder:
        values = (freefem if given.program == "freefem" else getdp)(section, points, folder, omega)
    gmsh.finalize()
    report(points, values)


if __name__ == "__main__":
    main()
