"""Dimensions as data: they fit the keywork, scale as they say, and link to what the fingers do."""

import hashlib

import numpy as np
import pytest
from tests.core_shapes import DATA

from catalogue import shipped
from core.acoustics.geometry import format_ensemble, hole_states, parse_ensemble, parse_plan
from core.acoustics.impedance import CLOSED, HALF, OPEN
from core.errors import AcousticsError
from core.instruments.fingering import parse_fingering
from core.instruments.keywork import mechanism

SPLIT_SHA256 = "de28584a6dbaf344d57a34f4063f5d3e43bb1cc990810e35bde3e5b2626827fd"


def plan_of(text, name="english-horn"):
    return parse_plan(
        text, lambda other: (DATA / "acoustics" / f"{other}.toml").read_text(), shipped.instrument(name)
    )


@pytest.mark.parametrize("name", shipped.INSTRUMENTS)
def test_every_instrument_has_two_families_and_an_ensemble(name):
    families = {geometry.mouthpiece.family for geometry in shipped.plan(name).geometries}
    ensemble = shipped.geometries(name)
    assert len(families) == 2
    assert len(ensemble) >= 8
    assert {geometry.mouthpiece.family for geometry in ensemble} == families
    keywork = {hole.name for hole in shipped.instrument(name).holes}
    for geometry in ensemble:
        assert set(geometry.tube().holes) == keywork


@pytest.mark.parametrize("name", shipped.INSTRUMENTS)
def test_holes_stand_as_the_keywork_says(name):
    instrument, tube = shipped.instrument(name), shipped.geometries(name)[0].tube()
    entries = shipped.catalogue(name).entries
    states = hole_states(tube, instrument, [entry.fingering for entry in entries])
    for entry, row in zip(entries, states, strict=True):
        read = mechanism(instrument, entry.fingering)
        standing = dict(zip(tube.hole_names, row.tolist(), strict=True))
        assert {hole for hole, state in standing.items() if state == HALF} == set(read.half_holes)
        opened = {hole for hole, state in standing.items() if state == OPEN}
        assert opened == {*read.open_holes, *read.open_vents} - set(read.half_holes)


def test_a_fitting_that_is_missing_leaves_its_hole_at_rest():
    oboe, tube = shipped.instrument("oboe"), shipped.geometries("oboe")[0].tube()
    forked = [parse_fingering("L1 L2 L3 | R1 R3", oboe)]
    place = tube.hole_names.index("forked F vent")
    assert hole_states(tube, oboe, forked)[0, place] == OPEN
    assert hole_states(tube, oboe, forked, frozenset())[0, place] == CLOSED


def test_siblings_are_scaled():
    oboe, horn = shipped.plan("oboe").geometries[0], shipped.plan("english-horn").geometries[0]
    named = {hole.name: hole for hole in oboe.holes}
    for hole in horn.holes:
        assert hole.place == pytest.approx(1.5 * named[hole.name].place)
        assert hole.radius == pytest.approx(1.12 * named[hole.name].radius)
        assert hole.jet == named[hole.name].jet
    assert horn.mouthpiece.reed_volume == pytest.approx(1.5 * 1.12**2 * oboe.mouthpiece.reed_volume)
    assert shipped.plan("english-horn").scaled_from == "oboe"


def test_an_ensemble_is_read_back_as_it_is_written():
    ensemble = shipped.geometries("oboe")
    assert parse_ensemble(format_ensemble(ensemble, {"by": "test"})) == ensemble


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("celsius =", "cannot be read"),
        ("celsius = 20", "cannot be read"),
        ('extends = "oboe"\nlength = 1.5\nwidth = 1.1', "holes differ"),
        ('extends = "oboe"\nlength = 1.5\nwidth = 1.1\nbore = [[0, 2], [300, 12]]', "between reed and bell"),
        ('extends = "oboe"\nlength = 1.5\nwidth = 9\nbore = [[0, 2], [900, 9]]', "no wider than its bore"),
    ],
)
def test_dimensions_that_cannot_be_are_refused(text, message):
    with pytest.raises(AcousticsError, match=message):
        plan_of(text)


def test_the_split_is_locked():
    text = (DATA / "acoustics" / "split.toml").read_bytes()
    assert hashlib.sha256(text).hexdigest() == SPLIT_SHA256, "a new split wants a new fit and hold-out"


@pytest.mark.parametrize("name", shipped.INSTRUMENTS)
def test_what_is_held_out_opens_other_holes_than_what_is_seen(name):
    split, chart = shipped.split(name), shipped.catalogue(name)
    model = shipped.model(name)

    def keys(rows):
        entries = [chart.by_id[row] for row in rows]
        states = model.states([entry.fingering for entry in entries])
        return [(entry.note.midi, state.tobytes()) for entry, state in zip(entries, states, strict=True)]

    seen, held_out = keys(split["anchors"]), keys(split["held_out"])
    assert len(set(seen)) == len(seen)
    assert len(set(held_out)) == len(held_out)
    assert not set(seen) & set(held_out)
    assert {chart.by_id[row].kind.value for row in split["held_out"]}.isdisjoint({"trill"})
    assert all(chart.by_id[row].is_truth for row in split["held_out"])  # arithmetic and leads are none
    assert all(chart.by_id[row].tendency for row in split["anchors"])
    assert not any("frontF" in chart.by_id[row].fingering.touches for row in split["anchors"])


def test_states_are_in_the_order_of_the_keywork():
    model = shipped.model("alto-saxophone")
    names = [hole.name for hole in model.instrument.holes]
    (row,) = model.states([parse_fingering("octave L1 L2 L3", model.instrument)])
    assert [names[n] for n in np.flatnonzero(row)[:1]] == ["body vent"]
