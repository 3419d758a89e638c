"""The WSGI entry."""

import gc
import os
import threading

from django.core.wsgi import get_wsgi_application

WARM_AFTER_S = 1.5  # the first page comes before the compiler

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "kitchen.settings.local")
application = get_wsgi_application()


def warm() -> None:
    """Load the compiled core alongside the first requests, so that no first click waits for it."""
    from ember.warm import main

    main()


def _warm_soon() -> None:
    timer = threading.Timer(WARM_AFTER_S, warm)
    timer.daemon = True
    timer.start()


# With a preloading server this module runs once, in the parent; the workers are forked from it and share what it loads,
# but not its threads: so each starts its own after the fork.
os.register_at_fork(after_in_child=_warm_soon)

# What is loaded by now lives as long as the process: the collector need not look through it at every request.
gc.collect()
gc.freeze()
gc.set_threshold(20_000, 20, 20)
