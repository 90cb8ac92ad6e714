"""Drawings of flats, made for tests."""

import io

import ezdxf


def drawing(units=4, *, bends=True, lines=(2,), size=(6, 4), outline=None):
    """A rectangle with standing bend lines, at 1:1, or another closed outline."""
    document = ezdxf.new("R2010", setup=True)
    document.header["$INSUNITS"] = units
    space = document.modelspace()
    width, height = size
    rectangle = [(0, 0), (width, 0), (width, height), (0, height)]
    space.add_lwpolyline(outline or rectangle, close=True)
    for x in lines if bends else ():
        space.add_line((x, 0), (x, height), dxfattribs={"linetype": "DASHED"})
    stream = io.StringIO()
    document.write(stream)
    return stream.getvalue().encode()
