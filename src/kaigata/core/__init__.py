"""The heart of the job, without server or interface.

Rooms, in the order the work flows: ``plane`` (points, contours, motions), ``metal`` (bend sums and
shop values), ``part`` (the folded part), ``intake`` (files in), ``blank`` (unfolding), ``nest``
(placing), ``cut`` (tool paths), ``formats`` (files out), ``packet`` (the whole way for an order).
"""
