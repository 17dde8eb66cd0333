"""An address as a square of dots that a phone reads."""

from __future__ import annotations

import segno


def qr_svg(text: str, size_mm: float = 24.0) -> str:
    """Draw a text as a QR code.

    Parameters
    ----------
    text : str
        An address. [-]
    size_mm : float
        Side with its quiet zone. [mm]

    Returns
    -------
    str
        An svg element in black and white, with a title; no script, no style. [-]

    References
    ----------
    ISO/IEC 18004, level M.
    """
    made = segno.make(text, error="m", micro=False)
    drawn = made.svg_inline(
        dark="#000", light="#fff", omitsize=True, border=4, svgclass="qr", lineclass=None,
        title=f"QR code of {text}",
    )  # fmt: skip
    size = f'<svg width="{size_mm:g}mm" height="{size_mm:g}mm" role="img" '
    return drawn.replace("<svg ", size, 1)
