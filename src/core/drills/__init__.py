"""Drills: what is practised of a note, a link or a spot, written as music."""
