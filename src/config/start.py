"""What is done once, when the application begins to serve, before it has threads."""

import gc

from jobs import pool, services


def begin():
    """Make the pool of workers, say of earlier work that it is lost, and keep what stands out of the way."""
    pool.start()
    services.lose_what_was_under_way()
    gc.collect()
    gc.freeze()  # what was loaded stays for good: it is not looked through again and again
