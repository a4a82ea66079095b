"""Codebooks in DDI-Codebook, the XML of survey archives.

Used of version 2.5: of every `var` its `name`, `labl`, `nature` and `intrvl`, and of its `catgry`
the `catValu`, `labl` and `missing="Y"`. Name spaces are passed over. Documents that declare
entities are refused, so that none can swell or reach for files.
"""

from __future__ import annotations

from xml.etree import ElementTree
from xml.parsers import expat

from gorvel.core.base.errors import InputError
from gorvel.core.table.fixed import Position
from gorvel.core.table.table import Level

_MOST_CHARACTERS = 1_000_000  # of a line of fixed width
_NAMESPACE = "ddi:codebook:2_5"
_LEVELS: dict[str, Level] = {
    "nominal": "nominal", "ordinal": "ordinal", "interval": "interval", "ratio": "interval",
}  # fmt: skip

# name, title, level, labels of values, codes for no answer
DdiVariable = tuple[str, str, Level | None, dict[str, str], tuple[str, ...]]


def read_ddi(data: bytes) -> list[DdiVariable]:
    """The variables of a codebook.

    Raises
    ------
    InputError : not XML, a document type or entities, no variables, one without a name; names the
        line.
    """
    root = _parsed(data)
    found = []
    for place, var in enumerate(_all(root, "var"), 1):
        name = var.get("name", "").strip()
        if not name:
            raise InputError("no name", 'a "var" with a name', place=f"var {place}")
        found.append(_variable(name, var))
    if not found:
        raise InputError("no variables", 'a codebook with "var" elements')
    return found


def ddi_positions(data: bytes) -> list[Position]:
    """Where the variables of a codebook stand in a fixed-width file.

    `location` tells StartPos and EndPos, or StartPos and width; or width alone, where a variable
    stands behind the one before.

    Raises
    ------
    InputError : as `read_ddi`; a variable without a place, or one that ends before it starts.
    """
    out: list[Position] = []
    for place, var in enumerate(_all(_parsed(data), "var"), 1):
        name = var.get("name", "").strip() or f"var {place}"
        where = f'variable "{name}"'
        location = var.find("location")
        told = {} if location is None else {
            key: _count(location.get(key), f"{where} {key}")
            for key in ("StartPos", "EndPos", "width")
        }  # fmt: skip
        start = told.get("StartPos") or (out[-1].end + 1 if out else 1)
        wide = told.get("width") or _count(var.get("width"), f"{where} width")
        end = told.get("EndPos") or (start + wide - 1 if wide else None)
        if end is None:
            raise InputError("no place", "a location with StartPos and EndPos, or width",
                             place=where)  # fmt: skip
        if end < start:
            raise InputError(f"StartPos {start} after EndPos {end}", "the first before the last",
                             place=where)  # fmt: skip
        if any(one.name == name for one in out):
            raise InputError("a duplicate name", "a name of its own", place=where)
        out.append(Position(name, start, end))
    if not out:
        raise InputError("no variables", 'a codebook with "var" elements')
    return out


def _count(text: str | None, place: str) -> int | None:
    if text is None or not text.strip():
        return None
    if not text.strip().isdecimal() or not 1 <= int(text) <= _MOST_CHARACTERS:
        expected = f"a whole number from 1 to {_MOST_CHARACTERS:,}"
        raise InputError(f'"{text}"', expected, place=place)
    return int(text)


def _parsed(data: bytes) -> ElementTree.Element:
    builder = ElementTree.TreeBuilder()
    parser = expat.ParserCreate()

    def refuse(*_: object) -> None:
        place = f"line {parser.CurrentLineNumber}"
        raise InputError("a document type or entities", "a codebook without them", place=place)

    parser.StartDoctypeDeclHandler = refuse
    parser.EntityDeclHandler = refuse
    parser.StartElementHandler = lambda tag, attrs: builder.start(_local(tag), dict(attrs))
    parser.EndElementHandler = lambda tag: builder.end(_local(tag))
    parser.CharacterDataHandler = builder.data
    try:
        parser.Parse(data, True)
    except expat.ExpatError as error:
        raise InputError(f"not XML: {error}", "a codebook in DDI-Codebook") from error
    return builder.close()


def _local(tag: str) -> str:
    return tag.rpartition(":")[2]


def _all(element: ElementTree.Element, tag: str) -> list[ElementTree.Element]:
    return list(element.iter(tag))


def _words(element: ElementTree.Element | None) -> str:
    return "" if element is None else " ".join("".join(element.itertext()).split())


def _variable(name: str, var: ElementTree.Element) -> DdiVariable:
    labels: dict[str, str] = {}
    missing: list[str] = []
    for category in var.findall("catgry"):
        value = _words(category.find("catValu"))
        if not value:
            continue
        if category.get("missing") == "Y":
            missing.append(value)
        else:
            labels[value] = _words(category.find("labl")) or value
    level = _LEVELS.get(var.get("nature", ""))
    if level is None and var.get("intrvl") == "contin":
        level = "interval"
    return name, _words(var.find("labl")), level, labels, tuple(dict.fromkeys(missing))


def ddi_text(variables: list[DdiVariable]) -> str:
    """A DDI-Codebook document of variables."""
    root = ElementTree.Element("codeBook", {"xmlns": _NAMESPACE, "version": "2.5"})
    described = ElementTree.SubElement(root, "dataDscr")
    for name, title, level, labels, missing in variables:
        nature = {"binary": "nominal", "count": "ratio"}.get(level or "", level or "")
        attributes = {"name": name} | ({"nature": nature} if nature else {})
        var = ElementTree.SubElement(described, "var", attributes)
        if title:
            ElementTree.SubElement(var, "labl").text = title
        for value, words, gap in (
            *((value, words, False) for value, words in labels.items()),
            *((code, "", True) for code in missing),
        ):
            category = ElementTree.SubElement(var, "catgry", {"missing": "Y"} if gap else {})
            ElementTree.SubElement(category, "catValu").text = value
            if words:
                ElementTree.SubElement(category, "labl").text = words
    ElementTree.indent(root)
    body = ElementTree.tostring(root, encoding="unicode")
    return f'<?xml version="1.0" encoding="UTF-8"?>\n{body}\n'
