"""Papers as they are printed, rendered by a reader of another project."""

import io

import pypdfium2


def pictures(pdf: bytes, scale: float = 4.0) -> list[bytes]:
    """Every page as a PNG."""
    out = []
    for page in pypdfium2.PdfDocument(pdf):
        picture = io.BytesIO()
        page.render(scale=scale).to_pil().save(picture, "PNG")
        out.append(picture.getvalue())
    return out
