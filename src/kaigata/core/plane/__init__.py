"""The ground floor: the plane, in millimetres and radians.

``tolerance`` names every tolerance; ``segment`` is one line or arc; ``contour`` a closed run of
them; ``region`` a contour with holes; ``motion`` mirrors, turns and moves; ``fit`` makes arcs from
points; ``meet`` intersects segments; ``offset`` moves contours sideways by a distance.
"""

from kaigata.core.plane.contour import Contour
from kaigata.core.plane.motion import Motion
from kaigata.core.plane.region import Region
from kaigata.core.plane.segment import Point, Segment

__all__ = ["Contour", "Motion", "Point", "Region", "Segment"]
