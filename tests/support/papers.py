"""Papers as they are printed, rendered by a reader of another project."""

import io

import pypdfium2
from pypdf import PdfReader


def pictures(pdf: bytes, scale: float = 4.0) -> list[bytes]:
    """Every page as a PNG."""
    out = []
    for page in pypdfium2.PdfDocument(pdf):
        picture = io.BytesIO()
        page.render(scale=scale).to_pil().save(picture, "PNG")
        out.append(picture.getvalue())
    return out


def places(data):
    """Every piece of text with where it stands, page by page."""
    out = []
    for page in PdfReader(io.BytesIO(data)).pages:
        found = []

        def note(text, cm, tm, _font, _size, found=found):
            if text.strip():
                x, y = (tm[4] * cm[k] + tm[5] * cm[k + 2] + cm[k + 4] for k in (0, 1))
                found.append((x, y, text.strip()))

        page.extract_text(visitor_text=note)
        out.append(found)
    return out
