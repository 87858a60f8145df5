"""An address as a code that a telephone reads; black on white in the dark, too."""

from django.utils.safestring import SafeString
from qrcode import QRCode
from qrcode.constants import ERROR_CORRECT_M

from drawing.svg import tag

# Modules around a code that stay white, as readers need them (ISO/IEC 18004).
QUIET_ZONE = 4


def qr(address: str, says: str, *, size: int = 132) -> SafeString:
    """An address as a code; `says` is read out in its place, `size` is in pixels."""
    code = QRCode(error_correction=ERROR_CORRECT_M, border=QUIET_ZONE)
    code.add_data(address)
    rows = code.get_matrix()
    dark = "".join(
        f"M{x} {y}h1v1h-1z" for y, row in enumerate(rows) for x, is_dark in enumerate(row) if is_dark
    )
    paper = tag("rect", width="100%", height="100%", fill="#fff")
    modules = tag("path", d=dark, fill="#000", shape_rendering="crispEdges")
    box = f"0 0 {len(rows)} {len(rows)}"
    attributes = {"xmlns": "http://www.w3.org/2000/svg", "role": "img", "aria_label": says}
    return tag("svg", paper, modules, viewBox=box, width=size, height=size, **attributes)
