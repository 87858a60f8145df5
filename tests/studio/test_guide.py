"""The guide: every page renders, no link in it is dead, and every view has its help."""

import re

import pytest
from django.urls import reverse

from studio import guide

pytestmark = pytest.mark.django_db


def test_every_page_is_listed_and_opens(signed_in):
    home = signed_in.get(reverse("studio:help-home")).content.decode()
    for name, (title, _) in guide.pages().items():
        address = reverse("studio:help", args=[name])
        assert f'href="{address}"' in home
        page = signed_in.get(address)
        assert page.status_code == 200
        assert f"<h1>{title}</h1>" in page.content.decode()
    assert signed_in.get(reverse("studio:help", args=["no-such-page"])).status_code == 404
    assert {path.stem for path in guide.FOLDER.glob("*.md")} == set(guide.PAGES)


def test_no_link_of_the_guide_is_dead(signed_in):
    pages = guide.pages()
    bodies = {reverse("studio:help", args=[name]): body for name, (_, body) in pages.items()}
    for here, body in bodies.items():
        for link in re.findall(r'href="([^"]+)"', body):
            address, _, part = link.partition("#")
            assert signed_in.get(address or here).status_code == 200, link
            assert not part or f'id="{part}"' in bodies[address or here], link


@pytest.mark.parametrize("name", guide.sections())
def test_what_is_said_of_a_view_is_three_sentences(name):
    """Said in about three sentences, before the keys."""
    said = guide.sections()[name][1].partition("<table")[0]
    assert 1 <= len(re.findall(r"[.:?](?=\s|</p>)", said)) <= 5


def test_html_in_the_guide_is_text():
    assert "<script>" not in guide._rendered("<script>alert(1)</script>")
