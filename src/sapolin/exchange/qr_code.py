"""QR codes: what a camera reads from a label, or from a screen."""

__all__ = ["qr_rows", "qr_svg"]

QUIET = 4
"""Squares that stay white around a code, as its standard asks."""


def qr_rows(text: str) -> tuple[str, ...]:
    """One string a row, `1` for a dark square; of the middle degree of correction, so that a seventh may be dirty.

    >>> rows = qr_rows("https://192.168.1.20:8720/")
    >>> len(rows) == len(rows[0]), rows[0][:8]
    (True, '11111110')
    """
    from reportlab.graphics.barcode.qrencoder import QR8bitByte, QRCode, QRErrorCorrectLevel

    code = QRCode(None, QRErrorCorrectLevel.M)
    code.addData(QR8bitByte(text.encode()))
    code.make()
    count = code.getModuleCount()
    return tuple("".join("1" if code.isDark(row, column) else "0" for column in range(count)) for row in range(count))


def qr_svg(text: str) -> str:
    """A code as a drawing of its own (SVG), black on white, its edges sharp at every size."""
    rows = qr_rows(text)
    side = len(rows) + 2 * QUIET
    dark = "".join(
        f"M{x + QUIET} {y + QUIET}h1v1h-1z"
        for y, row in enumerate(rows)
        for x, square in enumerate(row)
        if square == "1"
    )
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {side} {side}" shape-rendering="crispEdges">'
        f'<path fill="#fff" d="M0 0h{side}v{side}h-{side}z"/><path d="{dark}"/></svg>'
    )
