"""Drawings as SVG: hands, body, four strands, engraved music, what stands under it, curves. No models."""
