"""CSV tables in and out, with errors that name the line."""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Iterable, Iterator, Sequence
from pathlib import Path

from kaigata.core.errors import InputError

__all__ = ["Row", "csv_text", "number_text", "rows_of", "text_of_file"]


class Row(dict[str, str]):
    """A row of a table that knows where it stands.

    ``has_decimal_comma`` says that cells are not parted by commas, so that a number may hold one.
    ``number``, ``positive`` and ``not_negative`` give a column as a number or raise InputError
    naming the line.
    """

    where: str
    has_decimal_comma: bool = False

    def number(self, name: str, default: float | None = None) -> float:
        """Return a column as a finite number."""
        text = (self.get(name) or "").strip()
        if not text and default is not None:
            return default
        try:
            value = float(text.replace(",", ".") if self.has_decimal_comma else text)
        except ValueError as error:
            raise InputError(f"{name} is {text!r}, no number", where=self.where) from error
        if not math.isfinite(value):
            raise InputError(f"{name} is {text!r}, no finite number", where=self.where)
        return value

    def positive(self, name: str) -> float:
        """Return a column as a number above nothing."""
        value = self.number(name)
        if value <= 0:
            raise InputError(f"{name} is {value:g}, it must be above 0", where=self.where)
        return value

    def not_negative(self, name: str, default: float | None = None) -> float:
        """Return a column as a number not below nothing."""
        value = self.number(name, default)
        if value < 0:
            raise InputError(f"{name} is {value:g}, it must not be below 0", where=self.where)
        return value

    def one_of(self, name: str, words: Sequence[str], default: str) -> str:
        """Return a column that holds one of a few words."""
        word = (self.get(name) or "").strip() or default
        if word not in words:
            raise InputError(
                f"{name} is {word!r}", where=self.where, fix=f"It is one of {', '.join(words)}"
            )
        return word


def text_of_file(path: Path) -> str:
    """Return the text of a table's file.

    Raises
    ------
    InputError
        There is no such file, or it is no text.
    """
    if not path.is_file():
        raise InputError("there is no such file", where=path.name, fix="Check the name and folder")
    try:
        return path.read_text(encoding="utf-8-sig")
    except UnicodeDecodeError as error:
        raise InputError("it is no text in UTF-8", where=path.name, fix="Save as CSV") from error


def rows_of(text: str, name: str, columns: Sequence[str]) -> Iterator[Row]:
    """Yield each row of a CSV, its lines ended in whichever way.

    Cells are parted by commas, or by semicolons or tabs as spreadsheets write them where the comma
    is the decimal sign. Rows of empty cells are left out; the heading is read in small letters.

    Raises
    ------
    InputError
        A column is missing or stands twice, a row has more cells than the heading, or a cell is no
        cell; the line is told.
    """
    text = text.removeprefix("\ufeff")
    heading = next(iter(text.splitlines()), "")
    delimiter = next((d for d in ",;\t" if d in heading), ",")
    reader = csv.DictReader(io.StringIO(text, newline=None), delimiter=delimiter)
    try:
        for row in _rows(reader, name, columns):
            row.has_decimal_comma = delimiter != ","
            yield row
    except csv.Error as error:
        raise InputError(
            f"it is no table: {error}",
            where=f"{name} line {reader.line_num + 1}",
            fix="Save it as CSV again",
        ) from error


def _rows(reader: csv.DictReader[str], name: str, columns: Sequence[str]) -> Iterator[Row]:
    heading = [c.strip().lower() for c in reader.fieldnames or ()]
    reader.fieldnames = heading
    at = f"{name} line 1"
    missing = [c for c in columns if c not in heading]
    if missing:
        raise InputError(
            f"the column {missing[0]!r} is missing",
            where=at,
            fix=f"The columns are {','.join(columns)}, parted by commas, semicolons or tabs",
        )
    twice = next((c for i, c in enumerate(heading) if c in heading[:i]), None)
    if twice is not None:
        raise InputError(f"the column {twice!r} stands twice", where=at, fix="Keep one of them")
    for cells in reader:
        where = f"{name} line {reader.line_num}"
        if None in cells:
            raise InputError("there are more cells than columns in the heading", where=where)
        row = Row({k: v or "" for k, v in cells.items()})
        row.where = where
        if any(cell.strip() for cell in row.values()):
            yield row


def number_text(value: float) -> str:
    """Return a number as a table holds it: all digits that matter and no more.

    Examples
    --------
    >>> number_text(1.5), number_text(60000.0), number_text(4.523893421)
    ('1.5', '60000', '4.523893421')
    """
    return f"{value:.10g}"


def csv_text(columns: Sequence[str], rows: Iterable[Sequence[object]]) -> str:
    """Return a table as CSV."""
    stream = io.StringIO()
    table = csv.writer(stream, lineterminator="\n")
    table.writerow(columns)
    table.writerows(rows)
    return stream.getvalue()
