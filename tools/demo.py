"""Serve Fair Reach with its demo data to this machine alone."""

import argparse
import os
import signal
import sys
from pathlib import Path

SRC = Path(__file__).resolve().parent.parent / "src"


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--port", type=int, default=8000)
    port = parser.parse_args().port
    sys.path.insert(0, str(SRC))
    os.environ["DJANGO_SETTINGS_MODULE"] = "config.settings"
    os.environ["FAIR_REACH_MODE"] = "demo"

    import django
    from django.conf import settings
    from django.core.management import call_command

    settings.VAR.mkdir(parents=True, exist_ok=True)
    django.setup()
    call_command("collectstatic", interactive=False, verbosity=0)
    call_command("migrate", verbosity=0)
    call_command("load_demo")

    import waitress

    from config.wsgi import application
    from jobs import pool

    try:
        # What a proxy says of itself is left in: who comes through one is not signed in.
        server = waitress.create_server(
            application,
            listen=f"127.0.0.1:{port}",
            threads=6,
            ident=None,
            clear_untrusted_proxy_headers=False,
        )
    except OSError as error:
        sys.exit(f"Port {port} cannot be used ({error.strerror}). Try another: make demo PORT=8001")
    print(f"Fair Reach is at http://127.0.0.1:{port}/   (stop it with Ctrl+C)", flush=True)
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    try:
        server.run()
    finally:
        pool.stop()


if __name__ == "__main__":
    main()
