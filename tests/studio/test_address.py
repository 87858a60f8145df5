"""What an address names is read again as it was made, whatever stands in it."""

from urllib.parse import parse_qs

from django.http import QueryDict
from hypothesis import given
from hypothesis import strategies as st

from studio.address import LONGEST, WORDS, Address

texts = st.text(st.characters(codec="utf-8"), max_size=40)


@given(st.builds(Address, st.none(), *[texts] * len(WORDS)))
def test_an_address_is_read_as_it_was_made(address):
    assert Address.read(QueryDict(address.query()[1:])) == address


def test_what_is_not_named_does_not_stand_in_it():
    at = Address(7, state="3", first="n1", last="n2")
    assert at.to("counting:spot", climb="") == "/passages/7/count/?state=3&from=n1&to=n2"
    assert at.at(first="", last="").to("bench:bench") == "/passages/7/?state=3"
    assert Address().query() == "?"


def test_a_page_asks_more_and_its_lists_are_listed():
    query = Address(on="oboe", note="Bb4").query(also=["L1", "L1 L2"], wider="")
    assert parse_qs(query[1:]) == {"on": ["oboe"], "note": ["Bb4"], "also": ["L1", "L1 L2"]}


def test_a_long_one_is_not_read_to_its_end():
    assert Address.read({"note": "x" * 10_000}).note == "x" * LONGEST
