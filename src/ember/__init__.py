"""The core of Open Ember: what heat does to a piece of food, and whether that is enough.

Pure computation: nothing here knows about the web, the database or the clock.
"""

__version__ = "0.1.0"
