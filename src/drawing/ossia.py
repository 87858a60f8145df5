"""Small staves put over the bars of an engraving, where a passage has an ossia.

The engraver reads a score in MEI, in which an ossia is a staff beside that of its bar; so the passage as
written and as played are both turned into MEI, and the bars wanted are put together.

References
----------
Music Encoding Initiative, MEI 5.0, chapter on text-critical and editorial markup: ossia.
"""

from xml.etree import ElementTree as ET

MEI = "{http://www.music-encoding.org/ns/mei}"
ID = "{http://www.w3.org/XML/1998/namespace}id"
SCALE = "65%"
# What is tied to notes by their ids and stands beside the staff.
SPANS = ("tie", "slur")


def put_together(written: str, played: str, bars: set[int]) -> str:
    """A score in MEI with small staves.

    Parameters
    ----------
    written, played : str
        The same bars in MEI, as written and as played; notes have ids of their own in each.
    bars : set of int
        Places of the bars that get a small staff.
    """
    ET.register_namespace("", MEI[1:-1])
    whole, other = ET.fromstring(written), ET.fromstring(played)  # noqa: S314 -- the engraver's own
    pairs = zip(whole.iter(f"{MEI}measure"), other.iter(f"{MEI}measure"), strict=True)
    for place, (measure, above) in enumerate(pairs):
        if place in bars:
            _put_over(measure, above)
    return ET.tostring(whole, encoding="unicode")


def _put_over(measure, above):
    staff, small = measure.find(f"{MEI}staff"), above.find(f"{MEI}staff")
    place = list(measure).index(staff)
    ossia = ET.Element(f"{MEI}ossia")
    small.tag = f"{MEI}oStaff"
    small.set("scale", SCALE)
    notes = {element.get(ID) for element in small.iter(f"{MEI}note")}
    for element in small.iter():
        if element.get(ID) not in notes:
            element.attrib.pop(ID, None)
    ossia.extend([small, staff])
    measure.remove(staff)
    measure.insert(place, ossia)
    for name in SPANS:
        for span in above.iterfind(f"{MEI}{name}"):
            if span.get("startid", "")[1:] in notes:
                span.attrib.pop(ID, None)
                measure.append(span)
