"""The HTTP interface: each view parses, calls one service and answers."""
