"""What a layer's name or a line type's pattern says, in the languages that drawings come in."""

from __future__ import annotations

import re
from collections.abc import Sequence
from enum import StrEnum

__all__ = ["Role", "Style", "bend_direction", "role_of_layer", "style_of_pattern"]


class Role(StrEnum):
    """What is drawn on a layer."""

    CUT = "cut"
    BEND = "bend"
    MARK = "mark"
    ASIDE = "aside"


class Style(StrEnum):
    """How a line is drawn: whole, in even dashes, or in dashes and dots."""

    WHOLE = "whole"
    DASHED = "dashed"
    CHAIN = "chain"


_BEND = (
    r"bend|fold|crease|bieg|knick|kant(?:linie|ung)|abkant|falz|pliage|\bpli\b|plis\b|pliure|"
    r"piega|pieghe|pliegue|plegad|doblez|doblad|dobra|quinag|gi[eę]ci|zagi[eę]|zagib|"
    r"buig|zet(?:lijn|ting)|bock|b[oø]jning|bukke|kn[aæ]k|bøy|taivut|oh[yý]b|hajl[ií]t|[iî]ndoi|"
    r"гиб|сгиб|згин|曲げ|折|弯|벤딩|절곡|büküm|bukum|κάμψη"
)
_MARK = (
    r"mark|etch|engrav|scribe|score|grav(?:ur|ier|ure|er)|anrei|k[oö]rn|trac[eé]|incis|grabad|"
    r"gravir|m[aä]rk|гравир|刻"
)
_ASIDE = (
    r"title|frame|border|rahmen|schriftfeld|cartouche|cadre|cartiglio|squadratura|marco|"
    r"caj[eé]tin|moldura|legenda|kader|titel|ramka|ram\b|ramme|tabliczk|рамк|штамп|"
    r"\bdims?\b|dimension|dimensione?s|bema[sß]|ma(?:ss|ß)e?\b|masslinie|maßlinie|cotes?\b|"
    r"cotation|quote\b|quotatura|cotas?\b|acotad|maat|maten|wymiar|размер|寸法|尺寸|"
    r"text|note|anno|beschrift|notiz|texte|testo|testi|texto|tekst|nota|hinweis|label|"
    r"cent(?:er|re)|mittel|mitte\b|axe|achs|axis|asse\b|assi\b|eje|eixo|hartlijn|mittlinje|"
    r"osie|осев|中心|defpoints|constr|hilfs|hulp|aux|guide|viewport|vport|hatch|schraff|"
    r"sheet\b|logo|table|revision|hidden|verdeckt|path_"
)
_UP = (
    r"up\b|_up|up_|oben|\bauf\b|rauf|haut|\bsu\b|sopra|arriba|cima|omhoog|\bupp|g[oó]ra|вверх|"
    r"上|山|positiv"
)
_DOWN = (
    r"down|unten|\bab\b|runter|\bbas\b|gi[uù]|sotto|abajo|baixo|omlaag|\bned|d[oó][lł]|вниз|"
    r"下|谷|negativ"
)


def role_of_layer(name: str) -> Role:
    """Return what a layer is for, judged by its name; what says nothing is cut.

    Examples
    --------
    >>> role_of_layer("Biegelinien").value, role_of_layer("Cadre").value, role_of_layer("0").value
    ('bend', 'aside', 'cut')
    """
    plain = _plain(name)
    for role, words in ((Role.BEND, _BEND), (Role.ASIDE, _ASIDE), (Role.MARK, _MARK)):
        if re.search(words, plain):
            return role
    return Role.CUT


def bend_direction(name: str) -> bool | None:
    """Return whether a bend layer's name says up (True), down (False) or nothing (None).

    Examples
    --------
    >>> bend_direction("BEND_UP"), bend_direction("Biegung unten"), bend_direction("Bend_Lines")
    (True, False, None)
    """
    plain = _plain(name)
    is_up, is_down = bool(re.search(_UP, plain)), bool(re.search(_DOWN, plain))
    return None if is_up == is_down else is_up


def _plain(name: str) -> str:
    """Return a name in lower case with its words set apart, capitals inside a word too."""
    spaced = re.sub(r"(?<=[a-zäöüß])(?=[A-Z])", " ", name)
    return re.sub(r"[\s_.\-$|]+", " ", spaced).lower() + " " + name.lower()


def style_of_pattern(pattern: Sequence[float]) -> Style:
    """Return how a line type looks; ``pattern`` has dashes above 0, gaps below, dots 0.

    Judged by the pattern and not by the name, which differs from language to language.

    Examples
    --------
    >>> style_of_pattern([12.0, -6.0]).value, style_of_pattern([16.0, -4.0, 0.0, -4.0]).value
    ('dashed', 'chain')
    """
    drawn = [v for v in pattern if v >= 0]
    if not drawn or len(drawn) == len(pattern):
        return Style.WHOLE
    even = max(drawn) <= 1.5 * min(drawn) and min(drawn) > 0
    return Style.DASHED if even else Style.CHAIN
