"""Fixtures shared by all tests: the shipped instrument and chart, a teacher, a passage."""

import os
import sqlite3
from contextlib import closing

import pytest
from hypothesis import settings
from tests.served import Served

os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"  # Playwright's loop runs in the test's own thread
settings.register_profile("fair", derandomize=True, deadline=None, max_examples=60)
settings.load_profile("fair")


@pytest.hookimpl(trylast=True)
def pytest_collection_modifyitems(items):
    """What needs the demo first, on one process, the longest ahead; the other takes over what is left."""

    def turn(item):
        return "demo" not in getattr(item, "fixturenames", ()), getattr(
            item, "originalname", ""
        ) != "test_main_views"

    items.sort(key=turn)


@pytest.fixture(scope="session")
def django_db_modify_db_settings(tmp_path_factory):
    """A database of its own for every run and worker, so that none disturbs another.

    A file, so that every thread of the browser tests' server has a connection of its own.
    """
    from django.db import connections

    name = tmp_path_factory.mktemp("database") / "test.sqlite3"
    connections["default"].settings_dict["TEST"]["NAME"] = str(name)


@pytest.fixture(scope="session")
def stored(django_db_setup, django_db_blocker):
    """The database empty, and with the demo in it: loaded once a process, put back in milliseconds."""
    from django.core.management import call_command
    from django.db import connection

    def copy():
        kept = sqlite3.connect(":memory:")
        connection.ensure_connection()
        connection.connection.backup(kept)
        return kept

    with django_db_blocker.unblock():
        empty = copy()
        call_command("load_demo", verbosity=0)
        loaded = copy()
        empty.backup(connection.connection)
        connection.close()
    return empty, loaded


@pytest.fixture
def demo(stored, django_db_blocker):
    """The demo's data in the database that every connection reads, gone again after the test."""
    from django.db import connection

    empty, loaded = stored
    with django_db_blocker.unblock():
        connection.ensure_connection()
        loaded.backup(connection.connection)
        yield
        connection.ensure_connection()
        empty.backup(connection.connection)
        connection.close()


@pytest.fixture(scope="session")
def server(tmp_path_factory):
    here = Served(tmp_path_factory.mktemp("served"))
    yield here
    here.stop()


@pytest.fixture
def served(stored, server):
    """The application in a process of its own, as `make demo` serves it, with the demo's data put back."""
    with closing(sqlite3.connect(server.database, timeout=20)) as file:
        stored[1].backup(file)
    server.start()
    return server


@pytest.fixture(scope="session")
def alto():
    from catalogue import shipped

    return shipped.instrument("alto-saxophone")


@pytest.fixture(scope="session")
def chart():
    from catalogue import shipped

    return shipped.catalogue("alto-saxophone")


@pytest.fixture(autouse=True)
def quick_passwords(settings):
    """Hashing that is slow on purpose would take most of the tests' time."""
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]


@pytest.fixture
def teacher(django_user_model):
    return django_user_model.objects.create_user("ottermere", password="nine weirs and a sluice")


@pytest.fixture
def other_teacher(django_user_model):
    return django_user_model.objects.create_user("elsewhere", password="nine weirs and a sluice")


@pytest.fixture
def signed_in(client, teacher):
    client.force_login(teacher)
    return client


@pytest.fixture
def make_passage():
    """Save a passage from ABC text for a teacher; `owned` is the student's instrument that it is for."""
    from passages import services

    def make(
        teacher, abc="L:1/8\nK:C\nC2 B2 c2 d2 | _b4 g'4 |]", title="", model="alto-saxophone", owned=None
    ):
        model = owned.model if owned else model
        passage, notices, _ = services.read_source(abc.encode(), model, "file")
        return services.add_passage(
            teacher, title=title, instrument=model, passage=passage, notices=notices, owned=owned
        )

    return make


@pytest.fixture
def make_instrument():
    """Give a student of a teacher an instrument with everything fitted but what it lacks."""
    from studio.services import add_instrument, save_student
    from studio.shipped import instrument

    def make(teacher, model="alto-saxophone", lacks=(), **more):
        student = save_student(teacher, name="Wick", level="moving on")
        fitted = set(instrument(model).optional) - set(lacks)
        return add_instrument(teacher, student, model=model, name=f"test {model}", fitted=fitted, **more)

    return make
