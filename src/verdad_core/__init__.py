"""Verdad's core: the rules of the job and its computation, without interface, network or database.

`ENGINE_VERSION` is part of every result's key. Raise it in the change that makes any number come out differently:
all evidence then shows as out of date until it is computed again.
"""

ENGINE_VERSION = 6
