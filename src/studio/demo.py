"""The demo teacher of a made-up band; what is loaded for them is said by the applications."""

from django.contrib.auth import get_user_model

from studio.middleware import DEMO_TEACHER


def make_demo_teacher():
    """Return the demo teacher and whether they are new; they have no password to sign in with."""
    teacher, is_new = get_user_model().objects.get_or_create(
        username=DEMO_TEACHER, defaults={"first_name": "Ottermere", "last_name": "Youth Wind Band"}
    )
    if is_new:
        teacher.set_unusable_password()
        teacher.save(update_fields=["password"])
    return teacher, is_new
