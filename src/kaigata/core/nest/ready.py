"""Imported, it has loaded every compiled loop of nesting.

The process that searchers are forked from imports it while the first nest is made, so that none of
them has to load the loops once more.
"""

from kaigata.core.nest.search import search
from kaigata.core.nest.small import small_order

__all__: list[str] = []

search(small_order(), steps=12)
