"""The records, a module a subject."""

from kaigata.shop.models.orders import Blank, Order, OrderLine, Override, Part, SourceFile, Stamp
from kaigata.shop.models.people import Deed
from kaigata.shop.models.runs import (
    AssemblyRun,
    CutRun,
    Nest,
    NestRun,
    Packet,
    Program,
    Release,
    Run,
)
from kaigata.shop.models.stores import (
    CutRow,
    Gauge,
    Machine,
    Material,
    Post,
    Pressing,
    ShopLettering,
    ShopLimits,
    StockSheet,
)

__all__ = [
    "AssemblyRun",
    "Blank",
    "CutRow",
    "CutRun",
    "Deed",
    "Gauge",
    "Machine",
    "Material",
    "Nest",
    "NestRun",
    "Order",
    "OrderLine",
    "Override",
    "Packet",
    "Part",
    "Post",
    "Pressing",
    "Program",
    "Release",
    "Run",
    "ShopLettering",
    "ShopLimits",
    "SourceFile",
    "Stamp",
    "StockSheet",
]
