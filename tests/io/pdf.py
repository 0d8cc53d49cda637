"""PDF files written by hand (ISO 32000-1, 7.5), for what no library writes."""


def stream(data: bytes, more: bytes = b"") -> bytes:
    return b"<</Length %d%s>>stream\n" % (len(data), more) + data + b"\nendstream"


def file_of(objects: list[bytes]) -> bytes:
    """A file of the objects 1, 2, ...; the first is the catalogue."""
    out, places = b"%PDF-1.4\n", []
    for number, body in enumerate(objects, start=1):
        places.append(len(out))
        out += b"%d 0 obj" % number + body + b"endobj\n"
    table = b"".join(b"%010d 00000 n \n" % place for place in places)
    head = b"xref\n0 %d\n0000000000 65535 f \n" % (len(objects) + 1)
    return out + head + table + b"trailer<</Size %d/Root 1 0 R>>\nstartxref\n%d\n%%%%EOF" % (len(objects) + 1, len(out))


def pdf(*pages: bytes, size=(144, 72)) -> bytes:
    """A plain PDF with one content stream a page."""
    objects = [b"<</Type/Catalog/Pages 2 0 R>>"]
    kids = b" ".join(b"%d 0 R" % (3 + 2 * index) for index in range(len(pages)))
    objects.append(b"<</Type/Pages/Kids[" + kids + b"]/Count %d>>" % len(pages))
    for index, drawn in enumerate(pages):
        objects.append(b"<</Type/Page/Parent 2 0 R/MediaBox[0 0 %d %d]/Contents %d 0 R>>" % (*size, 4 + 2 * index))
        objects.append(stream(drawn))
    return file_of(objects)
