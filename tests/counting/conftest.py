"""An instrument and a passage on which is counted."""

import pytest

RUN = "Q:1/4=160\nL:1/16\nK:C\nB,^CB,^C DEFG|"


@pytest.fixture
def owned(teacher, make_instrument):
    return make_instrument(teacher)


@pytest.fixture
def passage(teacher, owned, make_passage):
    return make_passage(teacher, RUN, owned=owned, title="Sluice Run")
