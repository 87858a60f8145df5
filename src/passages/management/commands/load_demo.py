"""Load the demo data, once: what a teacher changed or deleted since stays as it is."""

from django.conf import settings
from django.core.management.base import BaseCommand
from django.db import transaction

from passages import services
from studio.demo import make_demo_teacher

DEMO_SCORE = "over-the-top-sluice.musicxml"
INSTRUMENT = "alto-saxophone"


class Command(BaseCommand):
    help = __doc__

    @transaction.atomic
    def handle(self, *args, **options):
        teacher, is_new = make_demo_teacher()
        if not is_new:
            self.stdout.write("Demo data is there already; nothing was changed.")
            return
        data = (settings.DATA / "demo" / DEMO_SCORE).read_bytes()
        passage, notices = services.read_source(data, INSTRUMENT, "file")
        services.add_passage(teacher, title="", instrument=INSTRUMENT, passage=passage, notices=notices)
        self.stdout.write("Demo data was loaded.")
