"""Every kind of drill that can be made of a note, a link or a spot.

What a drill asks for lies within the reach and has a fingering, but for notes of the spot itself.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator

from core.drills import of_note, of_spot
from core.drills.material import Drill, Material
from core.music.passage import Note

Maker = Callable[[Material], Iterator[Drill]]
MAKERS: tuple[Maker, ...] = (
    *(of_note.long_tones, of_note.attacks, of_note.slurs),
    *(of_spot.trills, of_note.loops, of_note.scales),
    *(of_spot.rhythms, of_spot.add_a_note, of_spot.through_keys, of_spot.octaves),
    *(of_note.colours, of_note.matching, of_note.stones),
)


def drills(material: Material) -> list[Drill]:
    """All drills that can be made; of one note those for a note, of more those for the way between, too.

    Parameters
    ----------
    material : Material

    Returns
    -------
    list of Drill
    """
    own = {note.pitch.midi for note in material.notes}
    return [
        drill
        for maker in MAKERS
        for drill in maker(material)
        if all(note.written_pitch is None or _allowed(material, own, note) for note in drill.passage)
    ]


def _allowed(material: Material, own: set[int], note: Note) -> bool:
    return note.written_pitch is not None and (
        note.written_pitch.midi in own or material.within(note.written_pitch.midi)
    )
