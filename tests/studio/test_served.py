"""What only the real server shows: who is signed in, and what is written down when something breaks."""

import logging
import re
import sqlite3

import pytest

from students.models import StudentPage
from students.services import make_page, revoke_page
from studio.logs import Formatter


@pytest.mark.django_db
def test_only_this_machine_is_signed_in_and_a_failure_leaves_a_trace(served):
    assert served.get("/students/")[1].endswith("/students/")
    for header in ({"X_Forwarded_For": "203.0.113.7"}, {"Forwarded": "for=203.0.113.7"}):
        assert "/sign-in/" in served.get("/students/", **header)[1]
    key = (served.data / "secret-key").read_text()
    assert len(key) > 50
    assert oct((served.data / "secret-key").stat().st_mode)[-3:] == "600"
    with sqlite3.connect(served.database) as database:
        database.execute("PRAGMA foreign_keys=OFF")
        database.execute("DROP TABLE students_studentpage")
    status, _, page = served.get("/for/a-secret-that-nobody-guesses/")
    assert status == 500
    number = re.search(r'id="request-id">(\w{8})<', page)[1]
    assert number in served.log
    assert "no such table: students_studentpage" in served.log
    assert "a-secret-that" not in served.log
    assert "signed in from 127.0.0.1" in served.log


def test_what_bears_on_security_is_written_down_and_no_secret(client, teacher, make_instrument, caplog):
    caplog.set_level(logging.INFO)
    client.post("/sign-in/", {"username": "my pass phrase", "password": "guess-of-it"})
    client.post("/sign-in/", {"username": teacher.username, "password": "nine weirs and a sluice"})
    page = make_page(teacher, make_instrument(teacher))
    client.get(f"/for/{page.token}x/")
    revoke_page(teacher, page)
    client.post("/sign-out/")
    said = "\n".join(Formatter("%(request_id)s %(message)s").format(record) for record in caplog.records)
    for words in ("sign-in from 127.0.0.1 was refused", "signed in from", "signed out from"):
        assert words in said
    assert f"opened student's page {StudentPage.objects.get().pk}" in said
    assert f"closed student's page {page.pk}" in said
    for secret in ("pass phrase", "guess-of-it", "sluice", page.token):
        assert secret not in said
