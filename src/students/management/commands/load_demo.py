"""Load the demo data, once: what a teacher changed or deleted since stays as it is."""

from django.core.management.base import BaseCommand
from django.db import transaction

from students import demo
from studio.demo import make_demo_teacher


class Command(BaseCommand):
    help = __doc__

    @transaction.atomic
    def handle(self, *args, **options):
        teacher, is_new = make_demo_teacher()
        if not is_new:
            self.stdout.write("Demo data is there already; nothing was changed.")
            return
        demo.load(teacher)
        self.stdout.write("Demo data was loaded.")
