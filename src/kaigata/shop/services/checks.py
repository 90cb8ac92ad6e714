"""The checks of an order's packet, and why somebody lets one that fails pass all the same."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from datetime import datetime

from django.contrib.auth.models import AbstractUser
from django.core.cache import cache
from django.db import transaction

from kaigata.core.errors import InputError
from kaigata.core.formats.documents import BlankDocument, CutDocument, NestDocument
from kaigata.core.formats.drawing_files import DrawingChoice
from kaigata.core.packet.checks import Check, packet_checks, recounted
from kaigata.shop.models import Blank, CutRun, Order, Override, Part
from kaigata.shop.services.blanks import document_of
from kaigata.shop.services.digests import digest
from kaigata.shop.services.drawings import choices_of
from kaigata.shop.services.nesting import open_nest
from kaigata.shop.services.order_inputs import cut_runs, cut_settings
from kaigata.shop.services.people import initials_of

__all__ = ["Checked", "checks_of", "let_pass", "require_checked", "take_back"]


_WAITING = {
    Part.State.READING: "is still being read",
    Part.State.ASKING: "waits: {}",
    Part.State.REFUSED: "was refused: {}",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Checked:
    """A check, and where it fails who lets it pass, when and why."""

    name: str
    title: str
    state: str
    said: str
    reason: str = ""
    by: str = ""
    at: datetime | None = None

    @property
    def stops(self) -> bool:
        """Whether the packet may not go out because of it."""
        return self.state == "failed" and not self.reason


def checks_of(order: Order) -> list[Checked]:
    """Return the checks of an order as it is now.

    Somebody's word holds for what was found when it was given: where another fault has come since
    the check stops the packet again.
    """
    given = {(o.check_name, o.said): o for o in order.overrides.select_related("by")}
    return [_with_word(c, given.get((c.name, c.said))) for c in _found(order)]


def _with_word(check: Check, word: Override | None) -> Checked:
    if word is None or check.state != "failed":
        return Checked(**asdict(check))
    return Checked(**asdict(check), reason=word.reason, by=initials_of(word.by), at=word.at)


def _found(order: Order) -> list[Check]:
    ready: list[Blank] = []
    waiting: dict[str, str] = {}
    for line in order.lines.with_blanks():
        if line.part.state == Part.State.READY:
            ready.append(line.part.blank)
        else:
            waiting[line.part.name] = _WAITING[line.part.state].format(line.part.what)
    blanks = [document_of(blank) for blank in ready]
    choices = choices_of(order, ready)
    drawn = {d.part: choice for d, choice in zip(blanks, choices, strict=True)}
    run = cut_runs(order, cut_settings(order)).filter(state=CutRun.State.DONE).first()
    if run is None:
        return packet_checks(blanks, waiting, None, None, drawn=drawn, recount=_recounted)
    _, nest_order, nest = open_nest(run.nest)
    document = NestDocument.model_validate(run.nest.document)
    cut = CutDocument.model_validate(run.document)
    return packet_checks(
        blanks, waiting, (document, nest_order, nest), cut, drawn=drawn, recount=_recounted
    )


def _recounted(document: BlankDocument, choice: DrawingChoice) -> list[str]:
    """Return what ``recounted`` does, of a drawing that did not change as it did before."""
    name = digest([document.model_dump(mode="json"), repr(choice)])
    told: list[str] = cache.get_or_set(name, lambda: recounted(document, choice), timeout=None)
    return told


def let_pass(order: Order, name: str, *, said: str, reason: str, by: AbstractUser) -> None:
    """Keep why a check that fails shall not stop the packet.

    Raises
    ------
    InputError
        No reason is given, the check does not fail, or it fails otherwise than was seen.
    """
    check = _named(order, name)
    if not reason.strip():
        raise InputError("a check is not let pass without a reason", where=check.title,
                         fix="Say why the packet may go out all the same")  # fmt: skip
    if check.state != "failed" or check.said != said:
        raise InputError("the check has another result by now", where=check.title,
                         fix="Look at it as it is now")  # fmt: skip
    with transaction.atomic():
        order.overrides.filter(check_name=name).delete()
        Override.objects.create(
            order=order, check_name=name, said=said, reason=reason.strip(), by=by
        )


def take_back(order: Order, name: str) -> None:
    """Let a check stop the packet again."""
    _named(order, name)
    order.overrides.filter(check_name=name).delete()


def _named(order: Order, name: str) -> Check:
    found = next((c for c in _found(order) if c.name == name), None)
    if found is None:
        raise InputError(f"there is no check {name!r}", fix="Take one of those listed")
    return found


def require_checked(order: Order) -> list[dict[str, object]]:
    """Return the checks as a packet's manifest holds them.

    Raises
    ------
    InputError
        One fails and nobody lets it pass.
    """
    checks = checks_of(order)
    stop = next((c for c in checks if c.stops), None)
    if stop is not None:
        raise InputError(
            f"a check fails: {stop.said}", where=stop.title,
            fix="Mend it, or say in the slip why the packet may go out all the same",
        )  # fmt: skip
    return [{**asdict(c), "at": c.at.isoformat() if c.at else None} for c in checks]
