"""What metal and machines do: ``allowance`` holds the bend sums, ``stores`` the shop's values."""

from kaigata.core.metal.allowance import bend_allowance, bend_deduction, outside_setback

__all__ = ["bend_allowance", "bend_deduction", "outside_setback"]
