"""Who may see what is said in one place."""

import ast
from pathlib import Path

import pytest
from django.core.exceptions import ValidationError

from evidence import trials
from students.services import make_page
from studio.access import of, own
from studio.models import OwnedInstrument, Student

SRC = Path(__file__).resolve().parents[2] / "src"
ASKS = {"filter", "exclude", "get", "get_object_or_404", "get_list_or_404"}
FILES = [path for path in SRC.rglob("*.py") if "migrations" not in path.parts and path.name != "access.py"]


def told_apart_by_teacher(tree):
    """Lines of the reads that say themselves whose something is."""
    for call in (node for node in ast.walk(tree) if isinstance(node, ast.Call)):
        name = call.func.attr if isinstance(call.func, ast.Attribute) else getattr(call.func, "id", "")
        if name in ASKS and any(k.arg and k.arg.split("__")[-1] == "teacher" for k in call.keywords):
            yield call.lineno


@pytest.mark.parametrize("path", FILES, ids=lambda path: str(path.relative_to(SRC)))
def test_no_read_says_itself_whose_something_is(path):
    assert list(told_apart_by_teacher(ast.parse(path.read_text("utf-8")))) == []


def test_the_rule_is_found_where_it_is_broken():
    assert list(told_apart_by_teacher(ast.parse("x\nrows.filter(a=1, instrument__teacher=t)"))) == [2]


@pytest.mark.django_db
def test_what_belongs_to_another_is_not_among_ones_own(teacher, other_teacher, make_instrument):
    mine, foreign = make_instrument(teacher), make_instrument(other_teacher)
    assert list(of(teacher, OwnedInstrument)) == [mine]
    assert list(of(teacher.pk, Student.objects.filter(name="Wick"))) == [mine.student]
    assert list(of(other_teacher, mine.student.instruments)) == []
    page = make_page(other_teacher, foreign)
    trial = trials.begin(other_teacher, foreign, note_midi=91, items=["G6-palm"])
    for thing in (page, trial):
        assert own(other_teacher, thing) == thing
        assert list(of(teacher, type(thing))) == []
        with pytest.raises(ValidationError, match="another teacher"):
            own(teacher, thing)
