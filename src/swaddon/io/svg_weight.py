"""How much an SVG comes to once all that it refers to is drawn: a few lines can ask for more than any machine draws."""

import re
from xml.etree import ElementTree

MOST = 2_000_000
"""Elements, with all references followed, that are drawn; honest drawings stay far below."""

_URL = re.compile(r"url\(\s*['\"]?#([^)'\"]+)")
_DEEPEST = 200


def weight(root: ElementTree.Element, most: int = MOST) -> int:
    """Elements that are drawn when every reference is followed, at least ``most`` + 1 where it has no end."""
    by_id = {name: element for element in root.iter() if (name := element.get("id")) is not None}
    known: dict[int, int] = {}
    open_: set[int] = set()

    def of(element: ElementTree.Element, depth: int) -> int:
        key = id(element)
        if key in known:
            return known[key]
        if key in open_ or depth > _DEEPEST:
            return most + 1
        open_.add(key)
        total = 1
        for child in element:
            total += of(child, depth + 1)
        for name in _references(element):
            if name in by_id:
                total += of(by_id[name], depth + 1)
        open_.discard(key)
        known[key] = min(total, most + 1)
        return known[key]

    return of(root, 0)


def _references(element: ElementTree.Element) -> list[str]:
    names = []
    for attribute, value in element.attrib.items():
        if attribute.rsplit("}", 1)[-1] == "href" and value.startswith("#"):
            names.append(value[1:])
        elif "url(" in value:
            names.extend(_URL.findall(value))
    return names
