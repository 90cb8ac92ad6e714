"""Amounts of a recipe: numbers, numbers with a unit, and formulas over named dimensions."""

from __future__ import annotations

import ast
import math
import operator
import re
from collections.abc import Callable, Mapping
from typing import TypeAlias

from kaigata.core.errors import InputError

__all__ = ["MM", "Amount", "Dimensions"]

Amount: TypeAlias = float | str

MM = {"mm": 1.0, "in": 25.4}
"""Millimetres of a unit."""

_FURTHEST = 1e6
"""Length that no sheet has, mm: larger ones are slips of the hand."""

_LONGEST = 200
"""Characters of a formula; what is longer is no formula people wrote."""

_WITH_UNIT = re.compile(
    r"""(?<![\w.])(?:(?P<whole>\d+)\s+)?(?P<number>\d+/\d+|\d*\.?\d+)\s*(?P<unit>mm\b|in\b|")"""
)
_TWO: dict[type[ast.operator], Callable[[float, float], float]] = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
}
_ONE: dict[type[ast.unaryop], Callable[[float], float]] = {
    ast.UAdd: operator.pos,
    ast.USub: operator.neg,
}
_FUNCTIONS: dict[str, Callable[..., float]] = {
    "min": min,
    "max": max,
    "sqrt": math.sqrt,
    "sin": lambda degrees: math.sin(math.radians(degrees)),
    "cos": lambda degrees: math.cos(math.radians(degrees)),
    "tan": lambda degrees: math.tan(math.radians(degrees)),
}


class Dimensions:
    """Named dimensions, each a number or a formula over the others, in one unit.

    Parameters
    ----------
    given : mapping of str to Amount
        The dimensions, in any order.
    unit : str
        ``mm`` or ``in``: what a number without a unit is.

    Raises
    ------
    InputError
        A formula cannot be read, names what is not there, or rests on itself.

    Attributes
    ----------
    known : dict of str to float
        What each comes to, in the order given.

    Examples
    --------
    >>> sizes = Dimensions({"depth": "width / 2 - 1 in", "width": 100}, unit="mm")
    >>> sizes.value("depth + 0.4")
    25.0
    """

    def __init__(self, given: Mapping[str, Amount], *, unit: str) -> None:
        self._given, self._unit = given, unit
        self._worked: dict[str, float] = {}
        self._open: list[str] = []
        self.known = {name: self._named(name) for name in given}

    def value(self, amount: Amount) -> float:
        """Return an amount in the recipe's unit (an angle: in degrees).

        Raises
        ------
        InputError
            The formula cannot be read or worked out.
        """
        if not isinstance(amount, str):
            return float(amount)
        if len(amount) > _LONGEST:
            raise _fault(amount[:30] + " ...", f"is longer than {_LONGEST} characters")
        try:
            tree = ast.parse(_WITH_UNIT.sub(self._plain, amount.strip()), mode="eval")
            found = self._worked_out(tree.body, amount)
        except (SyntaxError, ValueError, TypeError, RecursionError):
            raise _fault(amount, "cannot be read") from None
        except ZeroDivisionError:
            raise _fault(amount, "divides by 0") from None
        if not math.isfinite(found):
            raise _fault(amount, "is no finite number")
        return found

    def length(self, amount: Amount) -> float:
        """Return an amount that is a length, mm.

        Raises
        ------
        InputError
            As for ``value``; or it is longer than any sheet.
        """
        found = self.value(amount) * MM[self._unit]
        if abs(found) > _FURTHEST:
            raise InputError(
                f"a length comes to {found:.6g} mm",
                fix=f"Give lengths up to {_FURTHEST:.0f} mm",
            )
        return found

    def _plain(self, found: re.Match[str]) -> str:
        """Return a number with a unit as a plain number of the recipe's unit."""
        top, _, bottom = found["number"].partition("/")
        share = float(top) / float(bottom or 1) + float(found["whole"] or 0)
        return repr(share * MM["in" if found["unit"] == '"' else found["unit"]] / MM[self._unit])

    def _named(self, name: str) -> float:
        if name not in self._worked:
            if name in self._open:
                chain = " -> ".join([*self._open[self._open.index(name) :], name])
                raise InputError(
                    f"dimension {name!r} rests on itself: {chain}",
                    where=f"dimensions.{name}",
                    fix="Give one of them as a number",
                )
            self._open.append(name)
            self._worked[name] = self.value(self._given[name])
            self._open.pop()
        return self._worked[name]

    def _worked_out(self, node: ast.expr, text: str) -> float:
        match node:
            case ast.Constant(value=int() | float() as number):
                return float(number)
            case ast.Name(id=name):
                if name not in self._given:
                    raise InputError(
                        f"the formula {text!r} names {name!r}, which is no dimension",
                        fix=f"Known are {', '.join(self._given) or 'none'}",
                    )
                return self._named(name)
            case ast.BinOp(left=left, op=op, right=right) if type(op) in _TWO:
                two = self._worked_out(left, text), self._worked_out(right, text)
                return _TWO[type(op)](*two)
            case ast.UnaryOp(op=sign, operand=operand) if type(sign) in _ONE:
                return _ONE[type(sign)](self._worked_out(operand, text))
            case ast.Call(func=ast.Name(id=name), args=args, keywords=[]) if name in _FUNCTIONS:
                return _FUNCTIONS[name](*(self._worked_out(a, text) for a in args))
        raise _fault(text, "cannot be read")


def _fault(text: str, what: str) -> InputError:
    return InputError(
        f"the formula {text!r} {what}",
        fix="Write numbers, names of dimensions, + - * / and parentheses, min, max, sqrt, sin, "
        "cos or tan (of degrees)",
    )
