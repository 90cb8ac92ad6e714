"""The drawing of a blank, for the floor.

``sheets`` is the door: ``draw_blank`` lays ``flat_view`` (with ``dimensions``, whose ``ordinates``
keep off each other), ``folded_view`` (less what is ``hidden``) and, where the shop wants it, a
``folded_sheet``, ``tables`` of bends and ``holes`` and the ``title_block`` on each ``page``,
lettered as the shop wants it (``lettering``) and with the sizes somebody has ``chosen``, which
``chosen_view`` finds room for on the ``stage`` of the flat; ``measure`` writes lengths and knows
the scales; ``recount`` takes every size and count again from what was drawn; ``template`` is the
flat at 1:1 on the pages of a printer; ``assembly`` draws the parts of a file together, as they
stand and ``exploded`` (``assembly_view``), with their numbers (``balloons``) and a list; ``layout``
is what its sheets and a part's share.
"""

from kaigata.core.markup.assembly import (
    AssemblyDrawing,
    Component,
    assembly_differences,
    draw_assembly,
    meshed_bodies,
    placed_bodies,
)
from kaigata.core.markup.chosen import (
    ChosenSize,
    ChosenSizes,
    Feature,
    Way,
    features,
    followed,
    measured,
    moved_size,
)
from kaigata.core.markup.folded_sheet import folded_views, is_third_angle
from kaigata.core.markup.folded_view import folded_size, seen_from
from kaigata.core.markup.lettering import (
    BendFact,
    Lettering,
    Markup,
    MovedNote,
    NoteField,
    OwnField,
    TitleField,
)
from kaigata.core.markup.measure import INCH, INCH_FRACTIONS, MILLIMETRE, Unit
from kaigata.core.markup.page import PAPERS, Page
from kaigata.core.markup.recount import differences, lost_sizes
from kaigata.core.markup.sheets import Drawing, FoldedPicture, draw_blank, paper_for
from kaigata.core.markup.tables import require_room
from kaigata.core.markup.template import template_pages
from kaigata.core.markup.title_block import Title, left_open

__all__ = [
    "INCH",
    "INCH_FRACTIONS",
    "MILLIMETRE",
    "PAPERS",
    "AssemblyDrawing",
    "BendFact",
    "ChosenSize",
    "ChosenSizes",
    "Component",
    "Drawing",
    "Feature",
    "FoldedPicture",
    "Lettering",
    "Markup",
    "MovedNote",
    "NoteField",
    "OwnField",
    "Page",
    "Title",
    "TitleField",
    "Unit",
    "Way",
    "assembly_differences",
    "differences",
    "draw_assembly",
    "draw_blank",
    "features",
    "folded_size",
    "folded_views",
    "followed",
    "is_third_angle",
    "left_open",
    "lost_sizes",
    "measured",
    "meshed_bodies",
    "moved_size",
    "paper_for",
    "placed_bodies",
    "require_room",
    "seen_from",
    "template_pages",
]
