"""Presses, take-backs, lost answers, lost requests, restarts in any order: what is kept is what was meant."""

import uuid

import pytest
from django.core.cache import cache
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule, run_state_machine_as_test
from tests.counts import press, send

from bench.solution import solutions
from core.practice.attempts import SpotNote
from counting.drawn import Drawn
from evidence.models import AttemptMade, SpotPlayed

SPOTS = (
    (SpotNote(91, "", 0.0),),
    (SpotNote(79, "", 0.0), SpotNote(81, "", 0.5)),
    (SpotNote(79, "", 0.0), SpotNote(81, "", 0.5), SpotNote(83, "", 0.25)),
)
RESULTS = ("clean", "cracked", "silent", "late", "stumbled")


class Browser(RuleBasedStateMachine):
    """A queue as the script keeps it; `meant` is what was pressed and not taken back."""

    @initialize()
    def begin(self):
        AttemptMade.objects.all().delete()
        SpotPlayed.objects.all().delete()
        drawn = [Drawn(self.owned, 1, steps, len(steps) - 1) for steps in SPOTS]
        self.drawn = [one.signed() for one in drawn]
        self.midi = [one.step.midi for one in drawn]
        self.queue, self.meant, self.pressed, self.refused = [], {}, [], 0

    @rule(at=st.integers(0, 2), result=st.sampled_from(RESULTS))
    def press(self, at, result):
        one = press(self.drawn[at], result)
        self.queue.append({"press": one, "tried": False})
        self.meant[one["key"]] = (self.midi[at], result)
        self.pressed.append((at, one["key"]))

    @rule()
    def one_that_cannot_be_kept(self):
        self.queue.append({"press": press("x") | {"key": str(uuid.uuid4())}, "tried": False})

    @rule(at=st.integers(0, 2))
    def take_back(self, at):
        mine = [key for place, key in self.pressed if place == at and key in self.meant]
        if not mine:
            return
        del self.meant[mine[-1]]
        waits = next((row for row in self.queue if row.get("press", {}).get("key") == mine[-1]), None)
        if waits and not waits["tried"]:
            self.queue.remove(waits)
        else:
            self.queue.append({"back": {"key": mine[-1], "drawn": self.drawn[at]}, "tried": True})

    @rule(count=st.integers(1, 6), arrives=st.booleans(), answered=st.booleans())
    def send(self, count, arrives, answered):
        some = self.queue[:count]
        for row in some:
            row["tried"] = True
        if not (some and arrives):
            return
        presses = [row["press"] for row in some if "press" in row]
        back = [row["back"] for row in some if "back" in row]
        answer = send(self.client, *presses, who=self.who, back=back)
        assert [one["key"] for one in answer.json()["answers"]] == [one["key"] for one in presses]
        if answered:
            self.queue = self.queue[count:]

    @rule()
    def server_begins_anew(self):
        cache.clear()
        solutions.clear()

    @invariant()
    def never_twice(self):
        keys = list(AttemptMade.objects.values_list("key", flat=True))
        assert len(keys) == len(set(keys))

    def teardown(self):
        if not hasattr(self, "queue"):
            return
        while self.queue:
            self.send(6, arrives=True, answered=True)
        rows = AttemptMade.objects.values_list("key", "note_midi", "result")
        assert {str(key): (midi, result) for key, midi, result in rows} == self.meant


@pytest.mark.django_db
def test_whatever_happens_what_is_kept_is_what_was_meant(client, teacher, make_instrument):
    client.force_login(teacher)
    Browser.client, Browser.who = client, f"t{teacher.pk}"
    Browser.owned = make_instrument(teacher).pk
    run_state_machine_as_test(Browser, settings=settings(max_examples=12, stateful_step_count=20))
