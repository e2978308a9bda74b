#!/usr/bin/python3
"""Reads DXF and HTML files by general-purpose libraries (Debian: python3-ezdxf, python3-html5lib) and prints as JSON
what a strict reader finds in them: errors, lines by layer, texts; pictures and text."""
import json, sys
import ezdxf, html5lib


def dxf(path):
    document = ezdxf.readfile(path)
    lines, texts = [], []
    for entity in document.modelspace():
        if entity.dxftype() == "LWPOLYLINE":
            lines.append({"layer": entity.dxf.layer, "points": [list(p[:2]) for p in entity.get_points()]})
        elif entity.dxftype() == "TEXT":
            texts.append({"layer": entity.dxf.layer, "at": list(entity.dxf.insert)[:2], "words": entity.dxf.text})
    return {"errors": [e.message for e in document.audit().errors], "units": document.header.get("$INSUNITS"),
            "lines": lines, "texts": texts}


def html(path):
    parser = html5lib.HTMLParser()
    with open(path, encoding="utf-8") as file:
        tree = parser.parse(file.read())
    tag = "{http://www.w3.org/1999/xhtml}"
    # What the sheet says to programs: each element's data- attributes, by the first of them.
    said = {}
    for element in tree.iter():
        data = [(k[5:], v) for k, v in element.attrib.items() if isinstance(k, str) and k.startswith("data-")]
        if data:
            said.setdefault(data[0][0], []).append(dict(data))
    return {"said": said, "errors": [str(e) for e in parser.errors], "text": " ".join("".join(tree.itertext()).split()),
            "pictures": [len(i.get("src", "")) for i in tree.iter(tag + "img")],
            "described": sum(1 for i in tree.iter(tag + "img") if i.get("alt"))}


print(json.dumps({path: dxf(path) if path.endswith(".dxf") else html(path) for path in sys.argv[1:]}))
